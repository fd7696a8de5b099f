using System.Text.Json;
using Relevo.Core;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.Rules;
using Relevo.Data;

namespace Relevo.Server.Lens;

/// <summary>The drafts as they are now, in the form an edition would take.</summary>
public sealed class Drafts(DesignStore designs, RuleStore rules, ReadyAnswerStore answers)
{
    /// <summary>Reads designs, rules and ready answers.</summary>
    public async Task<EditionContent> ReadAsync(CancellationToken cancellationToken)
    {
        var stored = await designs.ListAsync(cancellationToken);
        var ruleSet = ReadRules((await rules.ReadAsync(cancellationToken)).Draft);
        return EditionContent.From(stored.Select(design => new EditionDesign(design.Id, ReadDesign(design))), ruleSet, (await answers.ListAsync(cancellationToken)).Select(answer => new EditionAnswer(answer.Id, ReadAnswer(answer))));
    }

    /// <summary>A stored design; it was checked when it was saved.</summary>
    public static DesignDocument ReadDesign(StoredDesign design) =>
        DesignDocument.Restore(design.Draft).Document ?? throw new InvalidOperationException($"The stored design {design.Id} cannot be read.");

    /// <summary>A stored ready answer.</summary>
    public static ReadyAnswer ReadAnswer(StoredAnswer answer) => JsonSerializer.Deserialize<ReadyAnswer>(answer.Draft, RelevoJson.Options)!;

    /// <summary>A stored rule set.</summary>
    public static RuleSet ReadRules(string draft) => JsonSerializer.Deserialize<RuleSet>(draft, RelevoJson.Options)!;
}
