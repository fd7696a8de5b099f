using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Nodes;
using Relevo.Core.People.Formats.Scim;
using Relevo.Data;
using Relevo.Server.Rollout;

namespace Relevo.Server.Scim;

/// <summary>
/// The SCIM 2.0 service provider under /scim/v2: Users, Groups, discovery, search and bulk. Clients show a bearer token. Sources: RFC 7643, 7644.
/// </summary>
public static class ScimEndpoints
{
    private const string Root = "/scim/v2";
    private const int MaxResults = 200; // of one page; RFC 7644 section 3.4.2.4 lets a provider give fewer than asked
    private const int MaxBulkOperations = 1000;
    private const string CallerItem = "relevo-scim-caller";

    /// <summary>Maps the endpoints.</summary>
    public static void MapScim(this IEndpointRouteBuilder routes)
    {
        var scim = routes.MapGroup(Root).AllowAnonymous().ExcludeFromDescription().AddEndpointFilter(AuthoriseAsync);
        scim.MapGet("/ServiceProviderConfig", () => ScimHttp.Json(ScimDiscovery.Configuration(MaxBulkOperations, MaxResults)));
        scim.MapGet("/ResourceTypes", () => ScimHttp.Json(List([.. ScimDiscovery.ResourceTypes()], 1, ScimDiscovery.ResourceTypes().Length)));
        scim.MapGet("/ResourceTypes/{name}", (string name) => One(ScimDiscovery.ResourceTypes(), name));
        scim.MapGet("/Schemas", () => ScimHttp.Json(List([.. ScimSchema.Describe()], 1, ScimSchema.Describe().Length)));
        scim.MapGet("/Schemas/{name}", (string name) => One(ScimSchema.Describe(), name));
        scim.MapPost("/Bulk", BulkAsync);
        foreach (var isUser in new[] { true, false })
        {
            var path = isUser ? "/Users" : "/Groups";
            scim.MapGet(path, (HttpContext context, ScimStore store, CancellationToken cancellationToken) => SearchAsync(context, store, isUser, Asked(context.Request.Query), cancellationToken));
            scim.MapPost(path + "/.search", (HttpContext context, ScimStore store, CancellationToken cancellationToken) => SearchByBodyAsync(context, store, isUser, cancellationToken));
            scim.MapGet(path + "/{id}", (string id, HttpContext context, ScimStore store, CancellationToken cancellationToken) => FindAsync(id, context, store, isUser, cancellationToken));
            scim.MapPost(path, (HttpContext context, ScimProvider provider, CancellationToken cancellationToken) => WriteAsync(null, isUser, context, provider, cancellationToken));
            scim.MapMethods(path + "/{id}", ["PUT", "PATCH", "DELETE"], (string id, HttpContext context, ScimProvider provider, CancellationToken cancellationToken) =>
                WriteAsync(id, isUser, context, provider, cancellationToken));
        }

        scim.Map("/{**rest}", (string? rest) => ScimHttp.Error(new ScimError(404, null, $"There is nothing at \"{rest}\".")));
    }

    private static async ValueTask<object?> AuthoriseAsync(EndpointFilterInvocationContext invocation, EndpointFilterDelegate next)
    {
        var context = invocation.HttpContext;
        var header = context.Request.Headers.Authorization.ToString();
        var caller = header.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase)
            ? await context.RequestServices.GetRequiredService<ScimTokenStore>().FindAsync(Tokens.Hash(header["Bearer ".Length..].Trim()), context.RequestAborted)
            : null;
        if (caller is null)
        {
            context.Response.Headers.WWWAuthenticate = "Bearer";
            return ScimHttp.Error(new ScimError(401, null, "This token is not known, or was revoked."));
        }

        context.Items[CallerItem] = caller;
        return await next(invocation);
    }

    private static ScimCaller Caller(HttpContext context) => (ScimCaller)context.Items[CallerItem]!;

    private static string RootOf(HttpContext context) => $"{context.Request.Scheme}://{context.Request.Host}{Root}";

    private static IResult One(ImmutableArray<JsonObject> all, string name) =>
        all.FirstOrDefault(resource => resource["id"]!.ToString().Equals(name, StringComparison.OrdinalIgnoreCase)) is { } found ? ScimHttp.Json(found) : ScimHttp.Error(ScimError.NotFound(name));

    private static JsonObject List(JsonNode[] resources, int startIndex, int total) => new()
    {
        ["schemas"] = new JsonArray(ScimSchema.ListResponse),
        ["totalResults"] = total,
        ["startIndex"] = startIndex,
        ["itemsPerPage"] = resources.Length,
        ["Resources"] = new JsonArray(resources),
    };

    private sealed record Search(string? Filter, string? SortBy, bool IsDescending, int StartIndex, int Count, ScimProjection Projection);

    private static Search Asked(IQueryCollection query) => new(
        query["filter"], query["sortBy"], query["sortOrder"].ToString().Equals("descending", StringComparison.OrdinalIgnoreCase),
        Number(query["startIndex"], 1), Number(query["count"], MaxResults), ScimProjection.Read(query["attributes"], query["excludedAttributes"]));

    private static int Number(string? text, int otherwise) => int.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number) ? number : otherwise;

    private static async Task<IResult> SearchByBodyAsync(HttpContext context, ScimStore store, bool isUser, CancellationToken cancellationToken)
    {
        var (body, error) = await ScimHttp.ReadAsync(context.Request, cancellationToken);
        if (error is not null || body is not JsonObject asked) return ScimHttp.Error(error ?? ScimError.InvalidSyntax("A search is an object."));
        string? Text(string name) => ScimAttribute.Find(asked, name) is { } member && asked[member] is JsonValue value ? value.ToString() : null;
        string? Names(string name) => ScimAttribute.Find(asked, name) is { } member && asked[member] is JsonArray list ? string.Join(',', list.Select(item => item?.ToString())) : null;
        var search = new Search(Text("filter"), Text("sortBy"), Text("sortOrder")?.Equals("descending", StringComparison.OrdinalIgnoreCase) == true, Number(Text("startIndex"), 1), Number(Text("count"), MaxResults), ScimProjection.Read(Names("attributes"), Names("excludedAttributes")));
        return await SearchAsync(context, store, isUser, search, cancellationToken);
    }

    private static async Task<IResult> SearchAsync(HttpContext context, ScimStore store, bool isUser, Search search, CancellationToken cancellationToken)
    {
        ScimFilter? filter = null;
        if (search.Filter is { Length: > 0 } text && ScimFilter.TryParse(text, out filter) is { } trouble) return ScimHttp.Error(trouble);
        ScimAttribute? sort = null;
        if (search.SortBy is { Length: > 0 } by && (sort = ScimAttribute.TryParse(by)) is null) return ScimHttp.Error(ScimError.InvalidValue($"\"{by}\" is no attribute to sort by."));
        // The question every client asks, "is there one of this name?", is answered by an index.
        var (name, externalId) = filter is ScimComparison { Operator: ScimOperator.Eq, Value: JsonValue value } equal && value.GetValueKind() == System.Text.Json.JsonValueKind.String
            ? (equal.Attribute.Name.Equals(isUser ? "userName" : "displayName", StringComparison.OrdinalIgnoreCase) ? value.GetValue<string>() : null, equal.Attribute.Name.Equals("externalId", StringComparison.OrdinalIgnoreCase) ? value.GetValue<string>() : null)
            : (null, null);
        var all = await store.ListAsync(Caller(context).Token.SourceId, isUser, name, externalId, cancellationToken);
        var root = RootOf(context);
        var shown = all.Select(resource => (Resource: resource, Body: ScimHttp.Present(resource, [], root)));
        if (filter is not null) shown = shown.Where(item => filter.Matches(item.Body));
        if (sort is not null)
        {
            string Key((ScimResource Resource, JsonObject Body) item) => sort.Values(item.Body).FirstOrDefault()?.ToString() ?? "";
            shown = search.IsDescending ? shown.OrderByDescending(Key, StringComparer.OrdinalIgnoreCase) : shown.OrderBy(Key, StringComparer.OrdinalIgnoreCase);
        }

        var found = shown.ToList();
        var start = Math.Max(1, search.StartIndex);
        var page = found.Skip(start - 1).Take(Math.Clamp(search.Count, 0, MaxResults)).Select(item => (JsonNode)search.Projection.Apply(item.Body)).ToArray();
        return ScimHttp.Json(List(page, start, found.Count));
    }

    private static async Task<IResult> FindAsync(string id, HttpContext context, ScimStore store, bool isUser, CancellationToken cancellationToken)
    {
        var source = Caller(context).Token.SourceId;
        if (!Guid.TryParse(id, out var key) || await store.FindAsync(source, isUser, key, cancellationToken) is not { } resource) return ScimHttp.Error(ScimError.NotFound(id));
        var version = ScimHttp.Version(resource);
        context.Response.Headers.ETag = version;
        if (context.Request.Headers.IfNoneMatch.ToString() is { Length: > 0 } seen && ScimHttp.Names(seen, version)) return Results.StatusCode(StatusCodes.Status304NotModified);
        return Present(context, resource, resource.IsUser ? await store.GroupsOfAsync(source, key, cancellationToken) : [], StatusCodes.Status200OK);
    }

    private static IResult Present(HttpContext context, ScimResource resource, IEnumerable<(Guid Id, string Name)> groups, int status)
    {
        var projection = ScimProjection.Read(context.Request.Query["attributes"], context.Request.Query["excludedAttributes"]);
        return ScimHttp.Json(projection.Apply(ScimHttp.Present(resource, groups, RootOf(context))), status);
    }

    private static async Task<IResult> WriteAsync(string? id, bool isUser, HttpContext context, ScimProvider provider, CancellationToken cancellationToken)
    {
        Guid? key = null;
        if (id is not null)
        {
            if (!Guid.TryParse(id, out var parsed)) return ScimHttp.Error(ScimError.NotFound(id));
            key = parsed;
        }

        JsonNode? body = null;
        if (context.Request.Method != "DELETE")
        {
            (body, var error) = await ScimHttp.ReadAsync(context.Request, cancellationToken);
            if (error is not null) return ScimHttp.Error(error);
        }

        var outcome = await provider.WriteAsync(Caller(context), new ScimWrite(context.Request.Method, isUser, key, body, context.Request.Headers.IfMatch.ToString()), cancellationToken);
        if (outcome.Error is { } trouble) return ScimHttp.Error(trouble);
        if (outcome.Resource is not { } resource) return Results.NoContent();
        context.Response.Headers.ETag = ScimHttp.Version(resource);
        if (id is null) context.Response.Headers.Location = $"{RootOf(context)}/{(isUser ? "Users" : "Groups")}/{resource.Id}";
        return Present(context, resource, outcome.Groups, id is null ? StatusCodes.Status201Created : StatusCodes.Status200OK);
    }

    /// <summary>Operations one after the other; "bulkId:" refers to what an earlier one made. Source: RFC 7644 section 3.7.</summary>
    private static async Task<IResult> BulkAsync(HttpContext context, ScimProvider provider, CancellationToken cancellationToken)
    {
        var (body, error) = await ScimHttp.ReadAsync(context.Request, cancellationToken);
        if (error is not null) return ScimHttp.Error(error);
        if (body is not JsonObject bulk || bulk["Operations"] is not JsonArray operations) return ScimHttp.Error(ScimError.InvalidSyntax("A bulk holds a list \"Operations\"."));
        if (operations.Count > MaxBulkOperations) return ScimHttp.Error(new ScimError(413, null, $"At most {MaxBulkOperations} operations are taken."));
        var allowed = bulk["failOnErrors"] is JsonValue limit && limit.TryGetValue<int>(out var number) ? number : int.MaxValue;
        var made = new Dictionary<string, string>(StringComparer.Ordinal);
        var answers = new JsonArray();
        var failures = 0;
        foreach (var operation in operations)
        {
            if (failures >= allowed) break;
            var answer = await BulkOneAsync(context, provider, operation as JsonObject ?? [], made, cancellationToken);
            if (answer["response"] is not null) failures++;
            answers.Add((JsonNode)answer);
        }

        return ScimHttp.Json(new JsonObject { ["schemas"] = new JsonArray(ScimSchema.BulkResponse), ["Operations"] = answers });
    }

    private static async Task<JsonObject> BulkOneAsync(HttpContext context, ScimProvider provider, JsonObject operation, Dictionary<string, string> made, CancellationToken cancellationToken)
    {
        var method = operation["method"]?.ToString().ToUpperInvariant() ?? "";
        var bulkId = operation["bulkId"]?.ToString() ?? "";
        var answer = new JsonObject { ["method"] = method };
        if (bulkId.Length > 0) answer["bulkId"] = bulkId;
        var path = Refer(operation["path"]?.ToString() ?? "", made).Trim('/').Split('/');
        var isUser = path[0].Equals("Users", StringComparison.OrdinalIgnoreCase);
        Guid? id = path.Length == 2 && Guid.TryParse(path[1], out var parsed) ? parsed : null;
        ScimError? trouble = (isUser || path[0].Equals("Groups", StringComparison.OrdinalIgnoreCase)) && method is "POST" or "PUT" or "PATCH" or "DELETE" && (id is null) == (method == "POST")
            ? null : ScimError.InvalidPath($"\"{operation["method"]} {operation["path"]}\" is no operation on Users or Groups.");
        ScimResource? resource = null;
        if (trouble is null)
        {
            var data = operation["data"] is { } sent ? JsonNode.Parse(Refer(sent.ToJsonString(), made)) : null;
            (resource, trouble) = await provider.WriteAsync(Caller(context), new ScimWrite(method, isUser, id, data, operation["version"]?.ToString() ?? ""), cancellationToken);
        }

        answer["status"] = (trouble?.Status ?? (method == "POST" ? 201 : resource is null ? 204 : 200)).ToString(CultureInfo.InvariantCulture);
        if (trouble is not null) answer["response"] = ScimHttp.Describe(trouble);
        if (resource is null && id is not null) answer["location"] = $"{RootOf(context)}/{path[0]}/{id}";
        if (resource is null) return answer;
        if (bulkId.Length > 0) made[bulkId] = resource.Id.ToString();
        answer["location"] = $"{RootOf(context)}/{(isUser ? "Users" : "Groups")}/{resource.Id}";
        answer["version"] = ScimHttp.Version(resource);
        return answer;
    }

    private static string Refer(string text, Dictionary<string, string> made)
    {
        foreach (var (bulkId, id) in made.OrderByDescending(pair => pair.Key.Length)) text = text.Replace($"bulkId:{bulkId}", id, StringComparison.Ordinal);
        return text;
    }
}
