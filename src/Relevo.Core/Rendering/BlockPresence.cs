using System.Collections.Immutable;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>A block in its stack, with when it shows. Spacers need both conditions, content only the first.</summary>
internal readonly record struct Placed(string Key, Block Block, Presence Shows, Presence AndShows);

/// <summary>
/// Works out when each block shows. Content shows when any of its fields has a value; a run of dividers and gaps shows when there is content
/// between it and the run before, and any content after it, so that none is ever doubled, first or last.
/// </summary>
/// <param name="design">A checked design.</param>
/// <param name="catalogue">The fields it refers to.</param>
/// <param name="program">The program that is being written; gives slots to fields and bits to tests.</param>
/// <param name="isText">True for plain text, which holds no pictures and where blocks may have a form of their own.</param>
internal sealed class BlockPresence(DesignDocument design, FieldCatalogue catalogue, ProgramBuilder program, bool isText)
{
    /// <summary>The blocks of a stack in order.</summary>
    public ImmutableArray<Placed> Place(ImmutableArray<string> keys)
    {
        var blocks = keys.Select(key => design.Blocks[key]).ToArray();
        var placed = ImmutableArray.CreateBuilder<Placed>(blocks.Length);
        var segment = Presence.Never;
        var before = Presence.Never;
        var spaced = Presence.Never;
        for (var index = 0; index < blocks.Length; index++)
        {
            if (!IsSpacer(blocks[index]))
            {
                var shows = Of(blocks[index]);
                segment |= shows;
                placed.Add(new Placed(keys[index], blocks[index], shows, Presence.Always));
                continue;
            }

            if (index == 0 || !IsSpacer(blocks[index - 1]))
            {
                before = segment;
                spaced = Presence.Never;
            }

            // Where conditions take a whole run of spacers away, what stood before them still wants one from the next run.
            var holds = Holds(blocks[index]);
            spaced |= holds;
            segment = before & !spaced;
            placed.Add(new Placed(keys[index], blocks[index], before & holds, Any(blocks.Skip(index + 1).Select(Of))));
        }

        return placed.MoveToImmutable();
    }

    /// <summary>When any block of a stack has content.</summary>
    public Presence Of(ImmutableArray<string> keys) => Any(keys.Select(key => Of(design.Blocks[key])));

    /// <summary>When a part of a text line shows: with any of its fields, or, having none, whenever its line does.</summary>
    public Presence Of(Part part)
    {
        var pieces = part.Runs.Where(DependsOnFields).ToArray();
        return pieces.Length == 0 ? Presence.Always : Any(pieces.Select(Of));
    }

    /// <summary>When a piece of a part says anything.</summary>
    public Presence Of(Run run) => run switch
    {
        FieldRun field => Any(field.Fields.Select(Text)),
        LiteralRun { Text.Length: > 0, LinkField.Length: > 0 } => Presence.Link(program.Slot(run.LinkField)),
        LiteralRun { Text.Length: > 0 } => Presence.Always,
        _ => Presence.Never,
    };

    /// <summary>When a link shows: with its field's link, or, having none, always.</summary>
    public Presence Of(LinkItem item) => item.Field.Length > 0 ? Presence.Link(program.Slot(item.Field)) : Presence.Always;

    /// <summary>When a field has a value.</summary>
    public Presence Text(string field) => Presence.Text(program.Slot(field));

    /// <summary>When a block's own form in plain text has anything.</summary>
    public Presence OfTextForm(ImmutableArray<Part> lines) => Any(lines.Select(Of));

    private Presence Of(Block block) => Content(block) & Holds(block);

    /// <summary>When a block's conditions hold.</summary>
    private Presence Holds(Block block) => block.When.Aggregate(Presence.Always, (all, condition) => all & program.Asks(Test.Of(condition, condition is FieldCondition { Field: var field } && catalogue.TryFind(field, out var index) ? index : -1)));

    private Presence Content(Block block) => block switch
    {
        { TextForm: { } lines } when isText => OfTextForm(lines),
        TextLine line => OfLine(line),
        ContactList list => Any(list.Items.Select(item => Text(item.Field))),
        Picture when isText => Presence.Never,
        Picture { Field.Length: > 0 } picture => Text(picture.Field),
        Picture => Presence.Always,
        OwnMarkup own when isText => OfTextForm(own.Clean.Lines),
        OwnMarkup own => own.Clean.Fields.Any() ? Any(own.Clean.Fields.Select(Text)) : own.Clean.Pieces.IsEmpty ? Presence.Never : Presence.Always,
        Columns columns => Any(columns.Children.Select(Of)),
        LinkRow row => Any(row.Items.Select(Of)),
        Button button => Of(button.Item),
        _ => Presence.Never,
    };

    /// <summary>A line with fields needs one of them; a line of literal text alone always stands.</summary>
    private Presence OfLine(TextLine line)
    {
        var pieces = line.Parts.SelectMany(part => part.Runs).Where(DependsOnFields).ToArray();
        if (pieces.Length > 0) return Any(pieces.Select(Of));
        return line.Parts.SelectMany(part => part.Runs).OfType<LiteralRun>().Any(run => run.Text.Length > 0) ? Presence.Always : Presence.Never;
    }

    /// <summary>True for what shows for some and not for others.</summary>
    private static bool DependsOnFields(Run run) => run is FieldRun or LiteralRun { LinkField.Length: > 0 };

    private static bool IsSpacer(Block block) => block is Divider or Gap;

    private static Presence Any(IEnumerable<Presence> presences) => presences.Aggregate(Presence.Never, (sum, presence) => sum | presence);
}
