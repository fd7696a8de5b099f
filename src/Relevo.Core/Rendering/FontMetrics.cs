using System.Collections.Frozen;
using System.Globalization;
using System.Text;
using Relevo.Core.Designs;

namespace Relevo.Core.Rendering;

/// <summary>
/// How wide text is in the fonts mail programs have. The widths are those of the Liberation fonts, which were made to be as wide as Arial and
/// Times New Roman letter for letter, and of the DejaVu fonts for the wider families, of which no exact twin is free; those are on the safe side.
/// Kerning is left out: it takes a percent or less.
/// </summary>
public sealed class FontMetrics
{
    /// <summary>Widths are in this share of the size.</summary>
    public const int Unit = 2048;

    private const int Last = 0x2150; // what lies above is mostly as wide as high
    private static readonly (int From, int To)[] Ranges = [(0x20, 0x24F), (0x370, 0x52F), (0x1E00, 0x1EFF), (0x2000, 0x206F), (0x20A0, 0x20CF), (0x2100, 0x214F)];
    private static readonly FrozenDictionary<(string Family, bool IsBold), FontMetrics> All = Load();

    private readonly ushort[] widths;

    private FontMetrics(ushort[] widths)
    {
        this.widths = widths;
        Widest = Math.Max(Unit, (int)widths.Max());
    }

    /// <summary>Width of the widest letter, in the same share.</summary>
    public int Widest { get; }

    /// <summary>The letters that have a width of their own, in the order of the table.</summary>
    public static IEnumerable<int> Letters => Ranges.SelectMany(range => Enumerable.Range(range.From, range.To - range.From + 1));

    /// <summary>The metrics of a font stack of <see cref="Theme.FontStacks"/>.</summary>
    public static FontMetrics Of(string fontStack, bool isBold) => All[(FamilyOf(fontStack), isBold)];

    /// <summary>Width in 2048ths of the size.</summary>
    public int Measure(ReadOnlySpan<char> text)
    {
        var sum = 0;
        foreach (var letter in text) sum += letter < Last ? widths[letter] : char.IsSurrogate(letter) ? Unit * 5 / 8 : Unit;
        return sum;
    }

    private static string FamilyOf(string fontStack) => fontStack.Split(',')[0].Trim('\'') switch
    {
        "Times New Roman" => "Times New Roman",
        "Georgia" => "Georgia",
        "Verdana" or "Tahoma" => "Verdana",
        _ => "Arial",
    };

    private static FrozenDictionary<(string, bool), FontMetrics> Load()
    {
        using var file = typeof(FontMetrics).Assembly.GetManifestResourceStream("Relevo.Core.Rendering.Metrics.widths.txt") ?? throw new InvalidOperationException("The table of letter widths is not in the assembly.");
        using var reader = new StreamReader(file, Encoding.UTF8);
        var all = new Dictionary<(string, bool), FontMetrics>();
        while (reader.ReadLine() is { } line)
        {
            var columns = line.Split('\t');
            var widths = new ushort[Last];
            Array.Fill(widths, (ushort)Unit);
            // Combining marks stand on the letter before them.
            Array.Fill(widths, (ushort)0, 0x300, 0x70);
            foreach (var (letter, text) in Letters.Zip(columns[2].Split(' ')))
            {
                var width = ushort.Parse(text, CultureInfo.InvariantCulture);
                widths[letter] = width > 0 || IsWidthless(letter) ? width : (ushort)(Unit / 2);
            }

            all[(columns[0], columns[1] == "bold")] = new FontMetrics(widths);
        }

        return all.ToFrozenDictionary();
    }

    /// <summary>Zero-width spaces, joiners and direction marks.</summary>
    private static bool IsWidthless(int letter) => letter is (>= 0x200B and <= 0x200F) or (>= 0x202A and <= 0x202E) or (>= 0x2060 and <= 0x206F);
}
