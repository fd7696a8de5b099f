using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using Relevo.Core.People.Sources;
using Relevo.Server.Connectors;
using Relevo.Server.People;
using Relevo.Server.Scim;
using Relevo.Server.Tests.Ldap;

namespace Relevo.Server.Tests;

/// <summary>Brackenfold, from an empty Relevo, by each of the four ways: the same people with the same facts come of all of them.</summary>
public sealed class FourWaysTests
{
    private const string Columns = "displayName,title,department,organisation,location,telephone,mobile,employeeNumber,language";

    private static readonly string Directory = Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "demo", "brackenfold.ldif");

    [Fact]
    public async Task A_file_a_table_a_server_and_a_client_that_pushes_bring_the_same_people()
    {
        await using var first = await RunningServer.StartAsync();
        using var browser = await first.SignInAsync();
        await browser.ApplyAsync(await File.ReadAllTextAsync(Directory));
        var byFile = await EverybodyAsync(browser);
        Assert.Equal(238, byFile.Length);
        using var exported = await browser.PostAsync("api/people/export", new ExportRequest(new PeopleSelection(null, PeopleQuery.Everybody), "csv"));
        Assert.Equal(byFile, await ByTableAsync(await exported.Content.ReadAsByteArrayAsync()));
        Assert.Equal(byFile, await ByServerAsync());
        Assert.Equal(byFile, await ByPushAsync(browser));
    }

    private static async Task<string[]> ByTableAsync(byte[] table)
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var look = await Browser.ReadAsync<TableAnswer>(await browser.SendAsync(HttpMethod.Post, "api/tables/look?isWhole=true", Octets(table)));
        // What is proposed for the columns is taken as it is; people are known again by their employee number.
        using var kept = await browser.PutAsync("api/tables/mapping", new KeepMappingRequest(look.Sample.Form, look.Mapping with { Key = ["Employee number"], Addresses = ["All addresses"] }), null);
        Assert.Equal(HttpStatusCode.NoContent, kept.StatusCode);
        await ApplyAsync(browser, await browser.DropAsync(Octets(table), "people.csv"));
        return await EverybodyAsync(browser);
    }

    private static async Task<string[]> ByServerAsync()
    {
        await using var directory = await StandInDirectory.StartAsync();
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var request = new LdapSourceRequest(new SourceRequest("Directory", null, BrakeSettings.Default, [], null), directory.Settings, StandInDirectory.Secret);
        var source = await Browser.ReadAsync<LdapSourceAnswer>(await browser.PostAsync("api/ldap", request));
        await ApplyAsync(browser, await browser.ReadNowAsync(source.Id));
        return await EverybodyAsync(browser);
    }

    /// <summary>Pushes what the other server has, as an identity provider would: one user after the other.</summary>
    private static async Task<string[]> ByPushAsync(Browser from)
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var token = await Browser.ReadAsync<MadeToken>(await browser.PostAsync("api/tokens", new MakeTokenRequest("Identity provider", null)));
        using var client = new HttpClient { BaseAddress = new Uri(server.Address, "scim/v2/") };
        client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token.Token);
        foreach (var person in (await from.GetAsync<PeopleAnswer>($"api/people?limit=500&columns={Columns}")).People)
        {
            using var pushed = await client.PostAsync(new Uri("Users", UriKind.Relative), new StringContent(User(person).ToJsonString(), Encoding.UTF8, "application/scim+json"));
            Assert.Equal(HttpStatusCode.Created, pushed.StatusCode);
        }

        return await EverybodyAsync(browser);
    }

    private static JsonObject User(PersonRow person)
    {
        var cells = Columns.Split(',').Zip(person.Cells).Where(pair => pair.Second.Length > 0).ToDictionary(pair => pair.First, pair => pair.Second);
        JsonNode? Cell(string name) => cells.TryGetValue(name, out var text) ? JsonValue.Create(text) : null;
        var numbers = new JsonArray();
        if (Cell("telephone") is { } telephone) numbers.Add((JsonNode)new JsonObject { ["type"] = "work", ["value"] = telephone });
        if (Cell("mobile") is { } mobile) numbers.Add((JsonNode)new JsonObject { ["type"] = "mobile", ["value"] = mobile });
        return new JsonObject
        {
            ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:User", "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"),
            ["userName"] = person.Addresses[0],
            ["displayName"] = Cell("displayName"),
            ["title"] = Cell("title"),
            ["preferredLanguage"] = Cell("language"),
            ["emails"] = new JsonArray([.. person.Addresses.Select((address, index) => (JsonNode)new JsonObject { ["value"] = address, ["primary"] = index == 0 })]),
            ["phoneNumbers"] = numbers,
            ["addresses"] = new JsonArray(new JsonObject { ["type"] = "work", ["locality"] = Cell("location") }),
            ["urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"] = new JsonObject { ["department"] = Cell("department"), ["organization"] = Cell("organisation"), ["employeeNumber"] = Cell("employeeNumber") },
        };
    }

    /// <summary>Everybody as one line each, in the order of the list.</summary>
    private static async Task<string[]> EverybodyAsync(Browser browser) =>
        [.. (await browser.GetAsync<PeopleAnswer>($"api/people?limit=500&columns={Columns}")).People.Select(person => string.Join(" | ", person.Cells.Concat(person.Addresses))).Order(StringComparer.Ordinal)];

    private static async Task ApplyAsync(Browser browser, RunAnswer run)
    {
        Assert.Empty(run.Run.Problems);
        Assert.Empty(run.Run.Refused);
        using var applied = await browser.ApplyAsync(run.Run.Id);
        Assert.Equal(HttpStatusCode.NoContent, applied.StatusCode);
    }

    private static ByteArrayContent Octets(byte[] bytes)
    {
        var content = new ByteArrayContent(bytes);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        return content;
    }
}
