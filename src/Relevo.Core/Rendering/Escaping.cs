using System.Buffers;
using System.Text.Unicode;

namespace Relevo.Core.Rendering;

/// <summary>
/// Writes text as UTF-8, escaped for where it stands. Sources: HTML Standard, "Escaping a string" (ampersand, no-break space, angle
/// brackets; in attributes also the double quote); characters that UTF-16 cannot express become U+FFFD.
/// </summary>
public static class Escaping
{
    private static readonly SearchValues<char> SpecialInText = SearchValues.Create("&<>\u00A0");
    private static readonly SearchValues<char> SpecialInAttribute = SearchValues.Create("&<>\"\u00A0");

    /// <summary>Writes text that stands between tags. target: at least six bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlText(ReadOnlySpan<char> text, Span<byte> target) => Write(text, SpecialInText, target);

    /// <summary>Writes text that stands in a double-quoted attribute. target: at least six bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlAttribute(ReadOnlySpan<char> text, Span<byte> target) => Write(text, SpecialInAttribute, target);

    private static int Write(ReadOnlySpan<char> text, SearchValues<char> special, Span<byte> target)
    {
        var written = 0;
        while (true)
        {
            var stop = text.IndexOfAny(special);
            Utf8.FromUtf16(stop < 0 ? text : text[..stop], target[written..], out _, out var bytes, replaceInvalidSequences: true);
            written += bytes;
            if (stop < 0) return written;
            var entity = text[stop] switch
            {
                '&' => "&amp;"u8,
                '<' => "&lt;"u8,
                '>' => "&gt;"u8,
                '"' => "&quot;"u8,
                _ => "&nbsp;"u8,
            };
            entity.CopyTo(target[written..]);
            written += entity.Length;
            text = text[(stop + 1)..];
        }
    }
}
