using System.Collections.Immutable;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Relevo.Core.People.Formats.Scim;

namespace Relevo.Core.People.Sources;

/// <summary>A SCIM user as a record: simple attributes by name, parts by "name.part", lists by "emails" and by type, "phoneNumbers.mobile" ("untyped" without one). Source: RFC 7643 section 4.1.</summary>
public static class ScimRecord
{
    private const string Photo = "photos.inline";

    /// <summary>How users become people unless the source says otherwise.</summary>
    public static Mapping Mapping { get; } = new(
        ["id"],
        ["emails"],
        [
            Take("displayName", "displayName", "name.formatted", "userName"), Take("givenName", "name.givenName"), Take("surname", "name.familyName"), Take("postNominals", "name.honorificSuffix"),
            Take("title", "title"), Take("department", "enterprise.department"), Take("organisation", "enterprise.organization"), Take("employeeNumber", "enterprise.employeeNumber"),
            Take("telephone", "phoneNumbers.work", "phoneNumbers.other", "phoneNumbers.untyped"), Take("mobile", "phoneNumbers.mobile"), Take("fax", "phoneNumbers.fax"),
            Take("location", "addresses.work.locality", "addresses.locality"), Take("street", "addresses.work.streetAddress", "addresses.streetAddress"), Take("postalCode", "addresses.work.postalCode", "addresses.postalCode"),
            Take("country", "addresses.work.country", "addresses.country"), Take("webAddress", "profileUrl"), Take("language", "preferredLanguage"), Take("portrait", Photo),
        ],
        HasStandardFields: false);

    /// <summary>The photo that stands inside a user as a data URI (RFC 2397): the primary one, otherwise the first. Null when there is none; a photo's address elsewhere is not followed.</summary>
    public static byte[]? InlinePhoto(JsonObject user)
    {
        if (user["photos"] is not JsonArray photos) return null;
        foreach (var photo in photos.OfType<JsonObject>().OrderByDescending(IsPrimary))
        {
            if (photo["value"]?.GetValueKind() != JsonValueKind.String || photo["value"]!.GetValue<string>() is not { } text || !text.StartsWith("data:", StringComparison.OrdinalIgnoreCase)) continue;
            var comma = text.IndexOf(',', StringComparison.Ordinal);
            if (comma < 0) return [];
            if (!text.AsSpan(0, comma).EndsWith(";base64", StringComparison.OrdinalIgnoreCase)) return Encoding.UTF8.GetBytes(Uri.UnescapeDataString(text[(comma + 1)..]));
            var bytes = new byte[(text.Length - comma) / 4 * 3 + 3];
            return Convert.TryFromBase64Chars(text.AsSpan(comma + 1), bytes, out var written) ? bytes[..written] : [];
        }

        return null;
    }

    /// <summary>Reads a user. id: the provider's own. photo: the hash under which its inline photo is kept, or null. Primary values come before the others.</summary>
    public static DirectoryRecord Read(string id, JsonObject user, string? photo)
    {
        var values = ImmutableArray.CreateBuilder<RecordValue>();
        Add(values, "id", id);
        if (photo is not null) values.Add(new RecordValue(Photo, photo, 0));
        foreach (var (name, value) in user)
        {
            if (name == ScimAttribute.Enterprise && value is JsonObject extension)
            {
                foreach (var (part, text) in extension) Add(values, $"enterprise.{part}", text);
            }
            else if (value is JsonArray list)
            {
                foreach (var item in list.OfType<JsonObject>().OrderByDescending(IsPrimary)) AddItem(values, name, item);
            }
            else if (value is JsonObject complex)
            {
                foreach (var (part, text) in complex) Add(values, $"{name}.{part}", text);
            }
            else Add(values, name, value);
        }

        return new DirectoryRecord("", 0, values.ToImmutable());
    }

    private static void AddItem(ImmutableArray<RecordValue>.Builder values, string name, JsonObject item)
    {
        var type = item["type"]?.GetValueKind() == JsonValueKind.String && item["type"]!.GetValue<string>().ToLowerInvariant() is { Length: > 0 } given ? given : "untyped";
        foreach (var (part, text) in item)
        {
            if (part is "type" or "primary") continue;
            Add(values, part == "value" ? name : $"{name}.{part}", text);
            Add(values, part == "value" ? $"{name}.{type}" : $"{name}.{type}.{part}", text);
        }
    }

    private static void Add(ImmutableArray<RecordValue>.Builder values, string attribute, JsonNode? value)
    {
        if (value?.GetValueKind() != JsonValueKind.String) return;
        var text = value.GetValue<string>();
        if (text.StartsWith("data:", StringComparison.OrdinalIgnoreCase)) return; // bytes, not words
        // RFC 7643 section 4.1.2 writes telephone numbers as tel: URIs where it can.
        if (text.StartsWith("tel:", StringComparison.OrdinalIgnoreCase)) text = text[4..].Replace(";ext=", " ext. ", StringComparison.OrdinalIgnoreCase).Replace('-', ' ');
        if (FieldValue.OneLine(text) is { Length: > 0 } line) values.Add(new RecordValue(attribute, line, 0));
    }

    private static bool IsPrimary(JsonObject item) => item["primary"]?.GetValueKind() == JsonValueKind.True;

    private static FieldMapping Take(string field, params ImmutableArray<string> attributes) => new(field, attributes, null, []);
}
