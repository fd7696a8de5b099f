using System.Text.Json.Nodes;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Designs;

public sealed class DesignTests
{
    /// <summary>Null in place of anything that must be there is a design that cannot be read, wherever it stands, and never an exception.</summary>
    [Fact]
    public void Null_in_any_place_is_refused_unless_the_place_may_be_empty()
    {
        var design = Build.Full() with { Languages = Build.Languages(("de", "T", "Tel.")) };
        design = design with
        {
            Blocks = design.Blocks.SetItems(
            [
                KeyValuePair.Create<string, Block>("own", new OwnMarkup { Markup = "x" }), KeyValuePair.Create<string, Block>("links", new LinkRow(TextRole.Text, " ", [new LinkItem("a", "", "https://x.example/a")])),
                KeyValuePair.Create<string, Block>("button", new Button(new LinkItem("a", "", "https://x.example/a")) { When = [new FieldCondition("title", FieldTest.OneOf, ["a"])], TextForm = [new Part([new LiteralRun("x")])] }),
            ]),
        };
        var places = new List<string>();
        Walk(JsonNode.Parse(design.ToJson())!, "");
        Assert.True(places.Count > 100);
        string[] mayBeEmpty = ["textForm", "crop", "role"];
        foreach (var place in places)
        {
            var copy = JsonNode.Parse(design.ToJson())!;
            var steps = place.Split('/')[1..];
            var parent = steps[..^1].Aggregate(copy, (node, step) => node is JsonArray list ? list[int.Parse(step, System.Globalization.CultureInfo.InvariantCulture)]! : node[step]!);
            if (parent is JsonArray array) array[int.Parse(steps[^1], System.Globalization.CultureInfo.InvariantCulture)] = null;
            else parent[steps[^1]] = null;
            var reading = DesignDocument.Restore(copy.ToJsonString());
            // A role is a choice of a piece of text, and a property of a block.
            if (mayBeEmpty.Contains(steps[^1]) && (steps[^1] != "role" || steps.Contains("runs"))) Assert.NotNull(reading.Document);
            else Assert.True(reading.Document is null, place);
        }

        void Walk(JsonNode node, string at)
        {
            if (at.Length > 0) places.Add(at);
            if (node is JsonObject members)
            {
                foreach (var (name, value) in members)
                {
                    if (value is null) places.Add($"{at}/{name}");
                    else Walk(value, $"{at}/{name}");
                }
            }
            else if (node is JsonArray list)
            {
                for (var index = 0; index < list.Count; index++) Walk(list[index]!, $"{at}/{index}");
            }
        }
    }

    [Theory]
    [InlineData("title", "", "field-no-link")]
    [InlineData("nothing", "", "field-unknown")]
    [InlineData("webAddress", "https://brackenfold.example", "link-twice")]
    [InlineData("", "javascript:alert(1)", "link-form")]
    [InlineData("", "mailto:a@b.example", "link-form")]
    public void A_piece_of_text_that_leads_nowhere_is_named(string field, string address, string code)
    {
        var design = Build.Design(["a"], ("a", new TextLine(TextRole.Text, "", [new Part([new LiteralRun("x") { LinkField = field, LinkAddress = address }])])));
        var problem = Assert.Single(DesignCheck.Check(design, FieldCatalogue.Standard, new HashSet<string>()));
        Assert.Equal(code, problem.Code);
        Assert.StartsWith("/blocks/a/parts/0/runs/0/link", problem.Pointer, StringComparison.Ordinal);
    }

    private static readonly HashSet<string> Library = [Build.Logo];

    [Theory]
    [InlineData("", "", "", "/blocks/b/item/address", "link-form")]
    [InlineData("Book", "", "javascript:alert(1)", "/blocks/b/item/address", "link-form")]
    [InlineData("", "", "https://book.example/", "/blocks/b/item/label", "label-missing")]
    [InlineData("", "title", "", "/blocks/b/item/field", "field-no-link")]
    [InlineData("", "nothing", "", "/blocks/b/item/field", "field-unknown")]
    public void A_link_that_leads_nowhere_is_refused_with_its_place(string label, string field, string address, string place, string code)
    {
        var problems = DesignCheck.Check(Build.Design(["b"], ("b", new Button(new LinkItem(label, field, address)))), FieldCatalogue.Standard, new HashSet<string>());
        Assert.Contains(problems, problem => problem.Pointer == place && problem.Code == code);
        problems = DesignCheck.Check(Build.Design(["b"], ("b", new LinkRow(TextRole.Text, "", [new LinkItem(label, field, address)]))), FieldCatalogue.Standard, new HashSet<string>());
        Assert.Contains(problems, problem => problem.Pointer == place.Replace("item/", "items/0/", StringComparison.Ordinal) && problem.Code == code);
    }

    [Fact]
    public void A_fallback_that_does_not_exist_is_refused_with_its_place()
    {
        var line = new TextLine(TextRole.Text, "", [new Part([new FieldRun("title", "nothing")])]);
        Assert.Equal("/blocks/a/parts/0/runs/0/fallback", Assert.Single(DesignCheck.Check(Build.Design(["a"], ("a", line)), FieldCatalogue.Standard, new HashSet<string>())).Pointer);
    }

    /// <summary>Ratios as WCAG 2.2's explanations of 1.4.3 give them; values from memory.</summary>
    [Theory]
    [InlineData("#000000", "#ffffff", 21)]
    [InlineData("#ffffff", "#ffffff", 1)]
    [InlineData("#767676", "#ffffff", 4.54)]
    [InlineData("#777777", "#ffffff", 4.48)]
    public void Contrast_is_what_WCAG_says(string one, string other, double ratio)
    {
        Assert.Equal(ratio, Contrast.Ratio(one, other), 0.005);
        Assert.Equal(Contrast.Ratio(one, other), Contrast.Ratio(other, one));
    }

    /// <summary>The better of black and white always reaches 4.5, what WCAG 2.2's success criterion 1.4.3 wants of ordinary text.</summary>
    [FsCheck.Xunit.Property(MaxTest = 500)]
    public void Text_on_any_ground_can_be_read(byte red, byte green, byte blue)
    {
        var ground = $"#{red:x2}{green:x2}{blue:x2}";
        Assert.True(Contrast.Ratio(ground, Contrast.TextOn(ground)) >= 4.5, ground);
    }

    [Fact]
    public void Every_starter_passes_the_check_and_survives_its_JSON_form()
    {
        foreach (var starter in Starter.All)
        {
            var design = starter.Open(starter.Name, new StarterLogo(Build.Logo, 64, 64, "Brackenfold", ""));
            Assert.Empty(DesignCheck.Check(design, FieldCatalogue.Standard, Library));
            var restored = DesignDocument.Restore(design.ToJson());
            Assert.Empty(restored.Problems);
            Assert.Equal(design.ToJson(), restored.Document!.ToJson());
        }
    }

    [Fact]
    public void An_unknown_block_is_refused_with_its_place()
    {
        var json = Build.Full().ToJson().Replace("\"contactList\"", "\"hologram\"", StringComparison.Ordinal);
        var problem = Assert.Single(DesignDocument.Restore(json).Problems);
        Assert.Equal("/blocks/contact/kind", problem.Pointer);
        Assert.Contains("hologram", problem.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("{\"name\":5}", "/name")]
    [InlineData("not json", "")]
    [InlineData("null", "")]
    [InlineData("{\"unheardOf\":1}", "/unheardOf")]
    public void What_is_not_a_design_is_refused_with_its_place(string json, string pointer) =>
        Assert.Equal(pointer, Assert.Single(DesignDocument.Restore(json).Problems).Pointer);

    [Fact]
    public void A_cycle_is_refused_with_its_place()
    {
        var design = Build.Design(["a"], ("a", new Columns(0, [["b"]])), ("b", new Columns(0, [["a"]])));
        var problem = Assert.Single(Check(design));
        Assert.Equal(("/blocks/b/children/0/0", "block-cycle"), (problem.Pointer, problem.Code));
        Assert.Throws<ArgumentException>(() => CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form));
    }

    [Fact]
    public void A_missing_picture_is_refused_with_its_place()
    {
        var problem = Assert.Single(DesignCheck.Check(Build.Full(), FieldCatalogue.Standard, new HashSet<string>()));
        Assert.Equal(("/blocks/logo/sha256", "picture-missing"), (problem.Pointer, problem.Code));
    }

    [Fact]
    public void Every_other_fault_is_named_too()
    {
        var full = Build.Full();
        var design = Build.Design(
            ["a", "a", "gone"],
            ("a", new TextLine(TextRole.Text, "\n", [new Part([new FieldRun("shoeSize")])])),
            ("lonely", new Gap(0)),
            ("p/q", new Picture(Build.Logo, 0, 9000, " ", "javascript:alert(1)"))) with
        {
            Name = "",
            Theme = full.Theme with { Colours = full.Theme.Colours with { Name = "red; } body {" }, FontStack = "Comic", LineHeight = 20, Sizes = new ThemeSizes(100, 13, 11) },
        };
        var found = Check(design).Select(problem => problem.Code).ToHashSet();
        Assert.Superset(
            new HashSet<string> { "name-length", "colour-form", "font-unknown", "line-height-range", "size-range", "block-twice", "block-missing", "block-unused", "field-unknown", "text-control", "gap-range", "picture-size", "alt-missing", "link-form" },
            found);
        Assert.Contains(Check(design), problem => problem.Pointer == "/blocks/p~1q/link");
    }

    [Fact]
    public void Too_deep_and_too_many_are_refused()
    {
        var deep = Enumerable.Range(0, 10).Select(index => ($"b{index}", (Block)new Columns(0, [index == 9 ? [] : [$"b{index + 1}"]]))).ToArray();
        Assert.Contains(Check(Build.Design(["b0"], deep)), problem => problem.Code == "too-deep");
        var many = Enumerable.Range(0, 201).Select(index => ($"g{index}", (Block)new Gap(1))).ToArray();
        Assert.Contains(Check(Build.Design([.. many.Select(pair => pair.Item1)], many)), problem => problem.Code == "too-many-blocks");
    }

    private static System.Collections.Immutable.ImmutableArray<DesignProblem> Check(DesignDocument design) => DesignCheck.Check(design, FieldCatalogue.Standard, Library);
}
