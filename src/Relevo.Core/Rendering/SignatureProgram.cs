using System.Buffers;
using System.Runtime.InteropServices;
using System.Text.Unicode;
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
/// A design compiled for one output form: static bytes, values escaped for where they stand, and jumps over what is empty.
/// Immutable and safe to run from many threads. The same values give the same bytes.
/// </summary>
public sealed class SignatureProgram
{
    private const int WorstExpansion = 6; // bytes for one UTF-16 unit: &quot; and &#160; are the longest things written for one

    private readonly Instruction[] instructions;
    private readonly byte[] statics;
    private readonly int[] fields;
    private readonly int staticBytes;

    internal SignatureProgram(Instruction[] instructions, byte[] statics, int[] fields)
    {
        this.instructions = instructions;
        this.statics = statics;
        this.fields = fields;
        staticBytes = instructions.Where(instruction => instruction.Op == OpCode.Static).Sum(instruction => instruction.Length);
    }

    /// <summary>Catalogue indexes of the fields the program reads.</summary>
    public ReadOnlySpan<int> Fields => fields;

    /// <summary>Writes the signature in UTF-8. values: one account's values in catalogue order, from <see cref="FieldResolution.Resolve"/>.</summary>
    public void Render(ReadOnlySpan<FieldValue> values, IBufferWriter<byte> output)
    {
        var present = 0UL;
        var longest = staticBytes;
        for (var slot = 0; slot < fields.Length; slot++)
        {
            ref readonly var value = ref values[fields[slot]];
            if (value.Text.Length > 0) present |= 1UL << (2 * slot);
            if (value.Link.Length > 0) present |= 1UL << ((2 * slot) + 1);
        }

        foreach (ref readonly var instruction in instructions.AsSpan())
        {
            if (instruction.Op is OpCode.Static or OpCode.SkipIf or OpCode.SkipUnless) continue;
            ref readonly var value = ref values[fields[instruction.Slot]];
            longest += WorstExpansion * (instruction.Op is OpCode.HtmlText or OpCode.PlainText ? value.Text : value.Link).Length;
        }

        output.Advance(Run(values, present, output.GetSpan(longest)));
    }

    private int Run(ReadOnlySpan<FieldValue> values, ulong present, Span<byte> target)
    {
        var written = 0;
        var program = instructions.AsSpan();
        for (var at = 0; at < program.Length;)
        {
            ref readonly var instruction = ref program[at++];
            switch (instruction.Op)
            {
                case OpCode.Static:
                    statics.AsSpan(instruction.Offset, instruction.Length).CopyTo(target[written..]);
                    written += instruction.Length;
                    break;
                case OpCode.HtmlText:
                    written += Escaping.HtmlText(values[fields[instruction.Slot]].Text, target[written..]);
                    break;
                case OpCode.HtmlLink:
                    written += Escaping.HtmlAttribute(values[fields[instruction.Slot]].Link, target[written..]);
                    break;
                case OpCode.PlainText:
                    written += Plain(values[fields[instruction.Slot]].Text, target[written..]);
                    break;
                case OpCode.PlainLink:
                    written += Plain(values[fields[instruction.Slot]].Link, target[written..]);
                    break;
                case OpCode.SkipUnless:
                    if ((present & instruction.Mask) == 0) at = instruction.Target;
                    break;
                case OpCode.SkipIf:
                    if ((present & instruction.Mask) != 0) at = instruction.Target;
                    break;
            }
        }

        return written;
    }

    private static int Plain(string text, Span<byte> target)
    {
        Utf8.FromUtf16(text, target, out _, out var written, replaceInvalidSequences: true);
        return written;
    }
}
