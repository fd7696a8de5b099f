using System.Buffers;
using System.Globalization;
using System.Numerics;
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
    private static readonly SearchValues<char> None = SearchValues.Create("");
    private const ulong AsciiInText = (1UL << '&') | (1UL << '<') | (1UL << '>'); // all of them below 64
    private const ulong AsciiInAttribute = AsciiInText | (1UL << '"');
    private const int Half = 8; // UTF-16 units in a 128-bit vector
    private const int Whole = 16; // UTF-16 units in a 256-bit vector

    /// <summary>Writes text that stands between tags. target: at least <see cref="WorstExpansion"/> bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlText(ReadOnlySpan<char> text, Span<byte> target) => Mixed(text, AsciiInText, SpecialInText, target);

    /// <summary>Writes text that stands in a double-quoted attribute. target: at least <see cref="WorstExpansion"/> bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlAttribute(ReadOnlySpan<char> text, Span<byte> target) => Mixed(text, AsciiInAttribute, SpecialInAttribute, target);

    /// <summary>Writes text as it is. target: at least three bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int Plain(ReadOnlySpan<char> text, Span<byte> target) => Mixed(text, 0, None, target);

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
    /// Copies what is ASCII without anything special in either place. Returns how much: all of it, or what stands before the first that is not. Text of one or two
    /// blocks, nearly every value there is, is taken as its first and its last block, which overlap; so its length decides no branch.
    /// </summary>
    internal static int PlainPrefix(ref char text, int length, ref byte destination)
    {
        ref var source = ref Unsafe.As<char, ushort>(ref text);
        if (length < Half) return Short(ref source, length, ref destination);
        if (length <= 2 * Half)
        {
            var tail = (nuint)(length - Half);
            var special = Narrow(Vector128.LoadUnsafe(ref source), Vector128.LoadUnsafe(ref source, tail), out var ends);
            Unsafe.WriteUnaligned(ref destination, ends.AsUInt64()[0]);
            Unsafe.WriteUnaligned(ref Unsafe.Add(ref destination, tail), ends.AsUInt64()[1]);
            if (special == Vector128<byte>.Zero) return length;
            var first = First(special);
            return first < Half ? first : (int)tail + first - Half;
        }

        var end = (nuint)(length - Whole);
        for (nuint at = 0; at < end; at += Whole)
        {
            var special = Narrow(Vector128.LoadUnsafe(ref source, at), Vector128.LoadUnsafe(ref source, at + Half), out var bytes);
            bytes.StoreUnsafe(ref destination, at);
            if (special != Vector128<byte>.Zero) return (int)at + First(special);
        }

        var last = Narrow(Vector128.LoadUnsafe(ref source, end), Vector128.LoadUnsafe(ref source, end + Half), out var final);
        final.StoreUnsafe(ref destination, end);
        return last == Vector128<byte>.Zero ? length : (int)end + First(last);
    }

    private static int Short(ref ushort source, int length, ref byte destination)
    {
        for (var at = 0; at < length; at++)
        {
            var unit = (char)Unsafe.Add(ref source, at);
            if (unit is >= '\u007F' or '&' or '<' or '>' or '"') return at;
            Unsafe.Add(ref destination, at) = (byte)unit;
        }

        return length;
    }

    /// <summary>Bytes of sixteen units; what is returned is not zero where they are not plain.</summary>
    private static Vector128<byte> Narrow(Vector128<ushort> lower, Vector128<ushort> upper, out Vector128<byte> bytes)
    {
        bytes = Vector128.NarrowWithSaturation(lower, upper);
        return Vector128.GreaterThan(bytes, Vector128.Create((byte)0x7E))
            | Vector128.Equals(bytes, Vector128.Create((byte)'&'))
            | Vector128.Equals(bytes & Vector128.Create((byte)0xFD), Vector128.Create((byte)'<')) // and '>'
            | Vector128.Equals(bytes, Vector128.Create((byte)'"'));
    }

    private static int First(Vector128<byte> special) => BitOperations.TrailingZeroCount(special.ExtractMostSignificantBits());

    /// <summary>
    /// Takes what is special among ASCII and letters of two bytes one by one, and the plain text between them in blocks: names with an umlaut or an ampersand have few of
    /// them. Anything else goes the general way. special: bits of the ASCII characters that are, all of them below 64.
    /// </summary>
    private static int Mixed(ReadOnlySpan<char> text, ulong special, SearchValues<char> all, Span<byte> target)
    {
        if (target.Length < text.Length * WorstExpansion) return General(text, all, target);
        ref var unit = ref MemoryMarshal.GetReference(text);
        ref var at = ref MemoryMarshal.GetReference(target);
        for (var left = text.Length; left > 0;)
        {
            int written;
            if (unit < 0x80)
            {
                at = (byte)unit;
                written = unit < 64 && ((special >> unit) & 1) != 0 ? Entity(unit, ref at) : 1;
            }
            else if (unit is < '\u0800' and not '\u00A0')
            {
                at = (byte)(0xC0 | (unit >> 6));
                Unsafe.Add(ref at, 1) = (byte)(0x80 | (unit & 0x3F));
                written = 2;
            }
            else
            {
                var before = (int)Unsafe.ByteOffset(ref MemoryMarshal.GetReference(target), ref at);
                return before + General(text[^left..], all, target[before..]);
            }

            unit = ref Unsafe.Add(ref unit, 1);
            at = ref Unsafe.Add(ref at, written);
            var plain = PlainPrefix(ref unit, --left, ref at);
            unit = ref Unsafe.Add(ref unit, plain);
            at = ref Unsafe.Add(ref at, plain);
            left -= plain;
        }

        return (int)Unsafe.ByteOffset(ref MemoryMarshal.GetReference(target), ref at);
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
            written += Entity(text[stop], ref target[written..][0]);
            text = text[(stop + 1)..];
        }
    }

    /// <summary>Writes a character as it is referred to by name. at: room for the longest name. Returns the bytes written.</summary>
    private static int Entity(char special, ref byte at)
    {
        var entity = special switch
        {
            '&' => "&amp;"u8,
            '<' => "&lt;"u8,
            '>' => "&gt;"u8,
            '"' => "&quot;"u8,
            _ => "&nbsp;"u8,
        };
        entity.CopyTo(MemoryMarshal.CreateSpan(ref at, WorstExpansion));
        return entity.Length;
    }
}
