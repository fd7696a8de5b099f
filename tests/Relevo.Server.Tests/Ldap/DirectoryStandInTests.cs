using System.Diagnostics;
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
        var first = await ReadAsync(browser, source);
        Assert.Equal((RunState.Planned, 238), (first.Run.State, first.Run.Counts.Joining));
        await ApplyAsync(browser, first);

        // It drops the line half-way, is too busy, sends an entry twice: nothing is half applied.
        foreach (var (day, state, words) in new[] { ("drops", RunState.Failed, "dropped the connection"), ("busy", RunState.Failed, "busy"), ("twice", RunState.Refused, "stands twice") })
        {
            await directory.HappenAsync(day);
            var run = await ReadAsync(browser, source);
            Assert.Equal(state, run.Run.State);
            Assert.Contains(words, run.Run.Problems[0].Message, StringComparison.Ordinal);
            Assert.Equal(238, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        }

        // It returns nothing, or half the people are gone: the brake.
        await directory.HappenAsync("empty");
        var empty = await ReadAsync(browser, source);
        Assert.Equal((RunState.Held, "The source lists nobody; it listed 238 before."), (empty.Run.State, empty.Run.Brake[0]));
        await directory.HappenAsync("restore");
        await directory.HappenAsync("half-vanish");
        Assert.Contains("119 of 238", (await ReadAsync(browser, source)).Run.Brake[0], StringComparison.Ordinal);

        // It answers slowly: a schedule waits for it, and everything comes.
        await directory.HappenAsync("restore");
        await directory.HappenAsync("ten-join");
        await directory.HappenAsync("marries");
        await directory.HappenAsync("office-moves");
        await directory.HappenAsync("slow");
        var good = await ReadAsync(browser, source);
        Assert.Equal((RunState.Planned, 10, 27, 0), (good.Run.State, good.Run.Counts.Joining, good.Run.Counts.Changing, good.Run.Counts.Leaving));
        await ApplyAsync(browser, good);
        Assert.Equal(248, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        Assert.Equal("mia.ekholm@brackenfold.example", (await browser.FindAsync("Mia Ekholm")).Addresses[0]);
    }

    private static async Task<RunAnswer> ReadAsync(Browser browser, Guid source)
    {
        var begun = await Browser.ReadAsync<BegunRun>(await browser.SendAsync(HttpMethod.Post, $"api/sources/{source}/runs", null));
        for (var tries = 0; tries < 600; tries++)
        {
            var run = await browser.GetAsync<RunAnswer>($"api/runs/{begun.Id}");
            if (run.Run.State != RunState.Reading) return run;
            await Task.Delay(50);
        }

        throw new TimeoutException("The reading did not end.");
    }

    private static async Task ApplyAsync(Browser browser, RunAnswer run)
    {
        using var applied = await browser.ApplyAsync(run.Run.Id);
        Assert.Equal(HttpStatusCode.NoContent, applied.StatusCode);
    }

    /// <summary>The stand-in process with the demo's directory and no desk apps.</summary>
    private sealed class StandInDirectory(Process process, HttpClient http, string place, int port) : IAsyncDisposable
    {
        public const string Secret = "let-me-look";

        public LdapSettings Settings { get; } = new("127.0.0.1", port, LdapSecurity.None, "", "cn=relevo,dc=brackenfold,dc=example", "dc=brackenfold,dc=example", "(objectClass=inetOrgPerson)");

        public static async Task<StandInDirectory> StartAsync()
        {
            var place = Directory.CreateTempSubdirectory("relevo-test-").FullName;
            await File.WriteAllTextAsync(Path.Combine(place, "agents.json"), "[]");
            var (web, port) = (ServerProcess.FreePort(), ServerProcess.FreePort());
            var ldif = Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "demo", "brackenfold.ldif");
            var start = new ProcessStartInfo("dotnet");
            foreach (var argument in new[] { Path.Combine(AppContext.BaseDirectory, "relevo-standins.dll"), "--server", "http://127.0.0.1:1", "--urls", $"http://127.0.0.1:{web}", "--tokens", Path.Combine(place, "agents.json"), "--folder", place, "--agent", "none", "--directory", ldif, "--directory-port", $"{port}" })
                start.ArgumentList.Add(argument);
            var http = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{web}/") };
            var directory = new StandInDirectory(Process.Start(start)!, http, place, port);
            for (var tries = 0; ; tries++)
            {
                try
                {
                    Assert.Contains("It holds 238 people", await http.GetStringAsync("directory"), StringComparison.Ordinal);
                    return directory;
                }
                catch (HttpRequestException) when (tries < 200)
                {
                    await Task.Delay(50);
                }
            }
        }

        public async Task HappenAsync(string day)
        {
            using var answer = await http.PostAsync($"directory/{day}", null);
            Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        }

        public async ValueTask DisposeAsync()
        {
            process.Kill(entireProcessTree: true);
            await process.WaitForExitAsync();
            process.Dispose();
            http.Dispose();
            Directory.Delete(place, recursive: true);
        }
    }
}
