using System.Collections.Immutable;
using System.Text.Json.Nodes;

namespace Relevo.Core.People.Formats.Scim;

/// <summary>An attribute as the schema describes it. Parts are its sub-attributes.</summary>
internal sealed record SchemaAttribute(string Name, string Type, bool IsMultiValued, bool IsRequired, string Mutability, string Uniqueness, ImmutableArray<string> Parts);

/// <summary>The schemas this provider serves: User, Group and the enterprise extension. Source: RFC 7643 sections 4 and 8.7.1, from which the attributes are taken over.</summary>
public static class ScimSchema
{
    /// <summary>Schema of users and of groups, and of messages.</summary>
    public const string User = "urn:ietf:params:scim:schemas:core:2.0:User", Group = "urn:ietf:params:scim:schemas:core:2.0:Group", ListResponse = "urn:ietf:params:scim:api:messages:2.0:ListResponse",
        Error = "urn:ietf:params:scim:api:messages:2.0:Error", BulkResponse = "urn:ietf:params:scim:api:messages:2.0:BulkResponse";

    private static readonly ImmutableArray<SchemaAttribute> UserAttributes =
    [
        One("userName", required: true, uniqueness: "server"), Complex("name", "formatted", "familyName", "givenName", "middleName", "honorificPrefix", "honorificSuffix"),
        One("displayName"), One("nickName"), One("profileUrl", "reference"), One("title"), One("userType"), One("preferredLanguage"), One("locale"), One("timezone"), One("active", "boolean"),
        One("externalId"), One("password", mutability: "writeOnly"),
        Many("emails", "value", "display", "type", "primary"), Many("phoneNumbers", "value", "display", "type", "primary"), Many("ims", "value", "display", "type", "primary"),
        Many("photos", "value", "display", "type", "primary"), Many("addresses", "formatted", "streetAddress", "locality", "region", "postalCode", "country", "type", "primary"),
        Many("groups", "value", "$ref", "display", "type") with { Mutability = "readOnly" }, Many("entitlements", "value", "display", "type", "primary"), Many("roles", "value", "display", "type", "primary"),
        Many("x509Certificates", "value", "display", "type", "primary"),
    ];

    private static readonly ImmutableArray<SchemaAttribute> GroupAttributes = [One("displayName", required: true), One("externalId"), Many("members", "value", "$ref", "type", "display")];

    private static readonly ImmutableArray<SchemaAttribute> EnterpriseAttributes =
        [One("employeeNumber"), One("costCenter"), One("organization"), One("division"), One("department"), Complex("manager", "value", "$ref", "displayName")];

    private static readonly Dictionary<string, SchemaAttribute> Plain = UserAttributes.Concat(GroupAttributes).DistinctBy(attribute => attribute.Name).ToDictionary(attribute => attribute.Name, StringComparer.OrdinalIgnoreCase);
    private static readonly Dictionary<string, SchemaAttribute> Extended = EnterpriseAttributes.ToDictionary(attribute => attribute.Name, StringComparer.OrdinalIgnoreCase);

    /// <summary>True when a path leads to an attribute of these schemas.</summary>
    public static bool Knows(ScimAttribute attribute)
    {
        if (attribute.Name.Equals(ScimAttribute.Enterprise, StringComparison.OrdinalIgnoreCase)) return true;
        var known = attribute.Schema.Length == 0 ? Plain : attribute.Schema.Equals(ScimAttribute.Enterprise, StringComparison.OrdinalIgnoreCase) ? Extended : [];
        return known.TryGetValue(attribute.Name, out var found) && (attribute.Sub.Length == 0 || found.Parts.Contains(attribute.Sub, StringComparer.OrdinalIgnoreCase));
    }

    /// <summary>True for attributes that hold a list.</summary>
    public static bool IsMultiValued(string name) => Plain.TryGetValue(name, out var attribute) && attribute.IsMultiValued;

    /// <summary>An attribute's name as the schema spells it.</summary>
    public static string Spelling(string name) => Plain.TryGetValue(name, out var attribute) ? attribute.Name : Extended.TryGetValue(name, out var extended) ? extended.Name : name;

    /// <summary>A resource as it is kept: known attributes in the schema's spelling, empty ones left out; or what is wrong with it.</summary>
    public static (JsonObject? Resource, ScimError? Error) Restore(JsonNode? sent, bool isUser)
    {
        if (sent is not JsonObject given) return (null, ScimError.InvalidSyntax("A resource is a JSON object."));
        var kept = new JsonObject();
        foreach (var (name, value) in given)
        {
            if (value is null || value is JsonArray { Count: 0 }) continue;
            if (name.Equals(ScimAttribute.Enterprise, StringComparison.OrdinalIgnoreCase))
            {
                if (value is not JsonObject) return (null, ScimError.InvalidValue("The enterprise extension is an object."));
                if (isUser) kept[ScimAttribute.Enterprise] = value.DeepClone();
                continue;
            }

            if (!Plain.TryGetValue(name, out var attribute) || attribute.Mutability is "readOnly" or "writeOnly") continue;
            if (Misfits(attribute, value)) return (null, ScimError.InvalidValue($"\"{attribute.Name}\" is {Expected(attribute)}."));
            kept[attribute.Name] = value.DeepClone();
        }

        var required = isUser ? "userName" : "displayName";
        if (Text(kept[required]) is not { Length: > 0 and <= 500 }) return (null, ScimError.InvalidValue($"\"{required}\" is required, with at most 500 characters."));
        return (kept, null);
    }

    /// <summary>The Schemas resources. Source: RFC 7643 section 7.</summary>
    public static ImmutableArray<JsonObject> Describe() =>
        [Describe(User, "User", UserAttributes), Describe(Group, "Group", GroupAttributes), Describe(ScimAttribute.Enterprise, "EnterpriseUser", EnterpriseAttributes)];

    private static JsonObject Describe(string id, string name, ImmutableArray<SchemaAttribute> attributes) => new()
    {
        ["schemas"] = new JsonArray("urn:ietf:params:scim:schemas:core:2.0:Schema"),
        ["id"] = id,
        ["name"] = name,
        ["description"] = name,
        ["attributes"] = new JsonArray([.. attributes.Select(attribute => (JsonNode)Describe(attribute))]),
        ["meta"] = new JsonObject { ["resourceType"] = "Schema", ["location"] = $"/scim/v2/Schemas/{id}" },
    };

    private static JsonObject Describe(SchemaAttribute attribute)
    {
        var described = new JsonObject
        {
            ["name"] = attribute.Name,
            ["type"] = attribute.Type,
            ["multiValued"] = attribute.IsMultiValued,
            ["description"] = attribute.Name,
            ["required"] = attribute.IsRequired,
            ["caseExact"] = attribute.Name == "externalId",
            ["mutability"] = attribute.Mutability,
            ["returned"] = attribute.Mutability == "writeOnly" ? "never" : "default",
            ["uniqueness"] = attribute.Uniqueness,
        };
        if (attribute.Type == "reference") described["referenceTypes"] = new JsonArray("external");
        if (!attribute.Parts.IsEmpty) described["subAttributes"] = new JsonArray([.. attribute.Parts.Select(part => (JsonNode)Describe(One(part, part == "primary" ? "boolean" : part == "$ref" ? "reference" : "string")))]);
        return described;
    }

    private static bool Misfits(SchemaAttribute attribute, JsonNode value) => attribute.IsMultiValued
        ? value is not JsonArray
        : attribute.Type switch { "complex" => value is not JsonObject, "boolean" => value.GetValueKind() is not (System.Text.Json.JsonValueKind.True or System.Text.Json.JsonValueKind.False), _ => Text(value) is null };

    private static string Expected(SchemaAttribute attribute) => attribute.IsMultiValued ? "a list" : attribute.Type switch { "complex" => "an object", "boolean" => "true or false", _ => "a text" };

    private static string? Text(JsonNode? value) => value?.GetValueKind() == System.Text.Json.JsonValueKind.String ? value.GetValue<string>() : null;

    private static SchemaAttribute One(string name, string type = "string", bool required = false, string mutability = "readWrite", string uniqueness = "none") => new(name, type, false, required, mutability, uniqueness, []);

    private static SchemaAttribute Complex(string name, params ImmutableArray<string> parts) => new(name, "complex", false, false, "readWrite", "none", parts);

    private static SchemaAttribute Many(string name, params ImmutableArray<string> parts) => new(name, "complex", true, false, "readWrite", "none", parts);
}
