using Relevo.Core.People;
using Relevo.Core.Rules;
using Xunit;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Rules;

public sealed class DecisionTests
{
    private static readonly Rule NewOnes = Build.Rule(Full, Occasion.New);
    private static readonly Rule Answers = Build.Rule(Short, Occasion.Reply, Occasion.Forward);
    private static readonly Sender Mia = Build.Sender(Guid.Empty, "mia@brackenfold.example", AccountKind.Own, ("title", "Vet"), ("location", "Berlin"), ("department", "Equine"), ("language", "de-AT"), ("groups", "Reception; Rota"));

    [Theory]
    [InlineData(Occasion.New, 1)]
    [InlineData(Occasion.Reply, 2)]
    [InlineData(Occasion.Forward, 2)]
    public void New_messages_carry_the_full_one_and_answers_the_short_one(Occasion occasion, int design) =>
        Assert.Equal(design == 1 ? Full : Short, Decide(occasion, NewOnes, Answers).Design);

    [Fact]
    public void The_first_rule_that_matches_decides_and_nothing_is_a_result()
    {
        var always = Build.Rule(null, Array.Empty<Condition>());
        Assert.Equal(Full, Decide(Occasion.New, NewOnes, always).Design);
        var decision = Decide(Occasion.New, always, NewOnes);
        Assert.Equal(always, decision.Rule);
        Assert.Null(decision.Design);
    }

    [Fact]
    public void A_rule_that_is_switched_off_is_passed_over() =>
        Assert.Null(Decide(Occasion.New, NewOnes with { IsOn = false }, Answers).Rule);

    [Fact]
    public void All_disclaimers_that_match_are_added_in_order_and_once_until_one_stops_the_track()
    {
        Rule Adds(params Guid[] disclaimers) => new(Guid.NewGuid(), true, [], new AddDisclaimers([.. disclaimers]));
        var stop = new Rule(Guid.NewGuid(), true, [], new StopDisclaimers());
        Assert.Equal([German, Full], Decide(new RuleSet([]) { Disclaimer = [Adds(German), Adds(Full, German), stop, Adds(Short)] }).Disclaimers);
        Assert.Equal([German, Full, Short], Decide(new RuleSet([]) { Disclaimer = [Adds(German), Adds(Full, German), stop with { IsOn = false }, Adds(Short)] }).Disclaimers);
    }

    [Fact]
    public void Every_banner_that_matches_wants_to_be_shown_in_order()
    {
        Rule Shows(Guid banner, params Condition[] conditions) => new(Guid.NewGuid(), true, [.. conditions], new ShowBanner(banner));
        var rules = new RuleSet([]) { Banner = [Shows(Tick), Shows(Short, new AudienceCondition([Audiences.Inside])), Shows(Full)] };
        Assert.Equal([Tick, Full], Decide(rules).Banners.Select(show => show.Banner));
    }

    public static TheoryData<Condition, bool> EveryKind => new()
    {
        { new OccasionCondition([Occasion.New]), true },
        { new OccasionCondition([Occasion.Reply, Occasion.Forward]), false },
        { new AudienceCondition([Audiences.Outside, "practices"]), true },
        { new AudienceCondition([Audiences.Inside]), false },
        { new ClientCondition(["desk-app"]), true },
        { new ClientCondition(["pocket-app"]), false },
        { new ValueCondition("title", ValueTest.OneOf, ["nurse", "vet"]), true },
        { new ValueCondition("title", ValueTest.OneOf, ["ve"]), false },
        { new ValueCondition("title", ValueTest.Contains, ["E"]), true },
        { new ValueCondition("title", ValueTest.StartsWith, ["et"]), false },
        { new ValueCondition("title", ValueTest.Matches, ["v.t"]), true },
        { new ValueCondition("title", ValueTest.Matches, ["v."]), false },
        { new ValueCondition("mobile", ValueTest.Present, []), false },
        { new ValueCondition("no such field", ValueTest.Present, []), false },
        { new ValueCondition("language", ValueTest.OneOf, ["de"]), true },
        { new ValueCondition("title", ValueTest.Contains, [""]), false },
        { new UnitCondition(UnitKind.Office, ["BERLIN"]), true },
        { new UnitCondition(UnitKind.Entity, ["Berlin"]), false },
        { new UnitCondition(UnitKind.Team, ["Clinical"]), false },
        { new UnitCondition(UnitKind.Team, ["Clinical"], WithParts: true), true },
        { new GroupCondition(["rota"]), true },
        { new GroupCondition(["Rec"]), false },
        { new PersonCondition([Guid.Empty]), true },
        { new AccountCondition([AccountKind.Own]), true },
        { new AccountCondition([AccountKind.Shared]), false },
        { new AddressCondition(["MIA@brackenfold.example"]), true },
        { new AddressCondition(["mia@"]), true },
        { new AddressCondition(["ia@"]), false },
        { new DomainCondition(["Brackenfold.example"]), true },
        { new DomainCondition(["example"]), false },
        { new DomainCondition(["example"], WithParts: true), true },
        { new TimeCondition("Europe/Berlin") { From = "2026-11-26T13:00" }, true },
        { new TimeCondition("Europe/Berlin") { From = "2026-11-26T13:01" }, false },
        { new TimeCondition("Nowhere/Atall"), false },
        { new AllOf([]), true },
        { new AnyOf([]), false },
        { new NoneOf([]), true },
        { new AllOf([new PersonCondition([Guid.Empty]), new GroupCondition(["Rota"])]), true },
        { new AnyOf([new GroupCondition(["no"]), new GroupCondition(["Rota"])]), true },
        { new NoneOf([new GroupCondition(["no"]), new GroupCondition(["Rota"])]), false },
    };

    [Theory]
    [MemberData(nameof(EveryKind))]
    public void A_condition_holds_for_a_new_message_of_a_Berlin_vet_to_outsiders_on_the_desk_app_at_noon(Condition condition, bool holds) =>
        Assert.Equal(holds, Decide(Occasion.New, Build.Rule(Full, condition)).Rule is not null);

    [Fact]
    public void Each_account_decides_for_itself()
    {
        var person = Guid.NewGuid();
        var rules = new RuleSet([Build.Rule(Short, new AccountCondition([AccountKind.Shared])), Build.Rule(Full, new DomainCondition(["brackenfold.example"]))]);
        Guid? From(string address, AccountKind kind) => Decision.Decide(rules, Records, new Situation(Build.Sender(person, address, kind), Audiences.Outside, Occasion.New, "desk-app", Noon)).Design;
        Assert.Equal(Full, From("mia@brackenfold.example", AccountKind.Own));
        Assert.Equal(Short, From("emergency@brackenfold.example", AccountKind.Shared));
        Assert.Null(From("mia@second.example", AccountKind.Alias));
    }

    [Fact]
    public void The_trace_names_every_rule_with_the_condition_and_the_value_it_met()
    {
        var inBath = Build.Rule(Full, new OccasionCondition([Occasion.Reply]), new UnitCondition(UnitKind.Office, ["Bath"]));
        var nested = Build.Rule(Full, new NoneOf([new GroupCondition(["Surgeons"]), new GroupCondition(["Rota"])]));
        var trace = Decision.Explain(new RuleSet([NewOnes, inBath, nested, Answers with { IsOn = false }, Answers, Build.Rule(Full, Occasion.New)]), Records, Situation(Occasion.Reply), Names).Trace;
        Assert.Equal([TraceOutcome.Failed, TraceOutcome.Failed, TraceOutcome.Failed, TraceOutcome.SwitchedOff, TraceOutcome.Matched, TraceOutcome.NotReached], trace.Select(step => step.Outcome));
        Assert.Equal("this is a reply, not a new message", trace[0].Reason);
        Assert.Equal("the office is Berlin, not Bath", trace[1].Reason);
        Assert.Equal([true, false], trace[1].Conditions.Select(condition => condition.Holds));
        Assert.Equal("they are in Reception, Rota, which is ruled out", trace[2].Reason);
        Assert.Equal("this is a reply", trace[4].Reason);
    }

    [Fact]
    public void A_rule_reads_as_a_sentence()
    {
        Assert.Equal("A reply or forward carries Short.", Sentence.Text(Answers, Names));
        Assert.Equal("Every message carries nothing.", Sentence.Text(Build.Rule(null, Array.Empty<Condition>()), Names));
        Assert.Equal(
            "A reply from people whose office is Berlin to referring practices on the pocket app, from 1 Dec 2026, until 24 Dec 2026 12:00 (Europe/Berlin), carries Full and Short in turn, one a day, shuffled, at the very end, unless the employee leaves it off.",
            Sentence.Text(
                Build.Rule(null, new UnitCondition(UnitKind.Office, ["Berlin"]), new AudienceCondition(["practices"]), new OccasionCondition([Occasion.Reply]), new ClientCondition(["pocket-app"]), new TimeCondition("Europe/Berlin") { From = "2026-12-01T00:00", Until = "2026-12-24T12:00" })
                    with
                { Then = new CarryDesigns([Full, Short]) { Order = TurnOrder.Shuffled, Place = AnswerPlace.AtEnd, MayChoose = true } },
                Names));
        Assert.Equal("Every message from an alias or a shared mailbox adds German notice.", Sentence.Text(new Rule(Guid.NewGuid(), true, [new AccountCondition([AccountKind.Shared, AccountKind.Alias])], new AddDisclaimers([German])), Names));
        Assert.Equal("Every message shows a banner that is gone.", Sentence.Text(new Rule(Guid.NewGuid(), true, [], new ShowBanner(Full)), Names));
    }

    [Fact]
    public void A_message_without_a_sender_is_decided_like_any_other()
    {
        var nobody = Build.Sender("");
        var rules = new RuleSet([Build.Rule(Short, new AnyOf([new DomainCondition(["brackenfold.example"], WithParts: true), new AddressCondition(["mia@"]), new ValueCondition("title", ValueTest.Present, [])])), Build.Rule(Full, Array.Empty<Condition>())]);
        var situation = new Situation(nobody, Audiences.Outside, Occasion.New, "relay", Noon);
        Assert.Equal(Full, Decision.Decide(rules, Records, situation).Design);
        Assert.Equal("it is sent from no address, not from brackenfold.example with subdomains, it is sent from no address, not from mia@, the title is empty", Decision.Explain(rules, Records, situation, Names).Trace[0].Reason);
    }

    [Fact]
    public void A_rule_that_names_a_design_that_is_gone_decides_and_says_so()
    {
        var decision = Decide(Occasion.New, Build.Rule(German, Occasion.New), NewOnes);
        Assert.Equal(German, decision.Design);
        Assert.Equal("A new message carries a design that is gone.", Sentence.Text(decision.Rule!, Names));
    }

    private static Situation Situation(Occasion occasion) => new(Mia, Audiences.Outside, occasion, "desk-app", Noon);

    private static Decision Decide(Occasion occasion, params Rule[] rules) => Decision.Decide(new RuleSet([.. rules]), Records, Situation(occasion));

    private static Decision Decide(RuleSet rules) => Decision.Decide(rules, Records, Situation(Occasion.New));
}
