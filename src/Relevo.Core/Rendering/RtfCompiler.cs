using System.Globalization;
using System.Text;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>
/// Compiles a design into RTF: a paragraph for each line, HTML of one's own by its lines of text, a table for columns, links as fields, places for pictures that
/// <see cref="RtfPictures"/> fills. Sizes are in twips, a twentieth of a point: fifteen to a CSS pixel. Source: Rich Text Format (RTF)
/// Specification, version 1.9.
/// </summary>
internal sealed class RtfCompiler
{
    private const int TwipsInPixel = 15;
    private const int MostWide = 600; // pixels; what is wider is broken by its reader
    private const int LeastText = 120; // pixels that a column of text gets at least
    private const int MostText = 320; // and at most, when others follow: the reader makes no column as wide as what stands in it
    private readonly DesignDocument design;
    private readonly FieldCatalogue catalogue;
    private readonly ProgramBuilder program;
    private readonly BlockPresence presence;
    private readonly Wordings wordings;

    /// <summary>When a paragraph has begun that the next one must end.</summary>
    private Presence begun = Presence.Never;
    private int depth;

    public RtfCompiler(DesignDocument design, FieldCatalogue catalogue)
    {
        this.design = design;
        this.catalogue = catalogue;
        program = new ProgramBuilder(catalogue);
        presence = new BlockPresence(design, catalogue, program, isText: false);
        wordings = new Wordings(design, catalogue, program);
    }

    public SignatureProgram Compile()
    {
        program.When(presence.Of(design.Root), () =>
        {
            var theme = design.Theme;
            program.Raw("{\\rtf1\\ansi\\ansicpg1252\\deff0\\uc0{\\fonttbl{\\f0\\fnil ");
            Text(theme.FontStack.Split(',')[0].Trim('\'', ' '));
            program.Raw(";}}\n{\\colortbl;");
            foreach (var colour in new[] { theme.Colours.Name, theme.Colours.Text, theme.Colours.Soft, theme.Colours.Line, Contrast.TextOn(theme.Colours.Name) }) program.Raw(TableColour(colour));
            program.Raw("}\n");
            Stack(design.Root, MostWide);
            program.When(begun, () => program.Raw("\\par\n"));
            program.Raw("}\n");
        });
        return program.Build();
    }

    private static string TableColour(string hex) => string.Create(CultureInfo.InvariantCulture, $"\\red{Part(hex, 1)}\\green{Part(hex, 3)}\\blue{Part(hex, 5)};");

    private static int Part(string hex, int at) => int.Parse(hex.AsSpan(at, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture);

    private static string Number(int number) => number.ToString(CultureInfo.InvariantCulture);

    private void Text(string literal)
    {
        var target = new byte[literal.Length * Escaping.WorstRtfExpansion];
        program.Raw(Encoding.UTF8.GetString(target, 0, Escaping.Rtf(literal, target)));
    }

    private void Address(string address)
    {
        var target = new byte[address.Length * Escaping.WorstRtfExpansion];
        program.Raw(Encoding.UTF8.GetString(target, 0, Escaping.RtfAddress(address, target)));
    }

    private void Stack(IEnumerable<string> keys, int width)
    {
        foreach (var placed in presence.Place([.. keys])) program.When(placed.Shows & placed.AndShows, () => Lines(placed.Block, width));
    }

    private void Lines(Block block, int width)
    {
        switch (block)
        {
            case TextLine line:
                Paragraph(line.Role, () => program.Separated([.. line.Parts.Select(part => (presence.Of(part), (Action)(() => Runs(part, line.Role))))], () => Text(line.Separator)));
                break;
            case ContactList { Arrangement: ContactArrangement.Stacked } list:
                foreach (var item in list.Items) program.When(presence.Text(item.Field), () => Paragraph(list.Role, () => Item(item, list)));
                break;
            case ContactList list:
                Paragraph(list.Role, () => program.Separated([.. list.Items.Select(item => (presence.Text(item.Field), (Action)(() => Item(item, list))))], () => Text(list.Separator)));
                break;
            case Picture picture:
                Begin("");
                Linked(picture);
                break;
            case LinkRow row:
                Paragraph(row.Role, () => program.Separated([.. row.Items.Select(item => (presence.Of(item), (Action)(() => Link(item, row))))], () => Text(row.Separator)));
                break;
            case OwnMarkup own:
                foreach (var part in own.Clean.Lines) program.When(presence.Of(part), () => Paragraph(TextRole.Text, () => Runs(part, TextRole.Text)));
                break;
            case Button button:
                Paragraph(TextRole.Text, () =>
                {
                    program.Raw("{\\b\\cf5\\chshdng0\\chcbpat1 \\u160 ");
                    Link(button.Item, null);
                    program.Raw("\\u160 }");
                });
                break;
            case Divider:
                Begin($"\\brdrb\\brdrs\\brdrw15\\brdrcf4\\sa{Number(design.Theme.Spaced(5) * TwipsInPixel)}\\fs4 ");
                break;
            case Gap gap:
                Begin($"\\sl-{Number(Math.Max(1, design.Theme.Spaced(gap.Height)) * TwipsInPixel)}\\slmult0\\fs2 ");
                break;
            case Columns columns:
                Row(columns, width);
                break;
        }
    }

    /// <summary>Ends the paragraph before, where there is one, and begins another. The reader ends the last one of a cell with the cell.</summary>
    private void Begin(string properties)
    {
        program.When(begun, () => program.Raw("\\par\n"));
        program.Raw("\\pard\\plain" + (depth > 0 ? $"\\intbl\\itap{Number(depth)}" : "") + properties);
        begun |= program.Here;
    }

    private void Paragraph(TextRole role, Action content)
    {
        Begin($"\\sl{Number(Size(role) * design.Theme.LineHeight / 100 * TwipsInPixel)}\\slmult0{Character(role)} ");
        content();
    }

    private void Runs(Part part, TextRole role)
    {
        foreach (var run in part.Runs)
        {
            program.When(presence.Of(run), () =>
            {
                var marks = (run.Role is { } own && own != role ? Character(own) : "") + (run.IsBold ? "\\b" : "") + (run.IsItalic ? "\\i" : "");
                if (marks.Length > 0) program.Raw($"{{{marks} ");
                Led(run, () =>
                {
                    if (run is LiteralRun literal) wordings.Write(literal.Text, Text);
                    if (run is not FieldRun field) return;
                    if (field.Label.Length > 0) wordings.Write(field.Label, label => Text(label + " "));
                    program.Value(OpCode.RtfText, field);
                });
                if (marks.Length > 0) program.Raw("}");
            });
        }
    }

    /// <summary>A piece of text with the link it leads to, where there is one.</summary>
    private void Led(Run run, Action content)
    {
        var isField = run.LinkField.Length > 0;
        LinkedWhen(
            isField ? Presence.Link(program.Slot(run.LinkField)) : run.LinkAddress.Length > 0 ? Presence.Always : Presence.Never,
            () =>
            {
                if (isField) program.Value(OpCode.RtfAddress, program.Slot(run.LinkField));
                else Address(FieldValue.From(run.LinkAddress, FieldKind.Web).Link);
            },
            content);
    }

    private void Item(ContactItem item, ContactList list)
    {
        var slot = program.Slot(item.Field);
        if (list.IconSize > 0)
        {
            Icon(PictureCut.IconSource(Icons.Of(catalogue.Find(item.Field)!), Colour(list.Role)), list.IconSize, item.Label.Length > 0 ? item.Label : catalogue.Label(item.Field));
            program.Raw("\\u160 ");
        }

        if (item.Label.Length > 0) wordings.Write(item.Label, label => Text(label + " "));
        LinkedWhen(Presence.Link(slot), () => program.Value(OpCode.RtfAddress, slot), () => program.Value(OpCode.RtfText, slot));
    }

    private void Link(LinkItem item, LinkRow? row) => LinkedWhen(
        Presence.Always,
        () =>
        {
            if (item.Field.Length > 0) program.Value(OpCode.RtfAddress, program.Slot(item.Field));
            else Address(FieldValue.From(item.Address, FieldKind.Web).Link);
        },
        () =>
        {
            var label = item.Label.Length > 0 ? item.Label : catalogue.Label(item.Field);
            if (row is { IconSize: > 0 }) Icon(Icons.SourceOf(item, catalogue, Colour(row.Role)), row.IconSize, label);
            else
            {
                program.Raw(row is null ? "" : "\\ul ");
                wordings.Write(label, Text);
            }
        });

    private void Linked(Picture picture)
    {
        if (picture.LinkField.Length > 0)
        {
            var slot = program.Slot(picture.LinkField);
            LinkedWhen(Presence.Link(slot), () => program.Value(OpCode.RtfAddress, slot), () => Image(picture));
        }
        else if (FieldValue.From(picture.Link, FieldKind.Web).Link is { Length: > 0 } address) LinkedWhen(Presence.Always, () => Address(address), () => Image(picture));
        else Image(picture);
    }

    private void LinkedWhen(Presence isLinked, Action address, Action content)
    {
        program.When(isLinked, () =>
        {
            program.Raw("{\\field{\\*\\fldinst HYPERLINK \"");
            address();
            program.Raw("\"}{\\fldrslt ");
        });
        content();
        program.When(isLinked, () => program.Raw("}}"));
    }

    private void Icon(string source, int size, string words)
    {
        OpenPicture(size, size, () => wordings.Write(words, Text));
        program.Raw(new PictureCut(source, size, size, PictureShape.Square, "").Name);
        program.Raw("}}");
    }

    private void Image(Picture picture)
    {
        OpenPicture(picture.Width, picture.Height, () =>
        {
            wordings.Write(picture.AltText, Text);
            if (picture.AltField.Length == 0) return;
            program.When(presence.Text(picture.AltField), () =>
            {
                program.Raw(" ");
                program.Value(OpCode.RtfText, program.Slot(picture.AltField));
            });
        });
        var cut = picture.Cut;
        if (picture.Field.Length > 0)
        {
            program.Value(OpCode.RtfText, program.Slot(picture.Field));
            program.Raw(cut.Suffix);
        }
        else program.Raw(cut.Name);
        program.Raw("}}");
    }

    private void OpenPicture(int width, int height, Action words)
    {
        program.Raw("{\\pict{\\*\\picprop{\\sp{\\sn wzDescription}{\\sv ");
        words();
        program.Raw($"}}}}}}\\pngblip\\picwgoal{Number(width * TwipsInPixel)}\\pichgoal{Number(height * TwipsInPixel)}\n{RtfPictures.Place}");
    }

    /// <summary>One table row. A column that is gone takes no cell, and those after it move up; so the row is defined for every choice of columns that can be gone.</summary>
    private void Row(Columns columns, int width)
    {
        program.When(begun, () => program.Raw("\\par\n"));
        begun &= !program.Here;
        var outer = begun;
        var widths = Widths(columns, width);
        var stacks = columns.Children.Select(keys => (Keys: keys, Shows: presence.Of(keys))).ToArray();
        depth++;
        if (depth == 1) Definition(columns, stacks.Select(stack => stack.Shows), widths);
        for (var column = 0; column < stacks.Length; column++)
        {
            var (keys, shows) = stacks[column];
            var room = widths[column];
            program.When(shows, () =>
            {
                begun = Presence.Never;
                Stack(keys, room);
                // A table must be followed by a paragraph before its cell can end.
                program.Unless(begun, () => program.Raw($"\\pard\\plain\\intbl\\itap{Number(depth)}\\fs2 "));
                program.Raw(depth == 1 ? "\\cell\n" : "\\nestcell\n");
            });
        }

        if (depth == 1) program.Raw("\\row\n");
        else
        {
            program.Raw("{\\*\\nesttableprops");
            Definition(columns, stacks.Select(stack => stack.Shows), widths);
            program.Raw("\\nestrow}{\\nonesttables\\par}\n");
        }

        depth--;
        begun = outer;
    }

    private void Definition(Columns columns, IEnumerable<Presence> shows, int[] widths)
    {
        program.Raw("\\trowd\\trgaph0\\trleft0");
        Cells(columns.Alignment switch { ColumnAlignment.Top => "\\clvertalt", ColumnAlignment.Middle => "\\clvertalc", _ => "\\clvertalb" }, shows.Zip(widths).ToArray(), 0);
        program.Raw("\n");
    }

    private void Cells(string alignment, ReadOnlyMemory<(Presence Shows, int Width)> columns, int from)
    {
        if (columns.IsEmpty) return;
        var (shows, width) = columns.Span[0];
        program.When(shows, () =>
        {
            program.Raw($"{alignment}\\cellx{Number((from + width) * TwipsInPixel)}");
            Cells(alignment, columns[1..], from + width);
        });
        program.Unless(shows, () => Cells(alignment, columns[1..], from));
    }

    /// <summary>Pixels of each column with the space after it: as given, as its pictures want, or, for columns of text, what the others leave.</summary>
    private int[] Widths(Columns columns, int width)
    {
        var own = columns.Children.Select((keys, column) => column < columns.Widths.Length && columns.Widths[column] > 0 ? columns.Widths[column] : PicturesOnly(keys)).ToArray();
        var space = design.Theme.Spaced(columns.Space);
        var last = own.Length - 1;
        var texts = own.Count(wide => wide == 0);
        var rest = texts == 0 ? 0 : Math.Max(LeastText, (width - own.Sum() - (space * last)) / texts);
        return [.. own.Select((wide, column) => (wide > 0 ? wide : column < last ? Math.Min(MostText, rest) : rest) + (column < last ? space : 0))];
    }

    /// <summary>The widest picture of a column of pictures alone; 0 when anything else stands in it.</summary>
    private int PicturesOnly(IEnumerable<string> keys)
    {
        var blocks = keys.Select(key => design.Blocks[key]).Where(block => block is not (Gap or Divider)).ToArray();
        return blocks.Length > 0 && blocks.All(block => block is Picture) ? blocks.Max(block => ((Picture)block).Width) : 0;
    }

    /// <summary>Font, size in half-points and colour of a role.</summary>
    private string Character(TextRole role) => $"\\f0\\fs{Number(((Size(role) * 3) + 1) / 2)}\\cf{role switch { TextRole.Name => 1, TextRole.Text => 2, _ => 3 }}{(role == TextRole.Name ? "\\b" : "")}";

    private int Size(TextRole role) => role switch { TextRole.Name => design.Theme.Sizes.Name, TextRole.Small => design.Theme.Sizes.Small, _ => design.Theme.Sizes.Text };

    private string Colour(TextRole role) => role switch
    {
        TextRole.Name => design.Theme.Colours.Name,
        TextRole.Text => design.Theme.Colours.Text,
        _ => design.Theme.Colours.Soft,
    };
}
