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

    /// <summary>What follows the source in the name.</summary>
    public string Suffix => string.Create(CultureInfo.InvariantCulture, $"-{Width}x{Height}{(Shape == PictureShape.Square ? "" : "-" + Shape.ToString().ToLowerInvariant())}{(Ground.Length == 0 ? "" : "-on" + Ground[1..].ToLowerInvariant())}");

    /// <summary>The picture's name, without a file's ending.</summary>
    public string Name => Source + Suffix;

    /// <summary>The cut of this name, or null when it is none.</summary>
    public static PictureCut? Parse(string name)
    {
        if (NamePattern().Match(name) is not { Success: true } match) return null;
        var (width, height) = (int.Parse(match.Groups["width"].Value, CultureInfo.InvariantCulture), int.Parse(match.Groups["height"].Value, CultureInfo.InvariantCulture));
        if (width is < 1 or > MaxWidth || height is < 1 or > MaxHeight) return null;
        var shape = match.Groups["shape"].Value switch { "rounded" => PictureShape.Rounded, "circle" => PictureShape.Circle, _ => PictureShape.Square };
        return new PictureCut(match.Groups["source"].Value, width, height, shape, match.Groups["ground"].Success ? "#" + match.Groups["ground"].Value : "");
    }

    /// <summary>An icon's name as a source: what it stands for, in a colour of the form #1d2a33.</summary>
    public static string IconSource(IconKind kind, string colour) => $"icon-{kind.ToString().ToLowerInvariant()}-{colour[1..].ToLowerInvariant()}";

    /// <summary>The icon and colour that a source names, or null when it is a picture of the library.</summary>
    public static (IconKind Kind, string Colour)? ParseIcon(string source) =>
        source.Split('-') is ["icon", var kind, var colour] && Enum.TryParse<IconKind>(kind, ignoreCase: true, out var known) ? (known, "#" + colour) : null;

    /// <summary>True for a picture's SHA-256 as it is kept.</summary>
    public static bool IsSha256(string text) => Sha256Pattern().IsMatch(text);

    [GeneratedRegex("^(?<source>[0-9a-f]{64}|icon-[a-z]+-[0-9a-f]{6})-(?<width>[0-9]{1,3})x(?<height>[0-9]{1,3})(-(?<shape>rounded|circle))?(-on(?<ground>[0-9a-f]{6}))?$", RegexOptions.CultureInvariant | RegexOptions.ExplicitCapture)]
    private static partial Regex NamePattern();

    [GeneratedRegex("^[0-9a-f]{64}$", RegexOptions.CultureInvariant)]
    private static partial Regex Sha256Pattern();
}
