using System.Collections.Immutable;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>
/// Compiles a design into lines of plain text: one for each text line and stacked contact, web addresses written out, columns one after another,
/// pictures left out. Long lines are broken afterwards, see <see cref="LineBreaking"/>.
/// </summary>
internal sealed class TextCompiler
{
    private const string DividerLine = "------------------------\n"; // never "-- " alone: that is the signature separator of RFC 3676
    private readonly DesignDocument design;
    private readonly FieldCatalogue catalogue;
    private readonly ProgramBuilder program;
    private readonly BlockPresence presence;
    private readonly Wordings wordings;

    public TextCompiler(DesignDocument design, FieldCatalogue catalogue)
    {
        this.design = design;
        this.catalogue = catalogue;
        program = new ProgramBuilder(catalogue);
        presence = new BlockPresence(design, catalogue, program, isText: true);
        wordings = new Wordings(design, catalogue, program);
    }

    public SignatureProgram Compile(bool hasSeparator)
    {
        // A picture alone gives no text, and then there is no separator either.
        program.When(presence.Of(design.Root), () =>
        {
            if (hasSeparator) program.Raw("-- \n");
            Stack(design.Root);
        });
        return program.Build();
    }

    private void Stack(ImmutableArray<string> keys)
    {
        foreach (var placed in presence.Place(keys))
            program.When(placed.Shows, () => program.When(placed.AndShows, () => Lines(placed.Block)));
    }

    private void Lines(Block block)
    {
        switch (block)
        {
            case { TextForm: { } lines }:
                Lines(lines);
                break;
            case OwnMarkup own:
                Lines(own.Clean.Lines);
                break;
            case TextLine line:
                program.Separated([.. line.Parts.Select(part => (presence.Of(part), (Action)(() => Runs(part))))], () => program.Raw(line.Separator));
                program.Raw("\n");
                break;
            case ContactList { Arrangement: ContactArrangement.Stacked } list:
                foreach (var item in list.Items)
                {
                    program.When(presence.Text(item.Field), () =>
                    {
                        Item(item);
                        program.Raw("\n");
                    });
                }

                break;
            case ContactList list:
                program.Separated([.. list.Items.Select(item => (presence.Text(item.Field), (Action)(() => Item(item))))], () => program.Raw(list.Separator));
                program.Raw("\n");
                break;
            case LinkRow row:
                foreach (var item in row.Items) program.When(presence.Of(item), () => Link(item));
                break;
            case Button button:
                Link(button.Item);
                break;
            case Divider:
                program.Raw(DividerLine);
                break;
            case Gap:
                program.Raw("\n");
                break;
            case Columns columns:
                foreach (var keys in columns.Children) program.When(presence.Of(keys), () => Stack(keys));
                break;
        }
    }

    private void Lines(ImmutableArray<Part> lines)
    {
        foreach (var part in lines)
        {
            program.When(presence.Of(part), () =>
            {
                Runs(part);
                program.Raw("\n");
            });
        }
    }

    private void Runs(Part part)
    {
        foreach (var run in part.Runs)
        {
            program.When(presence.Of(run), () =>
            {
                if (run is FieldRun { Label.Length: > 0 } labelled) wordings.Write(labelled.Label, label => program.Raw(label + " "));
                if (run is LiteralRun literal) wordings.Write(literal.Text, program.Raw);
                if (run is FieldRun { Fallback: "" } whole && whole.LinkField == whole.Field) Reachable(whole.Field);
                else
                {
                    if (run is FieldRun field) program.Value(OpCode.PlainText, field);
                    LeadsTo(run);
                }
            });
        }
    }

    /// <summary>Where a piece of text leads, written out in angle brackets (RFC 3986 appendix C). Numbers and mail addresses are reached by what is read.</summary>
    private void LeadsTo(Run run)
    {
        if (run.LinkAddress.Length > 0) program.Raw($" <{FieldValue.From(run.LinkAddress, FieldKind.Web).Link}>");
        if (catalogue.Find(run.LinkField)?.Kind != FieldKind.Web) return;
        var slot = program.Slot(run.LinkField);
        program.When(Presence.Link(slot), () =>
        {
            program.Raw(" <");
            program.Value(OpCode.PlainLink, slot);
            program.Raw(">");
        });
    }

    private void Item(ContactItem item)
    {
        if (item.Label.Length > 0) wordings.Write(item.Label, label => program.Raw(label + " "));
        Reachable(item.Field);
    }

    /// <summary>A link on a line of its own: its words, and where it leads written out.</summary>
    private void Link(LinkItem item)
    {
        wordings.Write(item.Label.Length > 0 ? item.Label : catalogue.Label(item.Field), label => program.Raw(label + ": "));
        if (item.Field.Length > 0) Reachable(item.Field);
        else program.Raw(FieldValue.From(item.Address, FieldKind.Web).Link);
        program.Raw("\n");
    }

    /// <summary>A way to reach somebody as it is read: web addresses whole, so that they can be followed.</summary>
    private void Reachable(string field)
    {
        var slot = program.Slot(field);
        if (catalogue.Find(field)?.Kind != FieldKind.Web)
        {
            program.Value(OpCode.PlainText, slot);
            return;
        }

        program.When(Presence.Link(slot), () => program.Value(OpCode.PlainLink, slot));
        program.Unless(Presence.Link(slot), () => program.Value(OpCode.PlainText, slot));
    }
}
