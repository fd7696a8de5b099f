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

    /// <summary>Who reads.</summary>
    Audience,

    /// <summary>A disclaimer.</summary>
    Disclaimer,

    /// <summary>A banner.</summary>
    Banner,

    /// <summary>Facts of the company, an entity, an office or a team.</summary>
    Company,

    /// <summary>A ready answer.</summary>
    Answer,
}

/// <summary>One change between two editions, as a sentence.</summary>
/// <param name="Subject">What it is about.</param>
/// <param name="Name">The design's name, or the track's.</param>
/// <param name="Text">What changed.</param>
public sealed record EditionChange(ChangeSubject Subject, string Name, string Text);

/// <summary>Lists what changed between two states of designs and rules.</summary>
public static class EditionDifference
{
    /// <summary>Every change, designs first. Nothing changed gives an empty list, and only that does.</summary>
    public static ImmutableArray<EditionChange> Compare(EditionContent before, EditionContent after, EditionNames names) =>
    [
        .. CompareDesigns(before, after),
        .. Enum.GetValues<Track>().SelectMany(track => CompareRules(before, after, track, names)),
        .. CompareTests(before, after),
        .. CompareAudiences(before.Audiences, after.Audiences),
        .. CompareDocuments(ChangeSubject.Disclaimer, "disclaimer", before.Disclaimers.Select(one => (one.Id, one.Document.Name, one.Document)), after.Disclaimers.Select(one => (one.Id, one.Document.Name, one.Document))),
        .. CompareDocuments(ChangeSubject.Banner, "banner", before.Banners.Select(one => (one.Id, one.Document.Name, one.Document)), after.Banners.Select(one => (one.Id, one.Document.Name, one.Document))),
        .. CompareUnits(before, after, names),
        .. CompareAnswers(before, after),
    ];

    private static IEnumerable<EditionChange> CompareUnits(EditionContent before, EditionContent after, EditionNames names)
    {
        if (before.Units.IsEmpty && !before.Designs.IsEmpty) yield break; // an edition of before units were in them
        foreach (var unit in after.Units)
        {
            if (before.Units.FirstOrDefault(candidate => candidate.Id == unit.Id) is not { } old)
            {
                if (unit.Facts.Count > 0) yield return new(ChangeSubject.Company, unit.Name, "New, with facts of its own.");
                continue;
            }

            if (old.Name != unit.Name) yield return new(ChangeSubject.Company, unit.Name, $"Renamed from \"{old.Name}\".");
            if (old.Parent != unit.Parent) yield return new(ChangeSubject.Company, unit.Name, "In another team.");
            foreach (var field in old.Facts.Keys.Union(unit.Facts.Keys).Order(StringComparer.Ordinal))
            {
                var (was, now) = (old.Facts.GetValueOrDefault(field, ""), unit.Facts.GetValueOrDefault(field, ""));
                if (was != now) yield return new(ChangeSubject.Company, unit.Name, now.Length == 0 ? $"{names.Field(field) ?? field} taken out: \"{was}\"." : was.Length == 0 ? $"{names.Field(field) ?? field}: \"{now}\"." : $"{names.Field(field) ?? field}: \"{was}\" becomes \"{now}\".");
            }
        }

        foreach (var gone in before.Units.Where(unit => after.Units.All(candidate => candidate.Id != unit.Id))) yield return new(ChangeSubject.Company, gone.Name, "Taken out.");
    }

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
        if (before.Smaller != after.Smaller) yield return after.Smaller.Length > 0 ? $"\"{after.Smaller}\" stands in where it is too long." : "Nothing stands in any more where it is too long.";
        foreach (var language in before.Languages.Keys.Union(after.Languages.Keys))
        {
            if (!Texts(before, language).SequenceEqual(Texts(after, language))) yield return $"Its texts in {language} are others.";
        }

        if (old.FontStack != now.FontStack) yield return $"Font: {old.FontStack} becomes {now.FontStack}.";
        if (old.Sizes != now.Sizes) yield return $"Sizes: {Sizes(old)} become {Sizes(now)}.";
        if (old.LineHeight != now.LineHeight) yield return $"Line height: {old.LineHeight} % becomes {now.LineHeight} %.";
        if (old.Notice != now.Notice) yield return $"Disclaimers are set apart by {now.Notice.ToString().ToLowerInvariant()}.";
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

    private static string Sizes(Theme theme) => $"{theme.Sizes.Name}, {theme.Sizes.Text}, {theme.Sizes.Small} px";

    private static IEnumerable<EditionChange> CompareRules(EditionContent before, EditionContent after, Track track, EditionNames names)
    {
        var name = track switch { Track.Signature => "Signature track", Track.Disclaimer => "Disclaimer track", _ => "Banner track" };
        var (old, now) = (before.Rules.On(track), after.Rules.On(track));
        // What a rule named may be gone since: then it is told by the name it had.
        var (then, today) = (Either(before, after, names), Either(after, before, names));
        foreach (var rule in now)
        {
            var sentence = Sentence.Text(rule, today);
            if (old.FirstOrDefault(candidate => candidate.Id == rule.Id) is not { } previous)
            {
                yield return new(ChangeSubject.Rules, name, $"New rule: {sentence}");
                continue;
            }

            if (previous.IsOn != rule.IsOn) yield return new(ChangeSubject.Rules, name, $"Switched {(rule.IsOn ? "on" : "off")}: {sentence}");
            if (Json(previous with { IsOn = rule.IsOn }) == Json(rule)) continue;
            var was = Sentence.Text(previous, then);
            yield return new(ChangeSubject.Rules, name, was == sentence ? $"Noted or set differently: {sentence}" : $"\"{was}\" becomes \"{sentence}\"");
        }

        foreach (var gone in old.Where(rule => now.All(candidate => candidate.Id != rule.Id))) yield return new(ChangeSubject.Rules, name, $"Rule taken out: {Sentence.Text(gone, then)}");
        var kept = old.Select(rule => rule.Id).Intersect(now.Select(rule => rule.Id)).ToArray();
        if (!kept.SequenceEqual(now.Select(rule => rule.Id).Intersect(kept)))
            yield return new(ChangeSubject.Rules, name, $"Rules in another order: {string.Join(" ", now.Select((rule, index) => $"{index + 1}. {Sentence.Text(rule, today)}"))}");
    }

    private static RuleNames Either(EditionContent first, EditionContent second, EditionNames names)
    {
        var (one, other) = (first.Names(names.Person, names.Field), second.Names(names.Person, names.Field));
        return new(id => one.Design(id) ?? other.Design(id), id => one.Disclaimer(id) ?? other.Disclaimer(id), id => one.Banner(id) ?? other.Banner(id), key => one.Audience(key) ?? other.Audience(key), names.Person, names.Field);
    }

    private static IEnumerable<EditionChange> CompareTests(EditionContent before, EditionContent after)
    {
        foreach (var test in after.Rules.Tests)
        {
            var old = before.Rules.Tests.FirstOrDefault(candidate => candidate.Id == test.Id);
            if (old is null) yield return new(ChangeSubject.Rules, "Expectations", $"New: {test.Name}");
            else if (Json(old) != Json(test)) yield return new(ChangeSubject.Rules, "Expectations", $"Changed: {test.Name}");
        }

        foreach (var gone in before.Rules.Tests.Where(test => after.Rules.Tests.All(candidate => candidate.Id != test.Id))) yield return new(ChangeSubject.Rules, "Expectations", $"Taken out: {gone.Name}");
    }

    private static IEnumerable<EditionChange> CompareAudiences(AudienceBook before, AudienceBook after)
    {
        if (!before.OwnDomains.SequenceEqual(after.OwnDomains) || before.WithSubdomains != after.WithSubdomains)
            yield return new(ChangeSubject.Audience, Audiences.Inside, $"Inside is {(after.OwnDomains.IsEmpty ? "nobody" : string.Join(", ", after.OwnDomains))}{(after.WithSubdomains ? " with subdomains" : "")}.");
        foreach (var audience in after.Named)
        {
            var old = before.Named.FirstOrDefault(candidate => candidate.Key == audience.Key);
            if (old is null)
            {
                yield return new(ChangeSubject.Audience, audience.Name, $"New audience of {audience.Members.Length} members.");
                continue;
            }

            if (old.Name != audience.Name) yield return new(ChangeSubject.Audience, audience.Name, $"Renamed from \"{old.Name}\".");
            if (old.Language != audience.Language) yield return new(ChangeSubject.Audience, audience.Name, $"Its language is {(audience.Language.Length > 0 ? audience.Language : "not said")}.");
            if (old.Country != audience.Country) yield return new(ChangeSubject.Audience, audience.Name, $"Its country is {(audience.Country.Length > 0 ? audience.Country : "not said")}.");
            if (old.Members.AsSpan().SequenceEqual(audience.Members.AsSpan())) continue;
            var (was, now) = (old.Members.ToHashSet(StringComparer.OrdinalIgnoreCase), audience.Members.ToHashSet(StringComparer.OrdinalIgnoreCase));
            yield return new(ChangeSubject.Audience, audience.Name, $"{now.Count(member => !was.Contains(member))} members more, {was.Count(member => !now.Contains(member))} fewer.");
        }

        foreach (var gone in before.Named.Where(audience => after.Named.All(candidate => candidate.Key != audience.Key))) yield return new(ChangeSubject.Audience, gone.Name, "Audience taken out.");
        var kept = before.Named.Select(audience => audience.Key).Intersect(after.Named.Select(audience => audience.Key)).ToArray();
        if (!kept.SequenceEqual(after.Named.Select(audience => audience.Key).Intersect(kept))) yield return new(ChangeSubject.Audience, "Audiences", $"In another order: {string.Join(", ", after.Named.Select(audience => audience.Name))}.");
    }

    private static IEnumerable<EditionChange> CompareDocuments<T>(ChangeSubject subject, string what, IEnumerable<(Guid Id, string Name, T Document)> before, IEnumerable<(Guid Id, string Name, T Document)> after)
    {
        var (old, now) = (before.ToDictionary(one => one.Id), after.ToArray());
        foreach (var (id, name, document) in now)
        {
            if (!old.TryGetValue(id, out var was)) yield return new(subject, name, $"New {what}.");
            else if (was.Name != name) yield return new(subject, name, $"Renamed from \"{was.Name}\".");
            else if (Json(was.Document) != Json(document)) yield return new(subject, name, "It says or looks otherwise.");
        }

        foreach (var gone in old.Values.Where(one => now.All(candidate => candidate.Id != one.Id))) yield return new(subject, gone.Name, $"{char.ToUpperInvariant(what[0])}{what[1..]} taken out.");
    }

    private static string Json<T>(T document) => System.Text.Json.JsonSerializer.Serialize(document, RelevoJson.Options);
}

/// <summary>Names of what no edition holds: people and fields.</summary>
public sealed record EditionNames(Func<Guid, string?> Person, Func<string, string?> Field)
{
    /// <summary>The standard fields and nobody.</summary>
    public static EditionNames Plain { get; } = new(_ => null, field => FieldCatalogue.Standard.Find(field)?.Label);
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
