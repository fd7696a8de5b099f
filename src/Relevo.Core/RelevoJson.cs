using System.Collections;
using System.Collections.Immutable;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;

namespace Relevo.Core;

/// <summary>The one JSON form of Relevo's documents: camel case, enums by name, unknown members refused.</summary>
public static class RelevoJson
{
    /// <summary>Options for documents that are stored, hashed or exchanged.</summary>
    public static JsonSerializerOptions Options { get; } = Create();

    /// <summary>Sets the same form on options that somebody else owns, such as the web framework's.</summary>
    public static void Configure(JsonSerializerOptions options)
    {
        options.PropertyNamingPolicy = JsonNamingPolicy.CamelCase;
        options.UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow;
        // PostgreSQL's jsonb does not keep the order of members, so "kind" may come last.
        options.AllowOutOfOrderMetadataProperties = true;
        options.RespectNullableAnnotations = true;
        options.RespectRequiredConstructorParameters = true;
        options.NumberHandling = JsonNumberHandling.Strict;
        options.Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping;
        options.TypeInfoResolver = (options.TypeInfoResolver ?? new DefaultJsonTypeInfoResolver()).WithAddedModifier(RefuseNulls);
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false));
    }

    /// <summary>The JSON Schema of a kind of file. format: what its member "format" always says, or null for a file without one. Source: JSON Schema 2020-12.</summary>
    public static string Schema(Type file, string title, string? format = null)
    {
        var schema = Options.GetJsonSchemaAsNode(file, new JsonSchemaExporterOptions { TreatNullObliviousAsNonNullable = true }).AsObject();
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "title", title);
        if (format is not null) schema["properties"]!["format"] = new JsonObject { ["const"] = format };
        return schema.ToJsonString(new JsonSerializerOptions(Options) { WriteIndented = true }) + "\n";
    }

    /// <summary>
    /// Looks at every object that was read: null where the type says there is none, or among the members of a list or a map, is refused like anything else
    /// that cannot be read. The reader itself sees to constructors alone.
    /// </summary>
    private static void RefuseNulls(JsonTypeInfo type)
    {
        if (type.Kind != JsonTypeInfoKind.Object || type.Type.Namespace?.StartsWith("Relevo.", StringComparison.Ordinal) != true) return;
        // One of several kinds that does not say which is refused like anything else that cannot be read; by itself the reader calls that not supported.
        if (type.Type.IsAbstract && type.PolymorphismOptions is not null) type.CreateObject = () => throw new JsonException("The kind is missing.");
        var after = type.OnDeserialized;
        type.OnDeserialized = read =>
        {
            foreach (var member in type.Properties)
            {
                if (member.Get is null || member.PropertyType.IsPrimitive) continue;
                var value = member.Get(read);
                if (value is null && !member.IsGetNullable || HasNull(value)) throw new JsonException($"\"{member.Name}\" holds null where there must be a value.");
            }

            after?.Invoke(read);
        };
    }

    private static bool HasNull(object? value) => value switch
    {
        null or string => false,
        Array bytes when bytes.GetType().GetElementType()!.IsPrimitive => false,
        IDictionary map => map.Values.Cast<object?>().Any(IsNullOrHasOne),
        _ when IsDefaultArray(value) => false, // a list that was left out
        IEnumerable list => list.Cast<object?>().Any(IsNullOrHasOne),
        _ => false,
    };

    private static bool IsNullOrHasOne(object? value) => value is null || HasNull(value);

    private static bool IsDefaultArray(object value) => value.GetType() is { IsGenericType: true } type && type.GetGenericTypeDefinition() == typeof(ImmutableArray<>) && value.Equals(Activator.CreateInstance(type));

    private static JsonSerializerOptions Create()
    {
        var options = new JsonSerializerOptions();
        Configure(options);
        options.MakeReadOnly(populateMissingResolver: true);
        return options;
    }
}
