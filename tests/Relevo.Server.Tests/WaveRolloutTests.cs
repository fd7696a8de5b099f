using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.People;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Agent;
using Relevo.Server.Rollout;

namespace Relevo.Server.Tests;

/// <summary>Rollouts in waves, and what reaches clients outside them.</summary>
public sealed class WaveRolloutTests
{
    private static readonly WaveGate All = new(0, 100);

    [Fact]
    public async Task The_second_wave_keeps_what_it_has_until_the_first_has_passed()
    {
        await using var world = await World.StartAsync("mia", "jon");
        await world.SettleAsync();
        var second = await world.PublishChangeAsync();
        await world.Browser.RollOutAsync(second, Wave("Pilots", new Pilots([world.People["mia"]])), Wave("Rest", new EverybodyElse()));
        Assert.Equal(1, await world.PollAsync("jon"));
        Assert.Equal(second, await world.PollAsync("mia"));
        await world.Browser.UntilAsync(rollout => rollout.Rollout!.Waves[1].State == WaveState.Open);
        await Waiting.UntilAsync(async () => await world.PollAsync("jon") == second);
        var done = await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Done);
        Assert.Equal(second, done.SettledEdition);
        Assert.Contains(done.Notices, notice => notice.Kind == "rollout done");
    }

    [Fact]
    public async Task A_client_that_asks_before_its_new_edition_is_planned_is_told_it_already()
    {
        await using var world = await World.StartAsync("mia");
        await world.SettleAsync();
        var second = await world.PublishChangeAsync();
        var asking = world.Server.Services.GetRequiredService<ClientAsking>();
        var settled = (await world.Server.Services.GetRequiredService<TokenQuestions>().FindAsync(Tokens.Hash(world.Added["mia"].Token), CancellationToken.None))!;
        var given = settled with { Edition = second, IsPlanned = false };
        Assert.Null(await AskAsync(settled));
        Assert.Null(await AskAsync(given with { IsPaused = true }));
        Assert.Equal(second, (await AskAsync(given))!.Manifest.Edition);

        async Task<Delivery?> AskAsync(ClientDelivery client) => (await asking.AskAsync(client, tag => tag == settled.Standing.WantedTag, CancellationToken.None)).Delivery;
    }

    [Fact]
    public async Task A_gate_that_is_missed_pauses_and_whoever_waits_is_told_nothing_until_it_goes_on()
    {
        await using var world = await World.StartAsync("mia", "jon");
        await world.SettleAsync();
        var second = await world.PublishChangeAsync();
        await world.Browser.RollOutAsync(second, Wave("Everybody", new EverybodyElse()));
        await world.FailAsync("mia");
        var paused = await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Paused);
        Assert.Equal("1 of 2 clients have failed or drifted; at most 0 % may.", paused.Rollout!.Note);
        Assert.Equal(1, await world.PollAsync("jon"));
        await world.DoAsync($"api/rollouts/{paused.Rollout.Id}/go-on");
        Assert.Equal(second, await world.PollAsync("jon"));
        Assert.Equal(second, await world.PollAsync("mia"));
        await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Done);
        using var again = await world.Browser.PostAsync($"api/rollouts/{paused.Rollout.Id}/go-on", new { });
        Assert.Equal("rollout-elsewhere", (await Problem.ReadAsync(again)).Code);
    }

    [Fact]
    public async Task A_gate_waits_for_whom_is_tried_again_and_is_missed_once_the_last_of_them_is_set_aside()
    {
        await using var world = await World.StartAsync("mia", "jon");
        await world.SettleAsync();
        var second = await world.PublishChangeAsync();
        await world.Browser.RollOutAsync(second, Wave("Everybody", new EverybodyElse()) with { Gate = new WaveGate(100, 100) });
        await world.FailAsync("mia");
        Assert.Equal(second, await world.PollAsync("jon"));
        var waiting = await world.Browser.UntilAsync(rollout => rollout.Totals is { Failed: 1, InPlace: 1 });
        Assert.Equal((0, RolloutState.Running), (waiting.Totals.Left, waiting.Rollout!.State));
        for (var failures = 1; failures < BackOff.Standard.MostAttempts; failures++)
        {
            Assert.Equal(RolloutState.Running, (await world.Browser.GetAsync<RolloutAnswer>("api/rollout")).Rollout!.State);
            await world.FailAsync("mia");
        }

        var paused = await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Paused);
        Assert.Equal("1 of 2 clients are in place; at least 100 % must be, and none is still on its way.", paused.Rollout!.Note);
    }

    [Fact]
    public async Task A_wave_is_skipped_and_a_stopped_rollout_leaves_the_rest_as_it_was()
    {
        await using var world = await World.StartAsync("mia", "jon", "eva");
        await world.SettleAsync();
        var second = await world.PublishChangeAsync();
        await world.Browser.RollOutAsync(second, Wave("One", new Pilots([world.People["mia"]])), Wave("Two", new Pilots([world.People["jon"]])), Wave("Three", new EverybodyElse()));
        var id = (await world.Browser.GetAsync<RolloutAnswer>("api/rollout")).Rollout!.Id;
        await world.DoAsync($"api/rollouts/{id}/skip");
        await world.Browser.UntilAsync(rollout => rollout.Rollout!.Waves is [{ State: WaveState.Skipped }, { State: WaveState.Open }, ..]);
        await world.DoAsync($"api/rollouts/{id}/stop");
        Assert.Equal(second, await world.PollAsync("mia")); // it had begun for her
        Assert.Equal(1, await world.PollAsync("eva"));
        var stopped = await world.Browser.GetAsync<RolloutAnswer>("api/rollout");
        Assert.Equal((RolloutState.Stopped, 1), (stopped.Rollout!.State, stopped.SettledEdition));
        using var late = await world.Browser.PostAsync($"api/rollouts/{id}/pause", new { });
        Assert.Equal(HttpStatusCode.Conflict, late.StatusCode);
    }

    [Fact]
    public async Task A_skipped_wave_does_not_spare_the_next_one_its_gate()
    {
        await using var world = await World.StartAsync("mia", "jon");
        await world.SettleAsync();
        var second = await world.PublishChangeAsync();
        await world.Browser.RollOutAsync(second, Wave("One", new Pilots([world.People["mia"]])), Wave("Two", new EverybodyElse()));
        await world.FailAsync("mia");
        var paused = await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Paused);
        await world.DoAsync($"api/rollouts/{paused.Rollout!.Id}/skip");
        await world.Browser.UntilAsync(rollout => rollout.Rollout!.Waves[1].State == WaveState.Open);
        await Waiting.UntilAsync(async () => (await world.Browser.GetAsync<ClientPage>("api/clients?search=jon")).Clients.Single().Edition == second);
        await world.FailAsync("jon");
        Assert.Contains("failed or drifted", (await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Paused)).Rollout!.Note, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_rollout_is_corrected_while_it_goes_on_and_gone_back_from()
    {
        await using var world = await World.StartAsync("mia", "jon");
        await world.SettleAsync();
        var second = await world.PublishChangeAsync();
        await world.Browser.RollOutAsync(second, Wave("Pilots", new Pilots([world.People["mia"]])), Wave("Rest", new EverybodyElse()));
        var third = await world.PublishChangeAsync();
        var id = (await world.Browser.GetAsync<RolloutAnswer>("api/rollout")).Rollout!.Id;
        using (var corrected = await world.Browser.PostAsync($"api/rollouts/{id}/edition", new RetargetRequest(third))) Assert.Equal(HttpStatusCode.NoContent, corrected.StatusCode);
        await Waiting.UntilAsync(async () => await world.PollAsync("mia") == third);
        await Waiting.UntilAsync(async () => await world.PollAsync("jon") == third);
        await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Done);
        await world.Browser.RollOutAsync(1);
        await Waiting.UntilAsync(async () => await world.PollAsync("mia") == 1 && await world.PollAsync("jon") == 1);
        Assert.Equal([1, third, 1], (await world.Browser.GetAsync<List<Data.Rollout>>("api/rollouts")).Select(rollout => rollout.Edition));
    }

    [Fact]
    public async Task An_edition_that_says_the_same_is_in_place_without_a_delivery()
    {
        await using var world = await World.StartAsync("mia", "jon");
        await world.SettleAsync();
        await world.Server.Database.DoAsync("insert into edition (number, content, sha256, published_by) select 2, content, sha256, published_by from edition where number = 1");
        var events = await world.Server.Database.AskAsync<long>("select count(*) from delivery_event");
        await world.Browser.RollOutAsync(2);
        await world.Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Done);
        await world.PollAsync("mia");
        Assert.Equal(events, await world.Server.Database.AskAsync<long>("select count(*) from delivery_event"));
    }

    [Fact]
    public async Task Many_changed_facts_at_once_are_held_until_somebody_lets_them_go()
    {
        var people = Enumerable.Range(0, 24).Select(number => $"p{number:00}").ToArray();
        await using var world = await World.StartAsync(people);
        await world.SettleAsync();
        await world.Browser.ApplyAsync(Ldif.People([.. people.Select(key => (key, "Chief vet"))]));
        await world.Browser.UntilAsync(rollout => rollout.HeldChanges == 24 && rollout.Notices.Any(notice => notice.Kind == "changes held"));
        Assert.DoesNotContain("Chief vet", await world.TextAsync("p00"), StringComparison.Ordinal);
        await world.DoAsync("api/flow/let-go");
        await Waiting.UntilAsync(async () =>
        {
            await world.PollAsync("p00");
            return (await world.TextAsync("p00")).Contains("Chief vet", StringComparison.Ordinal);
        });
        Assert.Equal(0, (await world.Browser.UntilAsync(rollout => rollout.HeldChanges == 0)).HeldChanges);
    }

    [Fact]
    public async Task A_joiner_is_served_without_a_rollout_and_a_client_not_heard_of_is_silent()
    {
        await using var world = await World.StartAsync("mia");
        await world.SettleAsync();
        await world.Browser.ApplyAsync(Ldif.People(("mia", "Vet"), ("jon", "Vet")));
        await world.AddAsync("jon");
        Assert.Equal(1, await world.PollAsync("jon"));
        await world.Server.Services.GetRequiredService<SeenClients>().WriteAsync(CancellationToken.None);
        await world.Server.Database.DoAsync("update client set last_seen_at = now() - interval '30 days', created_at = now() - interval '60 days' where name = 'mia'");
        var rollout = await world.Browser.GetAsync<RolloutAnswer>("api/rollout");
        Assert.Equal((1, 1), (rollout.Totals.Silent, rollout.Totals.InPlace));
        Assert.Equal("mia", Assert.Single((await world.Browser.GetAsync<ClientPage>("api/clients?state=silent")).Clients).Client);
        var summary = await world.Browser.Http.GetStringAsync(new Uri("api/rollout/summary.csv", UriKind.Relative));
        Assert.Contains(",silent,", summary.Split('\n').Single(line => line.Contains(",mia,", StringComparison.Ordinal)), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Before_it_is_started_a_rollout_says_whom_it_would_reach_and_what_is_odd()
    {
        await using var world = await World.StartAsync("mia", "jon", "eva");
        var edition = (await Browser.ReadAsync<Proof.PublishAnswer>(await world.Browser.PostAsync("api/editions", new Proof.PublishRequest(0)))).Number;
        var waves = new[] { Wave("Pilots", new Pilots([world.People["mia"]])), Wave("Again", new Pilots([world.People["mia"], world.People["jon"]])), Wave("Nobody", new OfUnits(UnitKind.Team, ["Nowhere"])) };
        var preview = await Browser.ReadAsync<RolloutPreview>(await world.Browser.PostAsync("api/rollout/preview", new StartRolloutRequest(edition) { Waves = [.. waves] }));
        Assert.Equal([1, 1, 0], preview.Waves.Select(wave => wave.People));
        Assert.Equal(
            ["1 of the wave \"Again\" are in an earlier one, which has them.", "Nobody is in the wave \"Nobody\"; it passes as it begins.", "1 people are in no wave and keep what they have."],
            preview.Warnings);
        using var bad = await world.Browser.PostAsync("api/rollout", new StartRolloutRequest(edition) { Waves = [Wave(" ", new Share(0))] });
        Assert.Equal(["/waves/0/name", "/waves/0/people/percent"], (await Problem.ReadAsync(bad)).Faults.Select(fault => fault.Pointer));
    }

    [Fact]
    public async Task A_folder_of_another_companys_agent_becomes_ours_and_nothing_else_in_it_is_touched()
    {
        await using var world = await World.StartAsync("mia");
        var folder = Directory.CreateTempSubdirectory("relevo-test-").FullName;
        var foreign = new Manifest(7, [new("other@elsewhere.example.new.txt", RenderedHash("theirs"), "other@elsewhere.example", "new")]);
        await new SignatureFolder(folder).WriteAsync(foreign, _ => Task.FromResult("theirs"u8.ToArray()), CancellationToken.None);
        await File.WriteAllTextAsync(Path.Combine(folder, "mine.txt"), "mine");
        await world.Browser.PublishAndRollOutAsync();
        var computer = await world.Browser.AddComputerAsync(world.People["mia"]);
        using var http = new HttpClient { BaseAddress = world.Server.Address };
        http.DefaultRequestHeaders.Authorization = new("Bearer", computer.Token);
        Assert.Equal(PollOutcome.Written, await new SignatureAgent(http, new SignatureFolder(folder)).PollAsync(CancellationToken.None));
        Assert.False(File.Exists(Path.Combine(folder, "other@elsewhere.example.new.txt")));
        Assert.True(File.Exists(Path.Combine(folder, "mia@brackenfold.example.new.html")));
        Assert.Equal("mine", await File.ReadAllTextAsync(Path.Combine(folder, "mine.txt")));
        Directory.Delete(folder, recursive: true);
    }

    [Fact]
    public async Task The_agents_doctor_says_what_is_well_and_what_is_not()
    {
        await using var world = await World.StartAsync("mia");
        var place = Directory.CreateTempSubdirectory("relevo-test-").FullName;
        var (code, said) = await RunAgentAsync("enrol", "--server", world.Server.Address.ToString(), "--code", world.Added["mia"].Code, "--token-file", Path.Combine(place, "token"));
        Assert.Equal((0, ""), (code, said.Trim()));
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(Path.Combine(place, "token")));
        string[] looking = ["doctor", "--server", world.Server.Address.ToString(), "--folder", Path.Combine(place, "signatures"), "--token-file", Path.Combine(place, "token")];
        (code, said) = await RunAgentAsync(looking);
        Assert.Equal(0, code);
        Assert.Equal(4, said.Split('\n').Count(line => line.StartsWith("well", StringComparison.Ordinal)));
        await File.WriteAllTextAsync(Path.Combine(place, "token"), "not-a-token");
        (code, said) = await RunAgentAsync(looking);
        Assert.Equal(1, code);
        Assert.Contains("the server does not know it", said, StringComparison.Ordinal);
        Directory.Delete(place, recursive: true);
    }

    [Fact]
    public async Task An_agent_that_reaches_the_server_only_through_a_proxy_is_told_which()
    {
        await using var world = await World.StartAsync("mia");
        var asked = new List<string>();
        await using var proxy = await ForwardAsync(world.Server.Address, asked);
        var place = Directory.CreateTempSubdirectory("relevo-test-").FullName;
        string[] where = ["--server", "http://relevo.brackenfold.example/", "--token-file", Path.Combine(place, "token")];
        Assert.Equal((0, ""), await RunAgentAsync(["enrol", .. where, "--code", world.Added["mia"].Code, "--proxy", proxy.Urls.First()]));
        var (code, said) = await RunAgentAsync(["doctor", .. where, "--folder", Path.Combine(place, "signatures"), "--proxy", proxy.Urls.First()]);
        Assert.Equal((0, 4), (code, said.Split('\n').Count(line => line.StartsWith("well", StringComparison.Ordinal))));
        Assert.Equal(["POST relevo.brackenfold.example/agent/v1/enrol", "GET relevo.brackenfold.example/health/ready", "GET relevo.brackenfold.example/agent/v1/signatures"], asked);
        (code, said) = await RunAgentAsync(["doctor", .. where, "--folder", Path.Combine(place, "signatures"), "--proxy", $"http://127.0.0.1:{ServerProcess.FreePort()}"]);
        Assert.Equal(1, code);
        Assert.Contains("Look at --server, --proxy and the network", said, StringComparison.Ordinal);
        Directory.Delete(place, recursive: true);
    }

    /// <summary>A proxy that knows one server, whatever name it is asked for.</summary>
    private static async Task<WebApplication> ForwardAsync(Uri server, List<string> asked)
    {
        var application = WebApplication.CreateSlimBuilder().Build();
        application.Urls.Add("http://127.0.0.1:0");
        application.Run(async context =>
        {
            asked.Add($"{context.Request.Method} {context.Request.Host}{context.Request.Path}");
            using var http = new HttpClient();
            using var request = new HttpRequestMessage(new HttpMethod(context.Request.Method), new Uri(server, context.Request.Path + context.Request.QueryString));
            if (HttpMethods.IsPost(context.Request.Method))
            {
                request.Content = new StreamContent(context.Request.Body);
                request.Content.Headers.TryAddWithoutValidation("Content-Type", context.Request.ContentType);
            }

            if (context.Request.Headers.Authorization.Count > 0) request.Headers.TryAddWithoutValidation("Authorization", context.Request.Headers.Authorization.ToString());
            using var answer = await http.SendAsync(request);
            context.Response.StatusCode = (int)answer.StatusCode;
            context.Response.ContentType = answer.Content.Headers.ContentType?.ToString();
            if (answer.StatusCode != HttpStatusCode.NoContent) await answer.Content.CopyToAsync(context.Response.Body);
        });
        await application.StartAsync();
        return application;
    }

    private static string RenderedHash(string text) => Core.Rendering.RenderedSignature.Sha256(System.Text.Encoding.UTF8.GetBytes(text));

    private static async Task<(int Code, string Said)> RunAgentAsync(params string[] arguments)
    {
        var start = new ProcessStartInfo("dotnet") { RedirectStandardOutput = true, RedirectStandardError = true };
        start.ArgumentList.Add(Path.Combine(AppContext.BaseDirectory, "relevo-agent.dll"));
        foreach (var argument in arguments) start.ArgumentList.Add(argument);
        using var process = Process.Start(start)!;
        var errors = process.StandardError.ReadToEndAsync();
        var output = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        return (process.ExitCode, output + await errors);
    }

    private static WavePlan Wave(string name, WavePeople people) => new(name, people, new StartAtOnce(), All);

    /// <summary>A server with people, each with a phone, the two designs and rules.</summary>
    private sealed class World : IAsyncDisposable
    {
        private readonly Dictionary<string, (string Tag, PocketProfile Profile)> held = [];

        public required RunningServer Server { get; init; }

        public required Browser Browser { get; init; }

        public Dictionary<string, Guid> People { get; } = [];

        public Dictionary<string, AddClientAnswer> Added { get; } = [];

        public static async Task<World> StartAsync(params string[] keys)
        {
            var server = await RunningServer.StartAsync();
            var browser = await server.SignInAsync();
            await browser.PrepareAsync();
            await browser.ApplyAsync(Ldif.People([.. keys.Select(key => (key, "Vet"))]));
            var world = new World { Server = server, Browser = browser };
            foreach (var key in keys) await world.AddAsync(key);
            return world;
        }

        public async Task AddAsync(string key)
        {
            People[key] = (await Browser.FindAsync(key + "@")).Id;
            Added[key] = await Browser.AddClientAsync("pocket-app", People[key], key);
        }

        public HttpClient Client(string key)
        {
            var client = new HttpClient { BaseAddress = Server.Address };
            client.DefaultRequestHeaders.Authorization = new("Bearer", Added[key].Token);
            return client;
        }

        /// <summary>Edition 1 is in place with everybody.</summary>
        public async Task SettleAsync()
        {
            await Browser.PublishAndRollOutAsync();
            foreach (var key in Added.Keys) await PollAsync(key);
            await Browser.UntilAsync(rollout => rollout.Rollout!.State == RolloutState.Done);
        }

        /// <summary>Publishes an edition that gives phones something else: the other design, and after that nothing.</summary>
        public async Task<int> PublishChangeAsync()
        {
            var editions = Server.Services.GetRequiredService<EditionStore>();
            var (latest, content) = ((await editions.LatestAsync(CancellationToken.None))!.Number, (await editions.FindAsync(1, CancellationToken.None))!);
            var rules = content.Rules.Signature;
            var changed = latest == 1 ? rules.SetItem(0, rules[0] with { Then = rules[1].Then }).SetItem(1, rules[1] with { Then = rules[0].Then }) : [];
            var actor = new Actor(await Server.Database.AskAsync<Guid>("select id from app_user"), "test");
            return (await editions.PublishAsync(content with { Rules = content.Rules with { Signature = changed } }, latest, actor, CancellationToken.None))!.Value;
        }

        /// <summary>Asks as the phone would, writes and reports. The edition it holds then.</summary>
        public async Task<int> PollAsync(string key)
        {
            using var http = Client(key);
            if (held.TryGetValue(key, out var had)) http.DefaultRequestHeaders.IfNoneMatch.Add(new($"\"{had.Tag}\""));
            using var answer = await http.GetAsync("pocket/v1/profile");
            if (answer.StatusCode == HttpStatusCode.OK)
            {
                var profile = (await answer.Content.ReadFromJsonAsync<PocketProfile>(RelevoJson.Options))!;
                held[key] = (profile.Tag, profile);
            }

            if (answer.Headers.Contains(AgentProtocol.ReportHeader))
            {
                var profile = held[key].Profile;
                using var reported = await http.PostAsJsonAsync("pocket/v1/report", new DeliveryReport(profile.Tag, [.. profile.Signatures.Select(one => new FoundFile(one.Path, one.Sha256))], ""), RelevoJson.Options);
                Assert.Equal(HttpStatusCode.NoContent, reported.StatusCode);
            }

            return held.TryGetValue(key, out var now) ? now.Profile.Edition : 0;
        }

        /// <summary>Asks and says that it could not be written.</summary>
        public async Task FailAsync(string key)
        {
            using var http = Client(key);
            var profile = (await http.GetFromJsonAsync<PocketProfile>("pocket/v1/profile", RelevoJson.Options))!;
            using var reported = await http.PostAsJsonAsync("pocket/v1/report", new DeliveryReport(profile.Tag, [], "No space left on device"), RelevoJson.Options);
            Assert.Equal(HttpStatusCode.NoContent, reported.StatusCode);
        }

        public Task<string> TextAsync(string key) => Task.FromResult(string.Concat(held[key].Profile.Signatures.Select(one => one.Text)));

        public async Task DoAsync(string path)
        {
            using var answer = await Browser.PostAsync(path, new { });
            Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
        }

        public async ValueTask DisposeAsync()
        {
            Browser.Dispose();
            await Server.DisposeAsync();
        }
    }
}
