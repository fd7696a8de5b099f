using System.Text.Json.Nodes;

namespace Relevo.Core.People.Formats.Scim;

/// <summary>Which attributes of a resource are answered. Source: RFC 7644 section 3.9; id and schemas are always answered (RFC 7643 sections 3 and 3.1).</summary>
public sealed class ScimProjection
{
    private readonly ScimAttribute[] wanted;
    private readonly ScimAttribute[] unwanted;

    private ScimProjection(ScimAttribute[] wanted, ScimAttribute[] unwanted)
    {
        this.wanted = wanted;
        this.unwanted = unwanted;
    }

    /// <summary>Reads the two parameters, lists parted by commas; names that are none are passed over.</summary>
    public static ScimProjection Read(string? attributes, string? excluded) => new(Split(attributes), Split(excluded));

    /// <summary>The resource with what is wanted. The given one is untouched.</summary>
    public JsonObject Apply(JsonObject resource)
    {
        var answered = (JsonObject)resource.DeepClone();
        foreach (var name in resource.Select(member => member.Key).ToArray())
        {
            if (name is "id" or "schemas") continue;
            if (wanted.Length > 0 && !Keeps(answered, name)) answered.Remove(name);
        }

        foreach (var attribute in unwanted.Where(attribute => attribute.Name is not ("id" or "schemas"))) Remove(answered, attribute);
        return answered;
    }

    /// <summary>True when a member is wanted, in whole or in part; a part takes the rest of it away.</summary>
    private bool Keeps(JsonObject resource, string name)
    {
        var asked = wanted.Where(attribute => attribute.Schema.Length == 0 ? Is(attribute.Name, name) : Is(attribute.Schema, name)).ToArray();
        if (asked.Length == 0) return false;
        if (asked.Any(attribute => attribute is { Schema: "", Sub: "" })) return true;
        var parts = asked.Select(attribute => attribute.Schema.Length > 0 ? attribute.Name : attribute.Sub).ToArray();
        foreach (var complex in resource[name] is JsonArray all ? all.OfType<JsonObject>() : resource[name] is JsonObject one ? [one] : [])
        {
            foreach (var member in complex.Select(member => member.Key).Where(member => !parts.Any(part => Is(part, member))).ToArray()) complex.Remove(member);
        }

        return true;
    }

    private static void Remove(JsonObject resource, ScimAttribute attribute)
    {
        var holder = attribute.Schema.Length == 0 ? resource : ScimAttribute.Find(resource, attribute.Schema) is { } schema ? resource[schema] as JsonObject : null;
        if (holder is null || ScimAttribute.Find(holder, attribute.Name) is not { } name) return;
        if (attribute.Sub.Length == 0)
        {
            holder.Remove(name);
            return;
        }

        foreach (var complex in holder[name] is JsonArray all ? all.OfType<JsonObject>() : holder[name] is JsonObject one ? [one] : [])
        {
            if (ScimAttribute.Find(complex, attribute.Sub) is { } sub) complex.Remove(sub);
        }
    }

    private static bool Is(string left, string right) => string.Equals(left, right, StringComparison.OrdinalIgnoreCase);

    private static ScimAttribute[] Split(string? list) => [.. (list ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(ScimAttribute.TryParse).OfType<ScimAttribute>()];
}
