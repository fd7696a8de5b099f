using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Xunit;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Rules;

public sealed class FindingTests
{
    private static readonly EditionContent Content = EditionContent.From([new EditionDesign(Full, Build.Full()), new EditionDesign(Short, Build.Short())], RuleSet.Empty, []) with
    {
        Audiences = Book,
        Disclaimers = [new EditionDisclaimer(German, Says("Nur für Sie."))],
        Banners = [new EditionBanner(Tick, new Banner("Tick season", BannerLayout.Stacked, "Ticks", "", "Book", "https://brackenfold.example"))],
    };

    private static readonly Sender[] People =
    [
        Build.Sender("mia@brackenfold.example", ("displayName", "Mia"), ("location", "Berlin"), ("telephone", "+49 30 23125 118"), ("groups", "Rota"), ("organisation", "Brackenfold Tiermedizin GmbH")),
        Build.Sender("joel@brackenfold.example", ("displayName", "Joel"), ("location", "Bath")),
    ];

    [Fact]
    public void A_hole_is_said_with_who_is_left_out_of_what()
    {
        var messages = Of([Build.Rule(Full, Occasion.New), Build.Rule(Short, new OccasionCondition([Occasion.Reply, Occasion.Forward]), new UnitCondition(UnitKind.Office, ["Berlin"]))]).Where(finding => finding.Code == "hole").Select(finding => finding.Message);
        Assert.Equal(["joel@brackenfold.example has no signature in a reply or forward: no rule matches."], messages);
        Assert.Contains("Nobody has a signature in any message: no rule matches.", Of([]).Select(finding => finding.Message));
        Assert.Contains("Nobody has a signature in a new message to suppliers on the pocket app: no rule matches.", Of([Build.Rule(Full, new NoneOf([new AllOf([new OccasionCondition([Occasion.New]), new AudienceCondition(["suppliers"]), new ClientCondition(["pocket-app"])])]))]).Select(finding => finding.Message));
    }

    [Fact]
    public void A_dead_rule_is_said_with_those_that_come_first()
    {
        var finding = Assert.Single(Of([Build.Rule(Short, Occasion.Reply), Build.Rule(Full, Occasion.New, Occasion.Forward), Build.Rule(Full, new AudienceCondition(["suppliers"]))]), finding => finding.Code == "dead");
        Assert.Equal("Rule 3 never wins: rules 1 and 2 together come first in all its cases.", finding.Message);
        Assert.Equal(2, finding.Others.Length);
    }

    public static TheoryData<Condition, string, FindingWeight> Gone => new()
    {
        { new AudienceCondition(["owners"]), "audience-gone", FindingWeight.Stops },
        { new ValueCondition("shoeSize", ValueTest.Present, []), "field-gone", FindingWeight.Stops },
        { new TimeCondition("Nowhere/Atall"), "time-unreadable", FindingWeight.Stops },
        { new GroupCondition(["Retired rota"]), "group-empty", FindingWeight.Look },
        { new UnitCondition(UnitKind.Office, ["Atlantis"]), "unit-gone", FindingWeight.Look },
        { new PersonCondition([Guid.NewGuid()]), "person-gone", FindingWeight.Look },
        { new AddressCondition(["gone@brackenfold.example"]), "address-gone", FindingWeight.Look },
        { new ValueCondition("title", ValueTest.Present, []), "nobody", FindingWeight.Look },
        { new TimeCondition("UTC") { Until = "2026-11-01T00:00" }, "over", FindingWeight.Note },
        { new TimeCondition("UTC") { From = "2026-12-01T00:00" }, "ahead", FindingWeight.Note },
    };

    [Theory]
    [MemberData(nameof(Gone))]
    public void What_a_rule_names_and_is_not_there_is_said_and_the_next_rule_decides(Condition condition, string code, FindingWeight weight)
    {
        var rules = new[] { Build.Rule(Short, condition), Build.Rule(Full, Array.Empty<Condition>()) };
        Assert.Contains(Of(rules), finding => finding.Code == code && finding.Weight == weight && finding.Rule == rules[0].Id);
        Assert.All(ReachMap.Of(AccountTable.Of(Records, People), new RuleSet([.. rules]), Cells, Noon) is var map ? Enumerable.Range(0, Cells.Length) : [], square => Assert.Equal(Full, map.Decide(0, square).Design));
    }

    [Fact]
    public void Designs_disclaimers_and_banners_that_are_gone_stop_publishing_unless_the_rule_is_off()
    {
        var rules = new RuleSet([Build.Rule(Guid.NewGuid(), Occasion.New), Build.Rule(Guid.NewGuid(), Occasion.New) with { IsOn = false }])
        {
            Disclaimer = [new Rule(Guid.NewGuid(), true, [], new AddDisclaimers([Guid.NewGuid()]))],
            Banner = [new Rule(Guid.NewGuid(), true, [], new ShowBanner(Guid.NewGuid()))],
        };
        Assert.Equal(["design-gone", "disclaimer-gone", "banner-gone"], Of(rules).Where(finding => finding.Weight == FindingWeight.Stops).Select(finding => finding.Code));
    }

    [Fact]
    public void What_no_rule_uses_and_what_says_the_same_twice_is_said()
    {
        var content = Content with { Disclaimers = [.. Content.Disclaimers, new EditionDisclaimer(Guid.NewGuid(), Says("nur FÜR sie"))] };
        var findings = ReachFindings.Of(ReachMap.Of(AccountTable.Of(Records, People), new RuleSet([Build.Rule(Full, Array.Empty<Condition>())]), Cells, Noon), content, Names).ToArray();
        Assert.Equal(["disclaimers-alike", "empty", "design-unused", "disclaimer-unused", "disclaimer-unused", "banner-unused"], findings.Select(finding => finding.Code));
        Assert.Contains("reaches joel@brackenfold.example, which has nothing for its ways to be reached", findings[1].Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Particulars_that_lack_something_are_said_where_a_rule_adds_them()
    {
        var content = Content with { Disclaimers = [new EditionDisclaimer(German, Says("") with { HasParticulars = true, Texts = ImmutableSortedDictionary<string, DisclaimerText>.Empty })] };
        var rules = new RuleSet([]) { Disclaimer = [new Rule(Guid.NewGuid(), true, [], new AddDisclaimers([German]))] };
        var finding = Assert.Single(ReachFindings.Of(ReachMap.Of(AccountTable.Of(Records, [People[0]]), rules, Cells, Noon), content, Names), finding => finding.Code == "particulars-missing");
        Assert.StartsWith("The particulars of Brackenfold Tiermedizin GmbH lack: ", finding.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_file_of_rules_finds_things_by_name_in_another_company_and_says_what_it_does_not_find()
    {
        var rules = new RuleSet([Build.Rule(Full, Occasion.New)]) { Disclaimer = [new Rule(Guid.NewGuid(), true, [], new AddDisclaimers([German]))], Tests = [new RuleTest(Guid.NewGuid(), "one", [], [Full])] };
        var file = JsonSerializer.Deserialize<RuleFile>(JsonSerializer.Serialize(RuleFile.Of(Content with { Rules = rules }), RelevoJson.Options), RelevoJson.Options)!;
        var (there, notice) = (Guid.NewGuid(), Guid.NewGuid());
        var (resolved, problems) = file.Resolve(EditionContent.From([new EditionDesign(there, Build.Full())], RuleSet.Empty, []) with { Disclaimers = [new EditionDisclaimer(notice, Says("other"))] });
        Assert.Empty(problems);
        Assert.Equal((there, notice, there), (resolved.Signature[0].Then.AllDesigns.Single(), ((AddDisclaimers)resolved.Disclaimer[0].Then).Disclaimers[0], resolved.Tests[0].Designs[0]));
        Assert.Equal(["There is no design called \"Full\" here.", "There is no disclaimer called \"Notice\" here."], file.Resolve(EditionContent.Empty).Problems.Select(problem => problem.Message));
        Assert.Equal("format-unknown", (file with { Format = "other" }).Resolve(Content).Problems.Single().Code);
    }

    [Fact]
    public async Task A_validator_that_is_not_ours_takes_every_rule_file_by_the_published_schema_and_refuses_broken_ones()
    {
        var published = await File.ReadAllTextAsync(Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "docs/formats/rules.schema.json"));
        Assert.Equal(RuleFile.Schema(), published); // written by: relevo-server schema rules docs/formats/rules.schema.json
        var good = FsCheck.Fluent.Gen.Sample(RuleSets, 30).Select(rules => JsonSerializer.Serialize(RuleFile.Of(Content with { Rules = rules }), RelevoJson.Options)).ToArray();
        string[] broken = ["{}", good[0].Replace("relevo-rules-1", "other", StringComparison.Ordinal), good.First(text => text.Contains("\"isOn\"", StringComparison.Ordinal)).Replace("\"isOn\"", "\"isOff\"", StringComparison.Ordinal)];
        var answers = await Outside.AskAsync("schema.mjs", new JsonObject { ["schema"] = JsonNode.Parse(published), ["documents"] = new JsonArray([.. good.Concat(broken).Select(text => JsonNode.Parse(text))]) });
        var errors = answers["errors"]!.AsArray().Select(list => list!.AsArray().Count).ToArray();
        Assert.All(errors[..good.Length], count => Assert.Equal(0, count));
        Assert.All(errors[good.Length..], count => Assert.NotEqual(0, count));
    }

    [Fact]
    public void Rules_and_editions_of_the_first_form_are_still_understood()
    {
        const string first = """{"signature": [{"id": "00000000-0000-0000-0000-0000000000b1", "isOn": true, "conditions": [{"kind": "occasion", "occasions": ["new"]}], "design": "00000000-0000-0000-0000-000000000001"}, {"id": "00000000-0000-0000-0000-0000000000b2", "isOn": false, "conditions": [], "design": null}]}""";
        var rules = RuleReading.Read(first);
        Assert.Equal([Full], rules.Signature[0].Then.AllDesigns);
        Assert.IsType<CarryNothing>(rules.Signature[1].Then);
        Assert.Equal(2, EditionContent.FromJson($$"""{"designs": [], "rules": {{first}}}""").Rules.Signature.Length);
    }

    private static ImmutableArray<ReachFinding> Of(RuleSet rules) => ReachFindings.Of(ReachMap.Of(AccountTable.Of(Records, People), rules, Cells, Noon), Content with { Rules = rules }, Names);

    private static ImmutableArray<ReachFinding> Of(params Rule[] rules) => Of(new RuleSet([.. rules]));

    private static Disclaimer Says(string text) => new("Notice", DisclaimerLanguage.Person, "de", ImmutableSortedDictionary<string, DisclaimerText>.Empty.Add("de", new DisclaimerText(text)));
}
