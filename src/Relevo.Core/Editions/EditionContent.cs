using System.Collections.Immutable;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Relevo.Core.People;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Editions;

/// <summary>A design as an edition holds it.</summary>
public sealed record EditionDesign(Guid Id, DesignDocument Document);

/// <summary>A ready answer as an edition holds it.</summary>
public sealed record EditionAnswer(Guid Id, ReadyAnswer Document);

/// <summary>A disclaimer as an edition holds it.</summary>
public sealed record EditionDisclaimer(Guid Id, Disclaimer Document);

/// <summary>A banner as an edition holds it.</summary>
public sealed record EditionBanner(Guid Id, Banner Document);

/// <summary>A unit as an edition holds it.</summary>
public sealed record EditionUnit(Guid Id, UnitKind Kind, string Name, Guid? Parent, ImmutableSortedDictionary<string, string> Facts);

/// <summary>
/// An immutable state of designs, rules, audiences, disclaimers, banners and company facts. People are not in it: joiners are served without a new one. Designs stand in the order of their
/// ids, so that the same state has the same JSON and the same hash.
/// </summary>
public sealed record EditionContent(ImmutableArray<EditionDesign> Designs, RuleSet Rules)
{
    /// <summary>Ready answers, in the order of their ids.</summary>
    public ImmutableArray<EditionAnswer> Answers { get; init; } = [];

    /// <summary>Disclaimers, in the order of their ids.</summary>
    public ImmutableArray<EditionDisclaimer> Disclaimers { get; init; } = [];

    /// <summary>Banners, in the order of their ids.</summary>
    public ImmutableArray<EditionBanner> Banners { get; init; } = [];

    /// <summary>Who is inside, and the named audiences.</summary>
    public AudienceBook Audiences { get; init; } = AudienceBook.Empty;

    /// <summary>The company's units with their facts, in the order of their ids; none in editions of before they were in them.</summary>
    public ImmutableArray<EditionUnit> Units { get; init; } = [];

    /// <summary>The records that this edition is rendered with: people as they are now, company facts as it holds them.</summary>
    public CompanyRecords RecordsFrom(CompanyRecords records) => Units.IsEmpty
        ? records
        : records with { Units = new UnitChart([.. Units.Select(unit => new Unit(unit.Id, unit.Kind, unit.Name, unit.Parent, new Facts(unit.Facts), 1))]) };

    /// <summary>The units of a chart as an edition holds them.</summary>
    public static ImmutableArray<EditionUnit> UnitsOf(UnitChart chart) =>
        [.. chart.Units.OrderBy(unit => unit.Id).Select(unit => new EditionUnit(unit.Id, unit.Kind, unit.Name, unit.Parent, unit.Facts.Pairs.ToArray().ToImmutableSortedDictionary(StringComparer.Ordinal)))];

    /// <summary>An edition with nothing in it: what the first one is compared with.</summary>
    public static EditionContent Empty { get; } = new([], RuleSet.Empty);

    /// <summary>Puts designs and ready answers into their fixed order.</summary>
    public static EditionContent From(IEnumerable<EditionDesign> designs, RuleSet rules, IEnumerable<EditionAnswer> answers) =>
        new([.. designs.OrderBy(design => design.Id)], rules) { Answers = [.. answers.OrderBy(answer => answer.Id)] };

    /// <summary>The design of this id, or null.</summary>
    public DesignDocument? Find(Guid design) => Designs.FirstOrDefault(candidate => candidate.Id == design)?.Document;

    /// <summary>The disclaimer of this id, or null.</summary>
    public Disclaimer? FindDisclaimer(Guid id) => Disclaimers.FirstOrDefault(candidate => candidate.Id == id)?.Document;

    /// <summary>The banner of this id, or null.</summary>
    public Banner? FindBanner(Guid id) => Banners.FirstOrDefault(candidate => candidate.Id == id)?.Document;

    /// <summary>The rules with the time that each banner runs as a further condition of those that show it, so that traces and maps tell it.</summary>
    public RuleSet RulesInForce() => Rules with
    {
        Banner = [.. Rules.Banner.Select(rule => rule.Then is ShowBanner show && FindBanner(show.Banner)?.Runs is { } runs ? rule with { Conditions = rule.Conditions.Add(runs) } : rule)],
    };

    /// <summary>What people read for what rules name. person and field: for those, which no edition holds.</summary>
    public RuleNames Names(Func<Guid, string?> person, Func<string, string?> field) =>
        new(id => Find(id)?.Name, id => FindDisclaimer(id)?.Name, id => FindBanner(id)?.Name, Audiences.NameOf, person, field);

    /// <summary>The content as JSON.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, RelevoJson.Options);

    /// <summary>Reads what <see cref="ToJson"/> wrote.</summary>
    public static EditionContent FromJson(string json)
    {
        var content = JsonNode.Parse(json);
        RuleReading.Upgrade(content?["rules"]);
        return content.Deserialize<EditionContent>(RelevoJson.Options) ?? throw new JsonException("The edition is empty.");
    }

    /// <summary>SHA-256 of the JSON in lower-case hex.</summary>
    public string Sha256() => RenderedSignature.Sha256(Encoding.UTF8.GetBytes(ToJson()));
}
