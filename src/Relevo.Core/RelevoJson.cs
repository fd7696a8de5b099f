using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;

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
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false));
    }

    private static JsonSerializerOptions Create()
    {
        var options = new JsonSerializerOptions();
        Configure(options);
        options.MakeReadOnly(populateMissingResolver: true);
        return options;
    }
}
