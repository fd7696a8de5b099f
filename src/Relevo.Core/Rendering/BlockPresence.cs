using System.Collections.Immutable;
using Relevo.Core.Designs;

namespace Relevo.Core.Rendering;

/// <summary>A block in its stack, with when it shows. Spacers need both conditions, content only the first.</summary>
internal readonly record struct Placed(Block Block, Presence Shows, Presence AndShows);

/// <summary>
/// Works out when each block shows. Content shows when any of its fields has a value; a run of dividers and gaps shows when there is content
/// between it and the run before, and any content after it, so that none is ever doubled, first or last.
/// </summary>
/// <param name="design">A checked design.</param>
/// <param name="slot">Gives a field's slot in the program.</param>
/// <param name="picturesShow">False for forms that hold no pictures.</param>
internal sealed class BlockPresence(DesignDocument design, Func<string, int> slot, bool picturesShow)
{
    /// <summary>The blocks of a stack in order.</summary>
    public ImmutableArray<Placed> Place(ImmutableArray<string> keys)
    {
        var blocks = keys.Select(key => design.Blocks[key]).ToArray();
        var placed = ImmutableArray.CreateBuilder<Placed>(blocks.Length);
        var segment = Presence.Never;
        var before = Presence.Never;
        for (var index = 0; index < blocks.Length; index++)
        {
            if (!IsSpacer(blocks[index]))
            {
                var shows = Of(blocks[index]);
                segment |= shows;
                placed.Add(new Placed(blocks[index], shows, Presence.Always));
                continue;
            }

            if (index == 0 || !IsSpacer(blocks[index - 1]))
            {
                before = segment;
                segment = Presence.Never;
            }

            placed.Add(new Placed(blocks[index], before, Any(blocks.Skip(index + 1).Select(Of))));
        }

        return placed.MoveToImmutable();
    }

    /// <summary>When any block of a stack has content.</summary>
    public Presence Of(ImmutableArray<string> keys) => Any(keys.Select(key => Of(design.Blocks[key])));

    /// <summary>When a part of a text line shows: with any of its fields, or, having none, whenever its line does.</summary>
    public Presence Of(Part part)
    {
        var fields = part.Runs.OfType<FieldRun>().ToArray();
        return fields.Length == 0 ? Presence.Always : Any(fields.SelectMany(run => run.Fields).Select(field => Presence.Text(slot(field))));
    }

    /// <summary>When a piece of a part says anything.</summary>
    public Presence Of(Run run) => run switch
    {
        FieldRun field => Any(field.Fields.Select(name => Presence.Text(slot(name)))),
        LiteralRun { Text.Length: > 0 } => Presence.Always,
        _ => Presence.Never,
    };

    /// <summary>When a link shows: with its field's link, or, having none, always.</summary>
    public Presence Of(LinkItem item) => item.Field.Length > 0 ? Presence.Link(slot(item.Field)) : Presence.Always;

    private Presence Of(Block block) => block switch
    {
        TextLine line => OfLine(line),
        ContactList list => Any(list.Items.Select(item => Presence.Text(slot(item.Field)))),
        Picture => picturesShow ? Presence.Always : Presence.Never,
        Columns columns => Any(columns.Children.Select(Of)),
        LinkRow row => Any(row.Items.Select(Of)),
        Button button => Of(button.Item),
        _ => Presence.Never,
    };

    /// <summary>A line with fields needs one of them; a line of literal text alone always stands.</summary>
    private Presence OfLine(TextLine line)
    {
        var fields = DesignCheck.FieldsOf(line).ToArray();
        if (fields.Length > 0) return Any(fields.Select(field => Presence.Text(slot(field))));
        return line.Parts.SelectMany(part => part.Runs).OfType<LiteralRun>().Any(run => run.Text.Length > 0) ? Presence.Always : Presence.Never;
    }

    private static bool IsSpacer(Block block) => block is Divider or Gap;

    private static Presence Any(IEnumerable<Presence> presences) => presences.Aggregate(Presence.Never, (sum, presence) => sum | presence);
}
