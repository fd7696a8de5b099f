using System.Collections.Immutable;
using Relevo.Core.People;

namespace Relevo.Core.Rules;

/// <summary>What became of one rule while deciding.</summary>
public enum TraceOutcome
{
    /// <summary>All conditions held.</summary>
    Matched,

    /// <summary>A condition did not hold.</summary>
    Failed,

    /// <summary>The rule is switched off.</summary>
    SwitchedOff,

    /// <summary>An earlier rule had decided, or stopped the track.</summary>
    NotReached,
}

/// <summary>One condition looked at: what it asks, what it met, and whether it held.</summary>
public sealed record ConditionTrace(string Asked, string Met, bool Holds);

/// <summary>One rule looked at.</summary>
/// <param name="Track">The track it is on.</param>
/// <param name="Number">Its place in the track, from 1.</param>
/// <param name="Rule">Its id.</param>
/// <param name="Outcome">What became of it.</param>
/// <param name="Reason">The condition that failed or matched and the value it met, as a phrase.</param>
/// <param name="Conditions">Its conditions, as far as they were looked at.</param>
public sealed record TraceStep(Track Track, int Number, Guid Rule, TraceOutcome Outcome, string Reason, ImmutableArray<ConditionTrace> Conditions);

/// <summary>What follows for a situation, on all three tracks.</summary>
/// <param name="Rule">The rule that decided on the signature track, or null when none matched.</param>
/// <param name="Design">The design chosen; null when the rule says "nothing" or none matched.</param>
/// <param name="Disclaimers">Disclaimers added, in order, each once.</param>
/// <param name="Banners">Banners that want to be shown, in order.</param>
/// <param name="Trace">Every rule, in order; empty when nobody asked why.</param>
public sealed record Decision(Rule? Rule, Guid? Design, ImmutableArray<Guid> Disclaimers, ImmutableArray<ShowBanner> Banners, ImmutableArray<TraceStep> Trace)
{
    /// <summary>Decides for one situation. The plain evaluation: it goes through the rules as one reads them.</summary>
    public static Decision Decide(RuleSet rules, CompanyRecords records, Situation situation) => Decide(rules, records, situation, null);

    /// <summary>The same, with the trace. names: what people read for what rules name.</summary>
    public static Decision Explain(RuleSet rules, CompanyRecords records, Situation situation, RuleNames names) => Decide(rules, records, situation, names);

    /// <summary>What matched on each track, made into what follows.</summary>
    internal static Decision Follow(Rule? winner, IEnumerable<Rule> disclaimers, IEnumerable<Rule> banners, Situation situation, ImmutableArray<TraceStep> trace) => new(
        winner,
        winner?.DesignFor(situation.Moment, situation.Message),
        [.. disclaimers.SelectMany(rule => rule.Then is AddDisclaimers add ? add.Disclaimers : []).Distinct()],
        [.. banners.Select(rule => rule.Then).OfType<ShowBanner>()],
        trace);

    private static Decision Decide(RuleSet rules, CompanyRecords records, Situation situation, RuleNames? names)
    {
        var trace = ImmutableArray.CreateBuilder<TraceStep>();
        var matched = Enum.GetValues<Track>().Select(track => Run(track, rules.On(track), records, situation, names, trace)).ToArray();
        return Follow(matched[0].FirstOrDefault(), matched[1], matched[2], situation, trace.ToImmutable());
    }

    private static List<Rule> Run(Track track, ImmutableArray<Rule> rules, CompanyRecords records, Situation situation, RuleNames? names, ImmutableArray<TraceStep>.Builder trace)
    {
        var matched = new List<Rule>();
        var isOver = false;
        for (var index = 0; index < rules.Length; index++)
        {
            var rule = rules[index];
            if (names is not null) trace.Add(Look(track, index + 1, rule, isOver, records, situation, names));
            if (isOver || !rule.IsOn || !rule.Conditions.All(condition => Conditions.Holds(condition, situation, records))) continue;
            matched.Add(rule);
            isOver = Ends(rule, track);
            if (isOver && names is null) break;
        }

        return matched;
    }

    /// <summary>True when a rule that matches is the last one of its track.</summary>
    internal static bool Ends(Rule rule, Track track) => track == Track.Signature || rule.Then is StopDisclaimers;

    private static TraceStep Look(Track track, int number, Rule rule, bool isOver, CompanyRecords records, Situation situation, RuleNames names)
    {
        if (!rule.IsOn) return new TraceStep(track, number, rule.Id, TraceOutcome.SwitchedOff, "switched off", []);
        if (isOver) return new TraceStep(track, number, rule.Id, TraceOutcome.NotReached, track == Track.Signature ? "an earlier rule decided" : "an earlier rule stopped the track", []);
        var looked = ImmutableArray.CreateBuilder<ConditionTrace>();
        foreach (var condition in rule.Conditions)
        {
            var step = new ConditionTrace(Words.Led(condition, names), Why(condition, records, situation, names), Conditions.Holds(condition, situation, records));
            looked.Add(step);
            if (!step.Holds) return new TraceStep(track, number, rule.Id, TraceOutcome.Failed, WhyNot(condition, records, situation, names), looked.ToImmutable());
        }

        return new TraceStep(track, number, rule.Id, TraceOutcome.Matched, rule.Conditions.IsEmpty ? "it holds always" : string.Join(", ", looked.Select(step => step.Met).Distinct()), looked.ToImmutable());
    }

    /// <summary>What a condition met; of those within others, the ones that made the difference.</summary>
    private static string Why(Condition condition, CompanyRecords records, Situation situation, RuleNames names)
    {
        if (condition.Within.IsEmpty) return condition is AllOf or AnyOf or NoneOf ? "nothing is asked" : Words.Met(condition, situation, records, names);
        var telling = condition is AnyOf ? condition.Within.Where(inner => Conditions.Holds(inner, situation, records)).Take(1).DefaultIfEmpty(condition.Within[0]) : condition.Within;
        return string.Join(", ", telling.Select(inner => Why(inner, records, situation, names)).Distinct());
    }

    /// <summary>What a condition that does not hold met, and what it wanted.</summary>
    private static string WhyNot(Condition condition, CompanyRecords records, Situation situation, RuleNames names) => condition switch
    {
        AllOf all when all.Conditions.FirstOrDefault(inner => !Conditions.Holds(inner, situation, records)) is { } failed => WhyNot(failed, records, situation, names),
        AnyOf { Conditions.IsEmpty: false } any => string.Join(", ", any.Conditions.Select(inner => WhyNot(inner, records, situation, names)).Distinct()),
        NoneOf none when none.Conditions.FirstOrDefault(inner => Conditions.Holds(inner, situation, records)) is { } held => $"{Why(held, records, situation, names)}, which is ruled out",
        AllOf or AnyOf or NoneOf => "nothing could hold here",
        _ => Words.Wanted(condition, names) is { Length: > 0 } wanted ? $"{Words.Met(condition, situation, records, names)}, not {wanted}" : Words.Met(condition, situation, records, names),
    };
}
