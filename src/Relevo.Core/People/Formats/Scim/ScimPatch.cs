using System.Text.Json;
using System.Text.Json.Nodes;

namespace Relevo.Core.People.Formats.Scim;

/// <summary>
/// Changes a resource by PATCH operations, all or none. Knows every form of path: attribute, sub-attribute, value filter, value filter with
/// sub-attribute, attributes of the extension, and no path at all. Source: RFC 7644 section 3.5.2.
/// </summary>
public static class ScimPatch
{
    private const int MaxOperations = 1000; // of one request
    private static readonly HashSet<string> ReadOnly = new(StringComparer.OrdinalIgnoreCase) { "id", "meta", "schemas", "groups" };

    /// <summary>The changed resource, or what is wrong. The given resource is untouched.</summary>
    public static (JsonObject? Resource, ScimError? Error) Apply(JsonObject resource, JsonNode? request)
    {
        if (request is not JsonObject body || ScimAttribute.Find(body, "Operations") is not { } member || body[member] is not JsonArray { Count: > 0 } operations)
            return (null, ScimError.InvalidSyntax("A PATCH holds a list \"Operations\"."));
        if (operations.Count > MaxOperations) return (null, ScimError.InvalidValue($"At most {MaxOperations} operations are taken."));
        var changed = (JsonObject)resource.DeepClone();
        foreach (var operation in operations)
        {
            if (ApplyOne(changed, operation as JsonObject) is { } error) return (null, error);
        }

        return (changed, null);
    }

    private static ScimError? ApplyOne(JsonObject resource, JsonObject? operation)
    {
        if (operation is null || Text(operation, "op") is not { } op) return ScimError.InvalidSyntax("An operation says \"op\": add, remove or replace.");
        op = op.ToLowerInvariant();
        if (op is not ("add" or "remove" or "replace")) return ScimError.InvalidSyntax($"\"{op}\" is not add, remove or replace.");
        var value = ScimAttribute.Find(operation, "value") is { } member ? operation[member] : null;
        if (Text(operation, "path") is not { } path) return ApplyWhole(resource, op, value);
        if (ScimPath.TryParse(path) is not { } target) return ScimError.InvalidPath($"The path \"{path}\" cannot be read.");
        if (target.Attribute.Schema.Length == 0 && ReadOnly.Contains(target.Attribute.Name)) return ScimError.Mutability($"\"{target.Attribute.Name}\" is not for clients to change.");
        if (!ScimSchema.Knows(target.Attribute)) return ScimError.InvalidPath($"There is no attribute \"{path}\".");
        if (op != "remove" && value is null) return ScimError.InvalidValue($"An operation \"{op}\" has a value.");
        return Apply(resource, op, target, value);
    }

    /// <summary>Without a path the value is a set of attributes. Names may be paths themselves (common practice of identity providers).</summary>
    private static ScimError? ApplyWhole(JsonObject resource, string op, JsonNode? value)
    {
        if (op == "remove") return ScimError.NoTarget("A remove without a path has nothing to remove.");
        if (value is not JsonObject attributes) return ScimError.InvalidValue("Without a path the value is an object of attributes.");
        foreach (var (name, part) in attributes)
        {
            if (ScimPath.TryParse(name) is not { } target) return ScimError.InvalidPath($"The path \"{name}\" cannot be read.");
            if (target.Attribute.Schema.Length == 0 && ReadOnly.Contains(target.Attribute.Name)) continue; // RFC 7644 section 3.5.2.1: what is read-only is ignored here
            if (target.Attribute.Name == ScimAttribute.Enterprise && part is JsonObject extension)
            {
                var holder = Holder(resource, ScimAttribute.Enterprise);
                foreach (var (inner, item) in extension) Merge(holder, inner, item, op);
            }
            else if (Apply(resource, op, target, part) is { } error) return error;
        }

        return null;
    }

    private static ScimError? Apply(JsonObject resource, string op, ScimPath target, JsonNode? value)
    {
        var holder = target.Attribute.Schema.Length == 0 ? resource : Holder(resource, target.Attribute.Schema);
        var name = ScimAttribute.Find(holder, target.Attribute.Name) ?? ScimSchema.Spelling(target.Attribute.Name);
        if (target.Filter is { } filter) return ApplyFiltered(holder, name, op, filter, target.Sub, value);
        if (target.Attribute.Sub.Length > 0) return ApplySub(holder, name, op, target.Attribute.Sub, value);
        if (op == "remove") return Remove(holder, name, value);
        Merge(holder, name, value, op);
        return null;
    }

    private static ScimError? Remove(JsonObject holder, string name, JsonNode? value)
    {
        // Some clients name the values to remove beside the path, instead of filtering (common practice).
        if (value is JsonArray some && holder[name] is JsonArray all)
        {
            foreach (var item in all.Where(item => some.Any(gone => Same(gone, item))).ToList()) all.Remove(item);
            if (all.Count == 0) holder.Remove(name);
        }
        else holder.Remove(name);

        return null;
    }

    /// <summary>Adds to a multi-valued attribute what it does not hold; merges complex values; sets everything else.</summary>
    private static void Merge(JsonObject holder, string given, JsonNode? value, string op)
    {
        var name = ScimAttribute.Find(holder, given) ?? ScimSchema.Spelling(given);
        if (value is null)
        {
            holder.Remove(name);
            return;
        }

        if (ScimSchema.IsMultiValued(name))
        {
            var values = value is JsonArray array ? array.Select(item => item?.DeepClone()).ToList() : [value.DeepClone()];
            if (op == "replace" || holder[name] is not JsonArray before) holder[name] = new JsonArray([.. values]);
            else
            {
                foreach (var item in values)
                {
                    if (!before.Any(kept => Same(kept, item))) before.Add(item);
                }
            }

            KeepOnePrimary((JsonArray)holder[name]!, values.FirstOrDefault(IsPrimary));
        }
        else if (value is JsonObject complex && holder[name] is JsonObject kept)
        {
            foreach (var (member, part) in complex) kept[ScimAttribute.Find(kept, member) ?? member] = part?.DeepClone();
        }
        else holder[name] = value.DeepClone();
    }

    private static ScimError? ApplySub(JsonObject holder, string name, string op, string sub, JsonNode? value)
    {
        if (holder[name] is JsonArray all)
        {
            foreach (var item in all.OfType<JsonObject>()) Set(item, sub, op, value);
            return null;
        }

        if (holder[name] is not JsonObject complex)
        {
            if (op == "remove") return null;
            if (ScimSchema.IsMultiValued(name)) return ScimError.NoTarget($"\"{name}\" has no value to set \"{sub}\" on.");
            holder[name] = complex = [];
        }

        Set(complex, sub, op, value);
        return null;
    }

    private static ScimError? ApplyFiltered(JsonObject holder, string name, string op, ScimFilter filter, string sub, JsonNode? value)
    {
        var all = holder[name] as JsonArray;
        var matching = all?.Where(filter.Matches).ToList() ?? [];
        if (matching.Count == 0)
        {
            // A remove of what is not there is done; an add makes the value its filter describes (common practice); a replace has no target (RFC 7644 section 3.5.2.3).
            if (op == "remove") return null;
            if (op == "replace" || Described(filter) is not { } made) return ScimError.NoTarget($"No value of \"{name}\" matches.");
            if (sub.Length > 0) made[sub] = value?.DeepClone();
            else if (value is JsonObject parts) foreach (var (member, part) in parts) made[member] = part?.DeepClone();
            Merge(holder, name, made, "add");
            return null;
        }

        foreach (var item in matching)
        {
            if (sub.Length > 0 && item is JsonObject complex) Set(complex, sub, op, value);
            else if (op == "remove") all!.Remove(item);
            else if (value is JsonObject parts && item is JsonObject whole)
            {
                if (op == "replace") whole.Clear();
                foreach (var (member, part) in parts) whole[member] = part?.DeepClone();
            }
            else return ScimError.InvalidValue($"A value of \"{name}\" is an object.");
        }

        if (all!.Count == 0) holder.Remove(name);
        else if (op != "remove") KeepOnePrimary(all, matching.FirstOrDefault(IsPrimary));
        return null;
    }

    /// <summary>The object that equalities joined by "and" describe; null for any other filter.</summary>
    private static JsonObject? Described(ScimFilter filter) => filter switch
    {
        ScimComparison { Operator: ScimOperator.Eq } equal => new JsonObject { [equal.Attribute.Name] = equal.Value?.DeepClone() },
        ScimAnd both when Described(both.Left) is { } left && Described(both.Right) is { } right => Union(left, right),
        _ => null,
    };

    private static JsonObject Union(JsonObject left, JsonObject right)
    {
        foreach (var (name, value) in right) left[name] = value?.DeepClone();
        return left;
    }

    private static void Set(JsonObject complex, string sub, string op, JsonNode? value)
    {
        var name = ScimAttribute.Find(complex, sub) ?? sub;
        if (op == "remove") complex.Remove(name);
        else complex[name] = value?.DeepClone();
    }

    /// <summary>A new primary value takes the mark from the others. Source: RFC 7644 section 3.5.2.</summary>
    private static void KeepOnePrimary(JsonArray values, JsonNode? fresh)
    {
        if (fresh is null) return;
        foreach (var item in values.OfType<JsonObject>().Where(item => IsPrimary(item) && !JsonNode.DeepEquals(item, fresh))) item[ScimAttribute.Find(item, "primary")!] = false;
    }

    private static bool IsPrimary(JsonNode? item) => item is JsonObject complex && ScimAttribute.Find(complex, "primary") is { } name && complex[name]?.GetValueKind() == JsonValueKind.True;

    /// <summary>The same value: alike in all, or with the same "value" where one side says only that.</summary>
    private static bool Same(JsonNode? left, JsonNode? right)
    {
        if (JsonNode.DeepEquals(left, right)) return true;
        return left is JsonObject one && right is JsonObject other && (one.Count == 1 || other.Count == 1)
            && ScimAttribute.Find(one, "value") is { } a && ScimAttribute.Find(other, "value") is { } b && JsonNode.DeepEquals(one[a], other[b]);
    }

    private static JsonObject Holder(JsonObject resource, string schema)
    {
        var name = ScimAttribute.Find(resource, schema) ?? schema;
        if (resource[name] is JsonObject holder) return holder;
        var made = new JsonObject();
        resource[name] = made;
        return made;
    }

    private static string? Text(JsonObject operation, string name) => ScimAttribute.Find(operation, name) is { } member && operation[member]?.GetValueKind() == JsonValueKind.String ? operation[member]!.GetValue<string>() : null;
}

/// <summary>Where a PATCH operation works. Source: RFC 7644 figure 7.</summary>
public sealed record ScimPath(ScimAttribute Attribute, ScimFilter? Filter, string Sub)
{
    /// <summary>Reads a path; null when it is none.</summary>
    public static ScimPath? TryParse(string text)
    {
        var open = text.IndexOf('[', StringComparison.Ordinal);
        if (open < 0) return ScimAttribute.TryParse(text) is { } plain ? new ScimPath(plain, null, "") : null;
        if (ScimAttribute.TryParse(text[..open]) is not { Sub: "" } attribute) return null;
        if (new ScimFilterParser(text).ParseInner(open + 1, out var end) is not { } filter) return null;
        var rest = text[Math.Min(end, text.Length)..];
        if (rest.Length == 0) return new ScimPath(attribute, filter, "");
        return rest[0] == '.' && ScimAttribute.TryParse(rest[1..]) is { Sub: "", Schema: "" } sub ? new ScimPath(attribute, filter, sub.Name) : null;
    }
}
