using System.Buffers;
using System.Collections.Concurrent;
using System.Runtime.InteropServices;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

internal enum OpCode : byte
{
    /// <summary>Copies static bytes.</summary>
    Static,

    /// <summary>A value's text between tags.</summary>
    HtmlText,

    /// <summary>A value's text inside a double-quoted attribute.</summary>
    HtmlAttribute,

    /// <summary>A value's text as it is.</summary>
    PlainText,

    /// <summary>A value's text in RTF. The last of those that write a text: what follows writes a link.</summary>
    RtfText,

    /// <summary>A value's link inside a double-quoted attribute.</summary>
    HtmlLink,

    /// <summary>A value's link as it is.</summary>
    PlainLink,

    /// <summary>A value's link in a field's instruction in RTF.</summary>
    RtfAddress,

    /// <summary>Goes on at the target when the condition does not hold.</summary>
    SkipUnless,

    /// <summary>Goes on at the target when the condition holds.</summary>
    SkipIf,
}

[StructLayout(LayoutKind.Auto)]
internal readonly record struct Instruction(OpCode Op, int Slot, int Offset, int Length, int Target, Presence? Condition, LetterCase Case = LetterCase.AsItIs);

/// <summary>
/// A design compiled for one output form: static bytes, values escaped for where they stand, and jumps over what is empty. What it holds never
/// changes, and it is safe to run from many threads. The same values give the same bytes.
/// </summary>
public sealed class SignatureProgram
{
    private const int Recent = 64; // patterns found without asking the dictionary; a power of two
    private const int MostKept = 256; // patterns of present values kept straightened; a company of 100,000 people has a few dozen

    private readonly Instruction[] instructions;
    private readonly byte[] statics;
    private readonly int[] fields;
    private readonly Uses[] uses;
    private readonly Test[] tests;
    private readonly ConcurrentDictionary<Pattern, StraightProgram> straightened = new();

    // People come in no order of their patterns, so the newest one alone is seldom right. Threads may overwrite each other's: what is found is compared.
    private readonly StraightProgram[] recent = new StraightProgram[Recent];

    internal SignatureProgram(Instruction[] instructions, byte[] statics, int[] fields, Test[] tests)
    {
        this.instructions = instructions;
        this.statics = statics;
        this.fields = fields;
        this.tests = tests;
        uses = [.. fields.Select((field, slot) => new Uses(field, Worst(slot, OpCode.HtmlText, OpCode.HtmlAttribute, OpCode.PlainText, OpCode.RtfText), Worst(slot, OpCode.HtmlLink, OpCode.PlainLink, OpCode.RtfAddress)))];
        Array.Fill(recent, Straighten(default));
    }

    /// <summary>Catalogue indexes of the fields the program reads.</summary>
    public ReadOnlySpan<int> Fields => fields;

    /// <summary>Writes the signature in UTF-8. values: one account's values in catalogue order, from <see cref="FieldResolution"/>.</summary>
    public void Render(ReadOnlySpan<FieldValue> values, Circumstances circumstances, IBufferWriter<byte> output) => output.Advance(Write(values, circumstances, output).Length);

    /// <summary>Writes lines of text in UTF-8, those that are too long broken, see <see cref="LineBreaking"/>.</summary>
    internal void RenderLines(ReadOnlySpan<FieldValue> values, Circumstances circumstances, IBufferWriter<byte> output) =>
        LineBreaking.Take(Write(values, circumstances, output), 0, output);

    /// <summary>Writes into the output's room without taking it.</summary>
    private ReadOnlySpan<byte> Write(ReadOnlySpan<FieldValue> values, Circumstances circumstances, IBufferWriter<byte> output)
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

        var pattern = new Pattern(present, Held(values, circumstances));
        var straight = Find(pattern);
        longest += straight.StaticRoom;
        var room = output.GetSpan(checked((int)longest));
        return room[..straight.Write(values, room, longest)];
    }

    /// <summary>Bytes that <see cref="Render"/> would write, counted without writing what is the same for everybody. scratch: grown as needed, used over and over.</summary>
    internal int CountBytes(ReadOnlySpan<FieldValue> values, Circumstances circumstances, ref byte[] scratch)
    {
        var straight = Find(PatternOf(values, circumstances));
        var longest = 0;
        foreach (var field in fields) longest = Math.Max(longest, Math.Max(values[field].Text.Length, values[field].Link.Length));
        if (scratch.Length < (longest * Escaping.WorstExpansion) + 64) scratch = new byte[(longest * Escaping.WorstExpansion) + 64];
        return straight.CountBytes(values, scratch);
    }

    /// <summary>Lines and characters of a text without writing it, see <see cref="StraightProgram.CountLines"/>.</summary>
    internal (int Lines, int Characters, bool IsLong) CountLines(ReadOnlySpan<FieldValue> values, Circumstances circumstances, int mostInLine)
    {
        var straight = Find(PatternOf(values, circumstances));
        return straight.CountLines(values, mostInLine);
    }

    /// <summary>The pattern of these values.</summary>
    internal Pattern PatternOf(ReadOnlySpan<FieldValue> values, Circumstances circumstances)
    {
        var present = 0UL;
        for (var slot = 0; slot < fields.Length; slot++)
            present |= (IsPositive(values[fields[slot]].Text.Length) | (IsPositive(values[fields[slot]].Link.Length) << 1)) << (2 * slot);
        return new Pattern(present, Held(values, circumstances));
    }

    /// <summary>Writes down all that the program is: equal for two that write the same bytes for the same values, whoever they are of.</summary>
    internal void Describe(DigestWriter to)
    {
        to.Add(statics);
        to.Add(instructions.Length);
        foreach (var instruction in instructions)
        {
            to.Add((int)instruction.Op | ((int)instruction.Case << 8));
            to.Add(instruction.Slot);
            to.Add(instruction.Length);
            to.Add(instruction.Target);
            to.Add(instruction.Condition?.Key ?? "");
        }

        to.Add(fields.Length);
        foreach (var field in fields) to.Add(field);
        to.Add(tests.Length);
        foreach (var test in tests) to.Add(test.Name);
    }

    /// <summary>What a field's value is to the program; null when it does not read the field.</summary>
    internal SlotUse? UseOf(int field) => Array.IndexOf(fields, field) is var slot and >= 0 ? new SlotUse(slot, uses[slot].Text, uses[slot].Link) : null;

    /// <summary>The conditions that hold, as <see cref="Pattern"/> has them.</summary>
    internal ulong Held(ReadOnlySpan<FieldValue> values, Circumstances circumstances)
    {
        var held = 0UL;
        for (var test = 0; test < tests.Length; test++) held |= tests[test].Holds(values, circumstances) ? 1UL << test : 0;
        return held;
    }

    /// <summary>1 for a length above zero, otherwise 0.</summary>
    internal static ulong IsPositive(int length) => (uint)-length >> 31;

    /// <summary>Bytes that one unit of a slot's text or link can take in the whole program.</summary>
    private int Worst(int slot, params ReadOnlySpan<OpCode> ways)
    {
        var uses = 0;
        foreach (var instruction in instructions)
        {
            if (instruction.Slot == slot && ways.Contains(instruction.Op)) uses += instruction.Op is OpCode.RtfText or OpCode.RtfAddress ? Escaping.WorstRtfExpansion : Escaping.WorstExpansion;
        }

        return uses;
    }

    /// <summary>The program without jumps for a pattern.</summary>
    internal StraightProgram Find(Pattern pattern)
    {
        // Multiplied by the golden ratio's 64 bits, the top ones are well mixed.
        ref var place = ref recent[(int)(((pattern.Present ^ (pattern.Tests << 32) ^ (pattern.Tests >> 32)) * 0x9E3779B97F4A7C15) >> 58)];
        var straight = place;
        return straight.Pattern == pattern ? straight : place = FindKept(pattern);
    }

    private StraightProgram FindKept(Pattern pattern)
    {
        if (straightened.TryGetValue(pattern, out var kept)) return kept;
        var made = Straighten(pattern);
        if (straightened.Count < MostKept) straightened.TryAdd(pattern, made);
        return made;
    }

    private StraightProgram Straighten(Pattern pattern) => StraightProgram.Straighten(instructions, statics, fields, pattern);

    /// <summary>A field that is read, and the bytes that one unit of its text and of its link can take.</summary>
    private readonly record struct Uses(int Field, int Text, int Link);
}

/// <summary>A field's value in a program: the slot it is in, and the bytes that one unit of its text and of its link can take.</summary>
internal readonly record struct SlotUse(int Slot, int Text, int Link);
