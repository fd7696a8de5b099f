using System.Net;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Rollout;

namespace Relevo.Server.Tests;

/// <summary>Phones, compose helpers, people who put signatures in by hand, and how a client gets and changes its token.</summary>
public sealed class WaysInTests
{
    [Fact]
    public async Task A_phone_gets_its_text_signed_reports_it_and_is_told_once()
    {
        await using var world = await World.StartAsync("pocket-app", isForAll: true);
        using var phone = world.Client();
        using (var nothing = await phone.GetAsync("pocket/v1/profile")) Assert.Equal(HttpStatusCode.NoContent, nothing.StatusCode);
        await world.Browser.PublishAndRollOutAsync();
        using var answer = await phone.GetAsync("pocket/v1/profile");
        var body = await answer.Content.ReadAsByteArrayAsync();
        var profile = JsonSerializer.Deserialize<PocketProfile>(body, RelevoJson.Options)!;
        var signature = Assert.Single(profile.Signatures);
        Assert.Equal("", signature.Address);
        Assert.StartsWith("mia", signature.Text, StringComparison.Ordinal);
        Assert.Equal($"\"{profile.Tag}\"", answer.Headers.ETag!.Tag);

        // RFC 7515 appendix F and RFC 7518 section 3.4, checked with the framework's own ECDSA and the published key (RFC 7517).
        var key = (await phone.GetFromJsonAsync<JsonObject>("pocket/v1/keys"))!["keys"]![0]!;
        using var publicKey = ECDsa.Create(new ECParameters { Curve = ECCurve.NamedCurves.nistP256, Q = new ECPoint { X = WebEncoders.Base64UrlDecode(key["x"]!.ToString()), Y = WebEncoders.Base64UrlDecode(key["y"]!.ToString()) } });
        var parts = answer.Headers.GetValues(PocketEndpoints.SignatureHeader).Single().Split('.');
        Assert.True(publicKey.VerifyData(Encoding.ASCII.GetBytes($"{parts[0]}.{WebEncoders.Base64UrlEncode(body)}"), WebEncoders.Base64UrlDecode(parts[2]), HashAlgorithmName.SHA256));
        body[^2] ^= 1;
        Assert.False(publicKey.VerifyData(Encoding.ASCII.GetBytes($"{parts[0]}.{WebEncoders.Base64UrlEncode(body)}"), WebEncoders.Base64UrlDecode(parts[2]), HashAlgorithmName.SHA256));

        Assert.Equal("", parts[1]);
        using (var reported = await phone.PostAsJsonAsync("pocket/v1/report", new DeliveryReport(profile.Tag, [new(signature.Path, signature.Sha256)], ""), RelevoJson.Options)) Assert.Equal(HttpStatusCode.NoContent, reported.StatusCode);
        Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
        phone.DefaultRequestHeaders.IfNoneMatch.Add(answer.Headers.ETag);
        using var again = await phone.GetAsync("pocket/v1/profile");
        Assert.Equal(HttpStatusCode.NotModified, again.StatusCode);
        Assert.False(again.Headers.Contains(AgentProtocol.ReportHeader));
    }

    [Fact]
    public async Task Servers_that_make_the_first_signing_key_at_the_same_moment_come_to_the_same_one()
    {
        await using var server = await RunningServer.StartAsync();
        var servers = Enumerable.Range(0, 8).Select(_ => ActivatorUtilities.CreateInstance<ProfileSigning>(server.Services)).ToArray();
        await using var connection = new NpgsqlConnection(server.Database.ConnectionString);
        await connection.OpenAsync();
        await using var held = await connection.BeginTransactionAsync();
        await using (var holding = new NpgsqlCommand("lock table signing_key in share mode", connection)) await holding.ExecuteNonQueryAsync();
        var asked = Task.WhenAll(servers.Select(one => Task.Run(() => one.PublicKeysAsync(CancellationToken.None))));
        await Waiting.UntilAsync(async () => await server.Database.AskAsync<long>("select count(*) from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'") == servers.Length);
        await held.CommitAsync();
        var keys = await asked;
        Assert.Single(keys.Distinct());
        Assert.Equal(1L, await server.Database.AskAsync<long>("select count(*) from signing_key"));
        foreach (var one in servers) one.Dispose();
    }

    [Fact]
    public async Task A_phone_that_reports_a_hash_nobody_sent_has_drifted_or_is_passed_over_and_nothing_breaks()
    {
        await using var world = await World.StartAsync("pocket-app");
        await world.Browser.PublishAndRollOutAsync();
        using var phone = world.Client();
        var profile = (await phone.GetFromJsonAsync<PocketProfile>("pocket/v1/profile", RelevoJson.Options))!;
        using (await phone.PostAsJsonAsync("pocket/v1/report", new DeliveryReport(new string('f', 64), [new("x", "y")], ""), RelevoJson.Options)) Assert.Equal(DeliveryState.OnItsWay, (await world.StandingAsync()).State);
        using (await phone.PostAsJsonAsync("pocket/v1/report", new DeliveryReport(profile.Tag, [.. profile.Signatures.Select(one => new FoundFile(one.Path, one.Sha256))], ""), RelevoJson.Options)) Assert.Equal(DeliveryState.InPlace, (await world.StandingAsync()).State);
        using var drifted = await phone.PostAsJsonAsync("pocket/v1/report", new DeliveryReport(profile.Tag, [new(profile.Signatures[0].Path, new string('0', 64))], "") { Contents = [new(profile.Signatures[0].Path, "My own")] }, RelevoJson.Options);
        Assert.Equal(AgentProtocol.PutRightNow, drifted.Headers.GetValues(AgentProtocol.DriftHeader).Single());
        var standing = await world.StandingAsync();
        Assert.Equal(DeliveryState.Drifted, standing.State);
        Assert.Equal("My own", Assert.Single(await world.Browser.GetAsync<List<PlaceDifference>>($"api/clients/{standing.ClientId}/difference")).Found);
    }

    [Fact]
    public async Task A_compose_helper_is_answered_for_account_readers_occasion_and_language()
    {
        await using var world = await World.StartAsync("compose-helper");
        await world.Browser.PublishAndRollOutAsync();
        using var helper = world.Client();
        Assert.Equal(["mia@brackenfold.example"], (await helper.GetFromJsonAsync<ComposeAccounts>("helper/v1/accounts", RelevoJson.Options))!.Addresses);
        var fresh = await ComposeAsync(helper, new("", "Owner <owner@petmail.example>", "new"));
        Assert.Equal(("Full", "outside", "owner@petmail.example"), (fresh.Signature!.Name, fresh.Audience, fresh.DecidingRecipient));
        Assert.Contains("https://relevo.brackenfold.example/pictures/", fresh.Signature.Html, StringComparison.Ordinal);
        Assert.Equal("Short", (await ComposeAsync(helper, new("mia@brackenfold.example", "", "reply") { Language = "de" })).Signature!.Name);
        await Waiting.UntilAsync(async () => (await world.StandingAsync()).State == DeliveryState.InPlace); // once it was planned for; it is answered before
        foreach (var (request, status) in new[] { (new ComposeRequest("other@brackenfold.example", "", ""), 404), (new ComposeRequest("", "", "dance"), 422), (new ComposeRequest("", new string('x', 100_001), ""), 422) })
        {
            using var refused = await helper.PostAsJsonAsync("helper/v1/compose", request, RelevoJson.Options);
            Assert.Equal(status, (int)refused.StatusCode);
        }
    }

    [Fact]
    public async Task What_the_helper_gives_out_is_what_the_lens_shows_for_the_same_situation()
    {
        await using var world = await World.StartAsync("compose-helper");
        await world.Browser.PublishAndRollOutAsync();
        using var helper = world.Client();
        foreach (var occasion in new[] { "new", "reply", "forward" })
        {
            var lens = await world.Browser.GetAsync<Lens.LensAnswer>($"api/lens?person={world.Person}&occasion={occasion}&client=compose-helper");
            var given = await ComposeAsync(helper, new("", "someone@elsewhere.example", occasion));
            Assert.Equal((lens.Signature!.Name, lens.Signature.Text.Replace("-- \n", "", StringComparison.Ordinal)), (given.Signature!.Name, given.Signature.Text));
        }
    }

    [Fact]
    public async Task A_code_makes_a_token_once_and_a_token_is_replaced_without_a_gap()
    {
        await using var world = await World.StartAsync("desk-app");
        using var nobody = new HttpClient { BaseAddress = world.Server.Address };
        using var enrolled = await nobody.PostAsJsonAsync(AgentProtocol.EnrolPath, new EnrolRequest(world.Added.Code), RelevoJson.Options);
        var token = (await enrolled.Content.ReadFromJsonAsync<TokenAnswer>(RelevoJson.Options))!.Token;
        using (var twice = await nobody.PostAsJsonAsync(AgentProtocol.EnrolPath, new EnrolRequest(world.Added.Code), RelevoJson.Options)) Assert.Equal(HttpStatusCode.Forbidden, twice.StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, await AskAsync(world.Added.Token)); // the code's token took its place
        Assert.Equal(HttpStatusCode.NoContent, await AskAsync(token));

        using var agent = world.Client(token);
        using var rotated = await agent.PostAsync(AgentProtocol.TokenPath, null);
        var next = (await rotated.Content.ReadFromJsonAsync<TokenAnswer>(RelevoJson.Options))!.Token;
        Assert.Equal(HttpStatusCode.NoContent, await AskAsync(token)); // the answer may have been lost
        Assert.Equal(HttpStatusCode.NoContent, await AskAsync(next));
        Assert.Equal(HttpStatusCode.Unauthorized, await AskAsync(token));

        using (var retired = await world.Browser.DeleteAsync($"api/clients/{world.Added.Id}", null)) Assert.Equal(HttpStatusCode.NoContent, retired.StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, await AskAsync(next));

        async Task<HttpStatusCode> AskAsync(string with)
        {
            using var client = world.Client(with);
            using var answer = await client.GetAsync(AgentProtocol.SignaturesPath);
            return answer.StatusCode;
        }
    }

    [Fact]
    public async Task Somebody_who_puts_them_in_by_hand_says_so_and_is_asked_again_when_they_change()
    {
        await using var world = await World.StartAsync("desk-app");
        using var mia = await VisitAsMiaAsync(world);
        using (var early = await mia.PostAsync("api/own/signatures/placed", new { })) Assert.Equal(HttpStatusCode.Conflict, early.StatusCode);
        await world.Browser.PublishAndRollOutAsync();
        var own = await mia.GetAsync<OwnSignatures>("api/own/signatures");
        Assert.False(own.IsPlaced);
        Assert.Contains("https://relevo.brackenfold.example/pictures/", own.Signatures[0].Html, StringComparison.Ordinal); // what is pasted brings no files along
        Assert.Equal("desk app Berlin 01", Assert.Single(own.Clients));
        using (var placed = await mia.PostAsync("api/own/signatures/placed", new { })) Assert.Equal(HttpStatusCode.NoContent, placed.StatusCode);
        Assert.Equal(DeliveryState.InPlace, (await mia.GetAsync<OwnSignatures>("api/own/signatures")).State);
        Assert.True((await world.Browser.GetAsync<ClientPage>("api/clients")).Clients.Single(client => client.Client == "put in by hand").IsByHand);
        // Made from something else that comes to the same: as after another version of Relevo was installed.
        await world.Server.Database.DoAsync("update delivery set recipe = null, held_recipe = null; insert into unplanned_client select client_id from delivery on conflict do nothing");
        await Waiting.UntilAsync(async () => await world.Server.Database.AskAsync<long>("select count(*) from delivery where recipe is null") == 0);
        Assert.Equal(DeliveryState.InPlace, (await mia.GetAsync<OwnSignatures>("api/own/signatures")).State);
        Assert.Equal(0L, await world.Server.Database.AskAsync<long>("select count(*) from notice where kind = 'put in again'"));
        await world.Browser.ApplyAsync(Ldif.People(("mia", "Chief vet")));
        await Waiting.UntilAsync(async () => (await mia.GetAsync<OwnSignatures>("api/own/signatures")).State == DeliveryState.Waits);
        Assert.Equal(1L, await world.Server.Database.AskAsync<long>("select count(*) from notice where kind = 'put in again'"));
    }

    [Fact]
    public async Task Nobody_is_asked_to_put_them_in_again_because_the_planner_had_read_the_delivery_before_it_changed()
    {
        await using var world = await World.StartAsync("desk-app");
        using var mia = await VisitAsMiaAsync(world);
        await world.Browser.PublishAndRollOutAsync();
        using (await mia.PostAsync("api/own/signatures/placed", new { })) { }
        const string planned = "select count(*) from delivery join client on client.id = client_id where is_by_hand and recipe is not null and client_id not in (select client_id from unplanned_client)";
        await Waiting.UntilAsync(async () => await world.Server.Database.AskAsync<long>($"{planned} and state = 'inPlace'") == 1);

        await using var data = Database.Open(world.Server.Database.ConnectionString);
        var plans = new PlanStore(data);
        var read = await plans.PlannedAsync(null, CancellationToken.None).SingleAsync(one => one.Client.IsByHand, CancellationToken.None);
        await world.Server.Database.DoAsync("update delivery set recipe = null, held_recipe = null");
        await plans.WantAsync([new WantedHolding(read.Client, read.Edition!.Value, read.Standing.Recipe!.Value, read.IsFixed, IsServed: false) { Before = read }], CancellationToken.None);
        await Waiting.UntilAsync(async () => await world.Server.Database.AskAsync<long>(planned) == 1);
        Assert.Equal(DeliveryState.InPlace, (await mia.GetAsync<OwnSignatures>("api/own/signatures")).State);
        Assert.Equal(0L, await world.Server.Database.AskAsync<long>("select count(*) from notice where kind = 'put in again'"));
    }

    private static async Task<Browser> VisitAsMiaAsync(World world)
    {
        await world.Server.AddUserAsync("mia@brackenfold.example", "a-password-of-mia", UserRole.Employee, world.Person);
        var mia = await world.Server.VisitAsync();
        using (await mia.PostAsync("api/session", new SignIn.SignInRequest("mia@brackenfold.example", "a-password-of-mia"))) await mia.LoadSessionAsync();
        return mia;
    }

    private static async Task<ComposeAnswer> ComposeAsync(HttpClient helper, ComposeRequest request)
    {
        using var answer = await helper.PostAsJsonAsync("helper/v1/compose", request, RelevoJson.Options);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        return (await answer.Content.ReadFromJsonAsync<ComposeAnswer>(RelevoJson.Options))!;
    }

    /// <summary>A server with mia, the two designs and rules, and one client of hers.</summary>
    private sealed class World : IAsyncDisposable
    {
        public required RunningServer Server { get; init; }

        public required Browser Browser { get; init; }

        public required Guid Person { get; init; }

        public required AddClientAnswer Added { get; init; }

        public static async Task<World> StartAsync(string kind, bool isForAll = false)
        {
            var server = await RunningServer.StartAsync();
            var browser = await server.SignInAsync();
            await browser.PrepareAsync();
            await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
            var person = (await browser.FindAsync("mia")).Id;
            return new World { Server = server, Browser = browser, Person = person, Added = await browser.AddClientAsync(kind, person, "Berlin 01", isForAll) };
        }

        public HttpClient Client(string? token = null)
        {
            var client = new HttpClient { BaseAddress = Server.Address };
            client.DefaultRequestHeaders.Authorization = new("Bearer", token ?? Added.Token);
            return client;
        }

        public async Task<ClientStanding> StandingAsync() => Assert.Single((await Browser.GetAsync<ClientPage>("api/clients")).Clients);

        public async ValueTask DisposeAsync()
        {
            Browser.Dispose();
            await Server.DisposeAsync();
        }
    }
}
