using System.Collections.Immutable;

namespace Relevo.Core.Designs;

/// <summary>The picture a starter puts in its logo's place.</summary>
public sealed record StarterLogo(string Sha256, int Width, int Height, string AltText, string Link);

/// <summary>A shipped design to begin from.</summary>
/// <param name="Key">Stable name.</param>
/// <param name="Name">What people read.</param>
/// <param name="Purpose">One sentence: what it is for.</param>
public sealed record Starter(string Key, string Name, string Purpose)
{
    private static readonly Theme Plain = new(
        new ThemeColours("#1f6b52", "#23343c", "#5b676d", "#d3d9d6"),
        Theme.FontStacks[0],
        new ThemeSizes(15, 13, 11),
        145);

    /// <summary>Every starter, in the order they are offered.</summary>
    public static ImmutableArray<Starter> All { get; } =
    [
        new("beside-the-mark", "Beside the mark", "Logo at the left, everything about the person beside it: for new messages."),
        new("two-lines", "Two lines", "Name and telephone, nothing else: for replies and forwards."),
    ];

    /// <summary>The starter as a design of its own.</summary>
    public DesignDocument Open(string name, StarterLogo logo) => Key switch
    {
        "two-lines" => new DesignDocument(name, Plain, ["name", "contact"], Blocks(
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Inline, "  |  ", [new("T", "telephone"), new("", "webAddress")])))),
        _ => new DesignDocument(name, Plain, ["columns"], Blocks(
            ("columns", new Columns(16, [["logo"], ["name", "role", "gap", "contact", "divider", "entity"]])),
            ("logo", new Picture(logo.Sha256, logo.Width, logo.Height, logo.AltText, logo.Link)),
            ("name", Line(TextRole.Name, ", ", "displayName", "postNominals")),
            ("role", Line(TextRole.Text, ", ", "title", "department")),
            ("gap", new Gap(6)),
            ("contact", new ContactList(TextRole.Text, ContactArrangement.Stacked, "", [new("T", "telephone"), new("M", "mobile"), new("W", "webAddress")])),
            ("divider", new Divider()),
            ("entity", Line(TextRole.Small, ", ", "organisation", "location")))),
    };

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
