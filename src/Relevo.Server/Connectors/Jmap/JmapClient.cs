using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Relevo.Server.Connectors.Jmap;

/// <summary>What a mailbox server is and bears. Source: RFC 8620 section 2. Accounts: names by id.</summary>
public sealed record JmapSession(Uri ApiUrl, IReadOnlyDictionary<string, string> Accounts, int MaxCalls, int MaxInGet, int MaxInSet);

/// <summary>An identity as far as signatures go. Source: RFC 8621 section 6.</summary>
public sealed record JmapIdentity(string Id, string Email, string HtmlSignature, string TextSignature);

/// <summary>The identities of an account in a state.</summary>
public sealed record JmapIdentities(string State, IReadOnlyList<JmapIdentity> List);

/// <summary>What became of setting identities of one account: what stands there afterwards, and why what was not set was not.</summary>
public sealed record JmapSetting(JmapIdentities? After, string Trouble);

/// <summary>The mailbox server could not do what was asked. IsOfServer: true when it is about the server as a whole and not about what was sent. RetryAfter: how long it asks to be left alone.</summary>
public sealed class JmapException(string message, bool isOfServer, TimeSpan? retryAfter = null, Exception? inner = null) : Exception(message, inner)
{
    /// <summary>True when it is about the server as a whole.</summary>
    public bool IsOfServer { get; } = isOfServer;

    /// <summary>How long the server asks to be left alone, or null. Source: RFC 9110 section 10.2.3.</summary>
    public TimeSpan? RetryAfter { get; } = retryAfter;
}

/// <summary>Speaks JMAP, as far as identities go, for many accounts in one request. Sources: RFC 8620, RFC 8621 section 6.</summary>
public sealed class JmapClient(HttpClient http, Uri sessionUrl, string token)
{
    private const string Core = "urn:ietf:params:jmap:core", Submission = "urn:ietf:params:jmap:submission";
    private static readonly string[] ChangeKinds = ["created", "updated", "destroyed"];
    private static readonly string[] Wanted = ["id", "email", "htmlSignature", "textSignature"];

    /// <summary>Reads the session. Throws <see cref="JmapException"/> when the server cannot be used.</summary>
    public async Task<JmapSession> SessionAsync(CancellationToken cancellationToken)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, sessionUrl);
        var session = await SendAsync(request, cancellationToken);
        try
        {
            var limits = session["capabilities"]![Core]!;
            if (session["capabilities"]![Submission] is null) throw new JmapException("The mailbox server does not offer identities (urn:ietf:params:jmap:submission).", isOfServer: true);
            var accounts = session["accounts"]!.AsObject()
                .Where(account => account.Value!["accountCapabilities"]?[Submission] is not null && account.Value["isReadOnly"]?.GetValue<bool>() != true)
                .ToDictionary(account => account.Key, account => account.Value!["name"]!.GetValue<string>());
            return new JmapSession(
                new Uri(sessionUrl, session["apiUrl"]!.GetValue<string>()), accounts,
                Math.Max(1, limits["maxCallsInRequest"]!.GetValue<int>()), Math.Max(1, limits["maxObjectsInGet"]!.GetValue<int>()), Math.Max(1, limits["maxObjectsInSet"]!.GetValue<int>()));
        }
        catch (Exception garbage) when (garbage is NullReferenceException or InvalidOperationException or FormatException)
        {
            throw new JmapException("What the mailbox server answers is not a JMAP session.", isOfServer: true, inner: garbage);
        }
    }

    /// <summary>The identities of accounts, by account; as many requests as the server's limits ask for. Those that cannot be read, alone or with a request that failed, have a trouble in words.</summary>
    public async Task<Dictionary<string, (JmapIdentities? Identities, string Trouble)>> GetAsync(JmapSession session, IReadOnlyList<string> accounts, CancellationToken cancellationToken)
    {
        var found = new Dictionary<string, (JmapIdentities?, string)>(accounts.Count);
        foreach (var some in accounts.Chunk(session.MaxCalls))
        {
            try
            {
                var answers = await CallAsync(session, new JsonArray([.. some.Select((account, index) => Get(account, $"{index}"))]), cancellationToken);
                for (var index = 0; index < some.Length; index++) found[some[index]] = ReadIdentities(Answer(answers, $"{index}", "Identity/get"));
            }
            catch (JmapException trouble) when (!trouble.IsOfServer)
            {
                foreach (var account in some) found[account] = (null, trouble.Message);
            }
        }

        return found;
    }

    /// <summary>Those of the accounts whose identities are still what they were in a state; as many requests as the server's limits ask for. One that the server cannot or does not tell about is left out. Source: RFC 8620 section 5.2.</summary>
    public async Task<HashSet<string>> UnchangedAsync(JmapSession session, IReadOnlyList<(string Account, string State)> since, CancellationToken cancellationToken)
    {
        var unchanged = new HashSet<string>(StringComparer.Ordinal);
        foreach (var some in since.Chunk(session.MaxCalls))
        {
            try
            {
                var answers = await CallAsync(session, new JsonArray([.. some.Select((one, index) => new JsonArray("Identity/changes", new JsonObject { ["accountId"] = one.Account, ["sinceState"] = one.State }, $"{index}"))]), cancellationToken);
                for (var index = 0; index < some.Length; index++)
                {
                    if (SaysNothing(Answer(answers, $"{index}", "Identity/changes"))) unchanged.Add(some[index].Account);
                }
            }
            catch (JmapException trouble) when (!trouble.IsOfServer)
            {
                // They are read whole, and what is the matter is told then.
            }
        }

        return unchanged;
    }

    /// <summary>
    /// Sets signatures of identities, account by account, only if the account is still in the state it was read in, and reads them again in the same request.
    /// patches: by account, the state it was read in and what to set by identity.
    /// </summary>
    public async Task<Dictionary<string, JmapSetting>> SetAsync(JmapSession session, IReadOnlyList<(string Account, string State, IReadOnlyList<JmapIdentity> Wanted)> patches, CancellationToken cancellationToken)
    {
        var became = new Dictionary<string, JmapSetting>(patches.Count);
        foreach (var some in patches.Chunk(Math.Max(1, session.MaxCalls / 2)))
        {
            var calls = new JsonArray();
            for (var index = 0; index < some.Length; index++)
            {
                var (account, state, wanted) = some[index];
                // More at once than the server bears waits for the next look: what is set by then is found set.
                var update = new JsonObject([.. wanted.Take(session.MaxInSet).Select(identity => KeyValuePair.Create(identity.Id, (JsonNode?)new JsonObject { ["htmlSignature"] = identity.HtmlSignature, ["textSignature"] = identity.TextSignature }))]);
                calls.Add(new JsonArray("Identity/set", new JsonObject { ["accountId"] = account, ["ifInState"] = state, ["update"] = update }, $"set {index}"));
                calls.Add(Get(account, $"get {index}"));
            }

            JsonArray answers;
            try
            {
                answers = await CallAsync(session, calls, cancellationToken);
            }
            catch (JmapException trouble) when (!trouble.IsOfServer)
            {
                // Perhaps it was done and only the answer was lost: the next look finds out.
                foreach (var (account, _, _) in some) became[account] = new JmapSetting(null, trouble.Message);
                continue;
            }

            for (var index = 0; index < some.Length; index++)
            {
                var (after, unread) = ReadIdentities(Answer(answers, $"get {index}", "Identity/get"));
                became[some[index].Account] = new JmapSetting(after, Trouble(Answer(answers, $"set {index}", "Identity/set")) is { Length: > 0 } refused ? refused : unread);
            }
        }

        return became;
    }

    private static JsonArray Get(string account, string tag) =>
        new("Identity/get", new JsonObject { ["accountId"] = account, ["ids"] = null, ["properties"] = new JsonArray([.. Wanted.Select(name => (JsonNode)name)]) }, tag);

    /// <summary>The answer of a call, or the method-level error that stands in its place.</summary>
    private static (string Name, JsonObject Body) Answer(JsonArray answers, string tag, string method)
    {
        foreach (var answer in answers)
        {
            if (answer is JsonArray { Count: 3 } triple && triple[2]?.ToString() == tag && triple[0]?.ToString() is { } name && triple[1] is JsonObject body) return (name, body);
        }

        throw new JmapException($"The mailbox server gave no answer to {method}.", isOfServer: false);
    }

    private static bool SaysNothing((string Name, JsonObject Body) answer) =>
        answer.Name == "Identity/changes" && answer.Body["hasMoreChanges"]?.ToString() == "false" && ChangeKinds.All(what => answer.Body[what] is JsonArray { Count: 0 });

    private static (JmapIdentities? Identities, string Trouble) ReadIdentities((string Name, JsonObject Body) answer)
    {
        if (answer.Name != "Identity/get") return (null, Explain(answer.Body));
        try
        {
            return (new JmapIdentities(answer.Body["state"]!.GetValue<string>(), [
                .. answer.Body["list"]!.AsArray().Select(identity => new JmapIdentity(identity!["id"]!.GetValue<string>(), identity["email"]!.GetValue<string>(), identity["htmlSignature"]?.GetValue<string>() ?? "", identity["textSignature"]?.GetValue<string>() ?? "")),
            ]), "");
        }
        catch (Exception garbage) when (garbage is NullReferenceException or InvalidOperationException or FormatException)
        {
            return (null, "What the mailbox server answers is not a list of identities.");
        }
    }

    /// <summary>Why something was not set, or empty.</summary>
    private static string Trouble((string Name, JsonObject Body) answer)
    {
        if (answer.Name != "Identity/set") return Explain(answer.Body);
        if (answer.Body["notUpdated"] is not JsonObject { Count: > 0 } refused) return "";
        var (id, why) = refused.First();
        return $"The mailbox server did not set identity {id}: {Explain(why as JsonObject ?? [])}{(refused.Count > 1 ? $", and {refused.Count - 1} more" : "")}";
    }

    /// <summary>An error of RFC 8620 sections 3.6.2 and 5.3 in words.</summary>
    private static string Explain(JsonObject error)
    {
        var description = error["description"]?.ToString() ?? "";
        var said = error["type"]?.ToString() switch
        {
            "stateMismatch" => "it was changed by somebody else in the same moment",
            "forbidden" or "accountReadOnly" => "it may not be changed",
            "tooLarge" => "the signature is too long for it",
            "accountNotFound" => "there is no such mailbox any more",
            "notFound" => "there is no such identity any more",
            "invalidProperties" => "it does not take such a signature",
            "requestTooLarge" => "it was too much at once",
            { } other => $"it answers \"{other}\"",
            null => "it gives no reason",
        };
        return description.Length > 0 ? $"{said} ({description})" : said;
    }

    private async Task<JsonArray> CallAsync(JmapSession session, JsonArray calls, CancellationToken cancellationToken)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, session.ApiUrl)
        {
            Content = new StringContent(new JsonObject { ["using"] = new JsonArray(Core, Submission), ["methodCalls"] = calls }.ToJsonString(), Encoding.UTF8, new MediaTypeHeaderValue("application/json")),
        };
        var answer = await SendAsync(request, cancellationToken);
        return answer["methodResponses"] as JsonArray ?? throw new JmapException("What the mailbox server answers is not JMAP.", isOfServer: false);
    }

    private async Task<JsonObject> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token);
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
        try
        {
            using var answer = await http.SendAsync(request, cancellationToken);
            switch (answer.StatusCode)
            {
                case HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden:
                    throw new JmapException("The mailbox server refuses the token. Give it a good one under Ways in.", isOfServer: true, TimeSpan.FromSeconds(30));
                case HttpStatusCode.TooManyRequests or HttpStatusCode.ServiceUnavailable:
                    throw new JmapException($"The mailbox server is busy ({(int)answer.StatusCode}).", isOfServer: true, RetryAfter(answer) ?? TimeSpan.FromSeconds(2));
                case not HttpStatusCode.OK:
                    throw new JmapException($"The mailbox server answers {(int)answer.StatusCode}.", isOfServer: (int)answer.StatusCode >= 500);
            }

            return await JsonNode.ParseAsync(await answer.Content.ReadAsStreamAsync(cancellationToken), cancellationToken: cancellationToken) as JsonObject
                ?? throw new JmapException("What the mailbox server answers is not JMAP.", isOfServer: false);
        }
        catch (JsonException garbage)
        {
            throw new JmapException("What the mailbox server answers is not JMAP.", isOfServer: false, inner: garbage);
        }
        catch (Exception away) when (away is HttpRequestException or IOException || (away is OperationCanceledException && !cancellationToken.IsCancellationRequested))
        {
            throw new JmapException($"The mailbox server does not answer: {away.Message}", isOfServer: false, inner: away);
        }
    }

    private static TimeSpan? RetryAfter(HttpResponseMessage answer) =>
        answer.Headers.RetryAfter?.Delta ?? (answer.Headers.RetryAfter?.Date - (answer.Headers.Date ?? DateTimeOffset.UtcNow));
}
