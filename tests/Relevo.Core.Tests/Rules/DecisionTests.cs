using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Rules;

public sealed class DecisionTests
{
    private static readonly Guid Full = Guid.Parse("00000000-0000-0000-0000-000000000001");
    private static readonly Guid Short = Guid.Parse("00000000-0000-0000-0000-000000000002");
    private static readonly Rule NewOnes = Build.Rule(Full, Occasion.New);
    private static readonly Rule Answers = Build.Rule(Short, Occasion.Reply, Occasion.Forward);

    [Theory]
    [InlineData(Occasion.New, 1)]
    [InlineData(Occasion.Reply, 2)]
    [InlineData(Occasion.Forward, 2)]
    public void New_messages_carry_the_full_one_and_answers_the_short_one(Occasion occasion, int design) =>
        Assert.Equal(design == 1 ? Full : Short, Decide(occasion, NewOnes, Answers).Design);

    [Fact]
    public void The_first_rule_that_matches_decides()
    {
        var always = Build.Rule(null);
        Assert.Equal(Full, Decide(Occasion.New, NewOnes, always).Design);
        var decision = Decide(Occasion.New, always, NewOnes);
        Assert.Equal(always.Id, decision.Rule);
        Assert.Null(decision.Design);
    }

    [Fact]
    public void A_rule_that_is_switched_off_is_passed_over() =>
        Assert.Null(Decide(Occasion.New, NewOnes with { IsOn = false }, Answers).Rule);

    [Fact]
    public void The_trace_names_every_rule_with_the_condition_and_the_value_it_met()
    {
        var trace = Decide(Occasion.Reply, NewOnes, Answers, Build.Rule(Full)).Trace;
        Assert.Equal([TraceOutcome.Failed, TraceOutcome.Matched, TraceOutcome.NotReached], trace.Select(step => step.Outcome));
        Assert.Equal("this is a reply, not a new message", trace[0].Reason);
        Assert.Equal("this is a reply", trace[1].Reason);
    }

    [Fact]
    public void A_rule_reads_as_a_sentence()
    {
        Assert.Equal("A reply or forward carries Short.", Sentence.Text(Answers, id => id == Short ? "Short" : null));
        Assert.Equal("Every message carries nothing.", Sentence.Text(Build.Rule(null), _ => null));
    }

    [Fact]
    public void A_rule_set_is_checked_before_it_is_kept()
    {
        var codes = RuleCheck.Check(new RuleSet([NewOnes, NewOnes, Build.Rule(Short) with { Conditions = [new OccasionCondition([])] }]), new HashSet<Guid> { Full }).Select(problem => problem.Code);
        Assert.Equal(["rule-twice", "design-missing", "occasion-empty"], codes);
    }

    private static Decision Decide(Occasion occasion, params Rule[] rules) =>
        Decision.Decide(new RuleSet([.. rules]), new Situation("mia@brackenfold.example", occasion));
}
