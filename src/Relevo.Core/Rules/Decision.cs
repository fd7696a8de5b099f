using System.Collections.Immutable;

namespace Relevo.Core.Rules;

/// <summary>What became of one rule while deciding.</summary>
public enum TraceOutcome
{
    /// <summary>All conditions held: this rule decides.</summary>
    Matched,

    /// <summary>A condition did not hold.</summary>
    Failed,

    /// <summary>The rule is switched off.</summary>
    SwitchedOff,

    /// <summary>An earlier rule had decided.</summary>
    NotReached,
}

/// <summary>One rule looked at.</summary>
/// <param name="Number">Its place in the track, from 1.</param>
/// <param name="Rule">Its id.</param>
/// <param name="Outcome">What became of it.</param>
/// <param name="Reason">The condition that failed or matched and the value it met, as a phrase.</param>
public sealed record TraceStep(int Number, Guid Rule, TraceOutcome Outcome, string Reason);

/// <summary>The signature track's result for a situation.</summary>
/// <param name="Rule">The rule that decided, or null when none matched.</param>
/// <param name="Design">The design chosen; null when the rule says "nothing" or none matched.</param>
/// <param name="Trace">Every rule, in order.</param>
public sealed record Decision(Guid? Rule, Guid? Design, ImmutableArray<TraceStep> Trace)
{
    /// <summary>Decides by the first rule that is on and whose conditions all hold. The one rule evaluation.</summary>
    public static Decision Decide(RuleSet rules, Situation situation)
    {
        Rule? winner = null;
        var trace = ImmutableArray.CreateBuilder<TraceStep>(rules.Signature.Length);
        for (var index = 0; index < rules.Signature.Length; index++)
        {
            var rule = rules.Signature[index];
            var (outcome, reason) = winner is not null
                ? (TraceOutcome.NotReached, "an earlier rule decided")
                : Look(rule, situation);
            if (outcome == TraceOutcome.Matched) winner = rule;
            trace.Add(new TraceStep(index + 1, rule.Id, outcome, reason));
        }

        return new Decision(winner?.Id, winner?.Design, trace.MoveToImmutable());
    }

    private static (TraceOutcome Outcome, string Reason) Look(Rule rule, Situation situation)
    {
        if (!rule.IsOn) return (TraceOutcome.SwitchedOff, "switched off");
        foreach (var condition in rule.Conditions)
        {
            if (!Holds(condition, situation)) return (TraceOutcome.Failed, $"this is a {Words.Of(situation.Occasion)}, not a {Words.Of(condition)}");
        }

        return (TraceOutcome.Matched, rule.Conditions.IsEmpty ? "it holds always" : $"this is a {Words.Of(situation.Occasion)}");
    }

    private static bool Holds(Condition condition, Situation situation) => condition switch
    {
        OccasionCondition occasion => occasion.Occasions.Contains(situation.Occasion),
        _ => throw new ArgumentException($"The condition {condition.GetType().Name} is not known.", nameof(condition)),
    };
}
