using System.Collections.Immutable;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Xunit;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Rules;

/// <summary>The set evaluation against the plain one: two implementations of one definition, over made-up rules, people and situations.</summary>
public sealed class ReachTests
{
    private static readonly Gen<(RuleSet Rules, Sender[] Senders)> Worlds = from rules in RuleSets from senders in Crowds(70) select (rules, senders);

    [Property(MaxTest = 80)]
    public Property Everybody_gets_in_every_square_what_the_plain_evaluation_says() => Prop.ForAll(Worlds.ToArbitrary(), world =>
        AssertSame(ReachMap.Of(AccountTable.Of(Records, world.Senders), world.Rules, Cells, Noon)));

    [Property(MaxTest = 40)]
    public Property An_edited_rule_set_gives_the_map_that_a_fresh_one_gives() => Prop.ForAll(
        (from world in Worlds from other in RuleOn(Track.Signature) from at in Gen.Choose(0, 5) from kind in Gen.Choose(0, 3) select (world, other, at, kind)).ToArbitrary(),
        edit =>
        {
            var before = ReachMap.Of(AccountTable.Of(Records, edit.world.Senders), edit.world.Rules, Cells, Noon);
            var rules = edit.world.Rules.Signature;
            var edited = edit.kind switch
            {
                0 => rules.SetItem(edit.at, edit.other),
                1 => rules.RemoveAt(edit.at).Insert(0, rules[edit.at]),
                2 => rules.SetItem(edit.at, rules[edit.at] with { IsOn = !rules[edit.at].IsOn }),
                _ => rules.RemoveAt(edit.at),
            };
            AssertSame(before.With(edit.world.Rules with { Signature = edited }));
            AssertSame(before);
        });

    [Property(MaxTest = 40)]
    public Property When_people_change_join_and_leave_only_their_places_are_looked_at_and_the_map_is_right() => Prop.ForAll(
        (from world in Worlds from changed in SenderOf(world.Senders[^1].Person) from joined in SenderOf(Guid.NewGuid()) select (world, changed, joined)).ToArbitrary(),
        change =>
        {
            var table = AccountTable.Of(Records, change.world.Senders);
            var map = ReachMap.Of(table, change.world.Rules, Cells, Noon);
            var (next, places) = table.With(new Dictionary<Guid, IReadOnlyList<Sender>>
            {
                [change.changed.Person] = [change.changed],
                [change.joined.Person] = [change.joined],
                [change.world.Senders[0].Person] = change.world.Senders[0].Person == change.changed.Person ? [change.changed] : [],
            });
            Assert.InRange(places.Length, 1, 8);
            AssertSame(map.With(next, places));
        });

    [Fact]
    public void Counts_holes_and_lists_agree_with_each_other()
    {
        var map = ReachMap.Of(AccountTable.Of(Records, [.. Enumerable.Range(0, 200).Select(index => Build.Sender($"p{index}@brackenfold.example", ("location", index % 4 == 0 ? "Berlin" : "Bath")))]), new RuleSet([Build.Rule(Full, new UnitCondition(UnitKind.Office, ["Berlin"])), Build.Rule(null, Occasion.Reply)]), Cells, Noon);
        var square = map.PlaceOf(new Cell(Audiences.Outside, Occasion.New, "desk-app"));
        Assert.Equal(50, map.Won(Track.Signature, 0, square));
        Assert.Equal(150, map.Holes(square));
        Assert.Equal(150, map.WonBy(-1, square).Count);
        Assert.Equal(0, map.Holes(map.PlaceOf(new Cell(Audiences.Inside, Occasion.Reply, "desk-app"))));
    }

    [Fact]
    public void An_edit_tells_which_accounts_move_from_which_rule_to_which()
    {
        var rules = new RuleSet([Build.Rule(Full, Array.Empty<Condition>())]);
        var map = ReachMap.Of(AccountTable.Of(Records, [Build.Sender("a@b.example", ("location", "Bath")), Build.Sender("c@b.example", ("location", "Berlin"))]), rules, Cells, Noon);
        var first = Build.Rule(Short, new UnitCondition(UnitKind.Office, ["Bath"]), new OccasionCondition([Occasion.New]));
        var shift = Assert.Single(ReachDifference.Compare(map, map.With(rules with { Signature = [first, .. rules.Signature] })));
        Assert.Equal((rules.Signature[0].Id, first.Id, 1, Cells.Length / 3), (shift.From, shift.To, shift.Accounts, shift.Squares.Length));
        Assert.Empty(ReachDifference.Compare(map, map.With(rules with { Signature = [rules.Signature[0] with { Note = "why" }] })));
    }

    [Property(MaxTest = 40)]
    public Property What_rules_that_add_gain_and_lose_is_what_the_plain_evaluation_gains_and_loses() => Prop.ForAll(
        (from world in Worlds from other in RuleOn(Track.Disclaimer) from at in Gen.Choose(0, 3) select (world, other, at)).ToArbitrary(),
        edit =>
        {
            var before = ReachMap.Of(AccountTable.Of(Records, edit.world.Senders), edit.world.Rules, Cells, Noon);
            var after = before.With(edit.world.Rules with { Disclaimer = edit.world.Rules.Disclaimer.SetItem(edit.at, edit.other) });
            var (was, isNow) = (Adding(before), Adding(after));
            var gains = ReachDifference.CompareAdding(before, after).ToDictionary(gain => gain.Rule);
            foreach (var rule in was.Concat(isNow).Select(one => one.Rule).Distinct())
            {
                int Beyond(HashSet<(Guid Rule, int Place, int Square)> those, HashSet<(Guid Rule, int Place, int Square)> others) => those.Except(others).Where(one => one.Rule == rule).Select(one => one.Place).Distinct().Count();
                var expected = (Beyond(isNow, was), Beyond(was, isNow));
                Assert.Equal(expected, gains.TryGetValue(rule, out var gain) ? (gain.Gained, gain.Lost) : (0, 0));
            }
        });

    /// <summary>Which rules of the adding tracks take effect for which account in which square, by going through them.</summary>
    private static HashSet<(Guid Rule, int Place, int Square)> Adding(ReachMap map)
    {
        var found = new HashSet<(Guid, int, int)>();
        foreach (var (place, square) in from place in map.Accounts.Alive.Places() from square in Enumerable.Range(0, map.Cells.Length) select (place, square))
        {
            var cell = map.Cells[square];
            var trace = Decision.Explain(map.Rules, map.Accounts.Records, new Situation(map.Accounts[place], cell.Audience, cell.Occasion, cell.Client, map.Moment), Names).Trace;
            foreach (var step in trace.Where(step => step.Track != Track.Signature && step.Outcome == TraceOutcome.Matched)) found.Add((step.Rule, place, square));
        }

        return found;
    }

    [Fact]
    public void Another_moment_gives_another_map()
    {
        var rules = new RuleSet([Build.Rule(Short, new TimeCondition("Europe/Berlin") { From = "2026-12-24T00:00", Until = "2026-12-27T00:00" }), Build.Rule(Full, Array.Empty<Condition>())]);
        var map = ReachMap.Of(AccountTable.Of(Records, [Build.Sender("a@b.example")]), rules, Cells, Noon);
        Assert.Equal(Full, map.Decide(0, 0).Design);
        Assert.Equal(Short, map.At(NodaTime.Instant.FromUtc(2026, 12, 24, 9, 0)).Decide(0, 0).Design);
    }

    [Fact]
    public void A_company_without_anybody_and_a_rule_set_without_rules_have_maps()
    {
        Assert.Equal(0, ReachMap.Of(AccountTable.Of(Records, []), new RuleSet([Build.Rule(Full, Occasion.New)]), Cells, Noon).Won(Track.Signature, 0, 0));
        Assert.Equal(1, ReachMap.Of(AccountTable.Of(Records, [Build.Sender("a@b.example")]), RuleSet.Empty, Cells, Noon).Holes(0));
    }

    private static void AssertSame(ReachMap map)
    {
        for (var square = 0; square < map.Cells.Length; square++)
        {
            var (cell, won, disclaimed) = (map.Cells[square], new int[map.Rules.Signature.Length], new int[map.Rules.Banner.Length]);
            foreach (var place in map.Accounts.Alive.Places())
            {
                var plain = Decision.Decide(map.Rules, map.Accounts.Records, new Situation(map.Accounts[place], cell.Audience, cell.Occasion, cell.Client, map.Moment));
                var set = map.Decide(place, square);
                Assert.Equal((plain.Rule?.Id, plain.Design), (set.Rule?.Id, set.Design));
                Assert.Equal(plain.Disclaimers.AsEnumerable(), set.Disclaimers);
                Assert.Equal(plain.Banners.AsEnumerable(), set.Banners);
                if (plain.Rule is not null) won[map.Rules.Signature.IndexOf(plain.Rule)]++;
            }

            for (var rule = 0; rule < won.Length; rule++)
            {
                Assert.Equal(won[rule], map.Won(Track.Signature, rule, square));
                Assert.Equal(won[rule], map.WonBy(Track.Signature, rule, square).Count);
            }

            for (var rule = 0; rule < map.Rules.Disclaimer.Length; rule++) Assert.Equal(map.WonBy(Track.Disclaimer, rule, square).Count, map.Won(Track.Disclaimer, rule, square));
            Assert.Equal(map.Accounts.Count, won.Sum() + map.Holes(square));
        }
    }
}
