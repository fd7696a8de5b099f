using System.Diagnostics;
using System.Net;
using System.Text;
using Microsoft.Extensions.DependencyInjection;
using Relevo.Agent;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Lens;
using Relevo.Server.Rollout;

namespace Relevo.Server.Tests;

public sealed class RolloutTests
{
    [Fact]
    public async Task The_file_on_the_disk_is_byte_for_byte_what_the_lens_shows()
    {
        await using var world = await World.StartAsync();
        Assert.Equal(PollOutcome.NothingRolledOut, await world.PollAsync());
        await world.Browser.PublishAndRollOutAsync();
        Assert.Equal(PollOutcome.Written, await world.PollAsync());
        foreach (var (occasion, slot) in new[] { ("new", "new"), ("reply", "reply"), ("forward", "reply") })
        {
            var lens = (await world.Browser.GetAsync<LensAnswer>($"api/lens?person={world.Person}&occasion={occasion}")).Signature!;
            Assert.Equal(Encoding.UTF8.GetBytes(lens.Html), await File.ReadAllBytesAsync(world.File($"mia@brackenfold.example.{slot}.html")));
            Assert.Equal(Encoding.UTF8.GetBytes(lens.Text), await File.ReadAllBytesAsync(world.File($"mia@brackenfold.example.{slot}.txt")));
        }

        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
        Assert.Equal(PollOutcome.InPlace, await world.PollAsync());
    }

    [Fact]
    public async Task The_hash_of_the_file_by_the_systems_own_tool_is_the_one_that_was_wanted()
    {
        // Outside check: sha256sum of GNU coreutils; algorithm FIPS 180-4.
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        var manifest = new SignatureFolder(world.Folder).ReadManifest()!;
        foreach (var file in manifest.Files)
        {
            var start = new ProcessStartInfo("sha256sum") { RedirectStandardOutput = true };
            start.ArgumentList.Add(world.File(file.Path));
            using var tool = Process.Start(start)!;
            Assert.StartsWith(file.Sha256, await tool.StandardOutput.ReadToEndAsync(), StringComparison.Ordinal);
        }

        var lens = (await world.Browser.GetAsync<LensAnswer>($"api/lens?person={world.Person}")).Signature!;
        Assert.Contains(manifest.Files, file => file.Sha256 == lens.HtmlSha256);
        Assert.Contains(manifest.Files, file => file.Sha256 == lens.TextSha256);
    }

    [Fact]
    public async Task A_file_changed_by_hand_is_seen_as_drift_and_put_right()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        var file = world.File("mia@brackenfold.example.new.html");
        var before = await File.ReadAllBytesAsync(file);
        await File.AppendAllTextAsync(file, "<p>Sent in haste</p>");

        Assert.Equal(PollOutcome.PutRightNow, await world.PollAsync());
        var drifted = await world.StandingAsync();
        Assert.Equal((DeliveryState.Drifted, "mia@brackenfold.example.new.html"), (drifted.State, Assert.Single(drifted.Differing)));
        Assert.Equal(PollOutcome.Written, await world.PollAsync());
        Assert.Equal(before, await File.ReadAllBytesAsync(file));
        var right = await world.StandingAsync();
        Assert.Equal(DeliveryState.InPlace, right.State);
        Assert.NotNull(right.PutRightAt);
        Assert.Equal([DeliveryState.InPlace, DeliveryState.Drifted, DeliveryState.InPlace, DeliveryState.OnItsWay], (await world.Browser.GetAsync<List<DeliveryEvent>>($"api/clients/{world.Computer.Id}/story")).Select(line => line.State));
    }

    [Fact]
    public async Task A_changed_fact_reaches_the_computer_without_a_new_edition()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        await world.Browser.ApplyAsync(Ldif.People(("mia", "Chief vet")));
        await world.PollUntilAsync(PollOutcome.Written);
        Assert.Contains("Chief vet", await File.ReadAllTextAsync(world.File("mia@brackenfold.example.new.html")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_an_account_no_longer_gets_is_removed_and_nothing_else()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        await File.WriteAllTextAsync(world.File("my own.html"), "mine");
        await world.Browser.ApplyAsync(Ldif.Person("mia", mail: "mia.lindqvist@brackenfold.example"));
        await world.PollUntilAsync(PollOutcome.Written);
        Assert.False(File.Exists(world.File("mia@brackenfold.example.new.html")));
        Assert.True(File.Exists(world.File("mia.lindqvist@brackenfold.example.new.html")));
        Assert.Equal("mine", await File.ReadAllTextAsync(world.File("my own.html")));
    }

    [Fact]
    public async Task Someone_who_leaves_keeps_no_signature()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        await world.Browser.ApplyAsync(Ldif.People(("somebody-else", "Vet")));
        await world.PollUntilAsync(PollOutcome.Written);
        Assert.Equal([Manifest.OwnFileName], Directory.EnumerateFiles(world.Folder, "*", SearchOption.AllDirectories).Select(Path.GetFileName));
        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
    }

    [Fact]
    public async Task Of_several_who_start_a_rollout_at_once_one_is_left_running()
    {
        await using var world = await World.StartAsync();
        var edition = await world.Browser.PublishAndRollOutAsync();
        var going = (await world.Browser.GetAsync<RolloutAnswer>("api/rollout")).Rollout!.Id;
        var answers = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => world.Browser.PostAsync("api/rollout", new StartRolloutRequest(edition) { InPlaceOf = going })));
        Assert.Single(answers, answer => answer.StatusCode == HttpStatusCode.NoContent);
        Assert.Equal(5, answers.Count(answer => answer.StatusCode == HttpStatusCode.Conflict));
        Assert.Equal(1L, await world.Server.Database.AskAsync<long>("select count(*) from rollout where ended_at is null"));
        Assert.Equal(PollOutcome.Written, await world.PollAsync());
        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
    }

    [Fact]
    public async Task A_report_of_a_hash_nobody_sent_or_of_far_too_much_moves_nothing()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        using var agent = world.Agent(world.Computer.Token);
        using var stale = await System.Net.Http.Json.HttpClientJsonExtensions.PostAsJsonAsync(agent, AgentProtocol.ReportPath, new DeliveryReport(new string('0', 64), [new FoundFile("x", "y")], "invented"), Relevo.Core.RelevoJson.Options);
        Assert.Equal(HttpStatusCode.NoContent, stale.StatusCode);
        using var huge = await System.Net.Http.Json.HttpClientJsonExtensions.PostAsJsonAsync(agent, AgentProtocol.ReportPath, new DeliveryReport("", [], new string('x', 600)), Relevo.Core.RelevoJson.Options);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, huge.StatusCode);
        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
    }

    [Fact]
    public async Task A_folder_that_cannot_be_written_is_reported_as_failed_with_the_reason()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        Directory.CreateDirectory(world.File("mia@brackenfold.example.new.html"));
        Assert.Equal(PollOutcome.Failed, await world.PollAsync());
        var failed = await world.StandingAsync();
        Assert.Equal(DeliveryState.Failed, failed.State);
        Assert.NotEmpty(failed.Trouble);
        Directory.Delete(world.File("mia@brackenfold.example.new.html"));
        Assert.Equal(PollOutcome.Written, await world.PollAsync());
        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
    }

    [Fact]
    public async Task A_report_that_was_lost_is_asked_for_again()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        // As after a crash between the writing and the report: the files are there, the server does not know.
        await world.Server.Database.DoAsync("update delivery set state = 'onItsWay', first_in_place_at = null");
        Assert.Equal(PollOutcome.InPlace, await world.PollAsync());
        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
    }

    [Fact]
    public async Task Rolling_out_the_same_edition_again_writes_nothing_and_is_confirmed()
    {
        await using var world = await World.StartAsync();
        var edition = await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        var written = File.GetLastWriteTimeUtc(world.File("mia@brackenfold.example.new.html"));
        using var again = await world.Browser.PostAsync("api/rollout", new StartRolloutRequest(edition));
        Assert.Equal(PollOutcome.InPlace, await world.PollAsync());
        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
        Assert.Equal(written, File.GetLastWriteTimeUtc(world.File("mia@brackenfold.example.new.html")));
    }

    [Fact]
    public async Task Agents_with_an_unknown_token_get_nothing()
    {
        await using var world = await World.StartAsync();
        using var stranger = world.Agent("not-a-token");
        Assert.Equal(PollOutcome.Refused, await new SignatureAgent(stranger, new SignatureFolder(world.Folder)).PollAsync(CancellationToken.None));
        Assert.Equal(0L, await world.Server.Database.AskAsync<long>($"select count(*) from client where encode(token_hash, 'escape') like '%{world.Computer.Token}%'"));
    }

    [Fact]
    public async Task An_agent_keeps_what_it_has_while_the_server_is_away()
    {
        await using var world = await World.StartAsync();
        await world.Browser.PublishAndRollOutAsync();
        await world.PollAsync();
        using var nowhere = new HttpClient { BaseAddress = new Uri("http://127.0.0.1:1/") };
        Assert.Equal(PollOutcome.NoAnswer, await new SignatureAgent(nowhere, new SignatureFolder(world.Folder)).PollAsync(CancellationToken.None));
        Assert.True(File.Exists(world.File("mia@brackenfold.example.new.html")));
    }

    [Theory]
    [InlineData("../outside.html")]
    [InlineData("a/../../outside.html")]
    [InlineData("/etc/outside.html")]
    [InlineData("..\\outside.html")]
    public async Task A_manifest_that_leads_out_of_the_folder_is_refused(string path)
    {
        var folder = Directory.CreateTempSubdirectory("relevo-test-").FullName;
        var manifest = new Manifest(1, [new ManifestFile(path, new string('0', 64), "", "")]);
        await Assert.ThrowsAsync<IOException>(() => new SignatureFolder(folder).WriteAsync(manifest, _ => Task.FromResult("x"u8.ToArray()), CancellationToken.None));
        Assert.Empty(Directory.EnumerateFileSystemEntries(folder));
        Directory.Delete(folder);
    }

    [Fact]
    public async Task What_an_interrupted_writing_left_is_cleared_away()
    {
        await using var world = await World.StartAsync();
        await File.WriteAllTextAsync(world.File(".relevo-half"), "half a file");
        new SignatureFolder(world.Folder).Prepare();
        Assert.False(File.Exists(world.File(".relevo-half")));
    }

    [Fact]
    public async Task An_employee_sees_the_own_signatures_as_they_are_rolled_out()
    {
        await using var world = await World.StartAsync();
        await world.Server.AddUserAsync("mia@brackenfold.example", "a-password-of-mia", UserRole.Employee, world.Person);
        using var browser = await world.Server.VisitAsync();
        using var signedIn = await browser.PostAsync("api/session", new SignIn.SignInRequest("mia@brackenfold.example", "a-password-of-mia"));
        Assert.Equal(0, (await browser.GetAsync<OwnSignatures>("api/own/signatures")).Edition);
        await world.Browser.PublishAndRollOutAsync();
        var own = await browser.GetAsync<OwnSignatures>("api/own/signatures");
        Assert.Equal(["Full", "Short"], own.Signatures.Select(signature => signature.Name));
    }

    [Fact]
    public async Task Killing_the_server_in_the_middle_of_a_rollout_ends_with_every_computer_in_place_and_counted_once()
    {
        const int count = 20;
        await using var database = await TestDatabase.CreateAsync();
        var port = ServerProcess.FreePort();
        var server = await ServerProcess.StartAsync(database.ConnectionString, port);
        using var browser = new Browser(server.Address);
        await browser.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People([.. Enumerable.Range(0, count).Select(number => ($"p{number:00}", "Vet"))]));
        var root = Directory.CreateTempSubdirectory("relevo-test-").FullName;
        var computers = new List<(HttpClient Http, SignatureAgent Agent)>();
        for (var number = 0; number < count; number++)
        {
            var computer = await browser.AddComputerAsync((await browser.FindAsync($"p{number:00}@")).Id, $"C{number:00}");
            var http = World.Agent(server.Address, computer.Token);
            var folder = new SignatureFolder(Path.Combine(root, $"{number}"));
            folder.Prepare();
            computers.Add((http, new SignatureAgent(http, folder)));
        }

        await browser.PublishAndRollOutAsync();
        using var stop = new CancellationTokenSource();
        // Half of the computers are switched on only when the server is gone, so that the kill surely falls in the middle.
        var first = computers.Take(count / 2).Select(computer => Task.Run(() => PollUntilStoppedAsync(computer.Agent, stop.Token))).ToArray();
        while (await InPlaceAsync(database) < 5) await Task.Delay(5);
        await server.KillAsync();
        Task[] polling = [.. first, .. computers.Skip(count / 2).Select(computer => Task.Run(() => PollUntilStoppedAsync(computer.Agent, stop.Token)))];
        var atKill = await InPlaceAsync(database);
        server.Dispose();
        server = await ServerProcess.StartAsync(database.ConnectionString, port);
        for (var attempt = 0; attempt < 600 && await InPlaceAsync(database) < count; attempt++) await Task.Delay(50);
        await stop.CancelAsync();
        await Task.WhenAll(polling);
        server.Dispose();

        Assert.InRange(atKill, 5, count / 2);
        Assert.Equal(count, await InPlaceAsync(database));
        Assert.Equal(count, await database.AskAsync<long>("select count(*) from delivery"));
        Assert.Equal(0L, await database.AskAsync<long>("select count(*) from (select client_id from delivery_event where state = 'inPlace' group by client_id having count(*) <> 1) twice"));
        foreach (var (http, _) in computers) http.Dispose();
        Directory.Delete(root, recursive: true);
    }

    private static Task<long> InPlaceAsync(TestDatabase database) => database.AskAsync<long>("select count(*) from delivery where state = 'inPlace'");

    private static async Task PollUntilStoppedAsync(SignatureAgent agent, CancellationToken cancellationToken)
    {
        try
        {
            while (true)
            {
                await agent.PollAsync(cancellationToken);
                await Task.Delay(100, cancellationToken);
            }
        }
        catch (OperationCanceledException)
        {
            // Stopped by the test.
        }
    }

    /// <summary>A server with one person, the two designs and rules, and a computer with an agent.</summary>
    private sealed class World : IAsyncDisposable
    {
        private readonly HttpClient http;
        private readonly SignatureAgent agent;

        private World(RunningServer server, Browser browser, Guid person, AddClientAnswer computer)
        {
            (Server, Browser, Person, Computer) = (server, browser, person, computer);
            Folder = Directory.CreateTempSubdirectory("relevo-test-").FullName;
            http = Agent(computer.Token);
            agent = new SignatureAgent(http, new SignatureFolder(Folder));
        }

        public RunningServer Server { get; }

        public Browser Browser { get; }

        public Guid Person { get; }

        public AddClientAnswer Computer { get; }

        public string Folder { get; }

        public static async Task<World> StartAsync()
        {
            var server = await RunningServer.StartAsync();
            var browser = await server.SignInAsync();
            await browser.PrepareAsync();
            await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
            var person = (await browser.FindAsync("mia")).Id;
            return new World(server, browser, person, await browser.AddComputerAsync(person));
        }

        public static HttpClient Agent(Uri address, string token)
        {
            var http = new HttpClient { BaseAddress = address };
            http.DefaultRequestHeaders.Authorization = new("Bearer", token);
            return http;
        }

        public HttpClient Agent(string token) => Agent(Server.Address, token);

        public Task<PollOutcome> PollAsync() => agent.PollAsync(CancellationToken.None);

        public string File(string path) => Path.Combine(Folder, path);

        public async Task<ClientStanding> StandingAsync() => Assert.Single((await Browser.GetAsync<ClientPage>("api/clients")).Clients);

        /// <summary>Polls until it comes to this: changed facts take a moment to be planned.</summary>
        public async Task PollUntilAsync(PollOutcome wanted)
        {
            for (var attempt = 0; await PollAsync() != wanted; attempt++)
            {
                Assert.True(attempt < 800, $"The agent never came to {wanted}.");
                await Task.Delay(25);
            }
        }


        public async ValueTask DisposeAsync()
        {
            http.Dispose();
            Browser.Dispose();
            await Server.DisposeAsync();
            Directory.Delete(Folder, recursive: true);
        }
    }
}
