using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Relevo.StandIns.Jmap;

/// <summary>
/// The part of JMAP that is about identities, strictly: session, requests with their limits and references, Identity/get, /changes and /set. Sources: RFC 8620,
/// RFC 8621 section 6.
/// </summary>
internal sealed class JmapServer(JmapMailboxes mailboxes, JmapFaults faults, string token)
{
    /// <summary>Characters of an HTML signature at most; more is tooLarge.</summary>
    public const int MaxHtml = 10_000;

    private const string Core = "urn:ietf:params:jmap:core", Mail = "urn:ietf:params:jmap:mail", Submission = "urn:ietf:params:jmap:submission";
    private const int MaxCalls = 64, MaxInGet = 500, MaxInSet = 100, MaxRequest = 4_000_000;
    private static readonly string[] Known = [Core, Mail, Submission];

    public void Map(WebApplication application)
    {
        application.MapGet("/.well-known/jmap", (HttpContext context) => IsAllowed(context) ? Results.Json(Session(context)) : Refused(context));
        application.MapPost("/jmap/api", (Delegate)AnswerAsync);
    }

    private bool IsAllowed(HttpContext context) => context.Request.Headers.Authorization == $"Bearer {token}";

    private static IResult Refused(HttpContext context)
    {
        context.Response.Headers.WWWAuthenticate = "Bearer";
        return Results.StatusCode(StatusCodes.Status401Unauthorized);
    }

    private JsonObject Session(HttpContext context)
    {
        var home = $"{context.Request.Scheme}://{context.Request.Host}";
        var accounts = new JsonObject();
        foreach (var account in mailboxes.All)
        {
            accounts[account.Id] = new JsonObject
            {
                ["name"] = account.Name,
                ["isPersonal"] = false,
                ["isReadOnly"] = false,
                ["accountCapabilities"] = new JsonObject { [Core] = new JsonObject(), [Mail] = new JsonObject(), [Submission] = new JsonObject { ["maxDelayedSend"] = 0, ["submissionExtensions"] = new JsonObject() } },
            };
        }

        var first = mailboxes.All.FirstOrDefault()?.Id ?? "";
        return new JsonObject
        {
            ["capabilities"] = new JsonObject
            {
                [Core] = new JsonObject
                {
                    ["maxSizeUpload"] = 0,
                    ["maxConcurrentUpload"] = 1,
                    ["maxSizeRequest"] = MaxRequest,
                    ["maxConcurrentRequests"] = 4,
                    ["maxCallsInRequest"] = MaxCalls,
                    ["maxObjectsInGet"] = MaxInGet,
                    ["maxObjectsInSet"] = MaxInSet,
                    ["collationAlgorithms"] = new JsonArray(),
                },
                [Mail] = new JsonObject(),
                [Submission] = new JsonObject(),
            },
            ["accounts"] = accounts,
            ["primaryAccounts"] = new JsonObject { [Core] = first, [Mail] = first, [Submission] = first },
            ["username"] = "relevo",
            ["apiUrl"] = home + "/jmap/api",
            ["downloadUrl"] = home + "/jmap/download/{accountId}/{blobId}/{name}?type={type}",
            ["uploadUrl"] = home + "/jmap/upload/{accountId}",
            ["eventSourceUrl"] = home + "/jmap/events?types={types}&closeafter={closeafter}&ping={ping}",
            ["state"] = "s1",
        };
    }

    private async Task<IResult> AnswerAsync(HttpContext context)
    {
        if (!IsAllowed(context)) return Refused(context);
        if (faults.Latency > 0) await Task.Delay(faults.Latency);
        if (faults.BusyUntil > DateTimeOffset.UtcNow)
        {
            context.Response.Headers.RetryAfter = Math.Ceiling((faults.BusyUntil - DateTimeOffset.UtcNow).TotalSeconds).ToString(CultureInfo.InvariantCulture);
            return Results.StatusCode(StatusCodes.Status429TooManyRequests);
        }

        if (faults.Falls(faults.Unavailable)) return Results.StatusCode(StatusCodes.Status503ServiceUnavailable);
        JsonObject? request;
        try
        {
            request = await JsonSerializer.DeserializeAsync<JsonObject>(context.Request.Body);
        }
        catch (JsonException)
        {
            return Problem("notJSON", "The request is not JSON.");
        }

        if (request?["using"] is not JsonArray capabilities || request["methodCalls"] is not JsonArray calls || calls.Any(call => call is not JsonArray { Count: 3 } triple || triple[0]?.GetValueKind() != JsonValueKind.String || triple[1] is not JsonObject || triple[2]?.GetValueKind() != JsonValueKind.String))
            return Problem("notRequest", "The request is not of the form of RFC 8620 section 3.3.");
        if (capabilities.Select(one => one!.GetValue<string>()).FirstOrDefault(one => !Known.Contains(one)) is { } unknown) return Problem("unknownCapability", $"\"{unknown}\" is not known here.");
        if (calls.Count > MaxCalls) return Problem("limit", "Too many calls.", "maxCallsInRequest");

        var isSubmission = capabilities.Any(one => one!.GetValue<string>() == Submission);
        var answers = new JsonArray();
        foreach (var call in calls)
        {
            var (method, arguments, tag) = (call![0]!.GetValue<string>(), call[1]!.AsObject(), call[2]!.GetValue<string>());
            var answer = Resolve(arguments.DeepClone().AsObject(), answers, out var resolved) is { } trouble ? trouble : Call(method, resolved, isSubmission);
            answers.Add(new JsonArray(answer.Name, answer.Answer, tag));
        }

        if (faults.Falls(faults.Dropped))
        {
            context.Abort();
            return Results.Empty;
        }

        return faults.Falls(faults.Garbage) ? Results.Text("<html>All is well</html>", "text/html") : Results.Json(new JsonObject { ["methodResponses"] = answers, ["sessionState"] = "s1" });
    }

    /// <summary>References to earlier answers. Source: RFC 8620 section 3.7.</summary>
    private static (string Name, JsonObject Answer)? Resolve(JsonObject arguments, JsonArray answers, out JsonObject resolved)
    {
        resolved = arguments;
        foreach (var name in arguments.Select(pair => pair.Key).Where(key => key.StartsWith('#')).ToArray())
        {
            if (arguments.ContainsKey(name[1..])) return Error("invalidArguments");
            var reference = arguments[name]!.AsObject();
            var answer = answers.FirstOrDefault(one => one![2]!.GetValue<string>() == reference["resultOf"]?.GetValue<string>() && one[0]!.GetValue<string>() == reference["name"]?.GetValue<string>());
            if (answer is null || Point(answer[1]!, reference["path"]!.GetValue<string>()) is not { } value) return Error("invalidResultReference");
            arguments.Remove(name);
            arguments[name[1..]] = value;
        }

        return null;
    }

    /// <summary>A JSON Pointer (RFC 6901), with * for every member of a list.</summary>
    private static JsonNode? Point(JsonNode from, string path)
    {
        JsonNode? at = from;
        var steps = path.Split('/')[1..];
        for (var index = 0; index < steps.Length; index++)
        {
            if (steps[index] == "*" && at is JsonArray list)
            {
                var rest = "/" + string.Join('/', steps[(index + 1)..]);
                var all = new JsonArray();
                foreach (var one in list)
                {
                    var found = index + 1 == steps.Length ? one!.DeepClone() : Point(one!, rest);
                    if (found is JsonArray several) foreach (var each in several) all.Add(each!.DeepClone());
                    else all.Add(found);
                }

                return all;
            }

            at = at switch
            {
                JsonObject there => there[steps[index].Replace("~1", "/", StringComparison.Ordinal).Replace("~0", "~", StringComparison.Ordinal)],
                JsonArray there when int.TryParse(steps[index], out var number) && number < there.Count => there[number],
                _ => null,
            };
        }

        return at?.DeepClone();
    }

    private (string Name, JsonObject Answer) Call(string method, JsonObject arguments, bool isSubmission)
    {
        if (method == "Core/echo") return (method, arguments);
        if (!isSubmission || method is not ("Identity/get" or "Identity/changes" or "Identity/set")) return Error("unknownMethod");
        if (arguments["accountId"]?.GetValueKind() != JsonValueKind.String) return Error("invalidArguments");
        if (mailboxes.Find(arguments["accountId"]!.GetValue<string>()) is not { } account) return Error("accountNotFound");
        lock (account.Changing)
        {
            return method switch
            {
                "Identity/get" => Get(account, arguments),
                "Identity/changes" => Changes(account, arguments),
                _ => faults.ReadOnly.Contains(account.Id) ? Error("accountReadOnly") : Set(account, arguments),
            };
        }
    }

    private static (string, JsonObject) Get(JmapAccount account, JsonObject arguments)
    {
        var ids = arguments["ids"] is JsonArray given ? given.Select(id => id!.GetValue<string>()).ToArray() : [.. account.Identities.Select(identity => identity.Id)];
        if (ids.Length > MaxInGet) return Error("requestTooLarge");
        account.Reads++;
        var properties = (arguments["properties"] as JsonArray)?.Select(one => one!.GetValue<string>()).Append("id").ToHashSet();
        var (list, notFound) = (new JsonArray(), new JsonArray());
        foreach (var id in ids.Distinct())
        {
            if (account.Identities.FirstOrDefault(identity => identity.Id == id)?.ToJson() is not { } found) notFound.Add(id);
            else
            {
                if (properties is not null && properties.Any(name => !found.ContainsKey(name))) return Error("invalidArguments");
                foreach (var name in found.Select(pair => pair.Key).Where(name => properties is not null && !properties.Contains(name)).ToArray()) found.Remove(name);
                list.Add(found);
            }
        }

        return ("Identity/get", new JsonObject { ["accountId"] = account.Id, ["state"] = StateOf(account), ["list"] = list, ["notFound"] = notFound });
    }

    private static (string, JsonObject) Changes(JmapAccount account, JsonObject arguments)
    {
        if (arguments["sinceState"]?.GetValue<string>() is not { } since || !int.TryParse(since, out var from) || from > account.State) return Error("cannotCalculateChanges");
        var updated = new JsonArray([.. account.Identities.Where(identity => identity.ChangedIn > from).Select(identity => (JsonNode)identity.Id)]);
        return ("Identity/changes", new JsonObject { ["accountId"] = account.Id, ["oldState"] = since, ["newState"] = StateOf(account), ["hasMoreChanges"] = false, ["created"] = new JsonArray(), ["updated"] = updated, ["destroyed"] = new JsonArray() });
    }

    private static (string, JsonObject) Set(JmapAccount account, JsonObject arguments)
    {
        var before = StateOf(account);
        if (arguments["ifInState"]?.GetValue<string>() is { } wanted && wanted != before) return Error("stateMismatch");
        var (create, update, destroy) = (arguments["create"] as JsonObject ?? [], arguments["update"] as JsonObject ?? [], arguments["destroy"] as JsonArray ?? []);
        if (create.Count + update.Count + destroy.Count > MaxInSet) return Error("requestTooLarge");
        var (updated, notCreated, notUpdated, notDestroyed) = (new JsonObject(), new JsonObject(), new JsonObject(), new JsonObject());
        foreach (var (id, _) in create) notCreated[id] = SetError("forbiddenFrom", "Identities are given out by the administrator of this server."); // RFC 8621 section 6.3
        foreach (var id in destroy) notDestroyed[id!.GetValue<string>()] = SetError(account.Identities.Any(identity => identity.Id == id.GetValue<string>()) ? "forbidden" : "notFound", "");
        foreach (var (id, patch) in update)
        {
            if (account.Identities.FirstOrDefault(identity => identity.Id == id) is not { } identity) notUpdated[id] = SetError("notFound", "");
            else if (Refuse(identity, patch as JsonObject) is { } refusal) notUpdated[id] = refusal;
            else
            {
                account.Change(identity, changed =>
                {
                    foreach (var (name, value) in patch!.AsObject()) Put(changed, name, value);
                });
                updated[id] = null;
            }
        }

        return ("Identity/set", new JsonObject
        {
            ["accountId"] = account.Id,
            ["oldState"] = before,
            ["newState"] = StateOf(account),
            ["created"] = null,
            ["updated"] = updated,
            ["destroyed"] = null,
            ["notCreated"] = notCreated.Count > 0 ? notCreated : null,
            ["notUpdated"] = notUpdated.Count > 0 ? notUpdated : null,
            ["notDestroyed"] = notDestroyed.Count > 0 ? notDestroyed : null,
        });
    }

    private static JsonObject? Refuse(JmapIdentity identity, JsonObject? patch)
    {
        if (patch is null) return SetError("invalidPatch", "");
        foreach (var (name, value) in patch)
        {
            switch (name)
            {
                case "textSignature" or "htmlSignature" or "name":
                    if (value?.GetValueKind() != JsonValueKind.String) return Invalid(name);
                    if (name == "htmlSignature" && value.GetValue<string>().EnumerateRunes().Count() > MaxHtml) return SetError("tooLarge", $"A signature has at most {MaxHtml} characters here.");
                    break;
                case "replyTo" or "bcc":
                    if (value is not (null or JsonArray)) return Invalid(name);
                    break;
                case "id" or "email" or "mayDelete":
                    if (!JsonNode.DeepEquals(identity.ToJson()[name], value)) return Invalid(name);
                    break;
                default:
                    return Invalid(name);
            }
        }

        return null;

        static JsonObject Invalid(string name)
        {
            var error = SetError("invalidProperties", "");
            error["properties"] = new JsonArray(name);
            return error;
        }
    }

    private static void Put(JmapIdentity identity, string name, JsonNode? value)
    {
        switch (name)
        {
            case "name":
                identity.Name = value!.GetValue<string>();
                break;
            case "textSignature":
                identity.TextSignature = value!.GetValue<string>();
                break;
            case "htmlSignature":
                identity.HtmlSignature = value!.GetValue<string>();
                break;
            case "replyTo":
                identity.ReplyTo = value?.DeepClone();
                break;
            case "bcc":
                identity.Bcc = value?.DeepClone();
                break;
        }
    }

    private static string StateOf(JmapAccount account) => account.State.ToString(CultureInfo.InvariantCulture);

    private static JsonObject SetError(string type, string description) => description.Length > 0 ? new() { ["type"] = type, ["description"] = description } : new() { ["type"] = type };

    private static (string, JsonObject) Error(string type) => ("error", new JsonObject { ["type"] = type });

    private static IResult Problem(string type, string detail, string? limit = null)
    {
        var problem = new JsonObject { ["type"] = $"urn:ietf:params:jmap:error:{type}", ["status"] = 400, ["detail"] = detail };
        if (limit is not null) problem["limit"] = limit;
        return Results.Text(problem.ToJsonString(), "application/problem+json", statusCode: 400);
    }
}
