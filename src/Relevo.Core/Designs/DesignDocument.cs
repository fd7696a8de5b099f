using System.Collections.Immutable;
using System.Text;
using System.Text.Json;

namespace Relevo.Core.Designs;

/// <summary>Colours by role, as #rrggbb.</summary>
public sealed record ThemeColours(string Name, string Text, string Soft, string Line);

/// <summary>Sizes by role, in CSS pixels.</summary>
public sealed record ThemeSizes(int Name, int Text, int Small);

/// <summary>What a design looks like, apart from what it says: swapping it keeps the content.</summary>
/// <param name="Colours">Colours by role.</param>
/// <param name="FontStack">One of <see cref="FontStacks"/>.</param>
/// <param name="Sizes">Sizes by role.</param>
/// <param name="LineHeight">Line height in percent of the size.</param>
public sealed record Theme(ThemeColours Colours, string FontStack, ThemeSizes Sizes, int LineHeight)
{
    /// <summary>Room of gaps, between columns and round dividers, in percent of what the blocks say.</summary>
    public int Spacing { get; init; } = 100;

    /// <summary>How disclaimers are set apart.</summary>
    public NoticeStyle Notice { get; init; }

    /// <summary>So many pixels of room as this theme has them.</summary>
    public int Spaced(int pixels) => ((pixels * Spacing) + 50) / 100;

    /// <summary>Font stacks that mail programs have without loading anything. Common practice.</summary>
    public static ImmutableArray<string> FontStacks { get; } =
    [
        "Arial, Helvetica, sans-serif",
        "Verdana, Geneva, sans-serif",
        "Tahoma, Geneva, sans-serif",
        "Georgia, 'Times New Roman', serif",
        "'Times New Roman', Times, serif",
    ];
}

/// <summary>One signature: a theme and a tree of blocks, kept flat by key.</summary>
/// <param name="Name">The design's name.</param>
/// <param name="Theme">Its look.</param>
/// <param name="Root">Keys of the topmost blocks, from top to bottom.</param>
/// <param name="Blocks">Every block by key; each is used exactly once.</param>
public sealed record DesignDocument(string Name, Theme Theme, ImmutableArray<string> Root, ImmutableSortedDictionary<string, Block> Blocks)
{
    /// <summary>The set it belongs to, by name, or empty. Designs of a set share one theme: see <see cref="DesignSet"/>.</summary>
    public string Set { get; init; } = "";

    /// <summary>The design that stands in where this one is too long for a client, by name, or empty for none.</summary>
    public string Smaller { get; init; } = "";

    /// <summary>
    /// Literal texts in other languages: by language (RFC 5646), then by the text as it stands in a block. The person's language decides, a region
    /// falling back to its language (RFC 4647 section 3.4) and a language that is not here to the text itself.
    /// </summary>
    public ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, string>> Languages { get; init; } = ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, string>>.Empty;

    /// <summary>
    /// Reads a design from JSON. The only door for stored and sent designs: what cannot be read is a problem with the place
    /// as a JSON Pointer (RFC 6901), never an exception.
    /// </summary>
    public static DesignReading Restore(string json)
    {
        try
        {
            var document = JsonSerializer.Deserialize<DesignDocument>(json, RelevoJson.Options);
            return document is null
                ? new DesignReading(null, [new DesignProblem("", "design-empty", "The design is empty.")])
                : new DesignReading(document, []);
        }
        catch (Exception unreadable) when (unreadable is JsonException or NotSupportedException)
        {
            return new DesignReading(null, [Place(json, unreadable)]);
        }
    }

    /// <summary>The document as JSON; the same document gives the same bytes.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, RelevoJson.Options);

    private static DesignProblem Place(string json, Exception unreadable)
    {
        if (UnknownKind(json) is { } unknown) return unknown;
        var pointer = PointerFrom((unreadable as JsonException)?.Path);
        return new DesignProblem(pointer, "design-unreadable", pointer.Length == 0
            ? "This is not a design: the JSON cannot be read."
            : $"The value at {pointer} cannot be read here.");
    }

    /// <summary>The reader's own path stops short of the discriminator, so the kinds are looked at by themselves.</summary>
    private static DesignProblem? UnknownKind(string json)
    {
        try
        {
            using var parsed = JsonDocument.Parse(json);
            if (parsed.RootElement.ValueKind != JsonValueKind.Object || !parsed.RootElement.TryGetProperty("blocks", out var blocks) || blocks.ValueKind != JsonValueKind.Object) return null;
            foreach (var block in blocks.EnumerateObject())
            {
                var kind = block.Value.ValueKind == JsonValueKind.Object && block.Value.TryGetProperty("kind", out var value) ? value.ToString() : "";
                if (!BlockKinds.All.Contains(kind))
                    return new DesignProblem($"/blocks/{Escape(block.Name)}/kind", "block-unknown", $"\"{kind}\" is not a kind of block; known are {string.Join(", ", BlockKinds.All)}.");
            }
        }
        catch (JsonException)
        {
            // Not JSON at all: the caller says so.
        }

        return null;
    }

    /// <summary>Turns the reader's <c>$.a['b c'].d[0]</c> into a JSON Pointer.</summary>
    private static string PointerFrom(string? path)
    {
        if (path is null or "$") return "";
        var pointer = new StringBuilder();
        foreach (var step in path[1..].Replace("['", ".", StringComparison.Ordinal).Replace("']", "", StringComparison.Ordinal).Replace("[", ".", StringComparison.Ordinal).Replace("]", "", StringComparison.Ordinal).Split('.', StringSplitOptions.RemoveEmptyEntries))
            pointer.Append('/').Append(Escape(step));
        return pointer.ToString();
    }

    internal static string Escape(string key) => key.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal);
}

/// <summary>The names of the kinds of blocks as designs write them.</summary>
public static class BlockKinds
{
    /// <summary>Every kind, in the order of <see cref="Block"/>'s own list.</summary>
    public static ImmutableArray<string> All { get; } =
        [.. typeof(Block).GetCustomAttributes(typeof(System.Text.Json.Serialization.JsonDerivedTypeAttribute), inherit: false)
            .Cast<System.Text.Json.Serialization.JsonDerivedTypeAttribute>()
            .Select(attribute => (string)attribute.TypeDiscriminator!)];
}

/// <summary>What is wrong with a design.</summary>
/// <param name="Pointer">Where, as a JSON Pointer into the document.</param>
/// <param name="Code">A stable name for the kind of problem.</param>
/// <param name="Message">A sentence for the editor.</param>
public sealed record DesignProblem(string Pointer, string Code, string Message);

/// <summary>A design, or why there is none.</summary>
public sealed record DesignReading(DesignDocument? Document, ImmutableArray<DesignProblem> Problems);
