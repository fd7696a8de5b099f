using System.Collections.Immutable;
using System.Globalization;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>
/// Compiles a design into an HTML fragment of nested tables with inline styles: no scripts, no style sheets, no classes; width, height and
/// alt text on every picture. Only properties that mail programs have in common.
/// </summary>
internal sealed class HtmlCompiler
{
    private const string Table = "<table role=\"presentation\" cellpadding=\"0\" cellspacing=\"0\" border=\"0\" style=\"border-collapse:collapse\">";
    private readonly DesignDocument design;
    private readonly FieldCatalogue catalogue;
    private readonly Func<string, string> pictureAddress;
    private readonly ProgramBuilder program;
    private readonly BlockPresence presence;
    private readonly Wordings wordings;
    private readonly List<PictureUse> pictures = [];
    private readonly bool marksBlocks;
    private readonly bool isDouble;
    private string row = "<tr>";

    /// <param name="design">A checked design.</param>
    /// <param name="catalogue">The fields it refers to.</param>
    /// <param name="form">How pictures are addressed, and whether rows name their blocks.</param>
    public HtmlCompiler(DesignDocument design, FieldCatalogue catalogue, RenderingForm form)
    {
        this.design = design;
        this.catalogue = catalogue;
        pictureAddress = form.PictureAddress;
        marksBlocks = form.MarksBlocks;
        isDouble = form.HasDoublePictures;
        program = new ProgramBuilder(catalogue);
        presence = new BlockPresence(design, catalogue, program, isText: false);
        wordings = new Wordings(design, catalogue, program);
    }

    /// <summary>The program, and the pictures its HTML refers to, each with when.</summary>
    public (SignatureProgram Program, ImmutableArray<PictureUse> Pictures) Compile()
    {
        program.When(presence.Of(design.Root), () => Stack(design.Root));
        return (program.Build(), [.. pictures]);
    }

    private void Stack(ImmutableArray<string> keys)
    {
        program.Raw(Table);
        foreach (var placed in presence.Place(keys))
        {
            program.When(placed.Shows, () => program.When(placed.AndShows, () =>
            {
                if (marksBlocks) row = $"<tr data-block=\"{System.Net.WebUtility.HtmlEncode(placed.Key)}\">";
                Row(placed.Block);
            }));
        }

        program.Raw("</table>");
    }

    private void Row(Block block)
    {
        switch (block)
        {
            case TextLine line:
                Cell(line.Role, () => Line(line, line.Role));
                break;
            case ContactList { Arrangement: ContactArrangement.Stacked } list:
                for (var index = 0; index < list.Items.Length; index++)
                {
                    var (item, place) = (list.Items[index], index);
                    program.When(presence.Text(item.Field), () => Cell(list.Role, () => Item(item, list, place)));
                }

                break;
            case ContactList list:
                Cell(list.Role, () => program.Separated([.. list.Items.Select((item, place) => (presence.Text(item.Field), (Action)(() => Item(item, list, place))))], () => program.Text(list.Separator)));
                break;
            case Picture picture:
                program.Raw(row + "<td style=\"padding:0\">");
                Picture(picture);
                program.Raw("</td></tr>");
                break;
            case LinkRow row:
                Cell(row.Role, () => program.Separated([.. row.Items.Select((item, place) => (presence.Of(item), (Action)(() => Link(item, $"color:{Colour(row.Role)};text-decoration:underline", place, row))))], () => program.Text(row.Separator)));
                break;
            case OwnMarkup own:
                Cell(TextRole.Text, () =>
                {
                    foreach (var piece in own.Clean.Pieces)
                    {
                        if (piece.Field.Length > 0) program.Value(OpCode.HtmlText, program.Slot(piece.Field));
                        else program.Raw(piece.Html);
                    }
                });
                break;
            case Button button:
                Button(button);
                break;
            case Divider:
                program.Raw($"{row}<td style=\"padding:{design.Theme.Spaced(6)}px 0 0 0;font-size:1px;line-height:1px\">&nbsp;</td></tr>{row}<td style=\"padding:0 0 {design.Theme.Spaced(5)}px 0;border-top:1px solid {design.Theme.Colours.Line};font-size:1px;line-height:1px\">&nbsp;</td></tr>");
                break;
            case Gap gap:
                var height = Math.Max(1, design.Theme.Spaced(gap.Height)).ToString(CultureInfo.InvariantCulture);
                program.Raw($"{row}<td height=\"{height}\" style=\"padding:0;font-size:{height}px;line-height:{height}px\">&nbsp;</td></tr>");
                break;
            case Columns columns:
                program.Raw($"{row}<td style=\"padding:0\">{Table}<tr>");
                ColumnCells(columns);
                program.Raw("</tr></table></td></tr>");
                break;
        }
    }

    private void Cell(TextRole role, Action content)
    {
        program.Raw(row + "<td style=\"" + Style(role) + "padding:0\">");
        content();
        program.Raw("</td></tr>");
    }

    private void Line(TextLine line, TextRole role) => program.Separated([.. line.Parts.Select((part, place) => (presence.Of(part), (Action)(() => Runs(part, role, place))))], () => program.Text(line.Separator));

    private void Runs(Part part, TextRole role, int number)
    {
        for (var index = 0; index < part.Runs.Length; index++)
        {
            var (run, place) = (part.Runs[index], $"{number}.{index}");
            // Marks round an empty value would be bytes that say nothing.
            program.When(presence.Of(run), () => Marked(run, role, () => Led(run, role, () =>
            {
                if (run is LiteralRun literal) Said(literal.Text, place, "");
                if (run is not FieldRun field) return;
                if (field.Label.Length > 0) Said(field.Label, place, " ");
                program.Value(OpCode.HtmlText, field);
            })));
        }
    }

    private void Marked(Run run, TextRole role, Action content)
    {
        var (open, close) = ("", "");
        if (run.Role is { } own && own != role) (open, close) = ($"<span style=\"font-size:{Size(own)}px;{(own == TextRole.Name ? "font-weight:bold;" : "")}color:{Colour(own)}\">", "</span>");
        if (run.IsBold) (open, close) = ($"{open}<b>", $"</b>{close}");
        if (run.IsItalic) (open, close) = ($"{open}<i>", $"</i>{close}");
        program.Raw(open);
        content();
        program.Raw(close);
    }

    /// <summary>A literal text and what follows it. For an editor that lets it be typed over: with its place in the block, unless it has forms in other languages, of which this may be one.</summary>
    private void Said(string text, string place, string then)
    {
        var isMarked = marksBlocks && !design.Languages.Values.Any(texts => texts.ContainsKey(text));
        if (isMarked) program.Raw($"<span data-text=\"{place}\">");
        wordings.Write(text, program.Text);
        if (isMarked) program.Raw("</span>");
        program.Text(then);
    }

    /// <summary>A piece of text with the link it leads to, where there is one.</summary>
    private void Led(Run run, TextRole role, Action content)
    {
        var leads = run.LinkField.Length > 0 ? Presence.Link(program.Slot(run.LinkField)) : run.LinkAddress.Length > 0 ? Presence.Always : Presence.Never;
        program.When(leads, () =>
        {
            program.Raw("<a href=\"");
            if (run.LinkField.Length > 0) program.Value(OpCode.HtmlLink, program.Slot(run.LinkField));
            else program.Attribute(FieldValue.From(run.LinkAddress, FieldKind.Web).Link);
            program.Raw($"\" style=\"color:{Colour(run.Role ?? role)};text-decoration:underline\">");
        });
        content();
        program.When(leads, () => program.Raw("</a>"));
    }

    private void Item(ContactItem item, ContactList list, int place)
    {
        var (slot, role) = (program.Slot(item.Field), list.Role);
        if (list.IconSize > 0)
        {
            Icon(PictureCut.IconSource(Icons.Of(catalogue.Find(item.Field)!), Colour(role)), list.IconSize, item.Label.Length > 0 ? item.Label : catalogue.Label(item.Field));
            program.Raw("&nbsp;");
        }

        if (item.Label.Length > 0) Said(item.Label, place.ToString(CultureInfo.InvariantCulture), " ");
        program.When(Presence.Link(slot), () =>
        {
            program.Raw("<a href=\"");
            program.Value(OpCode.HtmlLink, slot);
            program.Raw($"\" style=\"color:{Colour(role)};text-decoration:none\">");
        });
        program.Value(OpCode.HtmlText, slot);
        program.When(Presence.Link(slot), () => program.Raw("</a>"));
    }

    private void Link(LinkItem item, string style, int place, LinkRow? row = null)
    {
        program.Raw("<a href=\"");
        if (item.Field.Length > 0) program.Value(OpCode.HtmlLink, program.Slot(item.Field));
        else program.Attribute(FieldValue.From(item.Address, FieldKind.Web).Link);
        program.Raw($"\" style=\"{style}\">");
        var label = item.Label.Length > 0 ? item.Label : catalogue.Label(item.Field);
        if (row is { IconSize: > 0 }) Icon(Icons.SourceOf(item, catalogue, Colour(row.Role)), row.IconSize, label);
        else if (item.Label.Length > 0) Said(label, place.ToString(CultureInfo.InvariantCulture), "");
        else wordings.Write(label, program.Text);
        program.Raw("</a>");
    }

    /// <summary>An icon in a line of text, at its final size.</summary>
    private void Icon(string source, int size, string words)
    {
        var cut = new PictureCut(source, size, size, PictureShape.Square, "") { IsDouble = isDouble };
        pictures.Add(new PictureUse(program.Here, cut.Name, -1));
        program.Raw("<img src=\"");
        program.Attribute(pictureAddress(cut.Name));
        Measured(size, size);
        wordings.Write(words, program.Attribute);
        program.Raw("\" style=\"" + ImageStyle(size, size) + "vertical-align:middle\">");
    }

    private void Measured(int width, int height) => program.Raw(string.Create(CultureInfo.InvariantCulture, $"\" width=\"{width}\" height=\"{height}\" border=\"0\" alt=\""));

    /// <summary>The size stands twice, as attributes and as a style: one family of programs drops the attributes, another the style.</summary>
    private static string ImageStyle(int width, int height) => string.Create(CultureInfo.InvariantCulture, $"border:0;width:{width}px;height:{height}px;");

    /// <summary>The colour stands twice, as an attribute and as a style: each kind of engine reads one of them (common practice).</summary>
    private void Button(Button button)
    {
        var ground = design.Theme.Colours.Name;
        program.Raw($"{row}<td style=\"padding:8px 0 0 0\">{Table}<tr><td bgcolor=\"{ground}\" style=\"background-color:{ground};padding:7px 14px\">");
        Link(button.Item, $"{Font(TextRole.Text)}font-weight:bold;color:{Contrast.TextOn(ground)};text-decoration:none", 0);
        program.Raw("</td></tr></table></td></tr>");
    }

    private void Picture(Picture picture)
    {
        if (picture.LinkField.Length > 0)
        {
            var link = Presence.Link(program.Slot(picture.LinkField));
            program.When(link, () => program.Raw("<a href=\""));
            program.When(link, () => program.Value(OpCode.HtmlLink, program.Slot(picture.LinkField)));
            program.When(link, () => program.Raw("\">"));
            Image(picture);
            program.When(link, () => program.Raw("</a>"));
        }
        else if (FieldValue.From(picture.Link, FieldKind.Web).Link is { Length: > 0 } address)
        {
            program.Raw("<a href=\"");
            program.Attribute(address);
            program.Raw("\">");
            Image(picture);
            program.Raw("</a>");
        }
        else Image(picture);
    }

    private void Image(Picture picture)
    {
        var cut = picture.Cut with { IsDouble = isDouble };
        program.Raw("<img src=\"");
        if (picture.Field.Length > 0)
        {
            // The value is the picture's own name; what it is cut to is the same for everybody.
            var slot = program.Slot(picture.Field);
            pictures.Add(new PictureUse(program.Here, cut.Suffix, catalogue.TryFind(picture.Field, out var index) ? index : -1));
            var around = pictureAddress("\n" + cut.Suffix).Split('\n');
            program.Attribute(around[0]);
            program.Value(OpCode.HtmlText, slot);
            program.Attribute(around[1]);
        }
        else
        {
            pictures.Add(new PictureUse(program.Here, cut.Name, -1));
            program.Attribute(pictureAddress(cut.Name));
        }

        Measured(picture.Width, picture.Height);
        wordings.Write(picture.AltText, program.Attribute);
        if (picture.AltField.Length > 0)
        {
            program.When(presence.Text(picture.AltField), () =>
            {
                program.Raw(" ");
                program.Value(OpCode.HtmlAttribute, program.Slot(picture.AltField));
            });
        }

        program.Raw("\" style=\"" + ImageStyle(picture.Width, picture.Height) + "vertical-align:top\">");
    }

    private void ColumnCells(Columns columns)
    {
        var earlier = Presence.Never;
        var space = design.Theme.Spaced(columns.Space).ToString(CultureInfo.InvariantCulture);
        var alignment = columns.Alignment.ToString().ToLowerInvariant();
        for (var column = 0; column < columns.Children.Length; column++)
        {
            var keys = columns.Children[column];
            var shows = presence.Of(keys);
            var before = earlier;
            var width = column < columns.Widths.Length && columns.Widths[column] > 0 ? string.Create(CultureInfo.InvariantCulture, $" width=\"{columns.Widths[column]}\"") : "";
            program.When(shows, () =>
            {
                program.When(before, () => program.Raw($"<td valign=\"{alignment}\"{width} style=\"padding:0 0 0 {space}px\">"));
                program.Unless(before, () => program.Raw($"<td valign=\"{alignment}\"{width} style=\"padding:0\">"));
                Stack(keys);
                program.Raw("</td>");
            });
            earlier |= shows;
        }
    }

    private string Style(TextRole role) => $"{Font(role)}{(role == TextRole.Name ? "font-weight:bold;" : "")}color:{Colour(role)};";

    private string Font(TextRole role)
    {
        var size = Size(role);
        var height = (size * design.Theme.LineHeight + 50) / 100;
        return string.Create(CultureInfo.InvariantCulture, $"font-family:{design.Theme.FontStack};font-size:{size}px;line-height:{height}px;");
    }

    private int Size(TextRole role) => role switch { TextRole.Name => design.Theme.Sizes.Name, TextRole.Small => design.Theme.Sizes.Small, _ => design.Theme.Sizes.Text };

    private string Colour(TextRole role) => role switch
    {
        TextRole.Name => design.Theme.Colours.Name,
        TextRole.Text => design.Theme.Colours.Text,
        _ => design.Theme.Colours.Soft,
    };
}
