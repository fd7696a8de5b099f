using System.Globalization;
using System.Text.RegularExpressions;

namespace Relevo.Core.Designs;

/// <summary>The outline of a picture.</summary>
public enum PictureShape
{
    /// <summary>As it is.</summary>
    Square,

    /// <summary>With rounded corners, an eighth of the shorter side.</summary>
    Rounded,

    /// <summary>A circle, or an ellipse where the sides differ.</summary>
    Circle,
}

/// <summary>A part of a picture: where it begins and how wide it is, in thousandths of the picture's width and, for the top, of its height. How high it is follows from what it is to fill.</summary>
public sealed record PictureCrop(int Left, int Top, int Width)
{
    /// <summary>The narrowest part there is.</summary>
    public const int Least = 20; // thousandths; less is a handful of pixels

    /// <summary>True when it lies within the picture.</summary>
    public bool IsWithin => Left is >= 0 and < 1000 && Top is >= 0 and < 1000 && Width >= Least && Left + Width <= 1000;
}

/// <summary>
/// A picture made from another: scaled to fill exactly so many pixels, what is over cut off evenly, and shaped. It is named by what it is made
/// of, so that a renderer can name it for anybody without seeing a pixel, and the same name always stands for the same picture.
/// </summary>
/// <param name="Source">SHA-256 of a picture in the library, or an icon's name.</param>
/// <param name="Width">Width in pixels.</param>
/// <param name="Height">Height in pixels.</param>
/// <param name="Shape">Its outline.</param>
/// <param name="Ground">What lies outside the outline: a colour of the form #1d2a33, or empty for nothing.</param>
public sealed partial record PictureCut(string Source, int Width, int Height, PictureShape Shape, string Ground)
{
    /// <summary>Pixels of a side at most.</summary>
    public const int MaxWidth = 800, MaxHeight = 400;

    /// <summary>The part of the picture that is shown; null for as much of its middle as fits.</summary>
    public PictureCrop? Crop { get; init; }

    /// <summary>True for twice as many pixels on the same room, for dense screens.</summary>
    public bool IsDouble { get; init; }

    /// <summary>Pixels to make for each pixel of room.</summary>
    public int Density => IsDouble ? 2 : 1;

    /// <summary>What follows the source in the name.</summary>
    public string Suffix => string.Create(CultureInfo.InvariantCulture, $"-{Width}x{Height}{(Crop is { } part ? $"-crop{part.Left}.{part.Top}.{part.Width}" : "")}{(Shape == PictureShape.Square ? "" : "-" + Shape.ToString().ToLowerInvariant())}{(Ground.Length == 0 ? "" : "-on" + Ground[1..].ToLowerInvariant())}{(IsDouble ? "-2x" : "")}");

    /// <summary>The picture's name, without a file's ending.</summary>
    public string Name => Source + Suffix;

    /// <summary>The cut of this name, or null when it is none.</summary>
    public static PictureCut? Parse(string name)
    {
        if (NamePattern().Match(name) is not { Success: true } match) return null;
        var (width, height) = (int.Parse(match.Groups["width"].Value, CultureInfo.InvariantCulture), int.Parse(match.Groups["height"].Value, CultureInfo.InvariantCulture));
        if (width is < 1 or > MaxWidth || height is < 1 or > MaxHeight) return null;
        var shape = match.Groups["shape"].Value switch { "rounded" => PictureShape.Rounded, "circle" => PictureShape.Circle, _ => PictureShape.Square };
        PictureCrop? crop = match.Groups["span"].Success ? new PictureCrop(Number("left"), Number("top"), Number("span")) : null;
        if (crop is { IsWithin: false }) return null;
        return new PictureCut(match.Groups["source"].Value, width, height, shape, match.Groups["ground"].Success ? "#" + match.Groups["ground"].Value : "") { Crop = crop, IsDouble = match.Groups["double"].Success };

        int Number(string part) => int.Parse(match.Groups[part].Value, CultureInfo.InvariantCulture);
    }

    /// <summary>An icon's name as a source: what it stands for, in a colour of the form #1d2a33.</summary>
    public static string IconSource(IconKind kind, string colour) => $"icon-{kind.ToString().ToLowerInvariant()}-{colour[1..].ToLowerInvariant()}";

    /// <summary>The icon and colour that a source names, or null when it is a picture of the library.</summary>
    public static (IconKind Kind, string Colour)? ParseIcon(string source) =>
        source.Split('-') is ["icon", var kind, var colour] && Enum.TryParse<IconKind>(kind, ignoreCase: true, out var known) ? (known, "#" + colour) : null;

    /// <summary>True for a picture's SHA-256 as it is kept.</summary>
    public static bool IsSha256(string text) => Sha256Pattern().IsMatch(text);

    [GeneratedRegex("^(?<source>[0-9a-f]{64}|icon-[a-z]+-[0-9a-f]{6})-(?<width>[0-9]{1,3})x(?<height>[0-9]{1,3})(-crop(?<left>[0-9]{1,3})\\.(?<top>[0-9]{1,3})\\.(?<span>[0-9]{2,4}))?(-(?<shape>rounded|circle))?(-on(?<ground>[0-9a-f]{6}))?(?<double>-2x)?$", RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture)]
    private static partial Regex NamePattern();

    [GeneratedRegex("^[0-9a-f]{64}$", RegexOptions.CultureInvariant)]
    private static partial Regex Sha256Pattern();
}
