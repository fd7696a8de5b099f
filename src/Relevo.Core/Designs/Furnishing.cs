using System.Collections.Immutable;
using Relevo.Core.People;

namespace Relevo.Core.Designs;

/// <summary>How disclaimers are set apart from the signature above them.</summary>
public enum NoticeStyle
{
    /// <summary>By a thin line.</summary>
    Line,

    /// <summary>By empty room.</summary>
    Room,

    /// <summary>By their size alone.</summary>
    Plain,
}

/// <summary>A disclaimer as one message carries it: its particulars, then its lines in each language.</summary>
/// <param name="Particulars">The particulars line, or empty.</param>
/// <param name="Texts">Its text in each language it is written in.</param>
public sealed record PlacedDisclaimer(string Particulars, ImmutableArray<DisclaimerText> Texts);

/// <summary>A banner as one message carries it. Link: where it leads.</summary>
public sealed record PlacedBanner(Banner Banner, string Link);

/// <summary>
/// Puts disclaimers and banners into a design's places. What comes out is a design like any other, so that there is one renderer. Disclaimers stand at the very end
/// of a design that has no place for them; banners need one.
/// </summary>
public static class Furnishing
{
    private const int Room = 8; // pixels above disclaimers set apart by room

    /// <summary>The design with what a message carries. values: the account's values in catalogue order, which stand in for fields where a design has no room for more of them.</summary>
    public static DesignDocument Furnish(DesignDocument design, ImmutableArray<PlacedDisclaimer> disclaimers, ImmutableArray<PlacedBanner> banners, FieldCatalogue catalogue, ReadOnlySpan<FieldValue> values)
    {
        var notices = disclaimers.SelectMany(Lines).ToImmutableArray();
        if (notices.IsEmpty && banners.IsEmpty) return design;
        if (IsFilled(design, notices)) notices = Said(notices, catalogue, values);
        var blocks = design.Blocks.ToBuilder();
        var places = new Dictionary<string, ImmutableArray<string>>(StringComparer.Ordinal);
        foreach (var (key, block) in design.Blocks)
        {
            if (block is BannerPlace place && !banners.IsEmpty) places[key] = Show(key, place, banners, design.Theme, blocks);
            else if (block is NoticePlace notice && !notices.IsEmpty) places[key] = Add(key, notice, notices, IsSetApart(design, key) ? NoticeStyle.Plain : design.Theme.Notice, blocks);
        }

        blocks.RemoveRange(places.Keys);
        var root = Replace(design.Root, places);
        foreach (var (key, columns) in design.Blocks.Where(pair => pair.Value is Columns).Select(pair => (pair.Key, (Columns)pair.Value)))
            blocks[key] = columns with { Children = [.. columns.Children.Select(keys => Replace(keys, places))] };
        if (!notices.IsEmpty && !design.Blocks.Values.Any(block => block is NoticePlace)) root = root.AddRange(Add(Free("notices", blocks), new NoticePlace(TextRole.Small), notices, design.Theme.Notice, blocks));
        return design with { Root = root, Blocks = blocks.ToImmutable() };
    }

    /// <summary>True when the design has no room for the fields of its disclaimers, so that they are filled in for each account.</summary>
    public static bool IsFilled(DesignDocument design, ImmutableArray<PlacedDisclaimer> disclaimers) => !disclaimers.IsEmpty && IsFilled(design, [.. disclaimers.SelectMany(Lines)]);

    private static bool IsFilled(DesignDocument design, ImmutableArray<NoticeLines> notices) =>
        design.Blocks.Values.SelectMany(DesignCheck.FieldsOf).Concat(notices.SelectMany(line => line.Rich.Concat(line.Plain).SelectMany(part => part.Runs)).SelectMany(run => run.Mentions)).Distinct().Count() > DesignCheck.MaxFields;

    /// <summary>True when a line or room stands before a block already.</summary>
    private static bool IsSetApart(DesignDocument design, string key) =>
        design.Blocks.Values.OfType<Columns>().SelectMany(columns => columns.Children).Prepend(design.Root).Any(stack => stack.IndexOf(key) is > 0 and var at && (design.Blocks[stack[at - 1]] is Divider or Gap));

    /// <summary>Lines of a disclaimer, rich, and what stands for all of them in plain text when that is other.</summary>
    private static IEnumerable<NoticeLines> Lines(PlacedDisclaimer disclaimer)
    {
        if (disclaimer.Particulars.Length > 0) yield return new NoticeLines([new Part([new LiteralRun(disclaimer.Particulars)])], []);
        foreach (var text in disclaimer.Texts) yield return new NoticeLines(RichText.Lines(text.Rich), text.Plain.Length > 0 ? RichText.Lines(text.Plain) : []);
    }

    private static ImmutableArray<string> Add(string key, NoticePlace place, ImmutableArray<NoticeLines> notices, NoticeStyle style, ImmutableSortedDictionary<string, Block>.Builder blocks)
    {
        var keys = ImmutableArray.CreateBuilder<string>();
        if (style != NoticeStyle.Plain) Keep("apart", style == NoticeStyle.Line ? new Divider() : new Gap(Room));
        for (var index = 0; index < notices.Length; index++)
        {
            var (rich, plain) = notices[index];
            for (var line = 0; line < rich.Length; line++)
                Keep($"{index}.{line}", new TextLine(place.Role, " ", [rich[line]]) { When = place.When, TextForm = plain.IsEmpty ? null : line == 0 ? plain : [] });
        }

        return keys.ToImmutable();

        void Keep(string name, Block block)
        {
            var own = Free($"{key}.{name}", blocks);
            blocks[own] = block;
            keys.Add(own);
        }
    }

    private static ImmutableArray<string> Show(string key, BannerPlace place, ImmutableArray<PlacedBanner> banners, Theme theme, ImmutableSortedDictionary<string, Block>.Builder blocks)
    {
        var keys = ImmutableArray.CreateBuilder<string>();
        for (var index = 0; index < Math.Min(place.Most, banners.Length); index++)
        {
            var (root, drawn) = banners[index].Banner.Draw(Free($"{key}.{index}", blocks), place.Width, banners[index].Link, theme);
            keys.AddRange(root);
            foreach (var (name, block) in drawn) blocks[name] = root.Contains(name) ? block with { When = place.When } : block;
        }

        return keys.ToImmutable();
    }

    private static ImmutableArray<string> Replace(ImmutableArray<string> keys, Dictionary<string, ImmutableArray<string>> places) =>
        places.Count == 0 ? keys : [.. keys.SelectMany(key => places.TryGetValue(key, out var put) ? put.AsEnumerable() : [key])];

    /// <summary>A key that no block has.</summary>
    private static string Free(string key, ImmutableSortedDictionary<string, Block>.Builder blocks)
    {
        while (blocks.ContainsKey(key)) key += "+";
        return key;
    }

    /// <summary>The same lines with values in place of fields.</summary>
    private static ImmutableArray<NoticeLines> Said(ImmutableArray<NoticeLines> notices, FieldCatalogue catalogue, ReadOnlySpan<FieldValue> values)
    {
        var texts = values.ToArray();
        string Value(string field) => catalogue.TryFind(field, out var index) && index < texts.Length ? texts[index].Text : "";
        ImmutableArray<Part> Filled(ImmutableArray<Part> lines) =>
        [
            .. lines.Where(line => !line.Runs.OfType<FieldRun>().Any() || line.Runs.OfType<FieldRun>().Any(run => Value(run.Field).Length > 0))
                .Select(line => new Part([.. line.Runs.Select(run => run is FieldRun field ? new LiteralRun(Value(field.Field)) { IsBold = run.IsBold, IsItalic = run.IsItalic, LinkAddress = run.LinkAddress } : run)])),
        ];
        return [.. notices.Select(notice => new NoticeLines(Filled(notice.Rich), Filled(notice.Plain)))];
    }

    /// <summary>A text's lines, and those that stand for them in plain text, or none.</summary>
    private sealed record NoticeLines(ImmutableArray<Part> Rich, ImmutableArray<Part> Plain);
}
