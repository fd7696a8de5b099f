using System.Collections.Immutable;
using System.Text;
using System.Text.Json;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Editions;

/// <summary>A design as an edition holds it.</summary>
public sealed record EditionDesign(Guid Id, DesignDocument Document);

/// <summary>A ready answer as an edition holds it.</summary>
public sealed record EditionAnswer(Guid Id, ReadyAnswer Document);

/// <summary>
/// An immutable state of designs and rules. People are not in it: joiners are served without a new one. Designs stand in the order of their
/// ids, so that the same state has the same JSON and the same hash.
/// </summary>
public sealed record EditionContent(ImmutableArray<EditionDesign> Designs, RuleSet Rules)
{
    /// <summary>Ready answers, in the order of their ids.</summary>
    public ImmutableArray<EditionAnswer> Answers { get; init; } = [];

    /// <summary>An edition with nothing in it: what the first one is compared with.</summary>
    public static EditionContent Empty { get; } = new([], RuleSet.Empty);

    /// <summary>Puts designs and ready answers into their fixed order.</summary>
    public static EditionContent From(IEnumerable<EditionDesign> designs, RuleSet rules, IEnumerable<EditionAnswer> answers) =>
        new([.. designs.OrderBy(design => design.Id)], rules) { Answers = [.. answers.OrderBy(answer => answer.Id)] };

    /// <summary>The design of this id, or null.</summary>
    public DesignDocument? Find(Guid design) => Designs.FirstOrDefault(candidate => candidate.Id == design)?.Document;

    /// <summary>The content as JSON.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, RelevoJson.Options);

    /// <summary>Reads what <see cref="ToJson"/> wrote.</summary>
    public static EditionContent FromJson(string json) =>
        JsonSerializer.Deserialize<EditionContent>(json, RelevoJson.Options) ?? throw new JsonException("The edition is empty.");

    /// <summary>SHA-256 of the JSON in lower-case hex.</summary>
    public string Sha256() => RenderedSignature.Sha256(Encoding.UTF8.GetBytes(ToJson()));
}
