using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Text.Json;
using Relevo.Core;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.People;

namespace Relevo.Server.Lens;

/// <summary>The drafts as they are now, in the form an edition would take.</summary>
public sealed class Drafts(DesignStore designs, RuleStore rules, DocumentStore documents, CurrentRoster rosters)
{
    private readonly ConcurrentDictionary<Guid, (int Revision, object Document)> read = new(); // the newest revision of each document: an audience may have 100,000 members
    private NewestRules? newestRules; // one reference, so that no request sees half of it

    /// <summary>Reads designs, rules, audiences, disclaimers, banners, ready answers and company facts.</summary>
    public async Task<EditionContent> ReadAsync(CancellationToken cancellationToken)
    {
        var stored = await designs.ListAsync(cancellationToken);
        var ruleSet = await ReadRulesAsync(cancellationToken);
        var others = await ReadDocumentsAsync(cancellationToken);
        return EditionContent.From(
            stored.Select(design => new EditionDesign(design.Id, ReadDesign(design))), ruleSet, others.Where(one => one.Document is ReadyAnswer).Select(one => new EditionAnswer(one.Id, (ReadyAnswer)one.Document))) with
        {
            Disclaimers = [.. others.Where(one => one.Document is Disclaimer).OrderBy(one => one.Id).Select(one => new EditionDisclaimer(one.Id, (Disclaimer)one.Document))],
            Banners = [.. others.Where(one => one.Document is Banner).OrderBy(one => one.Id).Select(one => new EditionBanner(one.Id, (Banner)one.Document))],
            Audiences = others.Select(one => one.Document).OfType<AudienceBook>().FirstOrDefault() ?? AudienceBook.Empty,
            Units = EditionContent.UnitsOf((await rosters.GetAsync(cancellationToken)).Records.Units),
        };
    }

    /// <summary>The rules alone; the same object as long as nobody changes them.</summary>
    public async Task<RuleSet> ReadRulesAsync(CancellationToken cancellationToken)
    {
        var stored = await rules.ReadAsync(cancellationToken);
        if (newestRules is { } known && known.Revision == stored.Revision) return known.Rules;
        var ruleSet = RuleReading.Read(stored.Draft);
        newestRules = new NewestRules(stored.Revision, ruleSet);
        return ruleSet;
    }

    /// <summary>The audience book alone; the same object as long as nobody changes it.</summary>
    public async Task<AudienceBook> ReadAudiencesAsync(CancellationToken cancellationToken) =>
        (await ReadDocumentsAsync(cancellationToken)).Select(one => one.Document).OfType<AudienceBook>().FirstOrDefault() ?? AudienceBook.Empty;

    /// <summary>A stored design; it was checked when it was saved.</summary>
    public static DesignDocument ReadDesign(StoredDesign design) =>
        DesignDocument.Restore(design.Draft).Document ?? throw new InvalidOperationException($"The stored design {design.Id} cannot be read.");

    /// <summary>A stored document.</summary>
    public static object ReadDocument(StoredDocument stored) => stored.Kind switch
    {
        DocumentKind.Answer => JsonSerializer.Deserialize<ReadyAnswer>(stored.Draft, RelevoJson.Options)!,
        DocumentKind.Disclaimer => JsonSerializer.Deserialize<Disclaimer>(stored.Draft, RelevoJson.Options)!,
        DocumentKind.Banner => JsonSerializer.Deserialize<Banner>(stored.Draft, RelevoJson.Options)!,
        _ => JsonSerializer.Deserialize<AudienceBook>(stored.Draft, RelevoJson.Options)!,
    };

    private sealed record NewestRules(int Revision, RuleSet Rules);

    private async Task<ImmutableArray<(Guid Id, object Document)>> ReadDocumentsAsync(CancellationToken cancellationToken)
    {
        var known = read.ToDictionary(one => one.Key, one => one.Value.Revision);
        var stored = await documents.ListAsync(cancellationToken, known);
        var all = ImmutableArray.CreateBuilder<(Guid, object)>(stored.Count);
        foreach (var document in stored)
        {
            // An empty draft says that this revision was read before; another request may have read a newer one since, which is as good.
            var kept = document.Draft.Length > 0 ? (document.Revision, ReadDocument(document)) : read[document.Id];
            if (document.Draft.Length > 0) read[document.Id] = kept;
            all.Add((document.Id, kept.Item2));
        }

        return all.MoveToImmutable();
    }
}
