using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.SignIn;

namespace Relevo.Server.Rules;

/// <summary>A rule with its sentence.</summary>
public sealed record RuleRow(Rule Rule, ImmutableArray<SentencePiece> Sentence);

/// <summary>The signature track.</summary>
public sealed record RulesAnswer(int Revision, ImmutableArray<RuleRow> Signature);

/// <summary>The Rules leg.</summary>
public static class RuleEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapRules(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/rules", ReadAsync).WithName("ReadRules");
        routes.MapPut("/api/rules", SaveAsync).WithName("SaveRules");
    }

    private static async Task<Ok<RulesAnswer>> ReadAsync(RuleStore rules, Drafts drafts, HttpContext context, CancellationToken cancellationToken)
    {
        var stored = await rules.ReadAsync(cancellationToken);
        var content = await drafts.ReadAsync(cancellationToken);
        Revision.Show(context, stored.Revision);
        var rows = Drafts.ReadRules(stored.Draft).Signature.Select(rule => new RuleRow(rule, Sentence.Write(rule, id => content.Find(id)?.Name)));
        return TypedResults.Ok(new RulesAnswer(stored.Revision, [.. rows]));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(
        RuleSet ruleSet, RuleStore rules, DesignStore designs, HttpContext context, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        var known = (await designs.ListAsync(cancellationToken)).Select(design => design.Id).ToHashSet();
        if (RuleCheck.Check(ruleSet, known) is { IsEmpty: false } problems)
            return Problems.Invalid("The rules have faults and were not saved.", problems.Select(problem => new Fault(problem.Pointer, 0, problem.Code, problem.Message)));
        var draft = System.Text.Json.JsonSerializer.Serialize(ruleSet, Core.RelevoJson.Options);
        if (await rules.SaveAsync(seen, draft, user.Actor(), cancellationToken) != SaveOutcome.Saved) return Problems.LostUpdate("rules");
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }
}
