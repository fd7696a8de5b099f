using System.Collections.Immutable;
using System.Text.RegularExpressions;

namespace Relevo.Core.Designs;

/// <summary>
/// How mail looks where it is shown dark. No standard says how programs recolour a message; what most do is to keep the hue of a text and turn its
/// lightness over where it would not be read otherwise. Common practice.
/// </summary>
public static partial class DarkMail
{
    /// <summary>The ground of light mail.</summary>
    public const string LightGround = "#ffffff";

    /// <summary>The ground of dark mail.</summary>
    public const string Ground = "#1b1f22";

    private const double Least = 4.5; // contrast at which a colour is left as it is

    /// <summary>The text colours of an HTML fragment, each with what becomes of it in dark mail.</summary>
    public static ImmutableSortedDictionary<string, string> ColoursOf(string html) =>
        TextColour().Matches(html).Select(match => match.Groups[1].Value).Distinct().ToImmutableSortedDictionary(colour => colour, Recolour);

    /// <summary>A text's colour in dark mail.</summary>
    public static string Recolour(string colour)
    {
        if (Contrast.Ratio(colour, Ground) >= Least) return colour;
        // White becomes the dark ground, black becomes white, and what lies between keeps its place; never darker than it was.
        var light = Oklab.From(colour);
        var turned = 1 - (light.Lightness * (1 - Oklab.From(Ground).Lightness));
        return (light with { Lightness = Math.Max(light.Lightness, turned) }).ToHex();
    }

    [GeneratedRegex("(?<![-a-z])color:(#[0-9a-fA-F]{6})", RegexOptions.CultureInvariant)]
    private static partial Regex TextColour();
}
