using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Rules;

/// <summary>Brute force over small worlds: every rule set of up to four rules is decided by going through it by hand.</summary>
public sealed class DecisionOracleTests
{
    private static readonly Occasion[] All = [Occasion.New, Occasion.Reply, Occasion.Forward];

    [Property(MaxTest = 500)]
    public Property The_decision_is_the_first_rule_that_is_on_and_names_the_occasion() => Prop.ForAll(
        Gen.ListOf(Gen.Choose(0, 15), 4).ToArbitrary(),
        numbers =>
        {
            var rules = numbers.Select(Make).ToArray();
            foreach (var occasion in All)
            {
                var decision = Decision.Decide(new RuleSet([.. rules]), new Situation("a@b.example", occasion));
                Guid? winner = null;
                foreach (var rule in rules)
                {
                    if (winner is null && rule.IsOn && (rule.Conditions.IsEmpty || ((OccasionCondition)rule.Conditions[0]).Occasions.Contains(occasion))) winner = rule.Id;
                }

                Assert.Equal(winner, decision.Rule);
                Assert.Equal(rules.FirstOrDefault(rule => rule.Id == winner)?.Design, decision.Design);
                Assert.Equal(rules.Select(rule => rule.Id), decision.Trace.Select(step => step.Rule));
                Assert.Equal(winner is null ? 0 : 1, decision.Trace.Count(step => step.Outcome == TraceOutcome.Matched));
            }
        });

    /// <summary>Bits 0 to 2: occasions, none of them meaning always; bit 3: off.</summary>
    private static Rule Make(int number)
    {
        var occasions = All.Where((_, bit) => (number & (1 << bit)) != 0).ToArray();
        return Build.Rule(Guid.NewGuid(), occasions) with { IsOn = (number & 8) == 0 };
    }
}
