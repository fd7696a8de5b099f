using System.Globalization;

namespace Relevo.Core.Designs;

/// <summary>How well two colours stand out from each other. Source: WCAG 2.2, "relative luminance" and "contrast ratio".</summary>
public static class Contrast
{
    /// <summary>The ratio of two colours of the form #1d2a33, from 1 to 21.</summary>
    public static double Ratio(string one, string other)
    {
        var (lighter, darker) = (Luminance(one), Luminance(other));
        if (lighter < darker) (lighter, darker) = (darker, lighter);
        return (lighter + 0.05) / (darker + 0.05);
    }

    /// <summary>White or black, whichever stands out better from the ground.</summary>
    public static string TextOn(string ground) => Ratio(ground, "#ffffff") >= Ratio(ground, "#000000") ? "#ffffff" : "#000000";

    private static double Luminance(string colour) => (0.2126 * Linear(colour, 1)) + (0.7152 * Linear(colour, 3)) + (0.0722 * Linear(colour, 5));

    private static double Linear(string colour, int at)
    {
        var share = int.Parse(colour.AsSpan(at, 2), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture) / 255.0;
        return share <= 0.04045 ? share / 12.92 : Math.Pow((share + 0.055) / 1.055, 2.4);
    }
}
