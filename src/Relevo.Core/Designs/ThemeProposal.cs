using System.Collections.Immutable;

namespace Relevo.Core.Designs;

/// <summary>A colour of a picture and how many of its pixels have it.</summary>
public readonly record struct PictureColour(byte Red, byte Green, byte Blue, int Pixels);

/// <summary>What a picture's colours make of a theme.</summary>
/// <param name="Colours">Colours by role, in which text can be read.</param>
/// <param name="Palette">The picture's main colours, the most of it first.</param>
public sealed record ThemeProposal(ThemeColours Colours, ImmutableArray<string> Palette)
{
    private const int Clusters = 6;
    private const int Rounds = 16; // the means stand still long before
    private const double Near = 0.04; // clusters this near look like one
    private const double Colourful = 0.04; // chroma below this is a grey
    private const double Readable = 4.5; // to 1 on white; WCAG 2.2 success criterion 1.4.3

    /// <summary>Groups the colours by how they look, and gives the most colourful of the main ones to names, darkened until it can be read.</summary>
    public static ThemeProposal From(IReadOnlyList<PictureColour> colours)
    {
        var palette = Cluster([.. colours.Where(colour => colour.Pixels > 0).Select(colour => (Oklab.From(colour.Red, colour.Green, colour.Blue), colour.Pixels))]);
        var all = palette.Sum(group => (double)group.Pixels);
        var lead = palette.Where(group => group.Pixels >= all / 50 && group.Colour is { Chroma: >= Colourful, Lightness: < 0.97 }).OrderByDescending(group => group.Colour.Chroma * Math.Sqrt(group.Pixels / all)).Select(group => group.Colour).FirstOrDefault(new Oklab(0.3, 0, 0));
        var tint = new Oklab(0, lead.A, lead.B);
        return new ThemeProposal(
            new ThemeColours(Darkened(lead, Readable), Darkened(Tinted(0.32, tint, 0.15), 10), Darkened(Tinted(0.5, tint, 0.12), 5), Tinted(0.88, tint, 0.12).ToHex()),
            [.. palette.Select(group => group.Colour.ToHex()).Distinct()]);
    }

    /// <summary>Means of groups of colours, the largest first. Begins with the commonest colour and then always the one furthest from those chosen, so that the same picture gives the same groups.</summary>
    private static List<(Oklab Colour, int Pixels)> Cluster(ImmutableArray<(Oklab Colour, int Pixels)> colours)
    {
        if (colours.IsEmpty) return [];
        var means = new List<Oklab> { colours.MaxBy(colour => colour.Pixels).Colour };
        while (means.Count < Clusters)
        {
            var furthest = colours.MaxBy(colour => means.Min(mean => mean.Distance(colour.Colour)) * Math.Sqrt(colour.Pixels));
            if (means.Min(mean => mean.Distance(furthest.Colour)) < Near) break;
            means.Add(furthest.Colour);
        }

        var groups = new List<(Oklab Colour, int Pixels)>();
        for (var round = 0; round < Rounds; round++)
        {
            groups = [.. colours.GroupBy(colour => Enumerable.Range(0, means.Count).MinBy(index => means[index].Distance(colour.Colour))).Select(group => (Mean(group), group.Sum(colour => colour.Pixels)))];
            means = [.. groups.Select(group => group.Colour)];
        }

        return [.. groups.OrderByDescending(group => group.Pixels)];
    }

    private static Oklab Mean(IEnumerable<(Oklab Colour, int Pixels)> group)
    {
        var (lightness, a, b, pixels) = (0.0, 0.0, 0.0, 0.0);
        foreach (var (colour, count) in group) (lightness, a, b, pixels) = (lightness + (colour.Lightness * count), a + (colour.A * count), b + (colour.B * count), pixels + count);
        return new Oklab(lightness / pixels, a / pixels, b / pixels);
    }

    private static Oklab Tinted(double lightness, Oklab tint, double share) => new(lightness, tint.A * share, tint.B * share);

    private static string Darkened(Oklab colour, double least)
    {
        var dark = colour;
        while (Contrast.Ratio(dark.ToHex(), DarkMail.LightGround) < least && dark.Lightness > 0) dark = dark with { Lightness = dark.Lightness - 0.01 };
        return dark.ToHex();
    }
}
