using System.Runtime.InteropServices;
using System.Text.Unicode;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>So many static bytes, then one value. The last step of a program has only the bytes.</summary>
[StructLayout(LayoutKind.Auto)]
internal readonly record struct StraightStep(int StaticLength, OpCode Value, int Field);

/// <summary>
/// A program with its jumps taken for one pattern of present values: which values are there decides the whole way through it, and companies
/// have few patterns. Immutable.
/// </summary>
internal sealed class StraightProgram
{
    private readonly StraightStep[] steps;
    private readonly byte[] statics;

    private StraightProgram(ulong present, StraightStep[] steps, byte[] statics)
    {
        Present = present;
        this.steps = steps;
        this.statics = statics;
    }

    /// <summary>The pattern it was made for.</summary>
    public ulong Present { get; }

    /// <summary>Takes the jumps of a program for a pattern and joins the static bytes that then meet.</summary>
    public static StraightProgram Straighten(ReadOnlySpan<Instruction> program, ReadOnlySpan<byte> statics, ReadOnlySpan<int> fields, ulong present)
    {
        var steps = new List<StraightStep>();
        var joined = new List<byte>();
        var start = 0;
        for (var at = 0; at < program.Length;)
        {
            ref readonly var instruction = ref program[at++];
            switch (instruction.Op)
            {
                case OpCode.Static:
                    joined.AddRange(statics.Slice(instruction.Offset, instruction.Length));
                    break;
                case OpCode.SkipUnless:
                    if ((present & instruction.Mask) == 0) at = instruction.Target;
                    break;
                case OpCode.SkipIf:
                    if ((present & instruction.Mask) != 0) at = instruction.Target;
                    break;
                default:
                    steps.Add(new StraightStep(joined.Count - start, instruction.Op, fields[instruction.Slot]));
                    start = joined.Count;
                    break;
            }
        }

        steps.Add(new StraightStep(joined.Count - start, OpCode.Static, 0));
        return new StraightProgram(present, [.. steps], [.. joined]);
    }

    /// <summary>Bytes it writes at most for these values.</summary>
    public int LongestOutput(ReadOnlySpan<FieldValue> values)
    {
        var longest = statics.Length;
        foreach (ref readonly var step in steps.AsSpan())
        {
            if (step.Value == OpCode.Static) continue;
            ref readonly var value = ref values[step.Field];
            longest += Escaping.WorstExpansion * (step.Value is OpCode.HtmlText or OpCode.PlainText ? value.Text : value.Link).Length;
        }

        return longest;
    }

    /// <summary>Writes the signature. Returns the bytes written.</summary>
    public int Write(ReadOnlySpan<FieldValue> values, Span<byte> target)
    {
        var source = statics.AsSpan();
        var written = 0;
        foreach (ref readonly var step in steps.AsSpan())
        {
            source[..step.StaticLength].CopyTo(target[written..]);
            source = source[step.StaticLength..];
            written += step.StaticLength;
            switch (step.Value)
            {
                case OpCode.HtmlText:
                    written += Escaping.HtmlText(values[step.Field].Text, target[written..]);
                    break;
                case OpCode.HtmlLink:
                    written += Escaping.HtmlAttribute(values[step.Field].Link, target[written..]);
                    break;
                case OpCode.PlainText:
                    written += Plain(values[step.Field].Text, target[written..]);
                    break;
                case OpCode.PlainLink:
                    written += Plain(values[step.Field].Link, target[written..]);
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
