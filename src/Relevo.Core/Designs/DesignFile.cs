using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Relevo.Core.Designs;

/// <summary>A picture that designs of a file refer to.</summary>
/// <param name="Sha256">The hash by which they refer to it.</param>
/// <param name="Name">Its name in the library.</param>
/// <param name="Png">The file, in base64.</param>
public sealed record FilePicture(string Sha256, string Name, byte[] Png);

/// <summary>A theme under a name.</summary>
public sealed record NamedTheme(string Name, Theme Theme);

/// <summary>Designs, a whole set or themes as one file that another Relevo can take in.</summary>
/// <param name="Format">Always <see cref="CurrentFormat"/>.</param>
/// <param name="Designs">The designs.</param>
/// <param name="Themes">Themes to keep by themselves.</param>
/// <param name="Pictures">Every library picture that the designs show.</param>
public sealed record DesignFile(string Format, ImmutableArray<DesignDocument> Designs, ImmutableArray<NamedTheme> Themes, ImmutableArray<FilePicture> Pictures)
{
    /// <summary>The form that is written; another is not read.</summary>
    public const string CurrentFormat = "relevo-designs/1";

    /// <summary>Designs, themes and pictures each at most.</summary>
    public const int MostOfAKind = 100;

    /// <summary>The published JSON Schema of a file. Source: JSON Schema 2020-12.</summary>
    public static string Schema() => RelevoJson.Schema(typeof(DesignFile), "Designs, sets and themes of Relevo", CurrentFormat);

    /// <summary>The file as JSON; the same designs give the same bytes.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, RelevoJson.Options);

    /// <summary>Reads a file. What cannot be read is a problem with the place as a JSON Pointer (RFC 6901), never an exception.</summary>
    public static (DesignFile? File, ImmutableArray<DesignProblem> Problems) Restore(string json)
    {
        try
        {
            var parsed = JsonNode.Parse(json) as JsonObject;
            if (parsed?["format"] is not JsonValue format || format.ToString() != CurrentFormat) return (null, [new("/format", "format-unknown", $"This is not a file of designs: its format is not \"{CurrentFormat}\".")]);
            if (parsed["designs"] is JsonArray designs && Unreadable(designs) is { IsEmpty: false } problems) return (null, problems);
            var file = parsed.Deserialize<DesignFile>(RelevoJson.Options)!;
            if (file.Themes.Contains(null!) || file.Pictures.Contains(null!)) return (null, [new("", "file-unreadable", "This is not a file of designs: a theme or a picture in it is nothing.")]);
            if (file.Designs.Length > MostOfAKind || file.Themes.Length > MostOfAKind || file.Pictures.Length > MostOfAKind) return (null, [new("", "too-many", $"A file has at most {MostOfAKind} designs, themes and pictures each.")]);
            return (file, []);
        }
        catch (Exception unreadable) when (unreadable is JsonException or NotSupportedException or InvalidOperationException or ArgumentException)
        {
            return (null, [new("", "file-unreadable", $"This is not a file of designs: {(unreadable as JsonException)?.Path ?? "the JSON"} cannot be read.")]);
        }
    }

    /// <summary>What is wrong with the file where it is to be taken in. library: hashes of the pictures that are there.</summary>
    public ImmutableArray<DesignProblem> Check(People.FieldCatalogue catalogue, IEnumerable<string> library)
    {
        var problems = ImmutableArray.CreateBuilder<DesignProblem>();
        var pictures = library.Concat(Pictures.Select(picture => picture.Sha256)).ToHashSet(StringComparer.Ordinal);
        for (var index = 0; index < Designs.Length; index++) problems.AddRange(DesignCheck.Check(Designs[index], catalogue, pictures).Select(problem => problem with { Pointer = $"/designs/{index}{problem.Pointer}" }));
        for (var index = 0; index < Themes.Length; index++) problems.AddRange(DesignCheck.CheckTheme(Themes[index].Name, Themes[index].Theme).Select(problem => problem with { Pointer = $"/themes/{index}{problem.Pointer}" }));
        if (Pictures.Select(picture => picture.Sha256).Distinct(StringComparer.Ordinal).Count() < Pictures.Length) problems.Add(new("/pictures", "picture-twice", "A picture is in the file twice."));
        foreach (var set in DesignSet.Of(Designs.Select(design => (Guid.Empty, design))))
        {
            if (Designs.Any(design => design.Set == set.Name && design.Theme != set.Theme)) problems.Add(new("/designs", "theme-of-set", $"The designs of the set \"{set.Name}\" have different themes."));
        }

        return problems.ToImmutable();
    }

    /// <summary>The designs under names and in sets that are not taken, so that nothing there is changed by them, showing the pictures under the hashes they were kept by.</summary>
    public ImmutableArray<DesignDocument> Arrive(IEnumerable<string> takenNames, IReadOnlyCollection<string> takenSets, IReadOnlyDictionary<string, string> kept)
    {
        var names = takenNames.ToList();
        var arriving = ImmutableArray.CreateBuilder<DesignDocument>(Designs.Length);
        foreach (var design in Designs)
        {
            var name = DesignSet.FreeName(design.Name, names);
            names.Add(name);
            var blocks = design.Blocks.Select(pair => KeyValuePair.Create(pair.Key, pair.Value.WithPictures(sha256 => kept.GetValueOrDefault(sha256, sha256))));
            arriving.Add(design with { Name = name, Set = takenSets.Contains(design.Set) && design.Set.Length > 0 ? DesignSet.CopyName(design.Set, takenSets) : design.Set, Blocks = design.Blocks.Clear().AddRange(blocks) });
        }

        return arriving.MoveToImmutable();
    }

    /// <summary>The themes under names that are not taken.</summary>
    public ImmutableArray<NamedTheme> ArriveThemes(IEnumerable<string> takenNames)
    {
        var names = takenNames.ToList();
        var arriving = ImmutableArray.CreateBuilder<NamedTheme>(Themes.Length);
        foreach (var theme in Themes)
        {
            arriving.Add(theme with { Name = DesignSet.FreeName(theme.Name, names) });
            names.Add(arriving[^1].Name);
        }

        return arriving.MoveToImmutable();
    }

    private static ImmutableArray<DesignProblem> Unreadable(JsonArray designs) =>
        [.. designs.Take(MostOfAKind).SelectMany((design, index) => DesignDocument.Restore(design?.ToJsonString() ?? "null").Problems.Select(problem => problem with { Pointer = $"/designs/{index}{problem.Pointer}" }))];
}
