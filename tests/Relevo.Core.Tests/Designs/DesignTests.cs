using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Designs;

public sealed class DesignTests
{
    private static readonly HashSet<string> Library = [Build.Logo];

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
