using System.Buffers;
using System.Collections.Concurrent;
using System.Runtime.InteropServices;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>Which of a program's values are there: bit 2s for the text of slot s, bit 2s + 1 for its link.</summary>
internal readonly record struct Presence(bool IsAlways, ulong Any)
{
    public static Presence Never { get; } = new(false, 0);

    public static Presence Always { get; } = new(true, 0);

    public static Presence Text(int slot) => new(false, 1UL << (2 * slot));

    public static Presence Link(int slot) => new(false, 1UL << ((2 * slot) + 1));

    public bool IsNever => !IsAlways && Any == 0;

    public static Presence operator |(Presence left, Presence right) => new(left.IsAlways || right.IsAlways, left.Any | right.Any);
}

internal enum OpCode : byte
{
    /// <summary>Copies static bytes.</summary>
    Static,

    /// <summary>A value's text between tags.</summary>
    HtmlText,

    /// <summary>A value's link inside a double-quoted attribute.</summary>
    HtmlLink,

    /// <summary>A value's text as it is.</summary>
    PlainText,

    /// <summary>A value's link as it is.</summary>
    PlainLink,

    /// <summary>Goes on at the target when none of the mask's values is there.</summary>
    SkipUnless,

    /// <summary>Goes on at the target when any of the mask's values is there.</summary>
    SkipIf,
}

[StructLayout(LayoutKind.Auto)]
internal readonly record struct Instruction(OpCode Op, int Slot, int Offset, int Length, int Target, ulong Mask);

/// <summary>
/// A design compiled for one output form: static bytes, values escaped for where they stand, and jumps over what is empty. What it holds never
/// changes, and it is safe to run from many threads. The same values give the same bytes.
/// </summary>
public sealed class SignatureProgram
{
    private const int MostKept = 256; // patterns of present values kept straightened; a company of 100,000 people has a few dozen

    private readonly Instruction[] instructions;
    private readonly byte[] statics;
    private readonly int[] fields;
    private readonly Uses[] uses;
    private readonly ConcurrentDictionary<ulong, StraightProgram> straightened = new();
    private StraightProgram last;

    internal SignatureProgram(Instruction[] instructions, byte[] statics, int[] fields)
    {
        this.instructions = instructions;
        this.statics = statics;
        this.fields = fields;
        uses = [.. fields.Select((field, slot) => new Uses(field, Worst(slot, OpCode.HtmlText, OpCode.PlainText), Worst(slot, OpCode.HtmlLink, OpCode.PlainLink)))];
        last = Straighten(0);
    }

    /// <summary>Catalogue indexes of the fields the program reads.</summary>
    public ReadOnlySpan<int> Fields => fields;

    /// <summary>Writes the signature in UTF-8. values: one account's values in catalogue order, from <see cref="FieldResolution"/>.</summary>
    public void Render(ReadOnlySpan<FieldValue> values, IBufferWriter<byte> output)
    {
        // Without a branch: a guess that depends on values not yet in the cache is the dearest thing here.
        var present = 0UL;
        var longest = 0L;
        for (var slot = 0; slot < uses.Length; slot++)
        {
            ref readonly var use = ref uses[slot];
            ref readonly var value = ref values[use.Field];
            var (text, link) = (value.Text.Length, value.Link.Length);
            present |= (IsPositive(text) | (IsPositive(link) << 1)) << (2 * slot);
            longest += ((long)text * use.Text) + ((long)link * use.Link);
        }

        var straight = last;
        if (straight.Present != present) last = straight = Find(present);
        longest += straight.StaticRoom;
        output.Advance(straight.Write(values, output.GetSpan(checked((int)longest)), longest));
    }

    /// <summary>1 for a length above zero, otherwise 0.</summary>
    private static ulong IsPositive(int length) => (uint)-length >> 31;

    /// <summary>Bytes that one unit of a slot's text or link can take in the whole program.</summary>
    private int Worst(int slot, OpCode html, OpCode plain) => Escaping.WorstExpansion * instructions.Count(instruction => instruction.Slot == slot && (instruction.Op == html || instruction.Op == plain));

    private StraightProgram Find(ulong present)
    {
        if (straightened.TryGetValue(present, out var kept)) return kept;
        var made = Straighten(present);
        if (straightened.Count < MostKept) straightened.TryAdd(present, made);
        return made;
    }

    private StraightProgram Straighten(ulong present) => StraightProgram.Straighten(instructions, statics, fields, present);

    /// <summary>A field that is read, and the bytes that one unit of its text and of its link can take.</summary>
    private readonly record struct Uses(int Field, int Text, int Link);
}
