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

    /// <param name="design">A checked design.</param>
    /// <param name="catalogue">The fields it refers to.</param>
    /// <param name="pictureAddress">Gives the address that an img element asks, from a picture's SHA-256.</param>
    public HtmlCompiler(DesignDocument design, FieldCatalogue catalogue, Func<string, string> pictureAddress)
    {
        this.design = design;
        this.catalogue = catalogue;
        this.pictureAddress = pictureAddress;
        program = new ProgramBuilder(catalogue);
        presence = new BlockPresence(design, program.Slot, picturesShow: true);
    }

    public SignatureProgram Compile()
    {
        program.When(presence.Of(design.Root), () => Stack(design.Root));
        return program.Build();
    }

    private void Stack(ImmutableArray<string> keys)
    {
        program.Raw(Table);
        foreach (var placed in presence.Place(keys))
            program.When(placed.Shows, () => program.When(placed.AndShows, () => Row(placed.Block)));
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
                foreach (var item in list.Items)
                    program.When(Presence.Text(program.Slot(item.Field)), () => Cell(list.Role, () => Item(item, list.Role)));
                break;
            case ContactList list:
                Cell(list.Role, () => program.Separated([.. list.Items.Select(item => (Presence.Text(program.Slot(item.Field)), (Action)(() => Item(item, list.Role))))], () => program.Text(list.Separator)));
                break;
            case Picture picture:
                program.Raw("<tr><td style=\"padding:0\">");
                Picture(picture);
                program.Raw("</td></tr>");
                break;
            case LinkRow row:
                Cell(row.Role, () => program.Separated([.. row.Items.Select(item => (presence.Of(item), (Action)(() => Link(item, $"color:{Colour(row.Role)};text-decoration:underline"))))], () => program.Text(row.Separator)));
                break;
            case Button button:
                Button(button);
                break;
            case Divider:
                program.Raw($"<tr><td style=\"padding:6px 0 0 0;font-size:1px;line-height:1px\">&nbsp;</td></tr><tr><td style=\"padding:0 0 5px 0;border-top:1px solid {design.Theme.Colours.Line};font-size:1px;line-height:1px\">&nbsp;</td></tr>");
                break;
            case Gap gap:
                var height = gap.Height.ToString(CultureInfo.InvariantCulture);
                program.Raw($"<tr><td height=\"{height}\" style=\"padding:0;font-size:{height}px;line-height:{height}px\">&nbsp;</td></tr>");
                break;
            case Columns columns:
                program.Raw($"<tr><td style=\"padding:0\">{Table}<tr>");
                ColumnCells(columns);
                program.Raw("</tr></table></td></tr>");
                break;
        }
    }

    private void Cell(TextRole role, Action content)
    {
        program.Raw("<tr><td style=\"" + Style(role) + "padding:0\">");
        content();
        program.Raw("</td></tr>");
    }

    private void Line(TextLine line, TextRole role) => program.Separated([.. line.Parts.Select(part => (presence.Of(part), (Action)(() => Runs(part, role))))], () => program.Text(line.Separator));

    private void Runs(Part part, TextRole role)
    {
        foreach (var run in part.Runs)
        {
            // Marks round an empty value would be bytes that say nothing.
            program.When(presence.Of(run), () => Marked(run, role, () =>
            {
                if (run is LiteralRun literal) program.Text(literal.Text);
                if (run is FieldRun field) program.Value(OpCode.HtmlText, field);
            }));
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

    private void Item(ContactItem item, TextRole role)
    {
        var slot = program.Slot(item.Field);
        if (item.Label.Length > 0) program.Text(item.Label + " ");
        program.When(Presence.Link(slot), () =>
        {
            program.Raw("<a href=\"");
            program.Value(OpCode.HtmlLink, slot);
            program.Raw($"\" style=\"color:{Colour(role)};text-decoration:none\">");
        });
        program.Value(OpCode.HtmlText, slot);
        program.When(Presence.Link(slot), () => program.Raw("</a>"));
    }

    private void Link(LinkItem item, string style)
    {
        program.Raw("<a href=\"");
        if (item.Field.Length > 0) program.Value(OpCode.HtmlLink, program.Slot(item.Field));
        else program.Attribute(FieldValue.From(item.Address, FieldKind.Web).Link);
        program.Raw($"\" style=\"{style}\">");
        program.Text(item.Label.Length > 0 ? item.Label : catalogue.Label(item.Field));
        program.Raw("</a>");
    }

    /// <summary>The colour stands twice, as an attribute and as a style: each kind of engine reads one of them (common practice).</summary>
    private void Button(Button button)
    {
        var ground = design.Theme.Colours.Name;
        program.Raw($"<tr><td style=\"padding:8px 0 0 0\">{Table}<tr><td bgcolor=\"{ground}\" style=\"background-color:{ground};padding:7px 14px\">");
        Link(button.Item, $"{Font(TextRole.Text)}font-weight:bold;color:{Contrast.TextOn(ground)};text-decoration:none");
        program.Raw("</td></tr></table></td></tr>");
    }

    private void Picture(Picture picture)
    {
        var link = FieldValue.From(picture.Link, FieldKind.Web).Link;
        if (link.Length > 0)
        {
            program.Raw("<a href=\"");
            program.Attribute(link);
            program.Raw("\">");
        }

        program.Raw("<img src=\"");
        program.Attribute(pictureAddress(picture.Sha256));
        program.Raw(string.Create(CultureInfo.InvariantCulture, $"\" width=\"{picture.Width}\" height=\"{picture.Height}\" border=\"0\" alt=\""));
        program.Attribute(picture.AltText);
        program.Raw("\" style=\"border:0;vertical-align:top\">");
        if (link.Length > 0) program.Raw("</a>");
    }

    private void ColumnCells(Columns columns)
    {
        var earlier = Presence.Never;
        var space = columns.Space.ToString(CultureInfo.InvariantCulture);
        foreach (var keys in columns.Children)
        {
            var shows = presence.Of(keys);
            var before = earlier;
            program.When(shows, () =>
            {
                program.When(before, () => program.Raw($"<td valign=\"top\" style=\"padding:0 0 0 {space}px\">"));
                program.Unless(before, () => program.Raw("<td valign=\"top\" style=\"padding:0\">"));
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
