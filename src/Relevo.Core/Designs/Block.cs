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
}

/// <summary>Text that is the same for everybody.</summary>
public sealed record LiteralRun(string Text) : Run;

/// <summary>A person's field, by name. Fallback: the field shown in its place when it has no value, or empty.</summary>
public sealed record FieldRun(string Field, string Fallback = "") : Run
{
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
public abstract record Block;

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

/// <summary>Ways to reach a person. An item without a value disappears with its label.</summary>
public sealed record ContactList(TextRole Role, ContactArrangement Arrangement, string Separator, ImmutableArray<ContactItem> Items) : Block;

/// <summary>A picture from the library.</summary>
/// <param name="Sha256">The picture's SHA-256 in lower-case hex: what it is, not where it lies.</param>
/// <param name="Width">Width in CSS pixels.</param>
/// <param name="Height">Height in CSS pixels.</param>
/// <param name="AltText">What it says to those who do not see it; required.</param>
/// <param name="Link">An http or https address it leads to, or empty.</param>
public sealed record Picture(string Sha256, int Width, int Height, string AltText, string Link) : Block;

/// <summary>Words that lead somewhere.</summary>
/// <param name="Label">What is read; empty for the field's own label.</param>
/// <param name="Field">The field whose link it leads to, or empty.</param>
/// <param name="Address">Without a field: the http or https address it leads to.</param>
public sealed record LinkItem(string Label, string Field, string Address);

/// <summary>Links in a line, with the separator between those that stay. One whose field has no link disappears.</summary>
public sealed record LinkRow(TextRole Role, string Separator, ImmutableArray<LinkItem> Items) : Block;

/// <summary>One link as a filled box in the colour of names. It is a table cell with a colour of its own, which word-processor engines draw too.</summary>
public sealed record Button(LinkItem Item) : Block;

/// <summary>A thin line between what stands before and after it; gone when either is missing.</summary>
public sealed record Divider : Block;

/// <summary>Empty room of so many pixels; gone like a divider.</summary>
public sealed record Gap(int Height) : Block;

/// <summary>Columns beside each other; one without content gives its room away.</summary>
/// <param name="Space">Pixels between two columns.</param>
/// <param name="Children">Keys of the blocks of each column, from left to right.</param>
public sealed record Columns(int Space, ImmutableArray<ImmutableArray<string>> Children) : Block;
