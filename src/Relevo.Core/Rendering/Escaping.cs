using System.Buffers;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Text.Unicode;

namespace Relevo.Core.Rendering;

/// <summary>
/// Writes text as UTF-8, escaped for where it stands. Sources: HTML Standard, "Escaping a string" (ampersand, no-break space, angle
/// brackets; in attributes also the double quote); characters that UTF-16 cannot express become U+FFFD. Most values are short plain ASCII, so
/// that is looked for eight characters at a time; anything else takes the general way.
/// </summary>
public static class Escaping
{
    /// <summary>Bytes written at most for one UTF-16 unit: <c>&amp;quot;</c> and <c>&amp;nbsp;</c>.</summary>
    public const int WorstExpansion = 6;

    private const int Lanes = 8; // UTF-16 units in a 128-bit vector
    private static readonly SearchValues<char> SpecialInText = SearchValues.Create("&<>\u00A0");
    private static readonly SearchValues<char> SpecialInAttribute = SearchValues.Create("&<>\"\u00A0");

    /// <summary>Writes text that stands between tags. target: at least <see cref="WorstExpansion"/> bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlText(ReadOnlySpan<char> text, Span<byte> target)
    {
        var plain = PlainPrefix(text, target);
        return plain == text.Length ? plain : plain + General(text[plain..], SpecialInText, target[plain..]);
    }

    /// <summary>Writes text that stands in a double-quoted attribute. target: at least <see cref="WorstExpansion"/> bytes for each UTF-16 unit. Returns the bytes written.</summary>
    public static int HtmlAttribute(ReadOnlySpan<char> text, Span<byte> target)
    {
        var plain = PlainPrefix(text, target);
        return plain == text.Length ? plain : plain + General(text[plain..], SpecialInAttribute, target[plain..]);
    }

    /// <summary>Copies as much as is ASCII without anything special in either place. Returns how much, a multiple of eight or all of it.</summary>
    private static int PlainPrefix(ReadOnlySpan<char> text, Span<byte> target)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(target.Length, text.Length);
        ref var source = ref Unsafe.As<char, ushort>(ref MemoryMarshal.GetReference(text));
        ref var destination = ref MemoryMarshal.GetReference(target);
        var at = 0;
        for (; at <= text.Length - Lanes; at += Lanes)
        {
            var units = Vector128.LoadUnsafe(ref source, (nuint)at);
            if (HasSpecial(units)) return at;
            Store(units, ref Unsafe.Add(ref destination, at));
        }

        if (at == text.Length) return at;
        if (text.Length >= Lanes)
        {
            // The last eight once more: what was written already is written again with the same bytes.
            var last = text.Length - Lanes;
            var units = Vector128.LoadUnsafe(ref source, (nuint)last);
            if (HasSpecial(units)) return at;
            Store(units, ref Unsafe.Add(ref destination, last));
            return text.Length;
        }

        for (; at < text.Length; at++)
        {
            var unit = text[at];
            if (unit is >= '\u007F' or '&' or '<' or '>' or '"') return 0;
            Unsafe.Add(ref destination, at) = (byte)unit;
        }

        return at;
    }

    private static bool HasSpecial(Vector128<ushort> units) =>
        (Vector128.GreaterThan(units, Vector128.Create((ushort)0x7E))
            | Vector128.Equals(units, Vector128.Create((ushort)'&'))
            | Vector128.Equals(units, Vector128.Create((ushort)'<'))
            | Vector128.Equals(units, Vector128.Create((ushort)'>'))
            | Vector128.Equals(units, Vector128.Create((ushort)'"'))) != Vector128<ushort>.Zero;

    private static void Store(Vector128<ushort> units, ref byte destination) =>
        Unsafe.WriteUnaligned(ref destination, Vector128.Narrow(units, units).AsUInt64().ToScalar());

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
