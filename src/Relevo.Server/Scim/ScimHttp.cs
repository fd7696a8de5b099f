using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Relevo.Core.People.Formats.Scim;
using Relevo.Data;

namespace Relevo.Server.Scim;

/// <summary>SCIM's own forms of answers. Sources: RFC 7644 sections 3.1, 3.12 and 3.14.</summary>
internal static class ScimHttp
{
    /// <summary>The media type.</summary>
    public const string MediaType = "application/scim+json";

    private const int MaxBodyBytes = 1 << 20; // as the service provider's configuration says

    /// <summary>A JSON answer.</summary>
    public static IResult Json(JsonNode body, int status = StatusCodes.Status200OK) => Results.Text(body.ToJsonString(), MediaType, Encoding.UTF8, status);

    /// <summary>An error.</summary>
    public static IResult Error(ScimError error) => Json(Describe(error), error.Status);

    /// <summary>An error as JSON.</summary>
    public static JsonObject Describe(ScimError error)
    {
        var body = new JsonObject { ["schemas"] = new JsonArray(ScimSchema.Error), ["status"] = error.Status.ToString(CultureInfo.InvariantCulture), ["detail"] = error.Detail };
        if (error.ScimType is { } type) body["scimType"] = type;
        return body;
    }

    /// <summary>A resource as it is answered: with id, schemas, groups and meta.</summary>
    public static JsonObject Present(ScimResource resource, IEnumerable<(Guid Id, string Name)> groups, string root)
    {
        var type = resource.IsUser ? "User" : "Group";
        var location = $"{root}/{type}s/{resource.Id}";
        var schemas = new JsonArray(resource.IsUser ? ScimSchema.User : ScimSchema.Group);
        if (resource.Document.ContainsKey(ScimAttribute.Enterprise)) schemas.Add(ScimAttribute.Enterprise);
        var body = new JsonObject { ["schemas"] = schemas, ["id"] = resource.Id.ToString() };
        foreach (var (name, value) in resource.Document) body[name] = value?.DeepClone();
        if (resource.IsUser && !body.ContainsKey("active")) body["active"] = true;
        var list = groups.Select(group => (JsonNode)new JsonObject { ["value"] = group.Id.ToString(), ["$ref"] = $"{root}/Groups/{group.Id}", ["display"] = group.Name, ["type"] = "direct" }).ToArray();
        if (list.Length > 0) body["groups"] = new JsonArray(list);
        body["meta"] = new JsonObject
        {
            ["resourceType"] = type,
            ["created"] = Moment(resource.CreatedAt),
            ["lastModified"] = Moment(resource.ModifiedAt),
            ["location"] = location,
            ["version"] = Version(resource),
        };
        return body;
    }

    /// <summary>A resource's version as a weak ETag.</summary>
    public static string Version(ScimResource resource) => string.Create(CultureInfo.InvariantCulture, $"W/\"{resource.Version}\"");

    /// <summary>True when an If-Match or If-None-Match header names this version, or any.</summary>
    public static bool Names(string header, string version) =>
        header.Split(',', StringSplitOptions.TrimEntries).Any(tag => tag == "*" || Strong(tag) == Strong(version));

    /// <summary>Reads a body as JSON; the error when it is none.</summary>
    public static async Task<(JsonNode? Body, ScimError? Error)> ReadAsync(HttpRequest request, CancellationToken cancellationToken)
    {
        if (request.ContentLength > MaxBodyBytes) return (null, new ScimError(413, null, $"At most {MaxBodyBytes / 1024} KiB are taken."));
        try
        {
            var body = await JsonNode.ParseAsync(request.Body, documentOptions: new JsonDocumentOptions { MaxDepth = 32 }, cancellationToken: cancellationToken);
            return body is null ? (null, ScimError.InvalidSyntax("The body is empty.")) : (body, null);
        }
        catch (Exception unreadable) when (unreadable is JsonException or ArgumentException)
        {
            return (null, ScimError.InvalidSyntax("The body is not JSON."));
        }
    }

    private static string Strong(string tag) => tag.StartsWith("W/", StringComparison.Ordinal) ? tag[2..] : tag;

    private static string Moment(DateTimeOffset at) => at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.fffZ", CultureInfo.InvariantCulture);
}
