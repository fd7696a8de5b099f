using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using Relevo.Core.Tests;
using Relevo.Server.Connectors.Jmap;
using Relevo.Server.Tests.Ldap;

namespace Relevo.Server.Tests.Jmap;

/// <summary>The stand-in mailbox server against the standards and a client that is not ours, and our client against recorded answers.</summary>
public sealed class JmapStandInTests
{
    [Fact]
    public async Task A_client_that_is_not_ours_reads_sets_and_is_refused_as_the_standard_says()
    {
        // Outside check: the npm package jmap-jam; errors as RFC 8620 sections 3.6.2, 5.2, 5.3 and RFC 8621 section 6.3 name them.
        await using var standIn = await StandInDirectory.StartAsync();
        var session = (await ReadAsync(standIn, new HttpRequestMessage(HttpMethod.Get, standIn.SessionUrl)))!;
        Assert.Equal(238, session["accounts"]!.AsObject().Count);
        var account = session["accounts"]!.AsObject().First().Key;
        var answers = await Outside.AskAsync("jmap.mjs", new JsonObject { ["sessionUrl"] = standIn.SessionUrl.ToString(), ["token"] = StandInDirectory.MailboxToken, ["account"] = account });
        var first = answers["read"]!["list"]![0]!;
        var id = first["id"]!.ToString();
        Assert.Equal(account, answers["primary"]!.ToString());
        Assert.Equal(["bcc", "email", "htmlSignature", "id", "mayDelete", "name", "replyTo", "textSignature"], first.AsObject().Select(pair => pair.Key).Order());
        Assert.True(answers["set"]!["updated"]!.AsObject().ContainsKey(id));
        Assert.NotEqual(answers["set"]!["oldState"]!.ToString(), answers["set"]!["newState"]!.ToString());
        Assert.Equal(id, Assert.Single(answers["changes"]!["updated"]!.AsArray())!.ToString());
        Assert.Equal("<b>Mia</b>", Assert.Single(answers["again"]!["list"]!.AsArray())!["htmlSignature"]!.ToString());
        Assert.Equal("nobody", Assert.Single(answers["again"]!["notFound"]!.AsArray())!.ToString());
        var refused = answers["refused"]!;
        Assert.Equal(("invalidProperties", "notFound"), (refused["notUpdated"]![id]!["type"]!.ToString(), refused["notUpdated"]!["nobody"]!["type"]!.ToString()));
        Assert.Equal(("forbiddenFrom", "forbidden"), (refused["notCreated"]!["x"]!["type"]!.ToString(), refused["notDestroyed"]![id]!["type"]!.ToString()));
        Assert.Equal("stateMismatch", answers["stale"]!.ToString());
        Assert.Equal(answers["read"]!["list"]!.AsArray().Count, answers["same"]!["list"]!.AsArray().Count);
    }

    [Theory]
    [InlineData("not json", "notJSON")]
    [InlineData("""{"using":[]}""", "notRequest")]
    [InlineData("""{"using":["urn:ietf:params:jmap:core"],"methodCalls":[["Core/echo"]]}""", "notRequest")]
    [InlineData("""{"using":["urn:example:dance"],"methodCalls":[]}""", "unknownCapability")]
    public async Task What_is_no_request_is_refused_with_the_problem_the_standard_names(string body, string problem)
    {
        // Source: RFC 8620 section 3.6.1.
        await using var standIn = await StandInDirectory.StartAsync(Ldif.Person("mia"));
        using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(standIn.SessionUrl, "/jmap/api")) { Content = new StringContent(body, Encoding.UTF8, "application/json") };
        request.Headers.Authorization = new("Bearer", StandInDirectory.MailboxToken);
        using var answer = await standIn.Http.SendAsync(request);
        Assert.Equal((HttpStatusCode.BadRequest, $"urn:ietf:params:jmap:error:{problem}"), (answer.StatusCode, (await answer.Content.ReadFromJsonAsync<JsonObject>())!["type"]!.ToString()));
        using var stranger = await standIn.Http.GetAsync(standIn.SessionUrl);
        Assert.Equal(HttpStatusCode.Unauthorized, stranger.StatusCode);
    }

    [Fact]
    public async Task The_example_of_the_standard_is_echoed_and_an_unknown_method_is_named()
    {
        // Source: RFC 8620 section 4.1, the example of Core/echo.
        await using var standIn = await StandInDirectory.StartAsync(Ldif.Person("mia"));
        using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(standIn.SessionUrl, "/jmap/api"))
        {
            Content = new StringContent("""{"using":["urn:ietf:params:jmap:core"],"methodCalls":[["Core/echo",{"hello":true,"high":5},"b3ff"],["Foo/get",{},"x"],["Identity/get",{"accountId":"a1"},"y"]]}""", Encoding.UTF8, "application/json"),
        };
        var answers = (await ReadAsync(standIn, request))["methodResponses"]!.AsArray();
        Assert.Equal("""["Core/echo",{"hello":true,"high":5},"b3ff"]""", answers[0]!.ToJsonString());
        Assert.Equal("""["error",{"type":"unknownMethod"},"x"]""", answers[1]!.ToJsonString());
        Assert.Equal("""["error",{"type":"unknownMethod"},"y"]""", answers[2]!.ToJsonString()); // the capability is not asked for
    }

    /// <summary>The answers of RFC 8621 section 6.4, from memory, and what else a server may say.</summary>
    [Fact]
    public async Task Our_client_reads_the_standards_own_example()
    {
        var recorded = new Recorded(
            """
            {"capabilities":{"urn:ietf:params:jmap:core":{"maxCallsInRequest":32,"maxObjectsInGet":500,"maxObjectsInSet":1},"urn:ietf:params:jmap:submission":{}},
             "accounts":{"acme":{"name":"joe@example.com","isPersonal":true,"isReadOnly":false,"accountCapabilities":{"urn:ietf:params:jmap:submission":{}}},"old":{"name":"old","isPersonal":true,"isReadOnly":true,"accountCapabilities":{"urn:ietf:params:jmap:submission":{}}}},
             "apiUrl":"/api/"}
            """,
            """
            {"methodResponses":[["Identity/get",{"accountId":"acme","state":"99401312ae-11-333","list":[
              {"id":"XD-3301-222-11_22AAz","name":"Joe Bloggs","email":"joe@example.com","replyTo":null,"bcc":[{"name":null,"email":"joe+archive@example.com"}],"textSignature":"-- \nJoe Bloggs\nMaster of Email","htmlSignature":"<div><b>Joe Bloggs</b></div><div>Master of Email</div>","mayDelete":false},
              {"id":"XD-9911312-11_22AAz","name":"Joe B","email":"*@example.com","replyTo":null,"bcc":null,"textSignature":"","htmlSignature":"","mayDelete":true}],"notFound":[]},"0"]],"sessionState":"s"}
            """,
            """{"methodResponses":[["error",{"type":"stateMismatch"},"set 0"],["error",{"type":"accountNotFound"},"get 0"]],"sessionState":"s"}""",
            """{"methodResponses":[["Identity/set",{"accountId":"acme","oldState":"1","newState":"1","updated":{},"notUpdated":{"XD":{"type":"tooLarge","description":"At most 10 characters."}}},"set 0"],["Identity/get",{"accountId":"acme","state":"1","list":[],"notFound":[]},"get 0"]],"sessionState":"s"}""");
        var client = new JmapClient(new HttpClient(recorded), new Uri("https://mail.brackenfold.example/.well-known/jmap"), "secret");
        var session = await client.SessionAsync(CancellationToken.None);
        Assert.Equal(("https://mail.brackenfold.example/api/", "acme", 1), (session.ApiUrl.ToString(), Assert.Single(session.Accounts).Key, session.MaxInSet));
        var read = (await client.GetAsync(session, ["acme"], CancellationToken.None))["acme"].Identities!;
        Assert.Equal("99401312ae-11-333", read.State);
        Assert.Equal(new JmapIdentity("XD-3301-222-11_22AAz", "joe@example.com", "<div><b>Joe Bloggs</b></div><div>Master of Email</div>", "-- \nJoe Bloggs\nMaster of Email"), read.List[0]);
        IReadOnlyList<(string, string, IReadOnlyList<JmapIdentity>)> patches = [("acme", read.State, read.List)];
        Assert.Equal("it was changed by somebody else in the same moment", (await client.SetAsync(session, patches, CancellationToken.None))["acme"].Trouble);
        Assert.Equal("The mailbox server did not set identity XD: the signature is too long for it (At most 10 characters.)", (await client.SetAsync(session, patches, CancellationToken.None))["acme"].Trouble);
        Assert.All(recorded.Asked, asked => Assert.Equal("Bearer secret", asked.Authorization));
        var set = JsonNode.Parse(recorded.Asked[2].Body)!["methodCalls"]![0]![1]!;
        Assert.Equal(("99401312ae-11-333", 1), (set["ifInState"]!.ToString(), set["update"]!.AsObject().Count)); // no more at once than the server bears
    }

    [Theory]
    [InlineData("[]", false)]
    [InlineData("<html>", false)]
    [InlineData("{}", true)]
    [InlineData("""{"capabilities":{"urn:ietf:params:jmap:core":{}}}""", true)]
    public async Task An_answer_that_is_none_is_told_in_words(string answer, bool isOfServer)
    {
        var client = new JmapClient(new HttpClient(new Recorded(answer)), new Uri("https://mail.brackenfold.example/"), "secret");
        var trouble = await Assert.ThrowsAsync<JmapException>(() => client.SessionAsync(CancellationToken.None));
        Assert.Equal(isOfServer, trouble.IsOfServer);
        Assert.Contains("mailbox server", trouble.Message, StringComparison.Ordinal);
    }

    private static async Task<JsonObject> ReadAsync(StandInDirectory standIn, HttpRequestMessage request)
    {
        request.Headers.Authorization = new("Bearer", StandInDirectory.MailboxToken);
        using var answer = await standIn.Http.SendAsync(request);
        return (await answer.Content.ReadFromJsonAsync<JsonObject>())!;
    }

    /// <summary>Answers in order, and remembers what was asked.</summary>
    private sealed class Recorded(params string[] answers) : HttpMessageHandler
    {
        public List<(string Authorization, string Body)> Asked { get; } = [];

        protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
        {
            Asked.Add((request.Headers.Authorization!.ToString(), request.Content is null ? "" : await request.Content.ReadAsStringAsync(cancellationToken)));
            return new HttpResponseMessage(HttpStatusCode.OK) { Content = new StringContent(answers[Asked.Count - 1], Encoding.UTF8, "application/json") };
        }
    }
}
