using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace Relevo.Core.Designs;

/// <summary>The part a text plays, from which the theme gives its colour, size and weight.</summary>
public enum TextRole
{
    /// <summary>The person's name: largest, bold.</summary>
    Name,

    /// <summary>Ordinary text.</summary>
    Text,

    /// <summary>Second text: ordinary size, softer colour.</summary>
    Soft,

    /// <summary>Small print.</summary>
    Small,
}

/// <summary>A piece of a text line's part: literal text or a field.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(LiteralRun), "text")]
[JsonDerivedType(typeof(FieldRun), "field")]
public abstract record Run
{
    /// <summary>True for bold text.</summary>
    public bool IsBold { get; init; }

    /// <summary>True for italic text.</summary>
    public bool IsItalic { get; init; }

    /// <summary>A part to play other than its line's, for colour and size; null for the line's.</summary>
    public TextRole? Role { get; init; }

    /// <summary>A field whose link it leads to, or empty. Literal text that leads to a field's link disappears where there is none.</summary>
    public string LinkField { get; init; } = "";

    /// <summary>The http or https address it leads to, or empty.</summary>
    public string LinkAddress { get; init; } = "";

    /// <summary>Every field it looks at.</summary>
    [JsonIgnore]
    public IEnumerable<string> Mentions => ((this as FieldRun)?.Fields ?? []).Concat(LinkField.Length > 0 ? [LinkField] : []);
}

/// <summary>Text that is the same for everybody.</summary>
public sealed record LiteralRun(string Text) : Run;

/// <summary>A person's field, by name. Fallback: the field shown in its place when it has no value, or empty.</summary>
public sealed record FieldRun(string Field, string Fallback = "") : Run
{
    /// <summary>How its letters are written.</summary>
    public LetterCase Case { get; init; }

    /// <summary>Words that stand before the value and disappear with it, or empty.</summary>
    public string Label { get; init; } = "";

    /// <summary>The field and, when there is one, its fallback.</summary>
    [JsonIgnore]
    public IEnumerable<string> Fields => Fallback.Length > 0 ? [Field, Fallback] : [Field];
}

/// <summary>A stretch of a text line that stands or falls as one: without a value in any of its fields it disappears.</summary>
public sealed record Part(ImmutableArray<Run> Runs);

/// <summary>A node of a design. Children are named by key, so that a block can be moved, selected and undone by name.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(TextLine), "textLine")]
[JsonDerivedType(typeof(ContactList), "contactList")]
[JsonDerivedType(typeof(Picture), "picture")]
[JsonDerivedType(typeof(Divider), "divider")]
[JsonDerivedType(typeof(Gap), "gap")]
[JsonDerivedType(typeof(Columns), "columns")]
[JsonDerivedType(typeof(LinkRow), "linkRow")]
[JsonDerivedType(typeof(Button), "button")]
[JsonDerivedType(typeof(BannerPlace), "bannerPlace")]
[JsonDerivedType(typeof(NoticePlace), "noticePlace")]
[JsonDerivedType(typeof(OwnMarkup), "ownMarkup")]
public abstract record Block
{
    /// <summary>The pictures of the library that it shows, by their SHA-256.</summary>
    [JsonIgnore]
    public IEnumerable<string> LibraryPictures => this switch
    {
        Picture { Field: "" } picture => [picture.Sha256],
        LinkRow row => row.Items.Select(item => item.Icon).Where(icon => icon.Length > 0),
        _ => [],
    };

    /// <summary>The same block with other pictures of the library.</summary>
    public Block WithPictures(Func<string, string> other) => this switch
    {
        Picture { Field: "" } picture => picture with { Sha256 = other(picture.Sha256) },
        LinkRow row => row with { Items = [.. row.Items.Select(item => item.Icon.Length > 0 ? item with { Icon = other(item.Icon) } : item)] },
        _ => this,
    };

    /// <summary>What must hold for the block to show, all of it; none means always.</summary>
    public ImmutableArray<BlockCondition> When { get; init; } = [];

    /// <summary>Lines that stand for it in plain text, each a part that may disappear; null for those made from the block, none to leave it out.</summary>
    public ImmutableArray<Part>? TextForm { get; init; }
}

/// <summary>Parts on one line, with the separator between those that stay.</summary>
public sealed record TextLine(TextRole Role, string Separator, ImmutableArray<Part> Parts) : Block;

/// <summary>One way to reach somebody: a label and a field, linked where its kind allows.</summary>
public sealed record ContactItem(string Label, string Field);

/// <summary>How a contact list stands.</summary>
public enum ContactArrangement
{
    /// <summary>One item a line.</summary>
    Stacked,

    /// <summary>All items in one line, with the separator between.</summary>
    Inline,
}

/// <summary>Ways to reach a person. An item without a value disappears with its label and its icon.</summary>
public sealed record ContactList(TextRole Role, ContactArrangement Arrangement, string Separator, ImmutableArray<ContactItem> Items) : Block
{
    /// <summary>Pixels of each item's icon, or 0 for none. Where a label is given it stands beside the icon.</summary>
    public int IconSize { get; init; }
}

/// <summary>A picture, from the library or from a field of kind picture.</summary>
/// <param name="Sha256">The library picture's SHA-256 in lower-case hex: what it is, not where it lies. Empty when a field gives the picture.</param>
/// <param name="Width">Width in CSS pixels.</param>
/// <param name="Height">Height in CSS pixels.</param>
/// <param name="AltText">What it says to those who do not see it; required.</param>
/// <param name="Link">An http or https address it leads to, or empty.</param>
public sealed record Picture(string Sha256, int Width, int Height, string AltText, string Link) : Block
{
    /// <summary>The field that gives the picture, or empty. Without a value the block disappears.</summary>
    public string Field { get; init; } = "";

    /// <summary>A field whose value follows the text for those who do not see it, or empty.</summary>
    public string AltField { get; init; } = "";

    /// <summary>A field whose link it leads to, or empty; without one the picture stands unlinked.</summary>
    public string LinkField { get; init; } = "";

    /// <summary>Its outline.</summary>
    public PictureShape Shape { get; init; }

    /// <summary>What lies outside the outline: a colour of the form #1d2a33, or empty for nothing.</summary>
    public string Ground { get; init; } = "";

    /// <summary>The part of a library picture that is shown; null for as much of its middle as fits.</summary>
    public PictureCrop? Crop { get; init; }

    /// <summary>How its picture is cut; for one that a field gives, without the source.</summary>
    [JsonIgnore]
    public PictureCut Cut => new(Sha256, Width, Height, Shape, Ground) { Crop = Field.Length == 0 ? Crop : null };
}

/// <summary>Words that lead somewhere.</summary>
/// <param name="Label">What is read; empty for the field's own label.</param>
/// <param name="Field">The field whose link it leads to, or empty.</param>
/// <param name="Address">Without a field: the http or https address it leads to.</param>
public sealed record LinkItem(string Label, string Field, string Address)
{
    /// <summary>A library picture that stands for it in a row of icons, by its SHA-256; empty for the icon of its kind.</summary>
    public string Icon { get; init; } = "";
}

/// <summary>Links in a line, with the separator between those that stay. One whose field has no link disappears.</summary>
public sealed record LinkRow(TextRole Role, string Separator, ImmutableArray<LinkItem> Items) : Block
{
    /// <summary>Pixels of the icons that stand for the words, or 0 for words.</summary>
    public int IconSize { get; init; }
}

/// <summary>One link as a filled box in the colour of names. It is a table cell with a colour of its own, which word-processor engines draw too.</summary>
public sealed record Button(LinkItem Item) : Block;

/// <summary>A thin line between what stands before and after it; gone when either is missing.</summary>
public sealed record Divider : Block;

/// <summary>Empty room of so many pixels; gone like a divider.</summary>
public sealed record Gap(int Height) : Block;

/// <summary>Columns beside each other; one without content gives its room away.</summary>
/// <param name="Space">Pixels between two columns.</param>
/// <param name="Children">Keys of the blocks of each column, from left to right.</param>
public sealed record Columns(int Space, ImmutableArray<ImmutableArray<string>> Children) : Block
{
    /// <summary>Widths in pixels from left to right; 0, or none given, for as wide as the content.</summary>
    public ImmutableArray<int> Widths { get; init; } = [];

    /// <summary>How the columns stand beside each other.</summary>
    public ColumnAlignment Alignment { get; init; }
}

/// <summary>How columns of different height stand beside each other.</summary>
public enum ColumnAlignment
{
    /// <summary>By their first lines.</summary>
    Top,

    /// <summary>By their middles.</summary>
    Middle,

    /// <summary>By their last lines.</summary>
    Bottom,
}

/// <summary>Where running banners go. Without one it is gone.</summary>
/// <param name="Most">Banners at most, one under the other.</param>
/// <param name="Width">Pixels that a banner is wide at most.</param>
public sealed record BannerPlace(int Most, int Width) : Block;

/// <summary>Where disclaimers go that rules add. Without one it is gone; in a design that has no such place they stand at the very end.</summary>
public sealed record NoticePlace(TextRole Role) : Block;

/// <summary>
/// HTML of one's own, for what the other blocks do not have. It is cleaned as it comes in, and only what is left is ever rendered: text, tables,
/// links and the styles that mail programs have in common. A field's name in braces in its text stands for the value.
/// </summary>
public sealed record OwnMarkup : Block
{
    /// <summary>The HTML as it was given.</summary>
    public required string Markup
    {
        get;
        init
        {
            field = value;
            Clean = MarkupCleaning.Clean(value);
        }
    }

    /// <summary>What is left of it, and what was taken out.</summary>
    [JsonIgnore]
    public CleanMarkup Clean { get; private init; } = CleanMarkup.Nothing;

    /// <summary>Equal when given alike: what is left follows from it.</summary>
    public bool Equals(OwnMarkup? other) => base.Equals(other) && Markup == other.Markup;

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(base.GetHashCode(), Markup);
}
