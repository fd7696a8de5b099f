using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Editions;

public sealed class EditionTests
{
    private static readonly EditionDesign Full = new(Guid.Parse("00000000-0000-0000-0000-000000000001"), Build.Full());
    private static readonly EditionDesign Short = new(Guid.Parse("00000000-0000-0000-0000-000000000002"), Build.Short());
    private static readonly Rule First = Build.Rule(Full.Id, Occasion.New);
    private static readonly Rule Second = Build.Rule(Short.Id, Occasion.Reply, Occasion.Forward);
    private static readonly EditionAnswer Answer = new(Guid.Parse("00000000-0000-0000-0000-000000000003"), new ReadyAnswer("Confirmed", "Your visit", "It is in our book.\n"));
    private static readonly EditionContent Content = EditionContent.From([Short, Full], new RuleSet([First, Second]), [Answer]);

    [Fact]
    public void The_same_state_has_the_same_hash_in_whatever_order_it_came()
    {
        Assert.Equal(Content.Sha256(), EditionContent.From([Full, Short], Content.Rules, [Answer]).Sha256());
        Assert.Equal(Content.Sha256(), EditionContent.FromJson(Content.ToJson()).Sha256());
        Assert.Empty(EditionDifference.Compare(Content, EditionContent.FromJson(Content.ToJson()), EditionNames.Plain));
    }

    [Fact]
    public void The_first_edition_lists_everything_as_new() =>
        Assert.Equal(["New design.", "New design.", "New rule: A new message carries Full.", "New rule: A reply or forward carries Short.", "New ready answer."], Texts(EditionContent.Empty, Content));

    [Fact]
    public void A_changed_line_and_colour_are_told_apart()
    {
        var document = Full.Document with
        {
            Theme = Full.Document.Theme with { Colours = Full.Document.Theme.Colours with { Name = "#aa0000" } },
            Blocks = Full.Document.Blocks.SetItem("role", Build.Line("title")),
        };
        Assert.Equal(
            ["Name colour: #1f6b52 becomes #aa0000.", "Text line \"[Title], [Department]\" becomes Text line \"[Title]\"."],
            Texts(Content, EditionContent.From([Full with { Document = document }, Short], Content.Rules, [Answer])));
    }

    [Fact]
    public void A_switched_rule_and_another_order_are_told()
    {
        var after = EditionContent.From([Full, Short], new RuleSet([Second, First with { IsOn = false }]), [Answer]);
        Assert.Equal(
            ["Switched off: A new message carries Full.", "Rules in another order: 1. A reply or forward carries Short. 2. A new message carries Full."],
            Texts(Content, after));
    }

    [Fact]
    public void What_is_taken_out_is_told()
    {
        var after = EditionContent.From([Full], new RuleSet([First]), []);
        Assert.Equal(["Design taken out.", "Rule taken out: A reply or forward carries Short.", "Ready answer taken out."], Texts(Content, after));
    }

    /// <summary>Whatever is changed can be published, so whatever is changed is told.</summary>
    [Fact]
    public void Another_language_another_set_and_another_answer_are_told()
    {
        var document = Full.Document with { Set = "Winter", Languages = Build.Languages(("de", "T", "Tel.")) };
        var answer = Answer with { Document = new ReadyAnswer("Confirmed again", "Your visit", "It is in our diary.\n") };
        Assert.Equal(
            ["Now in the set \"Winter\".", "Its texts in de are others.", "Renamed from \"Confirmed\".", "Its text is another."],
            Texts(Content, EditionContent.From([Full with { Document = document }, Short], Content.Rules, [answer])));
    }

    private static IEnumerable<string> Texts(EditionContent before, EditionContent after) => EditionDifference.Compare(before, after, EditionNames.Plain).Select(change => change.Text);
}
