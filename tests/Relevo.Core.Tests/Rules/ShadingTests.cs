using System.Collections.Immutable;
using System.Numerics;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Xunit;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Rules;

/// <summary>Dead rules and holes, with brute force over small worlds as the oracle: every subset of earlier rules is tried.</summary>
public sealed class ShadingTests
{
    [Property(MaxTest = 150)]
    public Property A_dead_rule_is_shaded_by_as_few_rules_as_brute_force_finds() => Prop.ForAll(
        (from rules in RuleOn(Track.Signature).ListOf(7) from senders in Crowds(6) select (rules: rules.ToImmutableArray(), senders)).ToArbitrary(),
        world =>
        {
            var map = ReachMap.Of(AccountTable.Of(Records, world.senders), new RuleSet(world.rules), Cells, Noon);
            var dead = Shading.Find(map, Track.Signature).ToDictionary(one => one.Rule);
            for (var rule = 0; rule < world.rules.Length; rule++)
            {
                var matched = Matched(map, world.rules[rule]);
                var covers = matched.Count == 0 ? null : SmallestCover(matched, [.. world.rules[..rule].Select(earlier => Matched(map, earlier))]);
                Assert.Equal(covers is not null, dead.ContainsKey(rule));
                if (covers is null) continue;
                Assert.True(dead[rule].IsSmallest);
                Assert.Equal(covers, dead[rule].Shaders.Length);
                Assert.Superset(matched, dead[rule].Shaders.SelectMany(shader => Matched(map, world.rules[shader])).ToHashSet());
            }
        });

    [Fact]
    public void Two_rules_that_only_together_cover_a_third_are_both_named()
    {
        var rules = new RuleSet([Build.Rule(Full, Occasion.New), Build.Rule(Full, new UnitCondition(UnitKind.Office, ["Bath"])), Build.Rule(Short, Occasion.Reply, Occasion.Forward), Build.Rule(Short, Occasion.New, Occasion.Reply)]);
        var map = ReachMap.Of(AccountTable.Of(Records, [Build.Sender("a@b.example", ("location", "Bath")), Build.Sender("c@b.example")]), rules, Cells, Noon);
        var dead = Assert.Single(Shading.Find(map, Track.Signature));
        Assert.Equal((3, true), (dead.Rule, dead.IsSmallest));
        Assert.Equal([0, 2], dead.Shaders);
    }

    [Fact]
    public void On_the_disclaimer_track_only_a_stop_shades()
    {
        Rule Adds(Guid disclaimer) => new(Guid.NewGuid(), true, [], new AddDisclaimers([disclaimer]));
        var rules = new RuleSet([]) { Disclaimer = [Adds(German), Adds(Full), new Rule(Guid.NewGuid(), true, [], new StopDisclaimers()), Adds(Short)] };
        var map = ReachMap.Of(AccountTable.Of(Records, [Build.Sender("a@b.example")]), rules, Cells, Noon);
        var dead = Assert.Single(Shading.Find(map, Track.Disclaimer));
        Assert.Equal(3, dead.Rule);
        Assert.Equal([2], dead.Shaders);
    }

    private static HashSet<(int, int)> Matched(ReachMap map, Rule rule) => !rule.IsOn ? [] :
    [
        .. from square in Enumerable.Range(0, map.Cells.Length)
           from place in map.Accounts.Alive.Places()
           let cell = map.Cells[square]
           let situation = new Situation(map.Accounts[place], cell.Audience, cell.Occasion, cell.Client, map.Moment)
           where rule.Conditions.All(condition => Conditions.Holds(condition, situation, map.Accounts.Records))
           select (place, square),
    ];

    private static int? SmallestCover(HashSet<(int, int)> wanted, HashSet<(int, int)>[] sets)
    {
        int? best = null;
        for (var chosen = 0u; chosen < 1u << sets.Length; chosen++)
        {
            var count = BitOperations.PopCount(chosen);
            if (count >= (best ?? int.MaxValue)) continue;
            var taken = new HashSet<(int, int)>(Enumerable.Range(0, sets.Length).Where(index => (chosen >> index & 1) == 1).SelectMany(index => sets[index]));
            if (wanted.IsSubsetOf(taken)) best = count;
        }

        return best;
    }
}
