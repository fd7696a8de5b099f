using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Relevo.Core.People.Formats.Scim;

namespace Relevo.Server.Scim;

/// <summary>What this provider says of itself. Sources: RFC 7643 sections 5 and 6.</summary>
internal static class ScimDiscovery
{
    /// <summary>The service provider's configuration.</summary>
    public static JsonObject Configuration(int maxOperations, int maxResults) => new()
    {
        ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:ServiceProviderConfig"),
        ["patch"] = Supported(),
        ["bulk"] = new JsonObject { ["supported"] = true, ["maxOperations"] = maxOperations, ["maxPayloadSize"] = 1 << 20 },
        ["filter"] = new JsonObject { ["supported"] = true, ["maxResults"] = maxResults },
        ["changePassword"] = new JsonObject { ["supported"] = false },
        ["sort"] = Supported(),
        ["etag"] = Supported(),
        ["authenticationSchemes"] = new JsonArray(new JsonObject
        {
            ["type"] = "oauthbearertoken",
            ["name"] = "Bearer token",
            ["description"] = "A token made in Relevo under Sources and runs.",
            ["specUri"] = "https://www.rfc-editor.org/info/rfc6750",
            ["primary"] = true,
        }),
        ["meta"] = new JsonObject { ["resourceType"] = "ServiceProviderConfig", ["location"] = "/scim/v2/ServiceProviderConfig" },
    };

    /// <summary>The resource types.</summary>
    public static ImmutableArray<JsonObject> ResourceTypes() => [Type("User", ScimSchema.User, ScimAttribute.Enterprise), Type("Group", ScimSchema.Group, null)];

    private static JsonObject Type(string name, string schema, string? extension)
    {
        var type = new JsonObject
        {
            ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:ResourceType"),
            ["id"] = name,
            ["name"] = name,
            ["endpoint"] = $"/{name}s",
            ["description"] = name,
            ["schema"] = schema,
            ["meta"] = new JsonObject { ["resourceType"] = "ResourceType", ["location"] = $"/scim/v2/ResourceTypes/{name}" },
        };
        if (extension is not null) type["schemaExtensions"] = new JsonArray(new JsonObject { ["schema"] = extension, ["required"] = false });
        return type;
    }

    private static JsonObject Supported() => new() { ["supported"] = true };
}
