using System.Text;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>Collects instructions; joins neighbouring static bytes; turns nested conditions into jumps.</summary>
internal sealed class ProgramBuilder(FieldCatalogue catalogue)
{
    private readonly List<Instruction> instructions = [];
    private readonly List<byte> statics = [];
    private readonly List<int> fields = [];
    private readonly List<Test> tests = [];
    private readonly Stack<Presence> within = new([Presence.Always]);
    private int pendingStart;

    private delegate int Escape(ReadOnlySpan<char> text, Span<byte> target);

    /// <summary>The slot of a field; the same field has the same slot. The design was checked, so the field exists.</summary>
    public int Slot(string field)
    {
        if (!catalogue.TryFind(field, out var index)) throw new ArgumentException($"There is no field \"{field}\"; check a design before compiling it.", nameof(field));
        var slot = fields.IndexOf(index);
        if (slot >= 0) return slot;
        fields.Add(index);
        return fields.Count - 1;
    }

    /// <summary>When what is written now is reached.</summary>
    public Presence Here => within.Peek();

    /// <summary>When a test holds; the same test is asked once.</summary>
    public Presence Asks(Test test)
    {
        var place = tests.FindIndex(known => known.Name == test.Name);
        if (place < 0)
        {
            place = tests.Count;
            tests.Add(test);
        }

        return Presence.Test(place);
    }

    /// <summary>Bytes that are the same for everybody, written as they are.</summary>
    public void Raw(string markup) => statics.AddRange(Encoding.UTF8.GetBytes(markup));

    /// <summary>Literal text between tags.</summary>
    public void Text(string literal) => Escaped(literal, Escaping.HtmlText);

    /// <summary>Literal text in an attribute.</summary>
    public void Attribute(string literal) => Escaped(literal, Escaping.HtmlAttribute);

    /// <summary>A field's text or link.</summary>
    public void Value(OpCode op, int slot) => Value(op, slot, LetterCase.AsItIs);

    private void Value(OpCode op, int slot, LetterCase letters)
    {
        Flush();
        instructions.Add(new Instruction(op, slot, 0, 0, 0, null, letters));
    }

    /// <summary>A field's text, or its fallback's when it has none, in its case.</summary>
    public void Value(OpCode op, FieldRun run)
    {
        var slot = Slot(run.Field);
        if (run.Fallback.Length == 0)
        {
            Value(op, slot, run.Case);
            return;
        }

        When(Presence.Text(slot), () => Value(op, slot, run.Case));
        Unless(Presence.Text(slot), () => Value(op, Slot(run.Fallback), run.Case));
    }

    /// <summary>Runs the body only when the condition holds. Nothing is written for a condition that never holds.</summary>
    public void When(Presence presence, Action body)
    {
        if (presence.IsNever) return;
        if (presence.IsAlways) body();
        else Jump(OpCode.SkipUnless, presence, body);
    }

    /// <summary>Runs the body only when the condition does not hold.</summary>
    public void Unless(Presence presence, Action body)
    {
        if (presence.IsAlways) return;
        if (presence.IsNever) body();
        else Jump(OpCode.SkipIf, presence, body);
    }

    /// <summary>Writes the pieces that show, with the separator only between two that do.</summary>
    public void Separated(IEnumerable<(Presence Shows, Action Write)> pieces, Action separator)
    {
        var earlier = Presence.Never;
        foreach (var (shows, write) in pieces)
        {
            var before = earlier;
            When(shows, () =>
            {
                When(before, separator);
                write();
            });
            earlier |= shows;
        }
    }

    public SignatureProgram Build()
    {
        Flush();
        return new SignatureProgram([.. instructions], [.. statics], [.. fields], [.. tests]);
    }

    private void Jump(OpCode op, Presence presence, Action body)
    {
        Flush();
        var at = instructions.Count;
        instructions.Add(default);
        within.Push(Here & (op == OpCode.SkipUnless ? presence : !presence));
        body();
        within.Pop();
        Flush();
        instructions[at] = new Instruction(op, 0, 0, 0, instructions.Count, presence);
    }

    private void Escaped(string literal, Escape escape)
    {
        var target = new byte[literal.Length * 6];
        statics.AddRange(target.AsSpan(0, escape(literal, target)));
    }

    private void Flush()
    {
        var length = statics.Count - pendingStart;
        if (length == 0) return;
        instructions.Add(new Instruction(OpCode.Static, 0, pendingStart, length, 0, null));
        pendingStart = statics.Count;
    }
}
