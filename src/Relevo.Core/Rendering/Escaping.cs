using System.Buffers;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Text.Unicode;

namespace Relevo.Core.Rendering;

/// <summary>
/// Writes text as UTF-8, escaped for where it stands. Sources: HTML Standard, "Escaping a string" (ampersand, no-break space, angle
/// brackets; in attributes also the double quote); characters that UTF-16 cannot express become U+FFFD. Most values are short plain ASCII, so
/// that is looked for eight or sixteen characters at a time; anything else takes the general way.
/// </summary>
public static class Escaping
{
    /// <summary>Bytes written at most for one UTF-16 unit: <c>&amp;quot;</c> and <c>&amp;nbsp;</c>.</summary>
    public const int WorstExpansion = 6;

    /// <summary>Bytes written at most for one UTF-16 unit in RTF: <c>\u-32768</c> and the space that ends it.</summary>
    public const int WorstRtfExpansion = 9;

    private static readonly SearchValues<char> SpecialInText = SearchValues.Create("&<>\u00A0");
    private static readonly SearchValues<char> SpecialInAttribute = SearchValues.Create("&<>\"\u00A0");
    private const int Half = 8; // UTF-16 units in a 128-bit vector
    private const int Whole = 16; // UTF-16 units in a 256-bit vector

    /// <summary>Writes text that stands between tags. target: at least <see cref="WorstExpansion"/> bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlText(ReadOnlySpan<char> text, Span<byte> target) => General(text, SpecialInText, target);

    /// <summary>Writes text that stands in a double-quoted attribute. target: at least <see cref="WorstExpansion"/> bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlAttribute(ReadOnlySpan<char> text, Span<byte> target) => General(text, SpecialInAttribute, target);

    /// <summary>
    /// Writes text in RTF: braces and backslashes escaped, everything beyond ASCII as signed 16-bit code units without anything for readers that
    /// know no Unicode, control characters left out. target: at least <see cref="WorstRtfExpansion"/> bytes for each UTF-16 unit. Returns the
    /// bytes written. Source: Rich Text Format (RTF) Specification, version 1.9, "Unicode RTF"; it wants <c>\uc0</c> before.
    /// </summary>
    public static int Rtf(ReadOnlySpan<char> text, Span<byte> target)
    {
        var written = 0;
        for (var at = 0; at < text.Length; at++)
        {
            var unit = text[at];
            var isWhole = !char.IsSurrogate(unit) || (char.IsHighSurrogate(unit) ? at + 1 < text.Length && char.IsLowSurrogate(text[at + 1]) : at > 0 && char.IsHighSurrogate(text[at - 1]));
            written += RtfUnit(isWhole ? unit : '\uFFFD', target[written..]);
        }

        return written;
    }

    /// <summary>Writes an address inside the quotes of a field's instruction, where quotes and backslashes are percent-encoded (RFC 3986 section 2.1). Room and result as for <see cref="Rtf"/>.</summary>
    public static int RtfAddress(ReadOnlySpan<char> text, Span<byte> target)
    {
        var written = 0;
        foreach (var unit in text)
        {
            if (unit is '"' or '\\' or '{' or '}' or <= ' ')
            {
                Utf8.TryWrite(target[written..], CultureInfo.InvariantCulture, $"%{(int)unit:X2}", out var bytes);
                written += bytes;
            }
            else written += RtfUnit(unit, target[written..]);
        }

        return written;
    }

    private static int RtfUnit(char unit, Span<byte> target)
    {
        switch (unit)
        {
            case '\\' or '{' or '}':
                target[0] = (byte)'\\';
                target[1] = (byte)unit;
                return 2;
            case '\t':
                "\\tab "u8.CopyTo(target);
                return 5;
            case '\n':
                "\\line "u8.CopyTo(target);
                return 6;
            case < ' ' or '\u007F':
                return 0;
            case < '\u0080':
                target[0] = (byte)unit;
                return 1;
            default:
                Utf8.TryWrite(target, CultureInfo.InvariantCulture, $"\\u{unchecked((short)unit)} ", out var bytes);
                return bytes;
        }
    }

    /// <summary>
    /// Copies what is ASCII without anything special in either place. Returns how much: all of it, or a beginning. Text of one or two blocks,
    /// nearly every value there is, is taken as its first and its last block, which overlap; so its length decides no branch.
    /// </summary>
    internal static int PlainPrefix(ref char text, int length, ref byte destination)
    {
        ref var source = ref Unsafe.As<char, ushort>(ref text);
        if (length < Half) return Short(ref source, length, ref destination);
        if (length <= 2 * Half)
        {
            var tail = (nuint)(length - Half);
            if (!Narrow(Vector128.LoadUnsafe(ref source), Vector128.LoadUnsafe(ref source, tail), out var ends)) return 0;
            Unsafe.WriteUnaligned(ref destination, ends.AsUInt64()[0]);
            Unsafe.WriteUnaligned(ref Unsafe.Add(ref destination, tail), ends.AsUInt64()[1]);
            return length;
        }

        var end = (nuint)(length - Whole);
        for (nuint at = 0; at < end; at += Whole)
        {
            if (!Narrow(Vector128.LoadUnsafe(ref source, at), Vector128.LoadUnsafe(ref source, at + Half), out var bytes)) return (int)at;
            bytes.StoreUnsafe(ref destination, at);
        }

        if (!Narrow(Vector128.LoadUnsafe(ref source, end), Vector128.LoadUnsafe(ref source, end + Half), out var final)) return 0;
        final.StoreUnsafe(ref destination, end);
        return length;
    }

    private static int Short(ref ushort source, int length, ref byte destination)
    {
        for (var at = 0; at < length; at++)
        {
            var unit = (char)Unsafe.Add(ref source, at);
            if (unit is >= '\u007F' or '&' or '<' or '>' or '"') return 0;
            Unsafe.Add(ref destination, at) = (byte)unit;
        }

        return length;
    }

    private static bool Narrow(Vector128<ushort> lower, Vector128<ushort> upper, out Vector128<byte> bytes)
    {
        bytes = Vector128.NarrowWithSaturation(lower, upper);
        var special = Vector128.GreaterThan(bytes, Vector128.Create((byte)0x7E))
            | Vector128.Equals(bytes, Vector128.Create((byte)'&'))
            | Vector128.Equals(bytes & Vector128.Create((byte)0xFD), Vector128.Create((byte)'<')) // and '>'
            | Vector128.Equals(bytes, Vector128.Create((byte)'"'));
        return special == Vector128<byte>.Zero;
    }

    private static int General(ReadOnlySpan<char> text, SearchValues<char> special, Span<byte> target)
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
