using System.Collections.Immutable;

namespace Relevo.Core.Designs;

/// <summary>
/// Gives a design the build of a starter and keeps what it says: each block of the starter takes the content of the design's next block of the same
/// kind and part to play, or failing that of the same kind; what finds no place follows below, in its order. Of the starter's own blocks only
/// those come along that show nothing by themselves: portrait, banner place, notice. Theme, languages and name stay.
/// </summary>
public static class Rearrangement
{
    /// <summary>The design in the starter's build.</summary>
    public static DesignDocument Of(DesignDocument design, DesignDocument starter)
    {
        var waiting = InOrder(design).Where(pair => pair.Block is not (Columns or Divider or Gap)).ToList();
        var blocks = ImmutableSortedDictionary.CreateBuilder<string, Block>(StringComparer.Ordinal);
        foreach (var fits in new Func<Block, Block, bool>[] { IsAlike, IsOfOneKind })
        {
            foreach (var (key, place) in InOrder(starter))
            {
                var match = blocks.ContainsKey(key) ? -1 : waiting.FindIndex(pair => fits(pair.Block, place));
                if (match < 0) continue;
                blocks[key] = Placed(waiting[match].Block, place);
                waiting.RemoveAt(match);
            }
        }

        foreach (var (key, place) in InOrder(starter))
        {
            if (place is Columns or Divider or Gap or BannerPlace or NoticePlace or Picture { Field.Length: > 0 }) blocks.TryAdd(key, place);
        }

        var root = Kept(starter.Root, blocks);
        foreach (var key in blocks.Keys.ToArray())
        {
            if (blocks[key] is Columns columns) blocks[key] = columns with { Children = [.. columns.Children.Select(keys => Kept(keys, blocks))] };
        }

        foreach (var (key, block) in waiting)
        {
            var free = Enumerable.Range(1, int.MaxValue).Select(number => number == 1 ? key : $"{key}{number}").First(name => !blocks.ContainsKey(name));
            blocks[free] = block;
            root = root.Add(free);
        }

        return design with { Root = root, Blocks = blocks.ToImmutable() };
    }

    /// <summary>The same kind and part to play. The logo and a portrait are different pictures.</summary>
    private static bool IsAlike(Block block, Block place) => (block, place) switch
    {
        (TextLine line, TextLine model) => line.Role == model.Role,
        (Picture picture, Picture model) => picture.Field.Length > 0 == model.Field.Length > 0,
        _ => block.GetType() == place.GetType() && place is not (Columns or Divider or Gap),
    };

    /// <summary>Lines of words, the name's apart.</summary>
    private static bool IsOfOneKind(Block block, Block place) => block is TextLine { Role: not TextRole.Name } && place is TextLine { Role: not TextRole.Name };

    /// <summary>A block's content as the starter sets it out.</summary>
    private static Block Placed(Block content, Block place) => (content, place) switch
    {
        (TextLine line, TextLine model) => line with { Role = model.Role },
        (ContactList list, ContactList model) => list with { Arrangement = model.Arrangement, Separator = model.Separator, IconSize = model.IconSize },
        (LinkRow row, LinkRow model) => row with { IconSize = model.IconSize, Separator = model.Separator },
        (Picture { Field.Length: > 0 } picture, Picture model) => picture with { Width = model.Width, Height = model.Height, Shape = model.Shape },
        (Picture picture, Picture model) => Within(picture, model),
        _ => content,
    };

    /// <summary>A logo keeps its proportions and takes the starter's width.</summary>
    private static Picture Within(Picture picture, Picture model) => picture with { Width = model.Width, Height = Math.Clamp((int)Math.Round((double)picture.Height * model.Width / picture.Width), 1, PictureCut.MaxHeight) };

    private static ImmutableArray<string> Kept(ImmutableArray<string> keys, ImmutableSortedDictionary<string, Block>.Builder blocks) => [.. keys.Where(blocks.ContainsKey)];

    private static IEnumerable<(string Key, Block Block)> InOrder(DesignDocument design)
    {
        return Walk(design.Root);

        IEnumerable<(string, Block)> Walk(IEnumerable<string> keys)
        {
            foreach (var key in keys)
            {
                yield return (key, design.Blocks[key]);
                if (design.Blocks[key] is not Columns columns) continue;
                foreach (var inner in Walk(columns.Children.SelectMany(children => children))) yield return inner;
            }
        }
    }
}
