using System.Collections.Immutable;

namespace Relevo.Core.Rules;

/// <summary>What is wrong with a rule set.</summary>
/// <param name="Pointer">Where, as a JSON Pointer (RFC 6901).</param>
/// <param name="Code">A stable name for the kind of problem.</param>
/// <param name="Message">A sentence for the administrator.</param>
public sealed record RuleProblem(string Pointer, string Code, string Message);

/// <summary>Finds what is wrong with a rule set before it is kept.</summary>
public static class RuleCheck
{
    /// <summary>Rules on one track; people stop being able to read them aloud long before.</summary>
    public const int MaxRules = 500;

    /// <summary>Checks every rule. designs: the designs that exist.</summary>
    public static ImmutableArray<RuleProblem> Check(RuleSet rules, IReadOnlySet<Guid> designs)
    {
        var problems = ImmutableArray.CreateBuilder<RuleProblem>();
        if (rules.Signature.Length > MaxRules) problems.Add(new("/signature", "too-many-rules", $"There are at most {MaxRules} rules on a track."));
        var seen = new HashSet<Guid>();
        for (var index = 0; index < rules.Signature.Length; index++)
        {
            var rule = rules.Signature[index];
            if (!seen.Add(rule.Id)) problems.Add(new($"/signature/{index}/id", "rule-twice", "Two rules have the same id."));
            if (rule.Design is { } design && !designs.Contains(design)) problems.Add(new($"/signature/{index}/design", "design-missing", "The rule names a design that does not exist."));
            if (rule.Conditions.OfType<OccasionCondition>().Any(condition => condition.Occasions.IsEmpty))
                problems.Add(new($"/signature/{index}/conditions", "occasion-empty", "The rule names no occasion, so it could never match."));
        }

        return problems.ToImmutable();
    }
}
