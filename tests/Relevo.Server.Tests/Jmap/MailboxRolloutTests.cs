using System.Net;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Connectors.Jmap;
using Relevo.Server.Rollout;
using Relevo.Server.Tests.Ldap;
using Relevo.StandIns.Jmap;

namespace Relevo.Server.Tests.Jmap;

/// <summary>Signatures in mailboxes: the connector against the stand-in server, well behaved and not.</summary>
public sealed class MailboxRolloutTests
{
    [Fact]
    public async Task Every_mailbox_gets_its_signature_and_others_identities_are_left_alone()
    {
        await using var world = await World.StartAsync();
        await world.ConnectAsync();
        await world.RollOutAsync();
        var (html, text) = await world.SignatureAsync("mia@brackenfold.example");
        Assert.Contains(">mia<", html, StringComparison.Ordinal);
        Assert.Contains("https://relevo.brackenfold.example/pictures/", html, StringComparison.Ordinal); // linked: a mailbox holds no files
        Assert.StartsWith("mia", text, StringComparison.Ordinal);
        Assert.Equal("", (await world.SignatureAsync("stranger@elsewhere.example")).Html);
    }

    [Fact]
    public async Task Drift_in_a_mailbox_is_seen_shown_side_by_side_and_put_right()
    {
        await using var world = await World.StartAsync();
        await world.ConnectAsync();
        await world.RollOutAsync();
        var before = (await world.SignatureAsync("mia@brackenfold.example")).Html;
        await world.ScribbleAsync();
        var right = await world.UntilClientAsync(client => client.PutRightAt is not null);
        Assert.Equal(before, (await world.SignatureAsync("mia@brackenfold.example")).Html);
        var story = await world.Browser.GetAsync<List<DeliveryEvent>>($"api/clients/{right.ClientId}/story");
        Assert.Equal([DeliveryState.InPlace, DeliveryState.Drifted, DeliveryState.InPlace], story.Take(3).Select(line => line.State));
    }

    [Fact]
    public async Task Drift_that_is_to_be_left_is_told_with_what_differs_and_put_right_when_somebody_says_so()
    {
        await using var world = await World.StartAsync();
        await world.ConnectAsync();
        await world.RollOutAsync();
        await world.Browser.SettingsAsync("browser-mailbox", KindSettings.Standard with { Fixed = DriftAnswer.Leave });
        await world.ScribbleAsync();
        var drifted = await world.UntilClientAsync(client => client.State == DeliveryState.Drifted);
        var difference = Assert.Single(await world.Browser.GetAsync<List<PlaceDifference>>($"api/clients/{drifted.ClientId}/difference"));
        Assert.Equal(difference.Wanted + "<p>Sent in haste</p>", difference.Found);
        await Task.Delay(600); // three looks later it still stands
        Assert.Equal(DeliveryState.Drifted, (await world.ClientAsync()).State);
        using (await world.Browser.PostAsync($"api/clients/{drifted.ClientId}/again", new { })) await world.UntilClientAsync(client => client.State == DeliveryState.InPlace);
        Assert.Equal(difference.Wanted, (await world.SignatureAsync("mia@brackenfold.example")).Html);
    }

    [Fact]
    public async Task A_mailbox_that_is_in_place_is_asked_for_changes_and_read_again_only_when_there_are_any()
    {
        await using var world = await World.StartAsync();
        await using var mailboxes = await MailboxHost.StartAsync([("mia", ["mia@brackenfold.example"])], "secret", ServerProcess.FreePort(), seed: 3);
        await world.ConnectAsync(mailboxes.SessionUrl, "secret");
        await world.RollOutAsync();
        await world.LookAsync(3);
        var reads = mailboxes.Reads;
        await world.LookAsync(3);
        Assert.Equal(reads, mailboxes.Reads);

        var jmap = new JmapClient(world.StandIn.Http, mailboxes.SessionUrl, "secret");
        var session = await jmap.SessionAsync(CancellationToken.None);
        var before = (await jmap.GetAsync(session, ["a1"], CancellationToken.None))["a1"].Identities!;
        Assert.Equal(["a1"], await jmap.UnchangedAsync(session, [("a1", before.State), ("a1", "a state nobody had"), ("gone", before.State)], CancellationToken.None));
        await jmap.SetAsync(session, [("a1", before.State, [before.List[0] with { HtmlSignature = "<p>by hand</p>" }])], CancellationToken.None);
        Assert.Empty(await jmap.UnchangedAsync(session, [("a1", before.State)], CancellationToken.None));
        await world.UntilClientAsync(client => client.PutRightAt is not null);
        Assert.True(mailboxes.Reads > reads);
    }

    [Fact]
    public async Task A_server_that_is_busy_drops_connections_and_answers_garbage_is_borne_and_everything_is_in_place_in_the_end()
    {
        await using var world = await World.StartAsync();
        await world.ConnectAsync();
        await world.StandIn.MisbehaveAsync(new { busySeconds = 0.7, dropped = 0.3, garbage = 0.3 });
        await world.RollOutAsync(waits: false);
        await Task.Delay(1500);
        await world.Server.Database.DoAsync("update delivery set next_attempt_at = now()"); // as after half a minute
        await Task.Delay(500);
        await world.StandIn.MisbehaveAsync(new { });
        await world.Server.Database.DoAsync("update delivery set next_attempt_at = now()");
        await world.UntilClientAsync(client => client.State == DeliveryState.InPlace);
        Assert.NotEqual("", (await world.SignatureAsync("mia@brackenfold.example")).Html);
    }

    [Fact]
    public async Task A_mailbox_that_may_not_be_changed_fails_with_the_reason_and_pauses_the_rollout()
    {
        await using var world = await World.StartAsync();
        await world.ConnectAsync();
        using (await world.StandIn.Http.PostAsync(new Uri("mailboxes/a1/lock", UriKind.Relative), null)) { }
        await world.RollOutAsync(waits: false);
        var failed = await world.UntilClientAsync(client => client.State == DeliveryState.Failed);
        Assert.Equal("it may not be changed", failed.Trouble);
        var paused = await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Paused);
        Assert.Equal("1 of 1 clients have failed or drifted; at most 5 % may.", paused.Rollout!.Note);
        Assert.Contains(paused.Notices, notice => notice.Text.Contains("paused itself", StringComparison.Ordinal));
        using (await world.StandIn.Http.PostAsync(new Uri("mailboxes/a1/lock", UriKind.Relative), null)) { }
        using (await world.Browser.PostAsync($"api/rollouts/{paused.Rollout.Id}/go-on", new { })) { }
        using (await world.Browser.PostAsync($"api/clients/{failed.ClientId}/again", new { })) { }
        await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Done);
    }

    [Fact]
    public async Task A_wrong_token_is_told_and_counts_as_nobodys_failure()
    {
        await using var world = await World.StartAsync();
        using (await world.Browser.PutAsync("api/mailbox-server", new MailboxServerRequest(world.StandIn.SessionUrl.ToString(), "wrong"), null)) { }
        for (var attempt = 0; attempt < 200 && (await world.Browser.GetAsync<MailboxServerAnswer>("api/mailbox-server")).Trouble.Length == 0; attempt++) await Task.Delay(25);
        Assert.Contains("refuses the token", (await world.Browser.GetAsync<MailboxServerAnswer>("api/mailbox-server")).Trouble, StringComparison.Ordinal);
        Assert.Equal(0L, await world.Server.Database.AskAsync<long>("select count(*) from delivery where failures > 0"));
        Assert.Equal(0L, await world.Server.Database.AskAsync<long>("select count(*) from mailbox_server where secret like '%wrong%'"));
        using var bad = await world.Browser.PutAsync("api/mailbox-server", new MailboxServerRequest("nowhere", null), null);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, bad.StatusCode);
    }

    /// <summary>A server with mia, the two designs and rules, and a mailbox server that has her and a stranger.</summary>
    private sealed class World : IAsyncDisposable
    {
        public required RunningServer Server { get; init; }

        public required Browser Browser { get; init; }

        public required StandInDirectory StandIn { get; init; }

        public static async Task<World> StartAsync()
        {
            var standIn = await StandInDirectory.StartAsync(Ldif.People(("mia", "Vet")) + "\n" + Ldif.Person("stranger", mail: "stranger@elsewhere.example"));
            var server = await RunningServer.StartAsync();
            var browser = await server.SignInAsync();
            await browser.PrepareAsync();
            await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
            return new World { Server = server, Browser = browser, StandIn = standIn };
        }

        public Task ConnectAsync() => ConnectAsync(StandIn.SessionUrl, StandInDirectory.MailboxToken);

        public async Task ConnectAsync(Uri session, string token)
        {
            using (await Browser.PutAsync("api/mailbox-server", new MailboxServerRequest(session.ToString(), token), null)) { }
            for (var attempt = 0; (await Browser.GetAsync<MailboxServerAnswer>("api/mailbox-server")).Mailboxes == 0; attempt++)
            {
                Assert.True(attempt < 800, (await Browser.GetAsync<MailboxServerAnswer>("api/mailbox-server")).Trouble);
                await Task.Delay(25);
            }
        }

        public async Task RollOutAsync(bool waits = true)
        {
            await Browser.PublishAndRollOutAsync();
            if (!waits) return;
            await UntilClientAsync(client => client.State == DeliveryState.InPlace);
            // A rollout that is still counted when its only client drifts would pause itself, and then nothing is put right.
            await Browser.UntilAsync(rollout => rollout.Rollout!.EndedAt is not null);
        }

        /// <summary>Waits until the mailbox was looked after so many times more.</summary>
        public async Task LookAsync(int times)
        {
            for (var (seen, last) = (0, DateTimeOffset.MinValue); seen <= times; await Task.Delay(20))
            {
                var now = new DateTimeOffset(await Server.Database.AskAsync<DateTime>("select coalesce(max(looked_at), 'epoch') from delivery"));
                if (now > last) (seen, last) = (seen + 1, now);
            }
        }

        public async Task<ClientStanding> ClientAsync() => Assert.Single((await Browser.GetAsync<ClientPage>("api/clients")).Clients);

        public async Task<ClientStanding> UntilClientAsync(Func<ClientStanding, bool> holds)
        {
            for (var attempt = 0; ; attempt++)
            {
                var client = await ClientAsync();
                if (holds(client)) return client;
                Assert.True(attempt < 800, client.ToString());
                await Task.Delay(25);
            }
        }

        public async Task ScribbleAsync()
        {
            using var answer = await StandIn.Http.PostAsync(new Uri("mailboxes/a1/i1/scribble", UriKind.Relative), null);
            Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        }

        /// <summary>What stands in the identity of an address, asked as a mail program would.</summary>
        public async Task<(string Html, string Text)> SignatureAsync(string address)
        {
            var client = new JmapClient(StandIn.Http, StandIn.SessionUrl, StandInDirectory.MailboxToken);
            var session = await client.SessionAsync(CancellationToken.None);
            var all = await client.GetAsync(session, [.. session.Accounts.Keys], CancellationToken.None);
            var identity = all.Values.SelectMany(one => one.Identities!.List).Single(one => one.Email == address);
            return (identity.HtmlSignature, identity.TextSignature);
        }

        public async ValueTask DisposeAsync()
        {
            Browser.Dispose();
            await Server.DisposeAsync();
            await StandIn.DisposeAsync();
        }
    }
}
