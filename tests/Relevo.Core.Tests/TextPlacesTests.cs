using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Xunit;

namespace Relevo.Core.Tests;

/// <summary>Texts are told apart by their hash; what is the same and what is not must be what the framework's own dictionaries say.</summary>
public sealed class TextPlacesTests
{
    private static readonly string[] Alike = ["", "k", "K", "\u212a", "mia", "MIA", "Mia", "m\u0131a", "m\u0130a", "straße", "STRASSE", "söhne", "SÖHNE", "\ud801\udc28", "\ud801\udc00", "ǆ", "ǅ", "ς", "σ", "Σ", "x\0", "x", new('a', 255), new('A', 255), new('a', 256), new('a', 257), new('A', 257), new('é', 3000), new('É', 3000)];

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Every_pair_of_texts_that_look_alike_is_told_apart_as_the_framework_does(bool ignoresCase)
    {
        var comparer = ignoresCase ? StringComparer.OrdinalIgnoreCase : StringComparer.Ordinal;
        foreach (var first in Alike)
        {
            foreach (var second in Alike)
            {
                var places = new TextPlaces(ignoresCase);
                Assert.True(places.TryAdd(first, 7, out _));
                Assert.Equal(comparer.Equals(first, second), !places.TryAdd(second, 8, out var place));
                Assert.Equal(comparer.Equals(first, second) ? 7 : 8, place);
            }
        }
    }

    [Property(MaxTest = 200)]
    public Property The_first_place_is_kept_as_a_dictionary_keeps_it(bool ignoresCase) => Prop.ForAll(
        Gen.OneOf(Gen.Elements(Alike), ArbMap.Default.GeneratorFor<string>().Select(text => text ?? "")).ListOf().ToArbitrary(),
        texts =>
        {
            var kept = new Dictionary<string, long>(ignoresCase ? StringComparer.OrdinalIgnoreCase : StringComparer.Ordinal);
            var places = new TextPlaces(ignoresCase);
            foreach (var (index, text) in texts.Index())
            {
                Assert.Equal(kept.TryAdd(text, index), places.TryAdd(text, index, out var first));
                Assert.Equal(kept[text], first);
            }

            foreach (var text in Alike) Assert.Equal((kept.TryGetValue(text, out var expected), expected), (places.TryFind(text, out var found), found));
        });
}
