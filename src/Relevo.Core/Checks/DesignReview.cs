using System.Buffers;
using System.Collections.Immutable;
using System.Globalization;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;

namespace Relevo.Core.Checks;

/// <summary>A client kind with the design compiled for it.</summary>
public sealed record HeldForm(ClientKind Kind, CompiledDesign Compiled);

/// <summary>Something an editor should look at. Nothing of it keeps a design from being used.</summary>
/// <param name="Code">A stable name for the kind of finding.</param>
/// <param name="Message">A sentence: what and why.</param>
/// <param name="Block">The block it is about, or empty for the design as a whole.</param>
/// <param name="People">Accounts concerned; 0 when it concerns the design, whoever has it.</param>
/// <param name="First">Places of the first few of them.</param>
public sealed record Finding(string Code, string Message, string Block, int People, ImmutableArray<int> First);

/// <summary>One account at the edge. Place: among those reviewed. Sharing: how many are at the same edge, this one among them.</summary>
public readonly record struct Extreme(int Place, Measurement Measurement, int TextLines, int HtmlBytes, int Sharing);

/// <summary>A design over everybody it reaches. Longest and Emptiest are null when it reaches nobody.</summary>
public sealed record DesignReview(int Accounts, Extreme? Longest, Extreme? Emptiest, int MostHtmlBytes, ImmutableArray<Finding> Findings)
{
    /// <summary>Pixels a signature is wide at most without being cut or scrolled. Common practice.</summary>
    public const int MaxWidth = 600;

    /// <summary>Lines a signature has at most in rich mail. Common practice.</summary>
    public const int MaxLines = 7;

    /// <summary>Lines a signature has at most in text. Source: RFC 1855 section 2.1.1: "Rule of thumb is no longer than 4 lines".</summary>
    public const int MaxTextLines = 4;

    private const int Shown = 3; // accounts named with a finding
    private const int MaxAddress = 400; // characters of a linked picture's address at most
    private const int Parts = 8; // pieces the accounts are cut into, more than cores so that none waits long

    /// <summary>One account's values in catalogue order, by its place.</summary>
    public delegate ReadOnlySpan<FieldValue> ValuesOf(int place);

    /// <summary>Looks at a checked design and everybody it reaches.</summary>
    /// <param name="design">The design.</param>
    /// <param name="catalogue">Its fields.</param>
    /// <param name="compiled">The same design, compiled.</param>
    /// <param name="forms">The client kinds it goes to.</param>
    /// <param name="count">How many accounts.</param>
    /// <param name="values">Their values; called from several threads.</param>
    public static DesignReview Of(DesignDocument design, FieldCatalogue catalogue, CompiledDesign compiled, ImmutableArray<HeldForm> forms, int count, ValuesOf values)
    {
        var measure = SignatureMeasure.Of(design, catalogue);
        var fields = measure.Fields.ToArray();
        var tallies = new Tally[Parts];
        Parallel.For(0, Parts, part =>
        {
            var tally = new Tally(fields, forms);
            tally.Take(measure, compiled, values, (int)((long)count * part / Parts), (int)((long)count * (part + 1) / Parts));
            tallies[part] = tally;
        });
        var whole = tallies.Aggregate((all, next) => all.With(next));
        whole.MeasureEmptiest(measure, values);
        return new DesignReview(count, whole.Longest, whole.Emptiest, whole.MostHtmlBytes, [.. DesignFindings.Of(design), .. DesignFindings.Dropped(design, forms.Select(form => form.Kind)), .. whole.Findings(design, catalogue, count)]);
    }

    /// <summary>What a stretch of accounts came to.</summary>
    private sealed class Tally(int[] fields, ImmutableArray<HeldForm> forms)
    {
        private readonly Crowd[] overHtml = [.. forms.Select(_ => new Crowd())], overText = [.. forms.Select(_ => new Crowd())];
        private readonly int[] lacking = new int[fields.Length];
        private readonly Crowd wide = new(), tall = new(), longText = new(), wordless = new();

        public Extreme? Longest { get; private set; }

        public Extreme? Emptiest { get; private set; }

        public int MostHtmlBytes { get; private set; }

        public void Take(SignatureMeasure measure, CompiledDesign compiled, ValuesOf values, int from, int to)
        {
            var scratch = new byte[4096];
            var text = new ArrayBufferWriter<byte>(4096);
            for (var place = from; place < to; place++)
            {
                var all = values(place);
                var bytes = compiled.Html.CountBytes(all, Circumstances.Plain, ref scratch);
                if (bytes == 0) continue;
                // Whoever is neither wide nor the widest so far need not be measured letter by letter. One pixel, because edges are compared in whole ones.
                var measurement = measure.Measure(all, Circumstances.Plain, Math.Min(MaxWidth, Longest?.Measurement.Width ?? 0) - 1);
                var (textLines, mostCharacters) = compiled.CountText(all, Circumstances.Plain, text);
                Add(new Extreme(place, measurement, textLines, bytes, 1));
                for (var index = 0; index < fields.Length; index++) lacking[index] += all[fields[index]].IsEmpty ? 1 : 0;
                for (var form = 0; form < forms.Length; form++) Weigh(form, place, bytes + (compiled.MostPictures * MaxAddress), mostCharacters, all);
            }
        }

        /// <summary>Counts exactly only where a client's limit may be passed.</summary>
        private void Weigh(int form, int place, int mostHtml, int mostText, ReadOnlySpan<FieldValue> all)
        {
            var (kind, compiled) = forms[form];
            if (kind.MaxHtmlCharacters > 0 && mostHtml > kind.MaxHtmlCharacters) overHtml[form].AddOver(place, compiled.CountHtmlCharacters(all, Circumstances.Plain), kind.MaxHtmlCharacters);
            if (kind.MaxTextCharacters > 0 && mostText > kind.MaxTextCharacters) overText[form].AddOver(place, compiled.CountTextCharacters(all, Circumstances.Plain), kind.MaxTextCharacters);
        }

        /// <summary>The emptiest is seldom wide, so its width may not be known yet.</summary>
        public void MeasureEmptiest(SignatureMeasure measure, ValuesOf values)
        {
            if (Emptiest is { } emptiest) Emptiest = emptiest with { Measurement = measure.Measure(values(emptiest.Place), Circumstances.Plain) };
        }

        public Tally With(Tally next)
        {
            Longest = Further(Longest, next.Longest, IsLonger);
            Emptiest = Further(Emptiest, next.Emptiest, IsEmptier);
            MostHtmlBytes = Math.Max(MostHtmlBytes, next.MostHtmlBytes);
            for (var index = 0; index < lacking.Length; index++) lacking[index] += next.lacking[index];
            wide.Take(next.wide);
            tall.Take(next.tall);
            longText.Take(next.longText);
            wordless.Take(next.wordless);
            for (var form = 0; form < forms.Length; form++)
            {
                overHtml[form].Take(next.overHtml[form]);
                overText[form].Take(next.overText[form]);
            }

            return this;
        }

        public IEnumerable<Finding> Findings(DesignDocument design, FieldCatalogue catalogue, int count)
        {
            if (wide.Count > 0) yield return wide.Finding("too-wide", $"Wider than {MaxWidth} px, up to {Math.Ceiling(Longest!.Value.Measurement.Width):0} px: narrow windows cut it or scroll.");
            if (tall.Count > 0) yield return tall.Finding("too-many-lines", $"More than {MaxLines} lines: it pushes the message away.");
            if (longText.Count > 0) yield return longText.Finding("text-too-long", $"More than {MaxTextLines} lines as plain text (RFC 1855's rule of thumb); give blocks a shorter form in text, or leave some out.");
            if (wordless.Count > 0) yield return wordless.Finding("pictures-only", "Says nothing to those who do not see its pictures.");
            for (var form = 0; form < forms.Length; form++)
            {
                var kind = forms[form].Kind;
                if (overHtml[form].Count > 0) yield return overHtml[form].Finding("client-html", string.Create(CultureInfo.InvariantCulture, $"A {kind.Name} holds {kind.MaxHtmlCharacters:N0} characters of HTML, and this has up to {overHtml[form].Most:N0} there: it would get a shorter one."));
                if (overText[form].Count > 0) yield return overText[form].Finding("client-text", string.Create(CultureInfo.InvariantCulture, $"A {kind.Name} holds {kind.MaxTextCharacters:N0} characters of plain text, and this has up to {overText[form].Most:N0}: give blocks a shorter form in text, or leave some out."));
            }

            for (var index = 0; index < fields.Length; index++)
            {
                var field = catalogue.Fields[fields[index]];
                if (count == 0 || lacking[index] * 2 <= count) continue;
                var block = design.Blocks.FirstOrDefault(pair => DesignCheck.FieldsOf(pair.Value).Contains(field.Name)).Key ?? "";
                yield return new Finding("mostly-lacking", $"Most have no {field.Label.ToLowerInvariant()}: {lacking[index]} of {count}.", block, lacking[index], []);
            }
        }

        private void Add(Extreme one)
        {
            Longest = Further(Longest, one, IsLonger);
            Emptiest = Further(Emptiest, one, IsEmptier);
            MostHtmlBytes = Math.Max(MostHtmlBytes, one.HtmlBytes);
            if (one.Measurement.Width > MaxWidth) wide.Add(one.Place);
            if (one.Measurement.Lines > MaxLines) tall.Add(one.Place);
            if (one.TextLines > MaxTextLines) longText.Add(one.Place);
            if (one.TextLines == 0) wordless.Add(one.Place);
        }

        /// <summary>The further of two, the earlier where they are equal; how many share the edge is counted along.</summary>
        private static Extreme? Further(Extreme? kept, Extreme? next, Func<Extreme, Extreme, int> compare)
        {
            if (kept is not { } one || next is not { } other) return kept ?? next;
            var order = compare(other, one);
            return order > 0 ? other : order == 0 ? one with { Sharing = one.Sharing + other.Sharing } : one;
        }

        private static int IsLonger(Extreme one, Extreme other) =>
            Math.Round(one.Measurement.Width).CompareTo(Math.Round(other.Measurement.Width)) is not 0 and var byWidth ? byWidth : one.Measurement.Lines.CompareTo(other.Measurement.Lines);

        private static int IsEmptier(Extreme one, Extreme other) =>
            other.Measurement.Facts.CompareTo(one.Measurement.Facts) is not 0 and var byFacts ? byFacts : one.Measurement.Collapsed.CompareTo(other.Measurement.Collapsed);
    }

    /// <summary>How many accounts, and the first few of them.</summary>
    private sealed class Crowd
    {
        private readonly List<int> first = new(Shown);

        public int Count { get; private set; }

        /// <summary>The most that any of them has.</summary>
        public int Most { get; private set; }

        /// <summary>Adds the account when it has more than the limit.</summary>
        public void AddOver(int place, int has, int limit)
        {
            Most = Math.Max(Most, has);
            if (has > limit) Add(place);
        }

        public void Add(int place)
        {
            Count++;
            if (first.Count < Shown) first.Add(place);
        }

        public void Take(Crowd next)
        {
            Count += next.Count;
            Most = Math.Max(Most, next.Most);
            first.AddRange(next.first.Take(Shown - first.Count));
        }

        public Finding Finding(string code, string message) => new(code, message, "", Count, [.. first]);
    }
}
