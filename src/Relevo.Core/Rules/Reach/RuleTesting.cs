using System.Collections.Immutable;
using NodaTime.Text;

namespace Relevo.Core.Rules.Reach;

/// <summary>Checks what administrators expect of the rules, over everybody it is said of.</summary>
public static class RuleTesting
{
    /// <summary>Checks every expectation of the map's rules. names: for the trace of a failed one.</summary>
    public static ImmutableArray<RuleTestResult> Check(ReachMap map, RuleNames names) => [.. map.Rules.Tests.Select(test => Check(test, map, names))];

    private static RuleTestResult Check(RuleTest test, ReachMap map, RuleNames names)
    {
        if (test.Moment.Length > 0 && LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm").Parse(test.Moment) is { Success: true } moment) map = map.At(moment.Value.InUtc().ToInstant());
        var matcher = new RuleMatcher(map.Accounts, test.Conditions);
        var isExpected = map.Rules.Signature.Select(rule => rule.Then is CarryDesigns carry ? carry.Designs.All(test.Designs.Contains) : test.Designs.IsEmpty).ToArray();
        var (situations, failed, first) = (0L, 0L, (FailedSituation?)null);
        for (var square = 0; square < map.Cells.Length; square++)
        {
            foreach (var place in matcher.In(map.Cells[square], map.Moment).Among(map.Accounts).Places())
            {
                situations++;
                var winner = map.Winner(place, square);
                var isMet = winner < 0 ? test.Designs.IsEmpty : isExpected[winner];
                if (isMet && test.Disclaimers is { } disclaimers) isMet = map.Decide(place, square).Disclaimers.AsSpan().SequenceEqual(disclaimers.AsSpan());
                if (isMet) continue;
                failed++;
                first ??= Explain(map, place, map.Cells[square], names);
            }
        }

        return new RuleTestResult(test.Id, situations, failed, first);
    }

    private static FailedSituation Explain(ReachMap map, int place, Cell cell, RuleNames names)
    {
        var situation = new Situation(map.Accounts[place], cell.Audience, cell.Occasion, cell.Client, map.Moment);
        return new FailedSituation(situation, Decision.Explain(map.Rules, map.Accounts.Records, situation, names));
    }
}
