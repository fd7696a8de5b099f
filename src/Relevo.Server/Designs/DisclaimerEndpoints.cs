using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Designs;
using Relevo.Core.Particulars;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;

namespace Relevo.Server.Designs;

/// <summary>A disclaimer to edit. UsedBy: numbers of the rules that add it. IsEdited: not yet published as it stands.</summary>
public sealed record DisclaimerRow(Guid Id, int Revision, bool IsEdited, Disclaimer Document, ImmutableArray<int> UsedBy);

/// <summary>A legal entity's particulars. Line: as they are written. Missing: items of its scheme that it lacks.</summary>
public sealed record ParticularsRow(Guid Entity, string Name, string Scheme, string Line, ImmutableArray<ParticularsItem> Missing);

/// <summary>Disclaimers and particulars.</summary>
public static class DisclaimerEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapDisclaimers(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/disclaimers", ListAsync).WithName("ListDisclaimers");
        routes.MapPost("/api/disclaimers", AddAsync).WithName("AddDisclaimer");
        routes.MapGet("/api/disclaimers/{id:guid}", FindAsync).WithName("ReadDisclaimer");
        routes.MapPut("/api/disclaimers/{id:guid}", SaveAsync).WithName("SaveDisclaimer");
        routes.MapDelete("/api/disclaimers/{id:guid}", RemoveAsync).WithName("RemoveDisclaimer");
        routes.MapGet("/api/particulars", ParticularsAsync).WithName("ListParticulars");
    }

    private static async Task<Ok<List<DisclaimerRow>>> ListAsync(Documents documents, Drafts drafts, EditionStore editions, CancellationToken cancellationToken)
    {
        var latest = await editions.LatestAsync(cancellationToken) is { } head ? await editions.FindAsync(head.Number, cancellationToken) : null;
        var rules = await drafts.ReadRulesAsync(cancellationToken);
        return TypedResults.Ok((await documents.ListAsync<Disclaimer>(DocumentKind.Disclaimer, cancellationToken)).Select(one =>
            new DisclaimerRow(one.Id, one.Revision, !Documents.IsSame(latest?.FindDisclaimer(one.Id), one.Document), one.Document, UsedBy(rules, one.Id))).ToList());
    }

    private static async Task<Results<Ok<DisclaimerRow>, ProblemHttpResult>> FindAsync(Guid id, Documents documents, Drafts drafts, HttpContext context, CancellationToken cancellationToken) =>
        await documents.FindAsync<Disclaimer>(DocumentKind.Disclaimer, id, context, cancellationToken) is { } one
            ? TypedResults.Ok(new DisclaimerRow(id, one.Revision, true, one.Document, UsedBy(await drafts.ReadRulesAsync(cancellationToken), id)))
            : Problems.NotFound("disclaimer");

    private static async Task<Results<Created<DisclaimerRow>, ProblemHttpResult>> AddAsync(Disclaimer document, Documents documents, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(document, rosters, cancellationToken) is { } refusal) return refusal;
        var id = await documents.AddAsync(DocumentKind.Disclaimer, document, user, cancellationToken);
        return TypedResults.Created($"/api/disclaimers/{id}", new DisclaimerRow(id, 1, true, document, []));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(Guid id, Disclaimer document, HttpContext context, Documents documents, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(document, rosters, cancellationToken) is { } refusal) return refusal;
        return await documents.SaveAsync(DocumentKind.Disclaimer, id, document, context, user, cancellationToken);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(Guid id, HttpContext context, Documents documents, Drafts drafts, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        UsedBy(await drafts.ReadRulesAsync(cancellationToken), id) is [_, ..] rules
            ? Documents.InUse("disclaimer", rules)
            : await documents.SaveAsync<Disclaimer>(DocumentKind.Disclaimer, id, null, context, user, cancellationToken);

    private static async Task<Ok<List<ParticularsRow>>> ParticularsAsync(CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var records = (await rosters.GetAsync(cancellationToken)).Records;
        return TypedResults.Ok(records.Units.Units.Where(unit => unit.Kind == UnitKind.Entity).Select(unit =>
        {
            var facts = EntityFacts.Of(records, unit.Name);
            var scheme = ParticularsScheme.For(facts("country"));
            return new ParticularsRow(unit.Id, unit.Name, scheme.Name, scheme.Write(facts), scheme.Missing(facts));
        }).ToList());
    }

    private static ImmutableArray<int> UsedBy(RuleSet rules, Guid id) =>
        [.. rules.Disclaimer.Select((rule, index) => (rule, number: index + 1)).Where(pair => pair.rule.Then is AddDisclaimers add && add.Disclaimers.Contains(id)).Select(pair => pair.number)];

    private static async Task<ProblemHttpResult?> RefuseAsync(Disclaimer document, CurrentRoster rosters, CancellationToken cancellationToken) =>
        Documents.Refuse("disclaimer", document.Check((await rosters.GetAsync(cancellationToken)).Records.Fields));
}
