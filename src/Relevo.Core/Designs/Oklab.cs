using System.Globalization;

namespace Relevo.Core.Designs;

/// <summary>
/// A colour in a space where equal distances look equal. Lightness from 0 to 1; A from green to red and B from blue to yellow, about -0.4 to 0.4.
/// Source: CSS Color 4, section 9 and the sample code of section 17, "Sample code for Color Conversions".
/// </summary>
public readonly record struct Oklab(double Lightness, double A, double B)
{
    /// <summary>How colourful it is.</summary>
    public double Chroma => Math.Sqrt((A * A) + (B * B));

    /// <summary>From a colour of the form #1d2a33.</summary>
    public static Oklab From(string colour) => From(Channel(colour, 1), Channel(colour, 3), Channel(colour, 5));

    /// <summary>From channels of 0 to 255.</summary>
    public static Oklab From(int red, int green, int blue)
    {
        var (r, g, b) = (Linear(red / 255.0), Linear(green / 255.0), Linear(blue / 255.0));
        var l = Math.Cbrt((0.4122214708 * r) + (0.5363325363 * g) + (0.0514459929 * b));
        var m = Math.Cbrt((0.2119034982 * r) + (0.6806995451 * g) + (0.1073969566 * b));
        var s = Math.Cbrt((0.0883024619 * r) + (0.2817188376 * g) + (0.6299787005 * b));
        return new Oklab(
            (0.2104542553 * l) + (0.7936177850 * m) - (0.0040720468 * s),
            (1.9779984951 * l) - (2.4285922050 * m) + (0.4505937099 * s),
            (0.0259040371 * l) + (0.7827717662 * m) - (0.8086757660 * s));
    }

    /// <summary>How different another colour looks.</summary>
    public double Distance(Oklab other) => Math.Sqrt(Square(Lightness - other.Lightness) + Square(A - other.A) + Square(B - other.B));

    /// <summary>As #1d2a33; what screens cannot show is made the nearest they can, channel by channel.</summary>
    public string ToHex()
    {
        var l = Cube(Lightness + (0.3963377774 * A) + (0.2158037573 * B));
        var m = Cube(Lightness - (0.1055613458 * A) - (0.0638541728 * B));
        var s = Cube(Lightness - (0.0894841775 * A) - (1.2914855480 * B));
        return string.Create(CultureInfo.InvariantCulture, $"#{Byte((4.0767416621 * l) - (3.3077115913 * m) + (0.2309699292 * s)):x2}{Byte((-1.2684380046 * l) + (2.6097574011 * m) - (0.3413193965 * s)):x2}{Byte((-0.0041960863 * l) - (0.7034186147 * m) + (1.7076147010 * s)):x2}");
    }

    private static int Byte(double linear)
    {
        var clipped = Math.Clamp(linear, 0, 1);
        return (int)Math.Round(255 * (clipped <= 0.0031308 ? 12.92 * clipped : (1.055 * Math.Pow(clipped, 1 / 2.4)) - 0.055));
    }

    private static int Channel(string colour, int at) => int.Parse(colour.AsSpan(at, 2), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture);

    private static double Linear(double share) => share <= 0.04045 ? share / 12.92 : Math.Pow((share + 0.055) / 1.055, 2.4);

    private static double Square(double value) => value * value;

    private static double Cube(double value) => value * value * value;
}
