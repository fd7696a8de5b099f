using System.Buffers;
using System.Runtime.InteropServices;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>
/// The HTML and the text of a design, written from one look at the values: finding out which are there, in memory that is seldom in the cache, takes as long
/// as writing a text. Writes what the two programs write by themselves. Immutable.
/// </summary>
internal sealed class ProgramPair
{
    private readonly SignatureProgram html;
    private readonly SignatureProgram text;
    private readonly Use[] uses;

    public ProgramPair(SignatureProgram html, SignatureProgram text)
    {
        this.html = html;
        this.text = text;
        uses = [.. html.Fields.ToArray().Union(text.Fields.ToArray()).Select(field => new Use(field, html.UseOf(field), text.UseOf(field)))];
    }

    /// <summary>Writes the HTML and right behind it the lines of text, those that are too long broken. Returns the bytes of the HTML.</summary>
    public int Render(ReadOnlySpan<FieldValue> values, Circumstances circumstances, IBufferWriter<byte> output)
    {
        var (inHtml, inText, longest) = (0UL, 0UL, 0L);
        foreach (ref readonly var use in uses.AsSpan())
        {
            ref readonly var value = ref values[use.Field];
            var (textLength, linkLength) = (value.Text.Length, value.Link.Length);
            var present = SignatureProgram.IsPositive(textLength) | (SignatureProgram.IsPositive(linkLength) << 1);
            inHtml |= (present & use.HtmlMask) << use.HtmlShift;
            inText |= (present & use.TextMask) << use.TextShift;
            longest += ((long)textLength * use.Text) + ((long)linkLength * use.Link);
        }

        var (rich, plain) = (html.Find(new Pattern(inHtml, html.Held(values, circumstances))), text.Find(new Pattern(inText, text.Held(values, circumstances))));
        longest += rich.StaticRoom + plain.StaticRoom;
        var room = output.GetSpan(checked((int)longest));
        var written = rich.Write(values, room, longest);
        var rest = room[written..];
        LineBreaking.Take(rest[..plain.Write(values, rest, longest - written)], written, output);
        return written;
    }

    /// <summary>A field that either reads: where its presence stands in each pattern, and the bytes that one unit of its text and of its link can take in both forms.</summary>
    [StructLayout(LayoutKind.Auto)]
    private readonly struct Use(int field, SlotUse? html, SlotUse? text)
    {
        public readonly int Field = field;
        public readonly int Text = (html?.Text ?? 0) + (text?.Text ?? 0);
        public readonly int Link = (html?.Link ?? 0) + (text?.Link ?? 0);
        public readonly uint HtmlMask = html is null ? 0u : 3;
        public readonly uint TextMask = text is null ? 0u : 3;
        public readonly int HtmlShift = 2 * (html?.Slot ?? 0);
        public readonly int TextShift = 2 * (text?.Slot ?? 0);
    }
}
