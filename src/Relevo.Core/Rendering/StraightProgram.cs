using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>So many static bytes, then one value. The last step of a program has only the bytes.</summary>
[StructLayout(LayoutKind.Auto)]
internal readonly record struct StraightStep(int StaticLength, OpCode Value, int Field, LetterCase Case = LetterCase.AsItIs);

/// <summary>A line of a program's text: characters that are the same for everybody, and the values in it.</summary>
internal readonly record struct LineShape(int Said, (int Field, bool IsLink)[] Fields);

/// <summary>
/// A program with its jumps taken for one pattern of present values: which values are there decides the whole way through it, and companies
/// have few patterns. Immutable.
/// </summary>
internal sealed class StraightProgram
{
    private const int Block = 32;

    private readonly StraightStep[] steps;
    private readonly byte[] statics;
    private readonly int valuesRead; // so many values are wanted: the last that is read, and all before it
    private LineShape[]? lines; // made when lines are first counted; two threads make the same

    private StraightProgram(Pattern pattern, StraightStep[] steps, byte[] statics)
    {
        Pattern = pattern;
        this.steps = steps;
        this.statics = statics;
        valuesRead = steps.Max(step => step.Field) + 1;
    }

    /// <summary>The pattern it was made for.</summary>
    public Pattern Pattern { get; }

    /// <summary>Takes the jumps of a program for a pattern and joins the static bytes that then meet.</summary>
    public static StraightProgram Straighten(ReadOnlySpan<Instruction> program, ReadOnlySpan<byte> statics, ReadOnlySpan<int> fields, Pattern pattern)
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
                    if (!instruction.Condition!.Holds(pattern)) at = instruction.Target;
                    break;
                case OpCode.SkipIf:
                    if (instruction.Condition!.Holds(pattern)) at = instruction.Target;
                    break;
                default:
                    steps.Add(new StraightStep(joined.Count - start, instruction.Op, fields[instruction.Slot], instruction.Case));
                    start = joined.Count;
                    break;
            }
        }

        steps.Add(new StraightStep(joined.Count - start, OpCode.Static, 0));
        return new StraightProgram(pattern, [.. steps], [.. joined, .. new byte[Block]]);
    }

    /// <summary>Bytes of room that its static bytes want in the output, with what is written beyond them.</summary>
    public int StaticRoom => statics.Length;

    /// <summary>Writes the signature. room: the static room and every value at its longest, checked once for all that is written. Returns the bytes written.</summary>
    public int Write(ReadOnlySpan<FieldValue> values, Span<byte> target, long room)
    {
        if (target.Length < room) throw TooSmall(target.Length, room);
        // Checked once here: what the loop keeps at hand for it would take the register of the place that is written to.
        ref var first = ref MemoryMarshal.GetReference(values[..valuesRead]);
        ref var start = ref MemoryMarshal.GetReference(target);
        ref var source = ref MemoryMarshal.GetArrayDataReference(statics);
        ref var step = ref MemoryMarshal.GetArrayDataReference(steps);
        ref var at = ref start;
        while (true)
        {
            Copy(ref source, ref at, (nuint)step.StaticLength);
            source = ref Unsafe.Add(ref source, step.StaticLength);
            at = ref Unsafe.Add(ref at, step.StaticLength);
            if (step.Value == OpCode.Static) return (int)Unsafe.ByteOffset(ref start, ref at);
            at = ref Unsafe.Add(ref at, WriteValue(in Unsafe.Add(ref first, step.Field), step.Value, step.Case, ref at));
            step = ref Unsafe.Add(ref step, 1);
        }
    }

    /// <summary>
    /// Writes one value. On its own, because what it wants to keep at hand would take the registers of the loop, which then waits for memory at every step. at: room for
    /// the value at its longest.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static int WriteValue(in FieldValue value, OpCode way, LetterCase letters, ref byte at)
    {
        var text = way <= OpCode.RtfText ? value.Text : value.Link;
        if (letters != LetterCase.AsItIs) text = LetterCases.Apply(text, letters);
        var plain = IsRtf(way) ? 0 : Escaping.PlainPrefix(ref MemoryMarshal.GetReference(text.AsSpan()), text.Length, ref at);
        return plain == text.Length ? plain : plain + Rest(way, text, plain, ref Unsafe.Add(ref at, plain));
    }

    private static ArgumentException TooSmall(int length, long room) => new($"The output gave room for {length} bytes, not for {room}.", nameof(room));

    /// <summary>
    /// Lines that <see cref="Write"/> would write, all of them ended, and characters at most, from the lengths of values alone. Long: true when a line may
    /// have more than the given characters.
    /// </summary>
    public (int Lines, int Characters, bool IsLong) CountLines(ReadOnlySpan<FieldValue> values, int mostInLine)
    {
        lines ??= Lines();
        var characters = 0;
        var isLong = false;
        foreach (var (said, fields) in lines)
        {
            var inLine = said;
            foreach (var (field, isLink) in fields) inLine += isLink ? values[field].Link.Length : values[field].Text.Length;
            isLong |= inLine > mostInLine;
            characters += inLine + 1;
        }

        return (lines.Length, characters, isLong);
    }

    private LineShape[] Lines()
    {
        var shapes = new List<LineShape>();
        var fields = new List<(int, bool)>();
        var (said, at) = (0, 0);
        foreach (var step in steps)
        {
            foreach (var one in statics.AsSpan(at, step.StaticLength))
            {
                if (one == '\n')
                {
                    shapes.Add(new LineShape(said, [.. fields]));
                    fields.Clear();
                    said = 0;
                }
                else if ((one & 0xC0) != 0x80) said++; // a character's first byte
            }

            at += step.StaticLength;
            if (step.Value != OpCode.Static) fields.Add((step.Field, step.Value > OpCode.RtfText));
        }

        return [.. shapes];
    }

    /// <summary>Bytes that <see cref="Write"/> would write. scratch: room for any one value at its longest.</summary>
    public int CountBytes(ReadOnlySpan<FieldValue> values, Span<byte> scratch)
    {
        var count = 0;
        ref var start = ref MemoryMarshal.GetReference(scratch);
        foreach (ref readonly var step in steps.AsSpan())
        {
            count += step.StaticLength;
            if (step.Value == OpCode.Static) break;
            ref readonly var value = ref values[step.Field];
            if (scratch.Length < (Math.Max(value.Text.Length, value.Link.Length) * Expansion(step.Value)) + Block) throw new ArgumentException("The scratch is too small for a value.", nameof(scratch));
            count += WriteValue(in value, step.Value, step.Case, ref start);
        }

        return count;
    }

    /// <summary>
    /// Copies whole blocks: up to a block beyond the length is read and written too, and overwritten by what follows. It spares the tail of
    /// every piece, and pieces are short and many. The static bytes end with a block of nothing, so that both sides have the room.
    /// </summary>
    private static void Copy(ref byte source, ref byte target, nuint length)
    {
        for (nuint at = 0; at < length; at += Block) Vector256.LoadUnsafe(ref source, at).StoreUnsafe(ref target, at);
    }

    /// <summary>True for what is written into RTF, where other characters are special than in HTML.</summary>
    private static bool IsRtf(OpCode value) => value is OpCode.RtfText or OpCode.RtfAddress;

    /// <summary>Bytes that one unit of a value can take.</summary>
    private static int Expansion(OpCode value) => IsRtf(value) ? Escaping.WorstRtfExpansion : Escaping.WorstExpansion;

    [MethodImpl(MethodImplOptions.NoInlining)]
    private static int Rest(OpCode value, string whole, int done, ref byte at)
    {
        var text = whole.AsSpan(done);
        var target = MemoryMarshal.CreateSpan(ref at, text.Length * Expansion(value));
        return value switch
        {
            OpCode.HtmlText => Escaping.HtmlText(text, target),
            OpCode.HtmlLink or OpCode.HtmlAttribute => Escaping.HtmlAttribute(text, target),
            OpCode.RtfText => Escaping.Rtf(text, target),
            OpCode.RtfAddress => Escaping.RtfAddress(text, target),
            _ => Escaping.Plain(text, target),
        };
    }
}
