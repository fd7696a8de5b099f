using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using Relevo.Data;
using Relevo.Server.People;
using Relevo.Server.Scim;

namespace Relevo.Server.Tests;

/// <summary>A client that pushes, over HTTP. Sources: RFC 7643 and 7644; requests follow the shapes of RFC 7644's examples with data of our own.</summary>
public sealed class ScimTests
{
    private const string Mia = """
        {"schemas": ["urn:ietf:params:scim:schemas:core:2.0:User", "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"], "externalId": "e-1", "userName": "mia@brackenfold.example",
         "name": {"formatted": "Mia Lindqvist", "familyName": "Lindqvist", "givenName": "Mia"}, "title": "Vet", "active": true,
         "emails": [{"value": "mia@brackenfold.example", "primary": true}], "phoneNumbers": [{"value": "tel:+46-8-465-004-12", "type": "work"}],
         "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User": {"department": "Surgery", "organization": "Brackenfold AB"}}
        """;

    [Fact]
    public async Task A_user_is_pushed_changed_deactivated_and_comes_back_as_the_same_person()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var created = await client.SendAsync(HttpMethod.Post, "Users", Mia);
        Assert.Equal((HttpStatusCode.Created, "application/scim+json"), (created.Status, created.MediaType));
        var id = created.Body!["id"]!.ToString();
        Assert.EndsWith($"/scim/v2/Users/{id}", created.Location!.ToString(), StringComparison.Ordinal);
        Assert.Equal(created.ETag, created.Body["meta"]!["version"]!.ToString());
        var person = await browser.FindAsync("Lindqvist");
        Assert.Equal(("Mia Lindqvist", "Vet", "Surgery"), (person.Name, person.Title, person.Department));
        var detail = await browser.GetAsync<PersonAnswer>($"api/people/{person.Id}");
        Assert.Equal("+46 8 465 004 12", detail.Fields.Single(field => field.Name == "telephone").Text);

        var patched = await client.PatchAsync($"Users/{id}", """[{"op": "replace", "path": "title", "value": "Senior vet"}, {"op": "add", "path": "emails", "value": [{"value": "m@brackenfold.example"}]}]""");
        Assert.Equal(HttpStatusCode.OK, patched.Status);
        Assert.Equal("Senior vet", (await browser.FindAsync("Lindqvist")).Title);
        Assert.Equal(["mia@brackenfold.example", "m@brackenfold.example"], (await browser.FindAsync("Lindqvist")).Addresses);

        await client.PatchAsync($"Users/{id}", """[{"op": "replace", "path": "active", "value": false}]""");
        Assert.Equal(0, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        await client.PatchAsync($"Users/{id}", """[{"op": "replace", "value": {"active": true}}]""");
        Assert.Equal(person.Id, (await browser.FindAsync("Lindqvist")).Id);

        Assert.Equal(HttpStatusCode.NoContent, (await client.SendAsync(HttpMethod.Delete, $"Users/{id}", null)).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await client.SendAsync(HttpMethod.Get, $"Users/{id}", null)).Status);
        Assert.Equal(0, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);

        // An hour of pushes is one run, and the person's history knows every step.
        var run = Assert.Single(await browser.GetAsync<SourceRun[]>("api/runs"));
        Assert.Equal((RunKind.Push, RunState.Applied, new RunCounts(1, 1, 2, 1)), (run.Kind, run.State, run.Counts));
        Assert.Equal("dropped by Identity provider", (await browser.GetAsync<PersonEvent[]>($"api/people/{person.Id}/history"))[0].What);
    }

    [Fact]
    public async Task A_push_that_says_the_same_is_no_change_although_a_Relevo_of_before_hashed_it_in_another_way()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var created = await client.SendAsync(HttpMethod.Post, "Users", Mia);
        await server.Database.DoAsync("update source_entry set content_hash = '00000000-0000-0000-0000-000000000000'");
        Assert.Equal(HttpStatusCode.OK, (await client.SendAsync(HttpMethod.Put, $"Users/{created.Body!["id"]}", Mia)).Status);
        Assert.Equal(new RunCounts(1, 0, 0, 0), Assert.Single(await browser.GetAsync<SourceRun[]>("api/runs")).Counts);
    }

    [Fact]
    public async Task Lost_updates_and_known_versions_are_told_by_ETags()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var created = await client.SendAsync(HttpMethod.Post, "Users", Mia);
        var path = $"Users/{created.Body!["id"]}";
        Assert.Equal(HttpStatusCode.NotModified, (await client.SendAsync(HttpMethod.Get, path, null, ("If-None-Match", created.ETag!))).Status);
        var changed = await client.SendAsync(HttpMethod.Put, path, Mia.Replace("\"Vet\"", "\"Nurse\"", StringComparison.Ordinal), ("If-Match", created.ETag!));
        Assert.Equal((HttpStatusCode.OK, "Nurse"), (changed.Status, changed.Body!["title"]!.ToString()));
        var lost = await client.SendAsync(HttpMethod.Put, path, Mia, ("If-Match", created.ETag!));
        Assert.Equal((HttpStatusCode.PreconditionFailed, "412"), (lost.Status, lost.Body!["status"]!.ToString()));
        Assert.Equal(HttpStatusCode.OK, (await client.SendAsync(HttpMethod.Get, path, null, ("If-None-Match", created.ETag!))).Status);
    }

    [Fact]
    public async Task Users_are_listed_filtered_sorted_paged_and_cut_to_what_is_asked()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        foreach (var (name, title) in new[] { ("cajsa", "Vet"), ("agneta", "Nurse"), ("bjorn", "Vet") })
            await client.SendAsync(HttpMethod.Post, "Users", $$"""{"userName": "{{name}}", "title": "{{title}}", "emails": [{"value": "{{name}}@brackenfold.example"}]}""");
        var all = await client.SendAsync(HttpMethod.Get, "Users?sortBy=userName&startIndex=2&count=1&attributes=userName", null);
        Assert.Equal("""{"schemas":["urn:ietf:params:scim:api:messages:2.0:ListResponse"],"totalResults":3,"startIndex":2,"itemsPerPage":1""", all.Text[..all.Text.IndexOf(",\"Resources", StringComparison.Ordinal)]);
        Assert.Equal(["id", "schemas", "userName"], all.Body!["Resources"]![0]!.AsObject().Select(member => member.Key).Order());
        Assert.Equal("bjorn", all.Body["Resources"]![0]!["userName"]!.ToString());
        Assert.Equal(2, (int)(await client.SendAsync(HttpMethod.Get, "Users?filter=title%20eq%20%22vet%22", null)).Body!["totalResults"]!);
        Assert.Equal(1, (int)(await client.SendAsync(HttpMethod.Get, "Users?filter=userName%20eq%20%22CAJSA%22", null)).Body!["totalResults"]!);
        Assert.Equal(0, (int)(await client.SendAsync(HttpMethod.Get, "Users?filter=externalId%20eq%20%22x%22", null)).Body!["totalResults"]!);
        Assert.Equal(3, (int)(await client.SendAsync(HttpMethod.Get, "Users?count=0", null)).Body!["totalResults"]!);
        var searched = await client.SendAsync(HttpMethod.Post, "Users/.search", """{"schemas": ["urn:ietf:params:scim:api:messages:2.0:SearchRequest"], "filter": "emails.value ew \"brackenfold.example\"", "sortBy": "userName", "sortOrder": "descending", "attributes": ["userName"]}""");
        Assert.Equal(["cajsa", "bjorn", "agneta"], searched.Body!["Resources"]!.AsArray().Select(user => user!["userName"]!.ToString()));
    }

    [Fact]
    public async Task Groups_reach_their_members_and_leave_them()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var user = (await client.SendAsync(HttpMethod.Post, "Users", Mia)).Body!["id"]!.ToString();
        var group = (await client.SendAsync(HttpMethod.Post, "Groups", $$"""{"displayName": "Surgeons", "members": [{"value": "{{user}}"}]}""")).Body!["id"]!.ToString();
        Assert.Equal("Surgeons", await GroupsAsync(browser));
        Assert.Equal("Surgeons", (await client.SendAsync(HttpMethod.Get, $"Users/{user}", null)).Body!["groups"]![0]!["display"]!.ToString());
        await client.PatchAsync($"Groups/{group}", """[{"op": "replace", "path": "displayName", "value": "Operating surgeons"}]""");
        Assert.Equal("Operating surgeons", await GroupsAsync(browser));
        await client.PatchAsync($"Groups/{group}", $$"""[{"op": "remove", "path": "members[value eq \"{{user}}\"]"}]""");
        Assert.Equal("", await GroupsAsync(browser));
    }

    [Fact]
    public async Task A_bulk_makes_users_and_a_group_of_them_and_tells_each_fate()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var answer = await client.SendAsync(HttpMethod.Post, "Bulk", """
            {"schemas": ["urn:ietf:params:scim:api:messages:2.0:BulkRequest"], "Operations": [
              {"method": "POST", "path": "/Users", "bulkId": "qwerty", "data": {"userName": "alice"}},
              {"method": "POST", "path": "/Users", "bulkId": "again", "data": {"userName": "ALICE"}},
              {"method": "POST", "path": "/Groups", "bulkId": "ytrewq", "data": {"displayName": "Tour guides", "members": [{"type": "User", "value": "bulkId:qwerty"}]}},
              {"method": "JUMP", "path": "/Users", "data": {}}]}
            """);
        Assert.Equal(["201", "409", "201", "400"], answer.Body!["Operations"]!.AsArray().Select(operation => operation!["status"]!.ToString()));
        Assert.Equal("uniqueness", answer.Body["Operations"]![1]!["response"]!["scimType"]!.ToString());
        Assert.Equal("Tour guides", await GroupsAsync(browser));
        var stopped = await client.SendAsync(HttpMethod.Post, "Bulk", """{"failOnErrors": 1, "Operations": [{"method": "POST", "path": "/Users", "data": {}}, {"method": "POST", "path": "/Users", "data": {"userName": "bob"}}]}""");
        Assert.Single(stopped.Body!["Operations"]!.AsArray());
    }

    [Fact]
    public async Task Mistakes_are_told_in_the_standards_words()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var user = (await client.SendAsync(HttpMethod.Post, "Users", Mia)).Body!["id"]!.ToString();
        await AssertErrorAsync(client.SendAsync(HttpMethod.Post, "Users", Mia), 409, "uniqueness");
        await AssertErrorAsync(client.SendAsync(HttpMethod.Post, "Users", "{}"), 400, "invalidValue");
        await AssertErrorAsync(client.SendAsync(HttpMethod.Post, "Users", """{"userName": "x", "emails": "x"}"""), 400, "invalidValue");
        await AssertErrorAsync(client.SendAsync(HttpMethod.Post, "Users", "not json"), 400, "invalidSyntax");
        await AssertErrorAsync(client.SendAsync(HttpMethod.Post, "Users", new string('[', 5000)), 400, "invalidSyntax");
        await AssertErrorAsync(client.SendAsync(HttpMethod.Get, "Users?filter=userName%20is%20x", null), 400, "invalidFilter");
        await AssertErrorAsync(client.PatchAsync($"Users/{user}", """[{"op": "replace", "path": "emails[type eq \"other\"].value", "value": "x"}]"""), 400, "noTarget");
        await AssertErrorAsync(client.PatchAsync($"Users/{user}", """[{"op": "replace", "path": "shoeSize", "value": "x"}]"""), 400, "invalidPath");
        await AssertErrorAsync(client.SendAsync(HttpMethod.Get, "Users/nobody", null), 404, null);
        await AssertErrorAsync(client.SendAsync(HttpMethod.Get, "Shoes", null), 404, null);
        Assert.Equal("Vet", (await browser.FindAsync("Lindqvist")).Title);
    }

    [Fact]
    public async Task The_provider_describes_itself()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var configuration = (await client.SendAsync(HttpMethod.Get, "ServiceProviderConfig", null)).Body!;
        Assert.All(new[] { "patch", "bulk", "filter", "sort", "etag" }, name => Assert.True((bool)configuration[name]!["supported"]!));
        Assert.Equal(2, (int)(await client.SendAsync(HttpMethod.Get, "ResourceTypes", null)).Body!["totalResults"]!);
        var schema = (await client.SendAsync(HttpMethod.Get, "Schemas/urn:ietf:params:scim:schemas:core:2.0:User", null)).Body!;
        Assert.Contains(schema["attributes"]!.AsArray(), attribute => attribute!["name"]!.ToString() == "userName" && (bool)attribute["required"]!);
    }

    [Fact]
    public async Task A_token_is_shown_once_kept_as_a_hash_and_ends_when_it_is_revoked()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        await AssertErrorAsync(client.SendAsync(HttpMethod.Get, "Users", null, ("Authorization", "Bearer wrong")), 401, null);
        await client.SendAsync(HttpMethod.Post, "Users", Mia);
        Assert.DoesNotContain(client.Made.Token, await browser.Http.GetStringAsync($"api/sources/{client.Made.Source}/tokens"), StringComparison.Ordinal);
        using var revoked = await browser.SendAsync(HttpMethod.Delete, $"api/tokens/{client.Made.Id}", null);
        Assert.Equal(HttpStatusCode.NoContent, revoked.StatusCode);
        await AssertErrorAsync(client.SendAsync(HttpMethod.Get, "Users", null), 401, null);
        Assert.Equal("Mia Lindqvist", (await browser.FindAsync("mia")).Name); // what was pushed stays
    }

    [Fact]
    public async Task A_client_that_drops_many_within_an_hour_is_held_until_somebody_says_yes()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        var ids = new List<string>();
        for (var number = 0; number < 20; number++) ids.Add((await client.SendAsync(HttpMethod.Post, "Users", $$"""{"userName": "p{{number}}"}""")).Body!["id"]!.ToString());
        foreach (var id in ids.Take(10)) Assert.Equal(HttpStatusCode.OK, (await client.PatchAsync($"Users/{id}", """[{"op": "replace", "path": "active", "value": false}]""")).Status);
        Assert.Equal(16, (await browser.GetAsync<PeopleAnswer>("api/people")).Total); // four left, the fifth was one too many
        var held = (await browser.GetAsync<SourceRun[]>("api/runs")).Single(run => run.State == RunState.Held);
        Assert.Equal(6, held.Counts.Leaving);
        // One of them is made active again before anybody looked.
        await client.PatchAsync($"Users/{ids[9]}", """[{"op": "replace", "path": "active", "value": true}]""");
        using var accepted = await browser.ApplyAsync(held.Id, isAccepted: true);
        Assert.Equal(HttpStatusCode.NoContent, accepted.StatusCode);
        Assert.Equal(11, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
    }

    [Fact]
    public async Task Eight_clients_at_once_lose_nothing()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await Client.MakeAsync(server, browser);
        await Task.WhenAll(Enumerable.Range(0, 8).Select(async worker =>
        {
            for (var number = 0; number < 20; number++)
                Assert.Equal(HttpStatusCode.Created, (await client.SendAsync(HttpMethod.Post, "Users", $$$"""{"userName": "p{{{worker}}}-{{{number}}}", "title": "Vet", "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User": {"department": "D{{{number}}}"}}""")).Status);
        }));
        Assert.Equal(160, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        Assert.Equal(160, (await browser.GetAsync<SourceRun[]>("api/runs")).Single().Counts.Joining);
    }

    private static async Task AssertErrorAsync(Task<Answer> asked, int status, string? scimType)
    {
        var answer = await asked;
        Assert.Equal((status, scimType), ((int)answer.Status, answer.Body!["scimType"]?.ToString()));
        Assert.Equal("urn:ietf:params:scim:api:messages:2.0:Error", answer.Body["schemas"]![0]!.ToString());
        Assert.NotEqual("", answer.Body["detail"]!.ToString());
    }

    private static async Task<string> GroupsAsync(Browser browser)
    {
        var person = (await browser.GetAsync<PeopleAnswer>("api/people")).People[0].Id;
        return (await browser.GetAsync<PersonAnswer>($"api/people/{person}")).Fields.Single(field => field.Name == "groups").Stored;
    }

    internal sealed record Answer(HttpStatusCode Status, string Text, JsonNode? Body, string? ETag, Uri? Location, string? MediaType);

    /// <summary>A client with a token of its own.</summary>
    internal sealed class Client(Uri address, MadeToken made) : IDisposable
    {
        private readonly HttpClient http = new() { BaseAddress = new Uri(address, "scim/v2/") };

        public MadeToken Made => made;

        public static async Task<Client> MakeAsync(RunningServer server, Browser browser) =>
            new(server.Address, await Browser.ReadAsync<MadeToken>(await browser.PostAsync("api/tokens", new MakeTokenRequest("Identity provider", null))));

        public Task<Answer> PatchAsync(string path, string operations) =>
            SendAsync(HttpMethod.Patch, path, $$"""{"schemas": ["urn:ietf:params:scim:api:messages:2.0:PatchOp"], "Operations": {{operations}}}""");

        public async Task<Answer> SendAsync(HttpMethod method, string path, string? body, params (string Name, string Value)[] headers)
        {
            using var request = new HttpRequestMessage(method, path);
            if (body is not null) request.Content = new StringContent(body, Encoding.UTF8, "application/scim+json");
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", made.Token);
            foreach (var (name, value) in headers)
            {
                request.Headers.Remove(name);
                request.Headers.TryAddWithoutValidation(name, value);
            }

            using var answer = await http.SendAsync(request);
            var text = await answer.Content.ReadAsStringAsync();
            return new Answer(answer.StatusCode, text, text.Length > 0 ? JsonNode.Parse(text) : null, answer.Headers.ETag?.ToString(), answer.Headers.Location, answer.Content.Headers.ContentType?.MediaType);
        }

        public void Dispose() => http.Dispose();
    }
}
