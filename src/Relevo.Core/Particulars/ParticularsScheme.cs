using System.Collections.Immutable;
using System.Text.Json;
using System.Text.RegularExpressions;
using Relevo.Core.People;

namespace Relevo.Core.Particulars;

/// <summary>Something that business mail must state.</summary>
/// <param name="Code">A stable name.</param>
/// <param name="Label">What it is, for people.</param>
/// <param name="Fields">Fields of the legal entity that state it; all are needed.</param>
/// <param name="Forms">Legal forms it is asked of; none for all.</param>
/// <param name="Source">The section of the law.</param>
/// <param name="IsFromMemory">True when the item was written down from memory of the law and not from its text.</param>
public sealed record ParticularsItem(string Code, string Label, ImmutableArray<string> Fields, ImmutableArray<string> Forms, string Source, bool IsFromMemory);

/// <summary>What a country asks business mail to state, and how it is written. Data, read from a JSON file.</summary>
/// <param name="Country">ISO 3166-1 alpha-2, or empty for the minimum that holds elsewhere in the European Union.</param>
/// <param name="Name">What people read.</param>
/// <param name="Items">What must be stated.</param>
/// <param name="Line">Pieces of the line; a field's name in braces stands for its value, and a piece whose fields are all empty disappears.</param>
/// <param name="Separator">What stands between two pieces.</param>
public sealed partial record ParticularsScheme(string Country, string Name, ImmutableArray<ParticularsItem> Items, ImmutableArray<string> Line, string Separator)
{
    /// <summary>Every shipped scheme, the general one last.</summary>
    public static ImmutableArray<ParticularsScheme> All { get; } = [Load("gb"), Load("de"), Load("se"), Load("eu")];

    /// <summary>The scheme of a country; the general one for any other.</summary>
    public static ParticularsScheme For(string country) => All.FirstOrDefault(scheme => string.Equals(scheme.Country, country, StringComparison.OrdinalIgnoreCase)) ?? All[^1];

    /// <summary>The items that an entity lacks. value: a field's value, or empty.</summary>
    public ImmutableArray<ParticularsItem> Missing(Func<string, string> value)
    {
        var form = value("legalForm");
        return [.. Items.Where(item => (item.Forms.IsEmpty || item.Forms.Contains(form, StringComparer.OrdinalIgnoreCase)) && item.Fields.Any(field => value(field).Length == 0))];
    }

    /// <summary>The line as it is written for an entity. value: a field's value, or empty.</summary>
    public string Write(Func<string, string> value) => string.Join(Separator, Line.Select(piece => FieldPattern().Matches(piece) is { Count: > 0 } fields && fields.All(field => value(field.Groups[1].Value).Length == 0)
        ? ""
        : FieldPattern().Replace(piece, field => value(field.Groups[1].Value)).Trim()).Where(piece => piece.Length > 0));

    /// <summary>Every field the line shows or an item asks for.</summary>
    public IEnumerable<string> Fields => Line.SelectMany(piece => FieldPattern().Matches(piece).Select(match => match.Groups[1].Value)).Concat(Items.SelectMany(item => item.Fields)).Distinct(StringComparer.Ordinal);

    private static ParticularsScheme Load(string name)
    {
        using var file = typeof(ParticularsScheme).Assembly.GetManifestResourceStream($"Relevo.Core.Particulars.Schemes.{name}.json")
            ?? throw new InvalidOperationException($"The scheme \"{name}\" is not in the assembly.");
        return JsonSerializer.Deserialize<ParticularsScheme>(file, RelevoJson.Options)!;
    }

    [GeneratedRegex(@"\{([A-Za-z][A-Za-z0-9]*)\}", RegexOptions.CultureInvariant)]
    private static partial Regex FieldPattern();
}

/// <summary>The legal entity of an account, as schemes see it.</summary>
public static class EntityFacts
{
    /// <summary>Values of the entity a person names, then of the company; empty where neither says anything.</summary>
    public static Func<string, string> Of(CompanyRecords records, string organisation)
    {
        var entity = records.Units.Find(UnitKind.Entity, organisation);
        return field => FieldValue.OneLine(entity?.Facts[field] ?? records.Units.Company?.Facts[field] ?? (field == "legalName" ? organisation : ""));
    }
}
