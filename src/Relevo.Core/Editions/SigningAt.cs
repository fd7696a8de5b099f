using System.Collections.Concurrent;
using System.Collections.Immutable;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Editions;

/// <summary>What is added to a design, kept once for all who carry the same. Two with the same key say the same.</summary>
public sealed class Furniture(string key, ImmutableArray<PlacedDisclaimer> disclaimers, ImmutableArray<PlacedBanner> banners)
{
    /// <summary>Nothing is added.</summary>
    public static Furniture None { get; } = new("", [], []);

    /// <summary>Equal for two that say the same.</summary>
    public string Key { get; } = key;

    /// <summary>The disclaimers, in order.</summary>
    public ImmutableArray<PlacedDisclaimer> Disclaimers { get; } = disclaimers;

    /// <summary>The banners, in order.</summary>
    public ImmutableArray<PlacedBanner> Banners { get; } = banners;
}

/// <summary>What a message carries, as far as rules decide it. Equal for two messages that carry the same. Design: null when it carries none.</summary>
public sealed record Carried(Guid? Design, Furniture Added, bool HasSeparator);

/// <summary>What something that is written comes to. Digest: equal for what writes the same. Reads: catalogue indexes of the fields whose values decide what it writes, in order.</summary>
internal sealed record Ingredients(Guid Digest, ImmutableArray<int> Reads);

/// <summary>All that the ingredients of a design depend on: it, what is added, the form that is tried first, whether others are, and which forms are written beside the text.</summary>
internal readonly record struct IngredientsKey(Guid Design, string Added, RenderingForm Form, bool IsLimited, bool Html, bool Rich);

/// <summary>
/// An edition at a moment, ready to write signatures for many accounts: what is added to designs is put together once for all who get the same, and each
/// design is compiled once for each form. Safe to use from many threads.
/// </summary>
public sealed class SigningAt
{
    private const int MostPrograms = 2000; // programs take some kilobytes each; a company has designs x additions x forms of them
    private const int MostAnswers = 10_000; // most answers show facts of offices and teams, which few accounts do not share

    private readonly ConcurrentDictionary<AdditionKey, Furniture> additions = new();
    private readonly ConcurrentDictionary<string, Furniture> sameAdditions = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<(Guid Design, string Added, RenderingForm Form), CompiledDesign> programs;
    private readonly ConcurrentDictionary<Guid, bool> asking = new();
    private readonly ConcurrentDictionary<IngredientsKey, Ingredients> ingredients = new();
    private readonly ConcurrentDictionary<string, WantedFile> answers;
    private readonly ImmutableArray<(EditionAnswer Answer, ImmutableArray<int> Fields)> answerFields;
    private readonly Lazy<ImmutableArray<(string, Ingredients)>> answerIngredients;
    private readonly int language, organisation;

    /// <summary>Makes an edition ready. records: as <see cref="EditionContent.RecordsFrom"/> gives them.</summary>
    public SigningAt(EditionContent content, CompanyRecords records, Instant moment)
        : this(content, records, moment, new(), new(StringComparer.Ordinal))
    {
    }

    private SigningAt(
        EditionContent content, CompanyRecords records, Instant moment, ConcurrentDictionary<(Guid Design, string Added, RenderingForm Form), CompiledDesign> programs, ConcurrentDictionary<string, WantedFile> answers)
    {
        (Content, Records, Moment, this.programs, this.answers) = (content, records, moment, programs, answers);
        answerFields = [.. content.Answers.Select(answer => (answer, answer.Document.Fields.Select(field => records.Fields.TryFind(field, out var index) ? index : -1).Where(index => index >= 0).ToImmutableArray()))];
        answerIngredients = new(() => [.. answerFields.Select(answer => (answer.Answer.Document.Name, IngredientsOf(answer.Answer.Document, answer.Fields)))]);
        Country = Conditions.FieldOf("country", records);
        (language, organisation) = (Conditions.FieldOf("language", records), Conditions.FieldOf("organisation", records));
    }

    /// <summary>The edition.</summary>
    public EditionContent Content { get; }

    /// <summary>What accounts are resolved with.</summary>
    public CompanyRecords Records { get; }

    /// <summary>When it is.</summary>
    public Instant Moment { get; }

    /// <summary>The catalogue's place of the field that says in which country somebody is.</summary>
    internal int Country { get; }

    /// <summary>The same at another moment: what was written is shared.</summary>
    public SigningAt At(Instant moment) => new(Content, Records, moment, programs, answers);

    /// <summary>The ready answers as messages, for an account with these values in catalogue order, each without its place. Accounts that share what an answer shows share the message.</summary>
    public IEnumerable<(ReadyAnswer Answer, WantedFile File)> Answers(FieldValue[] values)
    {
        foreach (var (answer, fields) in answerFields)
        {
            var key = string.Concat(fields.Select(field => values[field].Text + '\u0001' + values[field].Link + '\u0002').Prepend(answer.Id.ToString()));
            if (!answers.TryGetValue(key, out var file))
            {
                var bytes = AnswerMessage.Write(answer.Document.Write(Records.Fields, values));
                file = new WantedFile(new ManifestFile("", RenderedSignature.Sha256(bytes.Span), "", "") { Role = FileRole.Answer, Name = answer.Document.Name }, bytes);
                if (answers.Count < MostAnswers) answers.TryAdd(key, file);
            }

            yield return (answer.Document, file);
        }
    }

    /// <summary>What a situation's decision makes the message carry.</summary>
    public Carried Carry(Situation situation, Decision decision)
    {
        var hasSeparator = Signing.HasSeparator(situation, decision);
        if (decision.Design is not { } design || Content.Find(design) is null) return new Carried(null, Furniture.None, true);
        if (decision.Disclaimers.IsEmpty && decision.Banners.IsEmpty) return new Carried(design, Furniture.None, hasSeparator);
        var sender = situation.Sender;
        var key = new AdditionKey(
            decision.Disclaimers.IsEmpty ? "" : string.Join(' ', decision.Disclaimers),
            decision.Banners.IsEmpty ? "" : string.Join(' ', decision.Banners.Select(show => $"{show.Banner}|{show.Link}")),
            decision.Disclaimers.IsEmpty ? "" : sender.Value(language),
            decision.Disclaimers.IsEmpty ? "" : sender.Value(organisation),
            decision.Disclaimers.IsEmpty ? "" : situation.Audience);
        return new Carried(design, additions.GetOrAdd(key, _ => Add(situation, decision)), hasSeparator);
    }

    /// <summary>The program that writes a design with what is added to it. values: the account's, for a design that has no room for more fields.</summary>
    public CompiledDesign Program(Guid design, Furniture added, RenderingForm form, ReadOnlySpan<FieldValue> values)
    {
        if (programs.TryGetValue((design, added.Key, form), out var known)) return known;
        var document = Content.Find(design) ?? throw new ArgumentException("The edition has no such design.", nameof(design));
        var program = CompiledDesign.Compile(Furnishing.Furnish(document, added.Disclaimers, added.Banners, Records.Fields, values), Records.Fields, form);
        if (!Furnishing.IsFilled(document, added.Disclaimers) && programs.Count < MostPrograms) programs.TryAdd((design, added.Key, form), program);
        return program;
    }

    /// <summary>What all that is tried for a design comes to. tried, values: asked only where it is not known yet; values as for <see cref="Program"/>.</summary>
    internal Ingredients IngredientsOf(IngredientsKey key, Furniture added, Func<IEnumerable<(Guid Design, RenderingForm Form)>> tried, Func<FieldValue[]> values)
    {
        if (ingredients.TryGetValue(key, out var known)) return known;
        var digest = new DigestWriter();
        var read = new SortedSet<int>();
        var isShared = true;
        foreach (var (design, form) in tried())
        {
            var program = Program(design, added, form, values());
            program.Describe(digest, key.Html, key.Rich);
            read.UnionWith(program.FieldsRead(key.Html, key.Rich));
            isShared &= !Furnishing.IsFilled(Content.Find(design)!, added.Disclaimers);
        }

        var made = Made(digest, [.. read]);
        if (isShared && ingredients.Count < MostPrograms) ingredients.TryAdd(key, made);
        return made;
    }

    /// <summary>What ready answers come to, each with the name it is kept under.</summary>
    internal ImmutableArray<(string Name, Ingredients Ingredients)> AnswerIngredients => answerIngredients.Value;

    /// <summary>The design that stands in for one that is too long, or null.</summary>
    public Guid? SmallerOf(Guid design) => Content.Find(design)?.Smaller is { Length: > 0 } name && Content.Designs.FirstOrDefault(other => other.Document.Name == name) is { } smaller && smaller.Id != design ? smaller.Id : null;

    /// <summary>True when a design itself asks the occasion or the audience.</summary>
    public bool AsksCircumstances(Guid design) => asking.GetOrAdd(design, _ => Content.Find(design) is { } document && document.Blocks.Values.Any(block => block.When.Any(condition => condition is OccasionIs or AudienceIs)));

    private Ingredients IngredientsOf(ReadyAnswer answer, ImmutableArray<int> fields)
    {
        var digest = new DigestWriter();
        digest.Add(answer.Name);
        digest.Add(answer.Subject);
        digest.Add(answer.Text);
        return Made(digest, fields);
    }

    /// <summary>How a field's value is prepared belongs to what is made of it.</summary>
    private Ingredients Made(DigestWriter digest, ImmutableArray<int> reads)
    {
        foreach (var field in reads) digest.Add((int)Records.Fields.Fields[field].Kind | ((int)Records.Fields.Fields[field].Display << 8));
        return new Ingredients(digest.Digest(), reads);
    }

    private Furniture Add(Situation situation, Decision decision)
    {
        var at = situation with { Moment = Moment };
        var (disclaimers, banners) = (Signing.Disclaimers(Content, Records, at, decision), Signing.Banners(Content, at, decision));
        if (disclaimers.IsEmpty && banners.IsEmpty) return Furniture.None;
        var key = string.Join('\u0001', disclaimers.Select(placed => placed.Particulars + '\u0002' + string.Join('\u0003', placed.Texts.Select(text => text.Rich + '\u0004' + text.Plain))))
            + '\u0005' + string.Join('\u0001', banners.Select(placed => $"{Content.Banners.First(banner => ReferenceEquals(banner.Document, placed.Banner)).Id} {placed.Link}"));
        return sameAdditions.GetOrAdd(key, _ => new Furniture(key, disclaimers, banners));
    }

    /// <summary>All that a decision's additions depend on.</summary>
    private readonly record struct AdditionKey(string Disclaimers, string Banners, string Language, string Organisation, string Audience);
}
