using System.Buffers;
using System.Numerics;
using System.Runtime.Intrinsics;

namespace Relevo.Core.Rendering;

/// <summary>
/// Breaks lines of UTF-8 text at spaces so that they have at most 72 characters where possible; a longer word stays whole. A continued line
/// begins without the space. The signature separator line is kept as it is. Source of the width: product practice within RFC 5322's advice of 78.
/// </summary>
internal static class LineBreaking
{
    /// <summary>Characters of a line at most, where it can be broken.</summary>
    public const int MaxCharacters = 72;

    /// <summary>Takes what lies in the output's room, the lines of it broken where they are too long. before: bytes that lie there before the lines.</summary>
    public static void Take(ReadOnlySpan<byte> lines, int before, IBufferWriter<byte> output)
    {
        if (!IsNeeded(lines))
        {
            output.Advance(before + lines.Length);
            return;
        }

        var written = lines.ToArray(); // what is broken is written over them
        output.Advance(before);
        Write(written, output);
    }

    public static void Write(ReadOnlySpan<byte> text, IBufferWriter<byte> output)
    {
        while (!text.IsEmpty)
        {
            var end = text.IndexOf((byte)'\n');
            var line = end < 0 ? text : text[..end];
            WriteLine(line, output);
            if (end < 0) return;
            output.Write("\n"u8);
            text = text[(end + 1)..];
        }
    }

    /// <summary>False when no line can be too long: none has more bytes than characters are let stand.</summary>
    public static bool IsNeeded(ReadOnlySpan<byte> text)
    {
        var start = 0;
        var at = 0;
        for (; at + Vector256<byte>.Count <= text.Length; at += Vector256<byte>.Count)
        {
            var ends = Vector256.Equals(Vector256.Create(text[at..]), Vector256.Create((byte)'\n')).ExtractMostSignificantBits();
            for (; ends != 0; ends &= ends - 1)
            {
                var end = at + BitOperations.TrailingZeroCount(ends);
                if (end - start > MaxCharacters) return true;
                start = end + 1;
            }
        }

        // What is left is shorter than a line may be, so only its first end can be too far.
        var last = text[at..].IndexOf((byte)'\n');
        return (last < 0 ? text.Length : at + last) - start > MaxCharacters;
    }

    /// <summary>How many lines the text has once it is broken; every line of it is ended.</summary>
    public static int CountLines(ReadOnlySpan<byte> text)
    {
        var count = 0;
        for (int end; (end = text.IndexOf((byte)'\n')) >= 0; text = text[(end + 1)..])
        {
            var line = text[..end];
            for (count++; BreakAt(line) is var at && at >= 0; count++) line = line[at..].TrimStart((byte)' ');
        }

        return count;
    }

    private static void WriteLine(ReadOnlySpan<byte> line, IBufferWriter<byte> output)
    {
        while (BreakAt(line) is var at && at >= 0)
        {
            output.Write(line[..at].TrimEnd((byte)' '));
            output.Write("\n"u8);
            line = line[at..].TrimStart((byte)' ');
        }

        output.Write(line);
    }

    /// <summary>The last space within the width, else the first one after it, else -1 for a line that stays whole.</summary>
    private static int BreakAt(ReadOnlySpan<byte> line)
    {
        if (line.Length <= MaxCharacters) return -1; // a character has at least one byte
        var characters = 0;
        var space = -1;
        for (var at = 0; at < line.Length; at++)
        {
            if ((line[at] & 0xC0) == 0x80) continue; // a character's further bytes
            if (line[at] == ' ' && at > 0 && (space < 0 || characters <= MaxCharacters) && line[at..].IndexOfAnyExcept((byte)' ') >= 0) space = at;
            if (characters >= MaxCharacters && space >= 0 && line[at..].IndexOfAnyExcept((byte)' ') >= 0) return space;
            characters++;
        }

        return -1;
    }
}
