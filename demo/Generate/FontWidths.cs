using System.Globalization;
using System.Text;
using Relevo.Core.Rendering;
using SkiaSharp;

namespace Relevo.Demo;

/// <summary>Writes the table of letter widths that Relevo measures with, from fonts whose widths are those of the fonts mail programs have.</summary>
internal static class FontWidths
{
    private static readonly (string Family, string Regular, string Bold)[] Faces =
    [
        ("Arial", "liberation/LiberationSans-Regular.ttf", "liberation/LiberationSans-Bold.ttf"),
        ("Times New Roman", "liberation/LiberationSerif-Regular.ttf", "liberation/LiberationSerif-Bold.ttf"),
        ("Verdana", "dejavu/DejaVuSans.ttf", "dejavu/DejaVuSans-Bold.ttf"),
        ("Georgia", "dejavu/DejaVuSerif.ttf", "dejavu/DejaVuSerif-Bold.ttf"),
    ];

    /// <summary>The table: a line for each family and weight, a width in 2048ths of the size for each letter of <see cref="FontMetrics.Letters"/>, 0 for one the font lacks.</summary>
    public static string Table(string fonts)
    {
        var table = new StringBuilder();
        foreach (var (family, regular, bold) in Faces)
        {
            table.Append(family).Append("\tregular\t").AppendJoin(' ', Widths(Path.Combine(fonts, regular))).Append('\n');
            table.Append(family).Append("\tbold\t").AppendJoin(' ', Widths(Path.Combine(fonts, bold))).Append('\n');
        }

        return table.ToString();
    }

    private static IEnumerable<string> Widths(string file)
    {
        using var face = SKTypeface.FromFile(file) ?? throw new FileNotFoundException($"The font {file} is missing; fonts-liberation and fonts-dejavu-core have them.");
        using var font = new SKFont(face, FontMetrics.Unit) { LinearMetrics = true, Subpixel = true, Hinting = SKFontHinting.None };
        foreach (var letter in FontMetrics.Letters)
        {
            var glyph = font.GetGlyph(letter);
            yield return (glyph == 0 ? 0 : (int)MathF.Round(font.GetGlyphWidths([glyph])[0])).ToString(CultureInfo.InvariantCulture);
        }
    }
}
