using System.Collections.Immutable;
using AngleSharp.Html.Parser;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>Blocks that show for some, and texts that some read in another language.</summary>
public sealed class ConditionTests
{
    [Fact]
    public void A_block_shows_only_when_all_its_conditions_hold()
    {
        var design = Build.Design(
            ["a", "b"],
            ("a", Build.Line("displayName")),
            ("b", Build.Line("title") with { When = [new FieldCondition("location", FieldTest.OneOf, ["Berlin", "Lund"]), new FieldCondition("mobile", FieldTest.Absent, [])] }));
        Assert.Equal("-- \nMia\nVet\n", Build.Render(design, ("displayName", "Mia"), ("title", "Vet"), ("location", "BERLIN")).Text.Text());
        Assert.Equal("-- \nMia\n", Build.Render(design, ("displayName", "Mia"), ("title", "Vet"), ("location", "York")).Text.Text());
        Assert.Equal("-- \nMia\n", Build.Render(design, ("displayName", "Mia"), ("title", "Vet"), ("location", "Lund"), ("mobile", "1")).Text.Text());
    }

    [Theory]
    [InlineData(Occasion.New, Audiences.Outside, "-- \nnew\n")]
    [InlineData(Occasion.Reply, Audiences.Inside, "-- \ninside\n")]
    [InlineData(Occasion.Reply, Audiences.Outside, "")]
    [InlineData(Occasion.New, Audiences.Inside, "-- \nnew\ninside\n")]
    public void Occasion_and_audience_decide_too(Occasion occasion, string audience, string expected)
    {
        var design = Build.Design(["a", "b"], ("a", Literal("new") with { When = [new OccasionIs([Occasion.New])] }), ("b", Literal("inside") with { When = [new AudienceIs([Audiences.Inside])] }));
        Assert.Equal(expected, Render(design, new Circumstances(occasion, audience)).Text.Text());
    }

    [Fact]
    public void Columns_whose_blocks_are_all_conditioned_away_give_their_room_to_the_others()
    {
        var design = Build.Design(["c"], ("c", new Columns(16, [["a"], ["b"]])), ("a", Literal("A") with { When = [new FieldCondition("title", FieldTest.Present, [])] }), ("b", Literal("B")));
        Assert.DoesNotContain("16px", Build.Render(design).Html.Text(), StringComparison.Ordinal);
        Assert.Contains("16px", Build.Render(design, ("title", "Vet")).Html.Text(), StringComparison.Ordinal);
    }

    [Fact]
    public void A_conditional_divider_leaves_the_next_one_in_place()
    {
        var design = Build.Design(["a", "d", "g", "b"], ("a", Literal("A")), ("d", new Divider { When = [new FieldCondition("title", FieldTest.Present, [])] }), ("g", new Gap(4)), ("b", Literal("B")));
        Assert.Equal("-- \nA\n\nB\n", Build.Render(design).Text.Text());
        Assert.Equal("-- \nA\n------------------------\n\nB\n", Build.Render(design, ("title", "x")).Text.Text());
    }

    /// <summary>Look-up by taking subtags off the end: RFC 4647 section 3.4.</summary>
    [Theory]
    [InlineData("de", "Besuchen Sie uns")]
    [InlineData("DE-at", "Besuchen Sie uns")]
    [InlineData("sv-SE", "Hälsa på & titta")]
    [InlineData("sv-FI-x", "Kom in")]
    [InlineData("en", "Visit us")]
    [InlineData("", "Visit us")]
    public void The_persons_language_decides_and_falls_back(string language, string expected)
    {
        var design = Build.Design(["a", "b"], ("a", Literal("Visit us")), ("b", new Button(new LinkItem("Visit us", "", "https://brackenfold.example/")))) with { Languages = Languages() };
        var rendered = Build.Render(design, ("language", language));
        Assert.Equal($"-- \n{expected}\n{expected}: https://brackenfold.example/\n", rendered.Text.Text());
        Assert.Equal(expected + expected, new HtmlParser().ParseDocument(rendered.Html.Text()).Body!.TextContent);
    }

    [Fact]
    public void A_condition_on_language_is_met_by_its_regions()
    {
        var design = Build.Design(["a"], ("a", Literal("A") with { When = [new FieldCondition("language", FieldTest.OneOf, ["de"])] }));
        Assert.Equal("-- \nA\n", Build.Render(design, ("language", "de-CH")).Text.Text());
        Assert.Equal("", Build.Render(design, ("language", "da")).Text.Text());
    }

    [Fact]
    public void A_block_has_a_form_of_its_own_in_text_or_none()
    {
        var design = Build.Design(
            ["a", "b", "c"],
            ("a", new Picture(Build.Logo, 10, 10, "Mark", "") { TextForm = [new Part([new LiteralRun("BRACKENFOLD")]), new Part([new LiteralRun("in "), new FieldRun("location")])] }),
            ("b", Build.Line("displayName")),
            ("c", Build.Line("title") with { TextForm = [] }));
        Assert.Equal("-- \nBRACKENFOLD\nin Lund\nMia\n", Build.Render(design, ("displayName", "Mia"), ("title", "Vet"), ("location", "Lund")).Text.Text());
        Assert.Equal("-- \nBRACKENFOLD\n", Build.Render(design, ("title", "Vet")).Text.Text());
    }

    [Theory]
    [InlineData("unheardOf", FieldTest.Present, "/blocks/a/when/0/field")]
    [InlineData("title", FieldTest.OneOf, "/blocks/a/when/0/values")]
    public void A_condition_that_cannot_be_asked_is_refused_with_its_place(string field, FieldTest test, string pointer)
    {
        var design = Build.Design(["a"], ("a", Literal("A") with { When = [new FieldCondition(field, test, [])] }));
        Assert.Equal(pointer, Assert.Single(DesignCheck.Check(design, FieldCatalogue.Standard, new HashSet<string>())).Pointer);
    }

    [Fact]
    public void A_design_keeps_its_conditions_languages_and_text_forms_through_json()
    {
        var design = Build.Design(["a"], ("a", Literal("Visit us") with { When = [new AudienceIs(["inside"]), new OccasionIs([Occasion.New])], TextForm = [new Part([new LiteralRun("x")])] })) with { Languages = Languages() };
        var read = DesignDocument.Restore(design.ToJson());
        Assert.Empty(read.Problems);
        Assert.Equal(design.ToJson(), read.Document!.ToJson());
        Assert.Equal("Kom in", read.Document.Languages["sv"]["Visit us"]);
    }

    private static RenderedSignature Render(DesignDocument design, Circumstances circumstances) =>
        CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form).Render(FieldResolution.Resolve(FieldCatalogue.Standard, Facts.None, ""), circumstances);

    private static ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, string>> Languages() =>
        Build.Languages(("de", "Visit us", "Besuchen Sie uns"), ("sv", "Visit us", "Kom in"), ("sv-SE", "Visit us", "Hälsa på & titta"));

    private static TextLine Literal(string text) => new(TextRole.Text, "", [new Part([new LiteralRun(text)])]);
}
