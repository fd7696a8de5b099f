using System.Collections.Immutable;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Designs;

/// <summary>How a banner is drawn. All but the first are words in the theme's colours and fonts.</summary>
public enum BannerLayout
{
    /// <summary>A picture of the library.</summary>
    Picture,

    /// <summary>Headline and text above each other, then the link on a line of its own.</summary>
    Stacked,

    /// <summary>Headline, text and link in one line.</summary>
    OneLine,

    /// <summary>Headline and text at the left, a button at the right.</summary>
    ButtonBeside,

    /// <summary>Headline, text and a button below.</summary>
    ButtonBelow,

    /// <summary>Between two thin lines.</summary>
    BetweenLines,

    /// <summary>On a ground in the colour of names.</summary>
    OnColour,

    /// <summary>With a bar in the colour of names at the left.</summary>
    WithBar,
}

/// <summary>Something that runs under signatures for a while and leads somewhere.</summary>
/// <param name="Name">What people call it.</param>
/// <param name="Layout">How it is drawn.</param>
/// <param name="Headline">Its first words, or empty.</param>
/// <param name="Text">What it says, or empty.</param>
/// <param name="LinkLabel">The words that lead to its target; for a picture, empty.</param>
/// <param name="Link">Its target: an http or https address.</param>
public sealed record Banner(string Name, BannerLayout Layout, string Headline, string Text, string LinkLabel, string Link)
{
    private const int MaxName = 100, MaxWords = 300;

    /// <summary>For a picture: its SHA-256 in the library.</summary>
    public string Sha256 { get; init; } = "";

    /// <summary>For a picture: its own pixels, from which its height follows where it is made narrower.</summary>
    public int Width { get; init; }

    /// <summary>See <see cref="Width"/>.</summary>
    public int Height { get; init; }

    /// <summary>For a picture: what it says to those who do not see it.</summary>
    public string AltText { get; init; } = "";

    /// <summary>When it runs; null for always. Outside it disappears by itself.</summary>
    public TimeCondition? Runs { get; init; }

    /// <summary>True when it runs at the moment.</summary>
    public bool IsRunning(NodaTime.Instant moment) => Runs is null || (TimeWindow.TryRead(Runs, out var window, out _) && window.Holds(moment));

    /// <summary>What is wrong with it, all of it, each with its place.</summary>
    public ImmutableArray<DesignProblem> Check(IReadOnlySet<string> pictures)
    {
        var problems = ImmutableArray.CreateBuilder<DesignProblem>();
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > MaxName || Name.Any(char.IsControl)) problems.Add(new("/name", "name-length", $"A banner needs a name of 1 to {MaxName} characters on one line."));
        foreach (var (place, words) in new[] { ("/headline", Headline), ("/text", Text), ("/linkLabel", LinkLabel), ("/altText", AltText), ("/link", Link) })
        {
            if (words.Length > MaxWords || words.Any(char.IsControl)) problems.Add(new(place, "text-length", $"This has at most {MaxWords} characters on one line."));
        }

        if (FieldValue.From(Link, FieldKind.Web).Link.Length == 0) problems.Add(new("/link", "link-form", "A banner leads to an http or https address."));
        if (Layout == BannerLayout.Picture)
        {
            if (!pictures.Contains(Sha256)) problems.Add(new("/sha256", "picture-missing", "The picture is not in the library."));
            if (Width < 1 || Height < 1) problems.Add(new("/width", "picture-size", "Say how many pixels the picture has."));
            if (string.IsNullOrWhiteSpace(AltText)) problems.Add(new("/altText", "alt-missing", "A picture needs a text for those who do not see it."));
        }
        else
        {
            if (string.IsNullOrWhiteSpace(Headline + Text)) problems.Add(new("/headline", "text-missing", "Say something in the headline or the text."));
            if (string.IsNullOrWhiteSpace(LinkLabel)) problems.Add(new("/linkLabel", "label-missing", "Say what the words are that lead to the target."));
        }

        if (Runs is { } runs && !TimeWindow.TryRead(runs, out _, out var trouble)) problems.Add(new("/runs", "time-form", $"This can never run: {trouble}."));
        return problems.ToImmutable();
    }

    /// <summary>The blocks that draw it. key: what their keys begin with; most: pixels it may be wide; link: where it leads.</summary>
    public (ImmutableArray<string> Root, ImmutableDictionary<string, Block> Blocks) Draw(string key, int most, string link, Theme theme)
    {
        var blocks = ImmutableDictionary.CreateBuilder<string, Block>();
        var item = new LinkItem(LinkLabel, "", link);
        string Keep(string name, Block block)
        {
            blocks.Add($"{key}.{name}", block);
            return $"{key}.{name}";
        }

        string Words() => Keep("words", new TextLine(TextRole.Text, " ", [.. Said(Headline, isBold: true), .. Said(Text, isBold: false)]));
        string Head() => Keep("head", new TextLine(TextRole.Text, " ", [.. Said(Headline, isBold: true)]));
        string Body() => Keep("body", new TextLine(TextRole.Text, " ", [.. Said(Text, isBold: false)]));
        string Led() => Keep("link", new LinkRow(TextRole.Text, "", [item]));
        string Pressed() => Keep("button", new Button(item));
        ImmutableArray<string> root = Layout switch
        {
            BannerLayout.Picture => [Keep("picture", Fitted(most) with { Link = link })],
            BannerLayout.OneLine => [Keep("line", new TextLine(TextRole.Text, " ", [.. Said(Headline, isBold: true), .. Said(Text, isBold: false), new Part([new LiteralRun(LinkLabel) { LinkAddress = link }])]))],
            BannerLayout.ButtonBeside => [Keep("columns", new Columns(16, [[Words()], [Pressed()]]) { Alignment = ColumnAlignment.Middle })],
            BannerLayout.ButtonBelow => [Head(), Body(), Pressed()],
            BannerLayout.BetweenLines => [Keep("top", Markup("<tr><td style=\"border-top:1px solid {0};font-size:1px;line-height:4px\">&nbsp;</td></tr>", theme)), Words(), Led(), Keep("bottom", Markup("<tr><td style=\"border-bottom:1px solid {0};font-size:1px;line-height:4px\">&nbsp;</td></tr>", theme))],
            BannerLayout.OnColour => [Keep("box", Box(link, most, theme))],
            BannerLayout.WithBar => [Keep("columns", new Columns(10, [[Keep("bar", Bar(theme))], [Head(), Body(), Led()]]))],
            _ => [Head(), Body(), Led()],
        };
        return (root, blocks.ToImmutable());
    }

    private static IEnumerable<Part> Said(string words, bool isBold) => words.Length > 0 ? [new Part([new LiteralRun(words) { IsBold = isBold }])] : [];

    private Picture Fitted(int most)
    {
        var width = Math.Min(Width, most);
        return new Picture(Sha256, width, Math.Clamp((int)Math.Round((double)Height * width / Math.Max(1, Width)), 1, 400), AltText, "");
    }

    /// <summary>A line of its own; it says nothing in plain text.</summary>
    private static OwnMarkup Markup(string row, Theme theme) => new() { Markup = $"<table width=\"100%\" cellpadding=\"0\" cellspacing=\"0\">{string.Format(System.Globalization.CultureInfo.InvariantCulture, row, theme.Colours.Line)}</table>", TextForm = [] };

    private static OwnMarkup Bar(Theme theme) => new() { Markup = $"<table cellpadding=\"0\" cellspacing=\"0\"><tr><td width=\"4\" height=\"{3 * theme.Sizes.Text * theme.LineHeight / 100}\" bgcolor=\"{theme.Colours.Name}\" style=\"background-color:{theme.Colours.Name};font-size:1px\">&nbsp;</td></tr></table>", TextForm = [] };

    private OwnMarkup Box(string link, int most, Theme theme)
    {
        static string Html(string text) => System.Net.WebUtility.HtmlEncode(text);
        var ground = theme.Colours.Name;
        var style = $"color:{Contrast.TextOn(ground)};font-family:{theme.FontStack};font-size:{theme.Sizes.Text}px;line-height:{theme.Sizes.Text * theme.LineHeight / 100}px";
        var said = string.Join(" ", new[] { Headline.Length > 0 ? $"<b>{Html(Headline)}</b>" : "", Html(Text), $"<a href=\"{Html(FieldValue.From(link, FieldKind.Web).Link)}\" style=\"color:{Contrast.TextOn(ground)}\">{Html(LinkLabel)}</a>" }.Where(part => part.Length > 0));
        return new OwnMarkup
        {
            // A name in braces would be a field here, and a banner has none.
            Markup = $"<table width=\"{most}\" cellpadding=\"0\" cellspacing=\"0\"><tr><td bgcolor=\"{ground}\" style=\"background-color:{ground};padding:8px 12px;{style}\">{said.Replace("{", "{<span></span>", StringComparison.Ordinal)}</td></tr></table>",
            TextForm = [new Part([new LiteralRun(string.Join(" ", new[] { Headline, Text, LinkLabel }.Where(part => part.Length > 0))) { LinkAddress = link }])],
        };
    }
}
