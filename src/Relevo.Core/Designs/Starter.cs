using System.Collections.Immutable;

namespace Relevo.Core.Designs;

/// <summary>The picture a starter puts in its logo's place.</summary>
public sealed record StarterLogo(string Sha256, int Width, int Height, string AltText, string Link);

/// <summary>A shipped design to begin from.</summary>
public sealed class Starter
{
    private const string Between = "  |  ";
    private static readonly Theme Plain = new(
        new ThemeColours("#1f6b52", "#23343c", "#556168", "#d3d9d6"),
        Theme.FontStacks[0],
        new ThemeSizes(15, 13, 11),
        145);

    private readonly Func<StarterLogo, (ImmutableArray<string> Root, ImmutableSortedDictionary<string, Block> Blocks)> build;
    private ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, string>> languages = ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, string>>.Empty;

    private Starter(string key, string name, string purpose, Func<StarterLogo, (ImmutableArray<string> Root, ImmutableSortedDictionary<string, Block> Blocks)> build)
    {
        (Key, Name, Purpose) = (key, name, purpose);
        this.build = build;
    }

    /// <summary>Every starter, in the order they are offered.</summary>
    public static ImmutableArray<Starter> All { get; } =
    [
        new("beside-the-mark", "Beside the mark", "Logo at the left, everything about the person beside it: for new messages.", logo => (["columns"], Blocks(
            ("columns", new Columns(16, [["logo"], ["name", "role", "gap", "contact", "divider", "entity"]])),
            ("logo", Mark(logo)),
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", Line(TextRole.Text, ", ", "title", "department")),
            ("gap", new Gap(6)),
            ("contact", Contact),
            ("divider", new Divider()),
            ("entity", Line(TextRole.Small, ", ", "organisation", "location"))))),
        new("two-lines", "Two lines", "Name and telephone, nothing else: for replies and forwards.", _ => (["name", "contact"], Blocks(
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Inline, Between, [new("T", "telephone"), new("", "webAddress")]))))),
        new("one-line", "One line", "Name, title and telephone in a row: for long threads.", _ => (["line"], Blocks(
            ("line", new TextLine(TextRole.Text, Between, [new Part([new FieldRun("displayName") { IsBold = true }]), new Part([new FieldRun("title", "department")]), new Part([new LiteralRun("T "), new FieldRun("telephone", "mobile")])]))))),
        new("words-first", "Words first", "The person in words, the logo small at the foot beside the legal entity.", logo => (["name", "role", "gap", "contact", "divider", "foot"], Blocks(
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", Line(TextRole.Soft, Between, "title", "department")),
            ("gap", new Gap(6)),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Inline, Between, [new("T", "telephone"), new("M", "mobile"), new("", "webAddress")])),
            ("divider", new Divider()),
            ("foot", new Columns(10, [["logo"], ["entity", "place"]])),
            ("logo", Mark(logo with { Width = Math.Max(1, logo.Width / 2), Height = Math.Max(1, logo.Height / 2) })),
            ("entity", Line(TextRole.Small, ", ", "organisation")),
            ("place", Line(TextRole.Small, ", ", "street", "postalCode", "location"))))),
        new("no-pictures", "Without pictures", "Words and a line, no picture: light, and the same everywhere.", _ => (["name", "role", "divider", "contact", "gap", "entity"], Blocks(
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", new TextLine(TextRole.Text, ", ", [new Part([new FieldRun("title") { IsItalic = true }]), new Part([new FieldRun("department")])])),
            ("divider", new Divider()),
            ("contact", Contact),
            ("gap", new Gap(6)),
            ("entity", Line(TextRole.Small, ", ", "organisation", "location"))))),
        new("with-an-invitation", "With an invitation", "Logo and person, and a button that leads to a page of yours.", logo => (["columns", "gap", "invitation"], Blocks(
            ("columns", new Columns(16, [["logo"], ["name", "role", "contact"]])),
            ("logo", Mark(logo)),
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", Line(TextRole.Text, ", ", "title", "organisation")),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Inline, Between, [new("T", "telephone"), new("M", "mobile")])),
            ("gap", new Gap(4)),
            ("invitation", new Button(new LinkItem("Visit us", "webAddress", "")))))),
        new("shared-mailbox", "For a shared mailbox", "The mailbox's name and ways to reach it, and who runs it; no person's title.", logo => (["columns"], Blocks(
            ("columns", new Columns(12, [["logo"], ["name", "contact", "links", "entity"]])),
            ("logo", Mark(logo with { Width = Math.Max(1, logo.Width / 2), Height = Math.Max(1, logo.Height / 2) })),
            ("name", Line(TextRole.Name, ", ", "displayName")),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Inline, Between, [new("T", "telephone"), new("", "mail")])),
            ("links", new LinkRow(TextRole.Text, Between, [new("", "webAddress", "")])),
            ("entity", Line(TextRole.Small, ", ", "organisation", "location"))))),
        new("portrait-and-icons", "Portrait and icons", "The person's portrait in a circle, icons for every way to reach them, the logo below: for people who are met.", logo => (["columns", "divider", "foot", "gap", "banner", "notice"], Blocks(
            ("columns", new Columns(16, [["portrait"], ["name", "role", "contact", "links"]]) { Alignment = ColumnAlignment.Middle }),
            ("portrait", new Picture("", 96, 96, "Portrait of", "") { Field = "portrait", AltField = "displayName", Shape = PictureShape.Circle }),
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", Line(TextRole.Soft, Between, "title", "department")),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Stacked, "", [new("", "telephone"), new("", "mobile")]) { IconSize = 16 }),
            ("links", new LinkRow(TextRole.Name, "  ", [new("", "webAddress", "")]) { IconSize = 20 }),
            ("divider", new Divider()),
            ("foot", new Columns(12, [["logo"], ["entity", "place"]]) { Alignment = ColumnAlignment.Middle }),
            ("logo", Mark(logo with { Width = Math.Max(1, logo.Width / 2), Height = Math.Max(1, logo.Height / 2) })),
            ("entity", Line(TextRole.Small, ", ", "organisation")),
            ("place", Line(TextRole.Small, ", ", "street", "postalCode", "location")),
            ("gap", new Gap(8)),
            ("banner", new BannerPlace(1, 480)),
            ("notice", new NoticePlace(TextRole.Small))))),
        new("two-languages", "In two languages", "Labels and links in the person's language, German and Swedish beside English, the logo at the right: for companies in several countries.", logo => (["columns", "notice"], Blocks(
            ("columns", new Columns(16, [["name", "role", "contact", "visit"], ["logo"]])),
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", Line(TextRole.Text, ", ", "title", "organisation")),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Stacked, "", [new("Telephone", "telephone"), new("Mobile", "mobile")])),
            ("visit", new LinkRow(TextRole.Text, Between, [new("Our website", "webAddress", "")])),
            ("logo", Mark(logo)),
            ("notice", new NoticePlace(TextRole.Small)))))
        {
            languages = Translations(
                ("de", [("Telephone", "Telefon"), ("Mobile", "Mobil"), ("Our website", "Unsere Website")]),
                ("sv", [("Telephone", "Telefon"), ("Mobile", "Mobil"), ("Our website", "Vår webbplats")])),
        },
        new("banner-below", "Banner below", "Short words, and the room for a running banner under them: for a season's news.", logo => (["columns", "gap", "banner"], Blocks(
            ("columns", new Columns(14, [["logo"], ["name", "role", "contact"]]) { Alignment = ColumnAlignment.Middle }),
            ("logo", Mark(logo with { Width = Math.Max(1, logo.Width * 3 / 4), Height = Math.Max(1, logo.Height * 3 / 4) })),
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", Line(TextRole.Soft, ", ", "title", "organisation")),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Inline, Between, [new("T", "telephone"), new("", "webAddress")])),
            ("gap", new Gap(10)),
            ("banner", new BannerPlace(1, 520))))),
    ];

    /// <summary>Stable name.</summary>
    public string Key { get; }

    /// <summary>What people read.</summary>
    public string Name { get; }

    /// <summary>One sentence: what it is for.</summary>
    public string Purpose { get; }

    private static ContactList Contact => new(TextRole.Text, ContactArrangement.Stacked, "", [new("T", "telephone"), new("M", "mobile"), new("W", "webAddress")]);

    /// <summary>The starter as a design of its own.</summary>
    public DesignDocument Open(string name, StarterLogo logo)
    {
        var (root, blocks) = build(logo);
        return new DesignDocument(name, Plain, root, blocks) { Languages = languages };
    }

    private static ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, string>> Translations(params (string Language, (string Text, string Translated)[] Texts)[] all) =>
        all.ToImmutableSortedDictionary(one => one.Language, one => one.Texts.ToImmutableSortedDictionary(text => text.Text, text => text.Translated));

    private static Picture Mark(StarterLogo logo) => new(logo.Sha256, logo.Width, logo.Height, logo.AltText, logo.Link);

    private static TextLine Line(TextRole role, string separator, params ReadOnlySpan<string> fields)
    {
        var parts = ImmutableArray.CreateBuilder<Part>(fields.Length);
        foreach (var field in fields) parts.Add(new Part([new FieldRun(field)]));
        return new TextLine(role, separator, parts.MoveToImmutable());
    }

    private static ImmutableSortedDictionary<string, Block> Blocks(params ReadOnlySpan<(string Key, Block Block)> blocks)
    {
        var all = ImmutableSortedDictionary.CreateBuilder<string, Block>(StringComparer.Ordinal);
        foreach (var (key, block) in blocks) all.Add(key, block);
        return all.ToImmutable();
    }
}
