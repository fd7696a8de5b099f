using Relevo.Core.Rollouts;
using Relevo.Server.Rollout;
using Relevo.StandIns.Fleet;
using Relevo.StandIns.Jmap;

namespace Relevo.Server.Tests;

/// <summary>A fleet against two server processes on one database, while everything that can die does.</summary>
public sealed class FleetTests
{
    [Fact]
    public async Task Whatever_dies_in_a_rollout_everything_is_in_place_in_the_end_and_nobody_is_told_twice()
    {
        const int people = 25;
        await using var database = await TestDatabase.CreateAsync();
        var ports = new[] { ServerProcess.FreePort(), ServerProcess.FreePort() };
        ServerProcess[] servers = [await ServerProcess.StartAsync(database.ConnectionString, ports[0]), await ServerProcess.StartAsync(database.ConnectionString, ports[1])];
        using var browser = new Browser(servers[0].Address);
        await browser.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People([.. Enumerable.Range(0, people).Select(number => ($"p{number:00}", "Vet"))]));
        var members = new List<FleetMember>();
        for (var number = 0; number < people; number++)
        {
            var person = (await browser.FindAsync($"p{number:00}@")).Id;
            foreach (var kind in new[] { "desk-app", "pocket-app" })
            {
                var added = await browser.AddClientAsync(kind, person, $"{kind} {number:00}");
                members.Add(new FleetMember(kind, $"{kind} {number:00}", $"p{number:00}", "", added.Token));
            }
        }

        await using var mailboxes = await MailboxHost.StartAsync(Enumerable.Range(0, people).Select(number => ($"p{number:00}", new[] { $"p{number:00}@brackenfold.example" })), "secret", ServerProcess.FreePort(), seed: 6);
        mailboxes.Misbehave(0.05, 0.05);
        using (await browser.PutAsync("api/mailbox-server", new MailboxServerRequest(mailboxes.SessionUrl.ToString(), "secret"), null)) { }
        for (var attempt = 0; attempt < 600 && (await browser.GetAsync<MailboxServerAnswer>("api/mailbox-server")).Mailboxes < people; attempt++) await Task.Delay(50);

        // However many fail on the way, all of them are to be in place before the wave passes.
        var edition = (await Browser.ReadAsync<Proof.PublishAnswer>(await browser.PostAsync("api/editions", new Proof.PublishRequest(0)))).Number;
        await browser.RollOutAsync(edition, new WavePlan("Everybody", new EverybodyElse(), new StartAtOnce(), new WaveGate(100, 100)));
        var settings = FleetSettings.Quiet with { Seed = 11, PollSeconds = 0.3, Failing = 0.05, Restarting = 0.1, ClockSkewHours = 48 };
        await using var fleet = new Fleet([servers[0].Address, servers[1].Address], members, settings);
        fleet.Start();
        for (var round = 0; round < 4; round++)
        {
            await Task.Delay(400);
            await servers[round % 2].KillAsync();
            servers[round % 2].Dispose();
            if (round == 1) await database.DoAsync("select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()"); // as a database that is started again
            servers[round % 2] = await ServerProcess.StartAsync(database.ConnectionString, ports[round % 2]);
        }

        mailboxes.Misbehave(0, 0);
        for (var attempt = 0; attempt < 800 && await database.AskAsync<long>("select count(*) from delivery where state <> 'inPlace'") > 0; attempt++)
        {
            if (attempt % 40 == 39) await database.DoAsync("update delivery set next_attempt_at = now() where next_attempt_at > now()"); // the back-off is of minutes, and tests are not
            await Task.Delay(50);
        }

        Assert.Equal(3L * people, await database.AskAsync<long>("select count(*) from delivery where state = 'inPlace' and held_tag = wanted_tag and edition = 1"));
        Assert.Equal(0L, await database.AskAsync<long>("select count(*) from (select client_id, tag from delivery_event where state = 'inPlace' group by 1, 2 having count(*) > 1) twice"));
        Assert.All(fleet.Clients, client => Assert.Equal((1, 0), (client.Written, client.ToldTwice)));
        Assert.Equal((people, people), (mailboxes.WithSignature, mailboxes.Changes));
        foreach (var server in servers) server.Dispose();
    }
}
