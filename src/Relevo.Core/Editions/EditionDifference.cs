using System.Collections.Immutable;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rules;

namespace Relevo.Core.Editions;

/// <summary>What an edition changes.</summary>
public enum ChangeSubject
{
    /// <summary>A design.</summary>
    Design,

    /// <summary>The rules.</summary>
    Rules,

    /// <summary>A ready answer.</summary>
    Answer,
}

/// <summary>One change between two editions, as a sentence.</summary>
/// <param name="Subject">What it is about.</param>
/// <param name="Name">The design's name, or "Signature track".</param>
/// <param name="Text">What changed.</param>
public sealed record EditionChange(ChangeSubject Subject, string Name, string Text);

/// <summary>Lists what changed between two states of designs and rules.</summary>
public static class EditionDifference
{
    private const string Track = "Signature track";

    /// <summary>Every change, designs first. Nothing changed gives an empty list, and only that does.</summary>
    public static ImmutableArray<EditionChange> Compare(EditionContent before, EditionContent after) =>
        [.. CompareDesigns(before, after), .. CompareRules(before, after), .. CompareAnswers(before, after)];

    private static IEnumerable<EditionChange> CompareAnswers(EditionContent before, EditionContent after)
    {
        var old = before.Answers.ToDictionary(answer => answer.Id, answer => answer.Document);
        foreach (var (id, now) in after.Answers)
        {
            if (!old.TryGetValue(id, out var was)) yield return new(ChangeSubject.Answer, now.Name, "New ready answer.");
            else if (was != now)
            {
                if (was.Name != now.Name) yield return new(ChangeSubject.Answer, now.Name, $"Renamed from \"{was.Name}\".");
                if (was.Subject != now.Subject) yield return new(ChangeSubject.Answer, now.Name, $"Subject: \"{was.Subject}\" becomes \"{now.Subject}\".");
                if (was.Text != now.Text) yield return new(ChangeSubject.Answer, now.Name, "Its text is another.");
            }
        }

        foreach (var gone in before.Answers.Where(answer => after.Answers.All(one => one.Id != answer.Id))) yield return new(ChangeSubject.Answer, gone.Document.Name, "Ready answer taken out.");
    }

    private static IEnumerable<EditionChange> CompareDesigns(EditionContent before, EditionContent after)
    {
        foreach (var design in after.Designs)
        {
            var name = design.Document.Name;
            if (before.Find(design.Id) is not { } old)
            {
                yield return new(ChangeSubject.Design, name, "New design.");
                continue;
            }

            if (old.ToJson() == design.Document.ToJson()) continue;
            var texts = CompareDocuments(old, design.Document).ToArray();
            foreach (var text in texts.Length > 0 ? texts : ["Changed."]) yield return new(ChangeSubject.Design, name, text);
        }

        foreach (var gone in before.Designs.Where(design => after.Find(design.Id) is null))
            yield return new(ChangeSubject.Design, gone.Document.Name, "Design taken out.");
    }

    private static IEnumerable<string> CompareDocuments(DesignDocument before, DesignDocument after)
    {
        if (before.Name != after.Name) yield return $"Renamed from \"{before.Name}\".";
        var (old, now) = (before.Theme, after.Theme);
        foreach (var (role, from, to) in new[] { ("Name", old.Colours.Name, now.Colours.Name), ("Text", old.Colours.Text, now.Colours.Text), ("Soft", old.Colours.Soft, now.Colours.Soft), ("Line", old.Colours.Line, now.Colours.Line) })
        {
            if (from != to) yield return $"{role} colour: {from} becomes {to}.";
        }

        if (before.Set != after.Set) yield return after.Set.Length > 0 ? $"Now in the set \"{after.Set}\"." : $"No longer in the set \"{before.Set}\".";
        foreach (var language in before.Languages.Keys.Union(after.Languages.Keys))
        {
            if (!Texts(before, language).SequenceEqual(Texts(after, language))) yield return $"Its texts in {language} are others.";
        }

        if (old.FontStack != now.FontStack) yield return $"Font: {old.FontStack} becomes {now.FontStack}.";
        if (old.Sizes != now.Sizes) yield return $"Sizes: {Sizes(old)} become {Sizes(now)}.";
        if (old.LineHeight != now.LineHeight) yield return $"Line height: {old.LineHeight} % becomes {now.LineHeight} %.";
        if (old.Spacing != now.Spacing) yield return $"Spacing: {old.Spacing} % becomes {now.Spacing} %.";
        foreach (var (key, block) in after.Blocks)
        {
            if (!before.Blocks.TryGetValue(key, out var previous)) yield return $"{BlockName.Of(block)} added.";
            else if (BlockName.Content(previous) != BlockName.Content(block)) yield return $"{BlockName.Of(previous)} becomes {BlockName.Of(block)}.";
            else if (Json(previous) != Json(block)) yield return $"{BlockName.Of(block)}: set out differently.";
        }

        foreach (var (key, block) in before.Blocks.Where(pair => !after.Blocks.ContainsKey(pair.Key))) yield return $"{BlockName.Of(block)} taken out.";
        if (!before.Root.SequenceEqual(after.Root)) yield return "Blocks in another order.";
    }

    private static IEnumerable<KeyValuePair<string, string>> Texts(DesignDocument design, string language) => design.Languages.TryGetValue(language, out var texts) ? texts : [];

    private static string Json(Block block) => System.Text.Json.JsonSerializer.Serialize(block, RelevoJson.Options);

    private static string Sizes(Theme theme) => $"{theme.Sizes.Name}, {theme.Sizes.Text}, {theme.Sizes.Small} px";

    private static IEnumerable<EditionChange> CompareRules(EditionContent before, EditionContent after)
    {
        var old = before.Rules.Signature;
        var now = after.Rules.Signature;
        foreach (var rule in now)
        {
            var sentence = Sentence.Text(rule, id => after.Find(id)?.Name);
            if (old.FirstOrDefault(candidate => candidate.Id == rule.Id) is not { } previous)
            {
                yield return new(ChangeSubject.Rules, Track, $"New rule: {sentence}");
                continue;
            }

            if (previous.IsOn != rule.IsOn) yield return new(ChangeSubject.Rules, Track, $"Switched {(rule.IsOn ? "on" : "off")}: {sentence}");
            var was = Sentence.Text(previous, id => before.Find(id)?.Name ?? after.Find(id)?.Name);
            if (was != sentence && !SameRule(previous, rule)) yield return new(ChangeSubject.Rules, Track, $"\"{was}\" becomes \"{sentence}\"");
        }

        foreach (var gone in old.Where(rule => now.All(candidate => candidate.Id != rule.Id)))
            yield return new(ChangeSubject.Rules, Track, $"Rule taken out: {Sentence.Text(gone, id => before.Find(id)?.Name)}");
        var kept = old.Select(rule => rule.Id).Intersect(now.Select(rule => rule.Id)).ToArray();
        if (!kept.SequenceEqual(now.Select(rule => rule.Id).Intersect(kept)))
            yield return new(ChangeSubject.Rules, Track, $"Rules in another order: {string.Join(" ", now.Select((rule, index) => $"{index + 1}. {Sentence.Text(rule, id => after.Find(id)?.Name)}"))}");
    }

    private static bool SameRule(Rule left, Rule right) =>
        left.Design == right.Design && left.Conditions.Select(Words.Of).SequenceEqual(right.Conditions.Select(Words.Of));
}

/// <summary>Names a block for a list of changes.</summary>
internal static class BlockName
{
    public static string Of(Block block) => block switch
    {
        TextLine => $"Text line \"{Content(block)}\"",
        ContactList => $"Contact list \"{Content(block)}\"",
        Picture picture => $"Picture \"{picture.AltText}\"",
        Divider => "Divider",
        Gap gap => $"Gap of {gap.Height} px",
        Columns => "Columns",
        LinkRow => $"Links \"{Content(block)}\"",
        Button => $"Button \"{Content(block)}\"",
        _ => block.GetType().Name,
    };

    public static string Content(Block block) => block switch
    {
        TextLine line => string.Join(line.Separator, line.Parts.Select(part => string.Concat(part.Runs.Select(Of)))),
        ContactList list => string.Join(", ", list.Items.Select(item => $"{item.Label} {Label(item.Field)}".Trim())),
        LinkRow row => string.Join(row.Separator, row.Items.Select(Of)),
        Button button => Of(button.Item),
        _ => Of(block),
    };

    private static string Of(LinkItem item) => $"{(item.Label.Length > 0 ? item.Label : Label(item.Field))} to {(item.Field.Length > 0 ? $"[{Label(item.Field)}]" : item.Address)}";

    private static string Of(Run run) => run switch
    {
        LiteralRun literal => literal.Text,
        FieldRun field => $"[{string.Join(" or ", field.Fields.Select(Label))}]",
        _ => "",
    };

    private static string Label(string field) => FieldCatalogue.Standard.TryFind(field, out var index) ? FieldCatalogue.Standard.Fields[index].Label : field;
}
