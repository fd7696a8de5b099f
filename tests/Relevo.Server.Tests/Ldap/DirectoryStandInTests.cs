using System.Net;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Connectors;
using Relevo.Server.People;

namespace Relevo.Server.Tests.Ldap;

/// <summary>The stand-in directory's good and bad days, read over its real protocol.</summary>
public sealed class DirectoryStandInTests
{
    [Fact]
    public async Task On_bad_days_nobody_is_lost_and_on_the_next_good_one_everything_is_right()
    {
        await using var directory = await StandInDirectory.StartAsync();
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var request = new LdapSourceRequest(new SourceRequest("Brackenfold directory", null, BrakeSettings.Default, [], null), directory.Settings, StandInDirectory.Secret);
        var source = (await Browser.ReadAsync<LdapSourceAnswer>(await browser.PostAsync("api/ldap", request))).Id;
        var first = await browser.ReadNowAsync(source);
        Assert.Equal((RunState.Planned, 238), (first.Run.State, first.Run.Counts.Joining));
        await ApplyAsync(browser, first);

        // It drops the line half-way, is too busy, sends an entry twice: nothing is half applied.
        foreach (var (day, state, words) in new[] { ("drops", RunState.Failed, "dropped the connection"), ("busy", RunState.Failed, "busy"), ("twice", RunState.Refused, "stands twice") })
        {
            await directory.HappenAsync(day);
            var run = await browser.ReadNowAsync(source);
            Assert.Equal(state, run.Run.State);
            Assert.Contains(words, run.Run.Problems[0].Message, StringComparison.Ordinal);
            Assert.Equal(238, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        }

        // It returns nothing, or half the people are gone: the brake.
        await directory.HappenAsync("empty");
        var empty = await browser.ReadNowAsync(source);
        Assert.Equal((RunState.Held, "The source lists nobody; it listed 238 before."), (empty.Run.State, empty.Run.Brake[0]));
        await directory.HappenAsync("restore");
        await directory.HappenAsync("half-vanish");
        Assert.Contains("119 of 238", (await browser.ReadNowAsync(source)).Run.Brake[0], StringComparison.Ordinal);

        // It answers slowly: a reading waits for it, whatever else the machine does meanwhile, and everything comes.
        await directory.HappenAsync("restore");
        await directory.HappenAsync("ten-join");
        await directory.HappenAsync("marries");
        await directory.HappenAsync("office-moves");
        await directory.HappenAsync("slow");
        using var isRead = new CancellationTokenSource();
        var interrupting = Signals.InterruptWaitsAsync(isRead.Token);
        var good = await browser.ReadNowAsync(source);
        await isRead.CancelAsync();
        await interrupting;
        Assert.Empty(good.Run.Problems);
        Assert.Equal((RunState.Planned, 10, 27, 0), (good.Run.State, good.Run.Counts.Joining, good.Run.Counts.Changing, good.Run.Counts.Leaving));
        await ApplyAsync(browser, good);
        Assert.Equal(248, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        Assert.Equal("mia.ekholm@brackenfold.example", (await browser.FindAsync("Mia Ekholm")).Addresses[0]);
    }

    private static async Task ApplyAsync(Browser browser, RunAnswer run)
    {
        using var applied = await browser.ApplyAsync(run.Run.Id);
        Assert.Equal(HttpStatusCode.NoContent, applied.StatusCode);
    }
}
