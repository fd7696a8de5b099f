using System.Collections.Immutable;
using System.Globalization;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Ganss.Xss;

namespace Relevo.Core.Designs;

/// <summary>A stretch of cleaned HTML, written as it is, or a field whose value stands in its place.</summary>
/// <param name="Html">HTML, or empty for a field.</param>
/// <param name="Field">A field's name, or empty.</param>
public sealed record MarkupPiece(string Html, string Field);

/// <summary>Cleaned HTML.</summary>
/// <param name="Pieces">What is rendered, in order.</param>
/// <param name="Lines">The same as lines of text.</param>
/// <param name="Removed">What was taken out and why, as sentences, without repeats.</param>
/// <param name="Properties">The CSS properties left in it, without repeats.</param>
/// <param name="Fonts">The families it names first in its font stacks, without repeats.</param>
public sealed record CleanMarkup(ImmutableArray<MarkupPiece> Pieces, ImmutableArray<Part> Lines, ImmutableArray<string> Removed, ImmutableArray<string> Properties, ImmutableArray<string> Fonts)
{
    /// <summary>Nothing left of nothing.</summary>
    public static CleanMarkup Nothing { get; } = new([], [], [], [], []);

    /// <summary>The fields that stand in it, in order, with repeats.</summary>
    public IEnumerable<string> Fields => Pieces.Where(piece => piece.Field.Length > 0).Select(piece => piece.Field);
}

/// <summary>Takes out of HTML whatever could run or fetch something and whatever mail programs do not have in common. The cleaning itself is the package HtmlSanitizer's.</summary>
public static partial class MarkupCleaning
{
    /// <summary>Characters of one block's HTML at most.</summary>
    public const int MaxLength = 20_000;

    /// <summary>Tags at most, which is also how deep it can go; a signature's table has a few dozen.</summary>
    public const int MaxTags = 1000;

    private static readonly string[] Elements = ["a", "b", "strong", "i", "em", "u", "s", "br", "hr", "span", "p", "div", "small", "sub", "sup", "table", "thead", "tbody", "tr", "td", "th", "ul", "ol", "li"];
    private static readonly string[] Attributes = ["href", "style", "align", "valign", "width", "height", "bgcolor", "cellpadding", "cellspacing", "border", "colspan", "rowspan", "title", "lang", "dir"];
    private static readonly string[] Schemes = ["http", "https", "mailto", "tel"];

    private static readonly string[] Properties =
    [
        "color", "background-color", "font-family", "font-size", "font-style", "font-weight", "line-height", "letter-spacing", "text-align", "text-decoration", "text-transform", "vertical-align", "white-space",
        "width", "height", "padding", "padding-top", "padding-right", "padding-bottom", "padding-left", "border", "border-top", "border-right", "border-bottom", "border-left", "border-color", "border-style", "border-width", "border-collapse",
        // What the parser makes of the short forms.
        "border-top-width", "border-right-width", "border-bottom-width", "border-left-width", "border-top-style", "border-right-style", "border-bottom-style", "border-left-style",
        "border-top-color", "border-right-color", "border-bottom-color", "border-left-color", "text-decoration-line", "text-decoration-style", "text-decoration-color",
    ];

    private static readonly string Forbidden = ":not(" + string.Join(", ", Elements.Concat(["html", "body", "head"])) + ")";
    private static readonly HashSet<string> LinesOfTheirOwn = ["p", "div", "table", "thead", "tbody", "tr", "ul", "ol", "li", "hr", "br"];
    private static readonly HashSet<string> Void = ["br", "hr"];

    /// <summary>Whether it is short and plain enough to be read at all.</summary>
    public static bool IsReadable(string markup) => markup.Length <= MaxLength && markup.AsSpan().Count('<') <= MaxTags;

    /// <summary>Cleans a fragment of HTML. The same fragment gives the same result; nothing is too broken to be read, and nothing is left of what is too large.</summary>
    public static CleanMarkup Clean(string markup)
    {
        if (string.IsNullOrWhiteSpace(markup) || !IsReadable(markup)) return CleanMarkup.Nothing;
        var removed = new List<string>();
        var visible = Visible(markup);
        var document = Sanitizer(removed).SanitizeDom(visible);
        foreach (var element in document.Body!.QuerySelectorAll("[style]")) element.SetAttribute("style", ColourFunction().Replace(element.GetAttribute("style")!, Hexadecimal));
        removed.RemoveAll(sentence => sentence.StartsWith("\"style\" of ", StringComparison.Ordinal)); // said style by style
        removed.AddRange(Unread(visible, document, removed).ToArray());
        var pieces = new List<MarkupPiece>();
        var html = new StringBuilder();
        var lines = new List<Part>();
        var runs = new List<Run>();
        foreach (var node in document.Body!.ChildNodes) Write(node, html, pieces, runs, lines);
        EndLine(runs, lines);
        if (html.Length > 0) pieces.Add(new MarkupPiece(html.ToString(), ""));
        return new CleanMarkup([.. pieces], [.. lines], [.. removed.Distinct(StringComparer.Ordinal)], PropertiesOf(document), FontsOf(document));
    }

    /// <summary>A colour as #rrggbb, a translucent one as it looks on white: a large family of programs drops a style with any other form (npm caniemail).</summary>
    private static string Hexadecimal(Match colour)
    {
        var opacity = colour.Groups["a"].Success ? double.Parse(colour.Groups["a"].Value, CultureInfo.InvariantCulture) : 1;
        int OnWhite(string part) => (int)Math.Round((Math.Min(255, int.Parse(colour.Groups[part].Value, CultureInfo.InvariantCulture)) * opacity) + (255 * (1 - opacity)));
        return string.Create(CultureInfo.InvariantCulture, $"#{OnWhite("r"):x2}{OnWhite("g"):x2}{OnWhite("b"):x2}");
    }

    [GeneratedRegex(@"rgba?\((?<r>\d{1,3}), ?(?<g>\d{1,3}), ?(?<b>\d{1,3})(?:, ?(?<a>[01]|0?\.\d+))?\)", RegexOptions.CultureInvariant)]
    private static partial Regex ColourFunction();

    private static ImmutableArray<string> FontsOf(IDocument document) =>
    [
        .. document.Body!.QuerySelectorAll("[style]").SelectMany(element => FontFamily().Matches(element.GetAttribute("style")!)).Select(match => match.Groups[1].Value.Split(',')[0].Trim(' ', '"', '\''))
            .Where(family => family.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase),
    ];

    [GeneratedRegex(@"(?:^|;) *font-family *: *([^;]+)", RegexOptions.CultureInvariant)]
    private static partial Regex FontFamily();

    private static ImmutableArray<string> PropertiesOf(IDocument document) =>
    [
        .. document.Body!.QuerySelectorAll("[style]").SelectMany(element => element.GetAttribute("style")!.Split(';')).Select(declaration => declaration.Split(':')[0].Trim())
            .Where(property => property.Length > 0).Distinct(StringComparer.Ordinal),
    ];

    private static HtmlSanitizer Sanitizer(List<string> removed)
    {
        var sanitizer = new HtmlSanitizer(new HtmlSanitizerOptions
        {
            AllowedTags = Elements.ToHashSet(StringComparer.OrdinalIgnoreCase),
            AllowedAttributes = Attributes.ToHashSet(StringComparer.OrdinalIgnoreCase),
            AllowedSchemes = Schemes.ToHashSet(StringComparer.OrdinalIgnoreCase),
            AllowedCssProperties = Properties.ToHashSet(StringComparer.OrdinalIgnoreCase),
            UriAttributes = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "href" },
        });
        sanitizer.RemovingTag += (_, about) =>
        {
            // What stands in something that goes is not said again.
            if (about.Tag.ParentElement?.Closest(Forbidden) is null) removed.Add($"\"{about.Tag.LocalName}\" with what stands in it: text, tables and links are kept, and pictures are blocks of their own.");
        };
        sanitizer.RemovingComment += (_, _) => removed.Add("Comments: nobody would see them.");
        sanitizer.RemovingAttribute += (_, about) => removed.Add(about.Attribute.Name == "href"
            ? $"The address of a link: it is of the form http:, https:, mailto: or tel:, and whole."
            : $"\"{about.Attribute.Name}\" of \"{about.Tag.LocalName}\": {(about.Attribute.Name.StartsWith("on", StringComparison.OrdinalIgnoreCase) ? "mail runs nothing." : "mail programs do not have it in common.")}");
        sanitizer.RemovingStyle += (_, about) => removed.Add(Properties.Contains(about.Style.Name, StringComparer.OrdinalIgnoreCase)
            ? $"The style \"{about.Style.Name}\" of \"{about.Tag.LocalName}\": its value is more than a plain one."
            : $"The style \"{about.Style.Name}\" of \"{about.Tag.LocalName}\": mail programs do not have it in common.");
        sanitizer.FilterUrl += (_, about) =>
        {
            if (!Uri.TryCreate(about.OriginalUrl.Trim(), UriKind.Absolute, out var address) || !Schemes.Contains(address.Scheme)) about.SanitizedUrl = null;
        };
        return sanitizer;
    }

    /// <summary>Without control characters, which no mail needs and which hide what a person would see. Line breaks and tabs are room between words.</summary>
    private static string Visible(string markup) => string.Concat(markup.Select(unit => unit is '\n' or '\r' or '\t' ? ' ' : unit).Where(unit => !char.IsControl(unit)));

    private static void Write(INode node, StringBuilder html, List<MarkupPiece> pieces, List<Run> runs, List<Part> lines)
    {
        if (node is IText text)
        {
            WriteText(text.Data, html, pieces, runs);
            return;
        }

        if (node is not IElement element) return;
        var breaks = LinesOfTheirOwn.Contains(element.LocalName);
        if (breaks) EndLine(runs, lines);
        else if (element.LocalName is "td" or "th" && runs.Count > 0) runs.Add(new LiteralRun(" "));
        html.Append('<').Append(element.LocalName);
        foreach (var attribute in element.Attributes.OrderBy(attribute => attribute.Name, StringComparer.Ordinal)) html.Append(' ').Append(attribute.Name).Append("=\"").Append(WebUtility.HtmlEncode(attribute.Value)).Append('"');
        html.Append('>');
        if (Void.Contains(element.LocalName)) return;
        foreach (var child in element.ChildNodes) Write(child, html, pieces, runs, lines);
        html.Append("</").Append(element.LocalName).Append('>');
        if (element is { LocalName: "a" } && element.GetAttribute("href") is { } address && address.StartsWith("http", StringComparison.OrdinalIgnoreCase) && WithoutScheme(address) != WithoutScheme(element.TextContent.Trim()))
            runs.Add(new LiteralRun(" " + address));
        if (breaks) EndLine(runs, lines);
    }

    private static string WithoutScheme(string address) => address[(address.IndexOf("//", StringComparison.Ordinal) is var at and >= 0 ? at + 2 : 0)..].TrimEnd('/');

    /// <summary>Styles that the parser itself dropped, because their values are none of CSS: what stood in the fragment and is neither left nor told.</summary>
    private static IEnumerable<string> Unread(string markup, IDocument cleaned, IReadOnlyList<string> told)
    {
        var left = Declared(cleaned.Body!).ToLookup(style => style);
        foreach (var style in Declared(new HtmlParser().ParseDocument(markup).Body!).GroupBy(style => style))
        {
            var sentence = $"The style \"{style.Key.Property}\" of \"{style.Key.Element}\": ";
            if (left[style.Key].Count() < style.Count() && !told.Any(one => one.StartsWith(sentence, StringComparison.Ordinal))) yield return sentence + "its value is not one that mail programs read.";
        }
    }

    private static IEnumerable<(string Element, string Property)> Declared(IElement body) =>
        from element in body.QuerySelectorAll("[style]")
        where Elements.Contains(element.LocalName)
        from declaration in (element.GetAttribute("style") ?? "").Split(';')
        let name = declaration.Split(':')[0].Trim().ToLowerInvariant()
        where name.Length > 0
        select (element.LocalName, name);

    private static void WriteText(string text, StringBuilder html, List<MarkupPiece> pieces, List<Run> runs)
    {
        var at = 0;
        foreach (Match field in FieldInBraces().Matches(text))
        {
            Literal(text[at..field.Index]);
            pieces.Add(new MarkupPiece(html.ToString(), ""));
            html.Clear();
            pieces.Add(new MarkupPiece("", field.Groups[1].Value));
            runs.Add(new FieldRun(field.Groups[1].Value));
            at = field.Index + field.Length;
        }

        Literal(text[at..]);

        void Literal(string literal)
        {
            html.Append(WebUtility.HtmlEncode(literal));
            if (literal.Length > 0) runs.Add(new LiteralRun(Gaps().Replace(literal, " ")));
        }
    }

    /// <summary>Ends a line that has anything to read, without room at its ends.</summary>
    private static void EndLine(List<Run> runs, List<Part> lines)
    {
        if (runs is [LiteralRun first, ..]) runs[0] = first with { Text = first.Text.TrimStart() };
        if (runs is [.., LiteralRun last]) runs[^1] = last with { Text = last.Text.TrimEnd() };
        var kept = runs.Where(run => run is not LiteralRun { Text.Length: 0 }).ToImmutableArray();
        if (kept.Length > 0) lines.Add(new Part(kept));
        runs.Clear();
    }

    [GeneratedRegex(@"\{([A-Za-z][A-Za-z0-9]*)\}", RegexOptions.CultureInvariant)]
    private static partial Regex FieldInBraces();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Gaps();
}
