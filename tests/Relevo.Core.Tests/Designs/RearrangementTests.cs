using Relevo.Core.Designs;
using Relevo.Core.People;
using Xunit;

namespace Relevo.Core.Tests.Designs;

/// <summary>A design takes another starter's build and keeps what it says.</summary>
public sealed class RearrangementTests
{
    private static readonly StarterLogo Logo = new(Build.Logo, 100, 40, "Brackenfold", "");

    public static TheoryData<string, string> Pairs()
    {
        var pairs = new TheoryData<string, string>();
        foreach (var from in Starter.All)
        {
            foreach (var to in Starter.All) pairs.Add(from.Key, to.Key);
        }

        return pairs;
    }

    [Theory]
    [MemberData(nameof(Pairs))]
    public void From_any_starter_to_any_other_nothing_is_lost_and_the_design_is_sound(string from, string to)
    {
        var before = Open(from);
        var after = Rearrangement.Of(before, Open(to));
        Assert.Empty(DesignCheck.Check(after, FieldCatalogue.Standard, new HashSet<string> { Build.Logo }));
        Assert.Empty(Said(before).Except(Said(after)));
        Assert.Empty(LiteralTexts.Of(after).Except(LiteralTexts.Of(before)).Except(["Portrait of"]));
        Assert.Equal((before.Name, before.Theme, before.Languages), (after.Name, after.Theme, after.Languages));
    }

    [Fact]
    public void To_its_own_starter_it_stays_as_it_is()
    {
        foreach (var starter in Starter.All) Assert.Equal(Open(starter.Key).ToJson(), Rearrangement.Of(Open(starter.Key), Open(starter.Key)).ToJson());
    }

    [Fact]
    public void There_and_back_gives_the_same_words()
    {
        var before = Open("portrait-and-icons");
        Assert.Equal(Said(before), Said(Rearrangement.Of(Rearrangement.Of(before, Open("one-line")), Open("portrait-and-icons"))));
    }

    [Fact]
    public void A_line_takes_the_part_of_the_line_whose_place_it_takes_and_a_portrait_comes_along()
    {
        var after = Rearrangement.Of(Open("beside-the-mark"), Open("portrait-and-icons"));
        Assert.Equal(TextRole.Soft, Assert.IsType<TextLine>(after.Blocks["role"]).Role);
        Assert.Equal("portrait", Assert.IsType<Picture>(after.Blocks["portrait"]).Field);
        Assert.Equal(16, Assert.IsType<ContactList>(after.Blocks["contact"]).IconSize);
    }

    [Fact]
    public void At_least_eight_starters_differ_in_build()
    {
        var builds = Starter.All.Select(starter => Open(starter.Key)).Select(design => string.Join(' ', design.Root.Select(key => Shape(design, key))));
        Assert.True(builds.Distinct().Count() >= 8);
    }

    private static string Shape(DesignDocument design, string key) => design.Blocks[key] is Columns columns
        ? $"[{string.Join('|', columns.Children.Select(keys => string.Join(' ', keys.Select(inner => Shape(design, inner)))))}]"
        : design.Blocks[key].GetType().Name;

    private static DesignDocument Open(string key) => Starter.All.Single(starter => starter.Key == key).Open("Mine", Logo);

    /// <summary>Fields and texts, each as often as it stands.</summary>
    private static string[] Said(DesignDocument design) =>
        [.. design.Blocks.Values.SelectMany(block => DesignCheck.FieldsOf(block)).Concat(LiteralTexts.Of(design)).Order(StringComparer.Ordinal)];
}
