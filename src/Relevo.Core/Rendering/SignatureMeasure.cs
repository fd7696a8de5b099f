using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Text.RegularExpressions;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>How much room one account's signature takes.</summary>
/// <param name="Width">Width in CSS pixels of the widest line, columns beside each other added up.</param>
/// <param name="Lines">Lines from top to bottom, dividers and gaps not counted; a picture counts as the lines it is high as.</param>
/// <param name="Collapsed">Blocks with content for others that have none here.</param>
/// <param name="Facts">Fields shown.</param>
public readonly record struct Measurement(double Width, int Lines, int Collapsed, int Facts);

/// <summary>
/// Measures a design's signatures without rendering them, by the widths of letters in its fonts. Walks the tree that the renderer compiles, with the
/// same conditions, so that what it says holds for what is rendered.
/// </summary>
public sealed partial class SignatureMeasure
{
    private const int MostKept = 1024; // layouts; as many as patterns of present values, of which a company has a few dozen
    private const int ButtonPadding = 28; // pixels left and right of a button's words, as the renderer writes it

    private readonly DesignDocument design;
    private readonly FieldCatalogue catalogue;
    private readonly ProgramBuilder program;
    private readonly BlockPresence presence;
    private readonly Node root;
    private readonly SignatureProgram pattern;
    private readonly ConcurrentDictionary<Pattern, Layout> layouts = new();
    private Layout? last;

    private SignatureMeasure(DesignDocument design, FieldCatalogue catalogue)
    {
        this.design = design;
        this.catalogue = catalogue;
        program = new ProgramBuilder(catalogue);
        presence = new BlockPresence(design, catalogue, program, isText: false);
        root = Stack(design.Root);
        pattern = program.Build();
    }

    /// <summary>Prepares a design that <see cref="DesignCheck"/> found nothing wrong with.</summary>
    public static SignatureMeasure Of(DesignDocument design, FieldCatalogue catalogue) => new(design, catalogue);

    /// <summary>Catalogue indexes of the fields that are read.</summary>
    public ReadOnlySpan<int> Fields => pattern.Fields;

    /// <summary>Measures one account's signature. values: in catalogue order.</summary>
    public Measurement Measure(ReadOnlySpan<FieldValue> values, Circumstances circumstances) => Measure(values, circumstances, exactFrom: 0);

    /// <summary>The same where the width below a limit does not matter: one that cannot come to <paramref name="exactFrom"/> may be given too wide, but below it.</summary>
    public Measurement Measure(ReadOnlySpan<FieldValue> values, Circumstances circumstances, double exactFrom)
    {
        var shown = pattern.PatternOf(values, circumstances);
        var layout = last;
        if (layout is null || layout.Pattern != shown) last = layout = Find(shown);
        var most = exactFrom > 0 ? layout.Extent.MostOf(values) : double.PositiveInfinity;
        return new Measurement(most < exactFrom ? most : layout.Extent.Of(values), layout.Lines, layout.Collapsed, layout.Facts);
    }

    private Layout Find(Pattern shown)
    {
        if (layouts.TryGetValue(shown, out var kept)) return kept;
        var (extent, lines, collapsed) = root.Lay(shown);
        var facts = 0;
        for (var slot = 0; slot < pattern.Fields.Length; slot++) facts += (int)((shown.Present >> (2 * slot)) & 1);
        var made = new Layout(shown, extent, lines, collapsed, facts);
        if (layouts.Count < MostKept) layouts.TryAdd(shown, made);
        return made;
    }

    private Node Stack(ImmutableArray<string> keys) =>
        new StackNode([.. presence.Place(keys).Select(placed => (placed.Shows & placed.AndShows, Of(placed.Block), placed.Block is Divider or Gap))]);

    private Node Of(Block block)
    {
        var theme = design.Theme;
        return block switch
        {
            TextLine line => new LineNode([.. line.Parts.Select(part => new Piece(presence.Of(part), Runs(part, line.Role)))], Width(line.Separator, line.Role, isBold: false)),
            ContactList { Arrangement: ContactArrangement.Stacked } list => new StackNode([.. list.Items.Select(item => (presence.Text(item.Field), (Node)new LineNode([new Piece(Presence.Always, Item(item, list))], 0), false))]),
            ContactList list => new LineNode([.. list.Items.Select(item => new Piece(presence.Text(item.Field), Item(item, list)))], Width(list.Separator, list.Role, isBold: false)),
            LinkRow row => new LineNode([.. row.Items.Select(item => new Piece(presence.Of(item), row.IconSize > 0 ? [Fixed(row.IconSize)] : Words(Label(item), row.Role, isBold: false)))], Width(row.Separator, row.Role, isBold: false)),
            Button button => new LineNode([new Piece(Presence.Always, [.. Words(Label(button.Item), TextRole.Text, isBold: true), Fixed(ButtonPadding)])], 0),
            Picture picture => new BoxNode(picture.Width, Math.Max(1, (int)Math.Round(picture.Height / (theme.Sizes.Text * theme.LineHeight / 100.0)))),
            Columns columns => new ColumnsNode([.. columns.Children.Select((keys, index) => (presence.Of(keys), Stack(keys), index < columns.Widths.Length ? columns.Widths[index] : 0))], theme.Spaced(columns.Space)),
            OwnMarkup own => new StackNode([.. own.Clean.Lines.Select(part => (presence.Of(part), (Node)new LineNode([new Piece(Presence.Always, Runs(part, TextRole.Text))], 0), false))]),
            _ => new BoxNode(0, 0),
        };
    }

    private ImmutableArray<Span> Runs(Part part, TextRole line)
    {
        var spans = ImmutableArray.CreateBuilder<Span>();
        foreach (var run in part.Runs)
        {
            var role = run.Role ?? line;
            var isBold = run.IsBold || role == TextRole.Name;
            if (run is LiteralRun literal) spans.AddRange(WhenShown(run, Words(literal.Text, role, isBold)));
            if (run is not FieldRun field) continue;
            if (field.Label.Length > 0) spans.AddRange(WhenShown(run, [.. Words(field.Label, role, isBold), Fixed(Width(" ", role, isBold))]));
            spans.Add(Value(field.Field, role, isBold) with { Case = field.Case });
            if (field.Fallback.Length > 0) spans.Add(Value(field.Fallback, role, isBold) with { Shows = !presence.Text(field.Field), Case = field.Case });
        }

        return spans.ToImmutable();
    }

    private IEnumerable<Span> WhenShown(Run run, IEnumerable<Span> spans)
    {
        var shows = presence.Of(run);
        return spans.Select(span => span with { Shows = span.Shows & shows });
    }

    private ImmutableArray<Span> Item(ContactItem item, ContactList list)
    {
        var spans = ImmutableArray.CreateBuilder<Span>();
        if (list.IconSize > 0) spans.Add(Fixed(list.IconSize + Width(" ", list.Role, isBold: false)));
        if (item.Label.Length > 0)
        {
            spans.AddRange(Words(item.Label, list.Role, isBold: false));
            spans.Add(Fixed(Width(" ", list.Role, isBold: false)));
        }

        spans.Add(Value(item.Field, list.Role, isBold: false));
        return spans.ToImmutable();
    }

    private string Label(LinkItem item) => item.Label.Length > 0 ? item.Label : catalogue.Label(item.Field);

    /// <summary>A literal text in each language it has.</summary>
    private ImmutableArray<Span> Words(string text, TextRole role, bool isBold)
    {
        var spans = ImmutableArray.CreateBuilder<Span>();
        var spoken = Presence.Never;
        foreach (var (language, texts) in design.Languages)
        {
            if (!texts.TryGetValue(text, out var translated) || translated.Length == 0 || !catalogue.TryFind("language", out var field)) continue;
            var speaks = program.Asks(Test.SpeaksLanguage(field, language, design.Languages.Keys));
            spans.Add(Fixed(Width(translated, role, isBold)) with { Shows = speaks });
            spoken |= speaks;
        }

        spans.Add(Fixed(Width(text, role, isBold)) with { Shows = !spoken });
        return spans.ToImmutable();
    }

    private Span Value(string field, TextRole role, bool isBold)
    {
        catalogue.TryFind(field, out var index);
        program.Slot(field);
        return new Span(Presence.Always, 0, index, Metrics(role, isBold), Size(role) / (double)FontMetrics.Unit);
    }

    private static Span Fixed(double width) => new(Presence.Always, width, -1, null, 0);

    /// <summary>Several spaces are shown as one (HTML Standard, "white space").</summary>
    private double Width(string text, TextRole role, bool isBold) => Metrics(role, isBold).Measure(Spaces().Replace(text, " ")) * Size(role) / (double)FontMetrics.Unit;

    private FontMetrics Metrics(TextRole role, bool isBold) => FontMetrics.Of(design.Theme.FontStack, isBold || role == TextRole.Name);

    private int Size(TextRole role) => role switch { TextRole.Name => design.Theme.Sizes.Name, TextRole.Small => design.Theme.Sizes.Small, _ => design.Theme.Sizes.Text };

    [GeneratedRegex("  +", RegexOptions.CultureInvariant)]
    private static partial Regex Spaces();

    /// <summary>A stretch of one line: fixed pixels, or a field's text in a font.</summary>
    private readonly record struct Span(Presence Shows, double Pixels, int Field, FontMetrics? Metrics, double Scale, LetterCase Case = LetterCase.AsItIs);

    /// <summary>What stands or falls as one in a line.</summary>
    private readonly record struct Piece(Presence Shows, ImmutableArray<Span> Spans);

    /// <summary>A design for one pattern of present values: what shows is settled, only the widths of values are left to measure.</summary>
    private sealed record Layout(Pattern Pattern, Extent Extent, int Lines, int Collapsed, int Facts);

    /// <summary>How wide something is for one account.</summary>
    private abstract class Extent
    {
        public abstract double Of(ReadOnlySpan<FieldValue> values);

        /// <summary>No less than that, from the lengths of values alone: as if every letter were the widest.</summary>
        public abstract double MostOf(ReadOnlySpan<FieldValue> values);
    }

    private sealed class LineExtent(double fixedPixels, Span[] fields) : Extent
    {
        public override double Of(ReadOnlySpan<FieldValue> values)
        {
            var width = fixedPixels;
            foreach (ref readonly var span in fields.AsSpan()) width += span.Metrics!.Measure(LetterCases.Apply(values[span.Field].Text, span.Case)) * span.Scale;
            return width;
        }

        public override double MostOf(ReadOnlySpan<FieldValue> values)
        {
            var width = fixedPixels;
            foreach (ref readonly var span in fields.AsSpan()) width += values[span.Field].Text.Length * span.Metrics!.Widest * span.Scale;
            return width;
        }
    }

    private sealed class StackExtent(Extent[] rows) : Extent
    {
        public override double Of(ReadOnlySpan<FieldValue> values)
        {
            var width = 0.0;
            foreach (var row in rows) width = Math.Max(width, row.Of(values));
            return width;
        }

        public override double MostOf(ReadOnlySpan<FieldValue> values)
        {
            var width = 0.0;
            foreach (var row in rows) width = Math.Max(width, row.MostOf(values));
            return width;
        }
    }

    private sealed class ColumnsExtent(double between, (Extent Extent, int Least)[] columns) : Extent
    {
        public override double Of(ReadOnlySpan<FieldValue> values)
        {
            var width = between;
            foreach (var (extent, least) in columns) width += Math.Max(extent.Of(values), least);
            return width;
        }

        public override double MostOf(ReadOnlySpan<FieldValue> values)
        {
            var width = between;
            foreach (var (extent, least) in columns) width += Math.Max(extent.MostOf(values), least);
            return width;
        }
    }

    private abstract class Node
    {
        /// <summary>What is left to measure, lines high, blocks collapsed.</summary>
        public abstract (Extent Extent, int Lines, int Collapsed) Lay(Pattern shown);
    }

    private sealed class LineNode(ImmutableArray<Piece> pieces, double separator) : Node
    {
        public override (Extent Extent, int Lines, int Collapsed) Lay(Pattern shown)
        {
            var shownPieces = pieces.Where(piece => piece.Shows.Holds(shown)).ToArray();
            var spans = shownPieces.SelectMany(piece => piece.Spans).Where(span => span.Shows.Holds(shown)).ToArray();
            var between = Math.Max(0, shownPieces.Length - 1) * separator;
            return (new LineExtent(between + spans.Where(span => span.Field < 0).Sum(span => span.Pixels), [.. spans.Where(span => span.Field >= 0)]), shownPieces.Length > 0 ? 1 : 0, 0);
        }
    }

    private sealed class BoxNode(int width, int lines) : Node
    {
        public override (Extent Extent, int Lines, int Collapsed) Lay(Pattern shown) => (new LineExtent(width, []), lines, 0);
    }

    private sealed class StackNode(ImmutableArray<(Presence Shows, Node Node, bool IsSpacer)> rows) : Node
    {
        public override (Extent Extent, int Lines, int Collapsed) Lay(Pattern shown)
        {
            var laid = rows.Where(row => row.Shows.Holds(shown)).Select(row => row.Node.Lay(shown)).ToArray();
            var hidden = rows.Count(row => !row.IsSpacer && !row.Shows.Holds(shown));
            return (new StackExtent([.. laid.Select(row => row.Extent)]), laid.Sum(row => row.Lines), hidden + laid.Sum(row => row.Collapsed));
        }
    }

    private sealed class ColumnsNode(ImmutableArray<(Presence Shows, Node Node, int Width)> columns, int space) : Node
    {
        public override (Extent Extent, int Lines, int Collapsed) Lay(Pattern shown)
        {
            var laid = columns.Where(column => column.Shows.Holds(shown)).Select(column => (Laid: column.Node.Lay(shown), column.Width)).ToArray();
            return (
                new ColumnsExtent(Math.Max(0, laid.Length - 1) * space, [.. laid.Select(column => (column.Laid.Extent, column.Width))]),
                laid.Select(column => column.Laid.Lines).DefaultIfEmpty(0).Max(),
                columns.Length - laid.Length + laid.Sum(column => column.Laid.Collapsed));
        }
    }
}
