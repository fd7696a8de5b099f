using System.Collections.Immutable;
using System.Text.Json;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Xunit;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Rules;

public sealed class RuleCheckTests
{
    private static readonly HashSet<Guid> Designs = [Full, Short];

    public static TheoryData<Condition, string> Faulty => new()
    {
        { new OccasionCondition([]), "/signature/0/conditions/0/occasions occasion-empty" },
        { new AudienceCondition([]), "/signature/0/conditions/0/audiences audience-empty" },
        { new ClientCondition(["typewriter"]), "/signature/0/conditions/0/clients client-unknown" },
        { new ValueCondition("shoeSize", ValueTest.Present, []), "/signature/0/conditions/0/field field-unknown" },
        { new ValueCondition("portrait", ValueTest.Contains, ["a"]), "/signature/0/conditions/0/field field-picture" },
        { new ValueCondition("title", ValueTest.OneOf, []), "/signature/0/conditions/0/values value-empty" },
        { new ValueCondition("title", ValueTest.OneOf, [" "]), "/signature/0/conditions/0/values/0 value-form" },
        { new ValueCondition("title", ValueTest.Matches, ["(a"]), "/signature/0/conditions/0/values/0 pattern-form" },
        { new ValueCondition("title", ValueTest.Matches, [@"(a)\1"]), "/signature/0/conditions/0/values/0 pattern-form" },
        { new ValueCondition("title", ValueTest.Matches, ["(?=a)a"]), "/signature/0/conditions/0/values/0 pattern-form" },
        { new AddressCondition(["no address"]), "/signature/0/conditions/0/addresses/0 address-form" },
        { new DomainCondition(["a..b"]), "/signature/0/conditions/0/domains/0 domain-form" },
        { new TimeCondition("Nowhere/Atall"), "/signature/0/conditions/0 time-form" },
        { new TimeCondition("UTC") { From = "2026-12-02T00:00", Until = "2026-12-01T00:00" }, "/signature/0/conditions/0 time-form" },
        { new AnyOf([]), "/signature/0/conditions/0 within-empty" },
        { new AllOf([new NoneOf([new GroupCondition([])])]), "/signature/0/conditions/0/conditions/0/conditions/0/groups group-empty" },
        { Nest(7), "/signature/0/conditions/0/conditions/0/conditions/0/conditions/0/conditions/0/conditions/0 too-deep" },
        { new AnyOf([.. Enumerable.Repeat<Condition>(new AllOf([new GroupCondition(["a"])]), 30)]), "/signature/0/conditions too-many-conditions" },
        { new AddressCondition([.. Enumerable.Range(0, 1001).Select(number => $"a{number}@")]), "/signature/0/conditions/0/addresses too-many-values" },
    };

    [Theory]
    [MemberData(nameof(Faulty))]
    public void A_condition_that_could_never_be_meant_is_refused_with_its_place(Condition condition, string problem) =>
        Assert.Equal(problem, Codes(new RuleSet([Build.Rule(Full, condition)])).Single());

    [Fact]
    public void What_follows_from_a_rule_is_checked_too()
    {
        var rule = Build.Rule(Full, Array.Empty<Condition>());
        var rules = new RuleSet([rule, rule, rule with { Id = Guid.NewGuid(), Then = new CarryDesigns([German]) }, rule with { Id = Guid.NewGuid(), Then = new CarryDesigns([]) }, rule with { Id = Guid.NewGuid(), Then = new CarryDesigns([Full, Full]) }])
        {
            Disclaimer = [rule with { Id = Guid.NewGuid() }, rule with { Id = Guid.NewGuid(), Then = new AddDisclaimers([]) }],
            Banner = [rule with { Id = Guid.NewGuid(), Then = new ShowBanner(Tick, "javascript:alert(1)") }],
        };
        Assert.Equal(
            ["/signature/1/id rule-twice", "/signature/2/then/designs design-missing", "/signature/3/then/designs design-missing", "/signature/4/then/designs design-twice", "/disclaimer/0/then wrong-track", "/disclaimer/1/then/disclaimers disclaimer-missing", "/banner/0/then/link link-form"],
            Codes(rules));
    }

    [Fact]
    public void Two_thousand_rules_are_refused_with_their_number() =>
        Assert.Equal("There are 2000 rules on the signature track; at most 500 are possible.", RuleCheck.Check(new RuleSet([.. Enumerable.Range(0, 2000).Select(_ => Build.Rule(Full, Occasion.New))]), Designs, FieldCatalogue.Standard)[0].Message);

    /// <summary>A pattern that takes exponential time where it is run with backtracking (common practice: nested quantifiers over a near miss).</summary>
    [Fact]
    public void A_pattern_that_would_backtrack_for_ever_answers()
    {
        var condition = new ValueCondition("title", ValueTest.Matches, ["(a+)+b"]);
        Assert.Empty(Codes(new RuleSet([Build.Rule(Full, condition)])));
        var sender = Build.Sender("a@b.example", ("title", new string('a', 5_000) + "c"));
        Assert.Null(Decision.Decide(new RuleSet([Build.Rule(Full, condition)]), Records, new Situation(sender, Audiences.Outside, Occasion.New, "desk-app", Noon)).Rule);
    }

    [Fact]
    public void Rules_read_back_from_their_JSON_as_they_were()
    {
        foreach (var rules in FsCheck.Fluent.Gen.Sample(RuleSets, 100))
        {
            var json = JsonSerializer.Serialize(rules, RelevoJson.Options);
            Assert.Equal(json, JsonSerializer.Serialize(JsonSerializer.Deserialize<RuleSet>(json, RelevoJson.Options), RelevoJson.Options));
        }
    }

    [Fact]
    public void An_expectation_is_met_everywhere_or_its_first_failure_is_explained()
    {
        var rules = new RuleSet([Build.Rule(Short, Occasion.Reply), Build.Rule(Full, Array.Empty<Condition>())]) { Disclaimer = [new Rule(Guid.NewGuid(), true, [new UnitCondition(UnitKind.Office, ["Berlin"])], new AddDisclaimers([German]))] };
        var table = AccountTable.Of(Records, [Build.Sender("m@b.example", ("location", "Berlin"), ("title", "Vet")), Build.Sender("n@b.example", ("location", "Bath"), ("title", "Vet"))]);
        ImmutableArray<Condition> replies = [new OccasionCondition([Occasion.Reply]), new ValueCondition("title", ValueTest.OneOf, ["vet"])];
        RuleTest Test(params Guid[] designs) => new(Guid.NewGuid(), "", replies, [.. designs]);
        rules = rules with { Tests = [Test(Short), Test(Full), Test(), Test(Short) with { Disclaimers = [German] }, Test(Short) with { Conditions = [new GroupCondition(["nobody"])] }] };
        var results = RuleTesting.Check(ReachMap.Of(table, rules, Cells, Noon), Names);
        Assert.Equal([true, false, false, false, false], results.Select(result => result.IsMet));
        Assert.Equal([0, 2 * Cells.Length / 3, 2 * Cells.Length / 3, Cells.Length / 3, 0], results.Select(result => (int)result.Failed));
        Assert.Equal("n@b.example", results[3].First!.Situation.Sender.Address);
        Assert.Contains(results[1].First!.Decision.Trace, step => step is { Outcome: TraceOutcome.Matched, Reason: "this is a reply" });
        Assert.Null(results[4].First);
    }

    [Fact]
    public void An_expectation_for_a_moment_is_checked_at_that_moment()
    {
        var rules = new RuleSet([Build.Rule(Short, new TimeCondition("UTC") { From = "2026-12-24T00:00", Until = "2026-12-27T00:00" }), Build.Rule(Full, Array.Empty<Condition>())])
        {
            Tests = [new RuleTest(Guid.NewGuid(), "Christmas", [], [Short]) { Moment = "2026-12-24T12:00" }, new RuleTest(Guid.NewGuid(), "today", [], [Full])],
        };
        Assert.All(RuleTesting.Check(ReachMap.Of(AccountTable.Of(Records, [Build.Sender("m@b.example")]), rules, Cells, Noon), Names), result => Assert.True(result.IsMet));
    }

    private static Condition Nest(int depth) => depth == 0 ? new GroupCondition(["a"]) : new AllOf([Nest(depth - 1)]);

    private static IEnumerable<string> Codes(RuleSet rules) => RuleCheck.Check(rules, Designs, FieldCatalogue.Standard).Select(problem => $"{problem.Pointer} {problem.Code}");
}
