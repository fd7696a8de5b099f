using System.Collections.Immutable;
using Relevo.Core.People;
using Relevo.Core.Rules;

namespace Relevo.Core.Designs;

/// <summary>In which language a disclaimer is written.</summary>
public enum DisclaimerLanguage
{
    /// <summary>The sender's.</summary>
    Person,

    /// <summary>That of the readers' audience; where none is set, the sender's.</summary>
    Audience,

    /// <summary>The sender's, then that of the readers' audience.</summary>
    Both,
}

/// <summary>A disclaimer in one language. Rich: as <see cref="RichText"/> reads it. Plain: lines of plain text that stand for it there, or empty for those made from it.</summary>
public sealed record DisclaimerText(string Rich, string Plain = "");

/// <summary>
/// A notice that rules add under a signature, in the languages it has. A line whose fields are all empty disappears.
/// </summary>
/// <param name="Name">What people call it.</param>
/// <param name="Language">Which language is taken.</param>
/// <param name="MainLanguage">The language of <paramref name="Texts"/> for those whose own is not there.</param>
/// <param name="Texts">Its texts by language (RFC 5646).</param>
public sealed record Disclaimer(string Name, DisclaimerLanguage Language, string MainLanguage, ImmutableSortedDictionary<string, DisclaimerText> Texts)
{
    /// <summary>Characters of a text at most, languages at most.</summary>
    public const int MaxText = 10_000, MaxLanguages = 30;

    private const int MaxName = 100, MaxLine = 2_000, MaxFields = 8;

    /// <summary>When it is valid; null for always. Outside it is not added, whatever rules say.</summary>
    public TimeCondition? Valid { get; init; }

    /// <summary>True when the legal entity's particulars stand before the text, as its country's scheme writes them.</summary>
    public bool HasParticulars { get; init; }

    /// <summary>The languages it is written in for a sender and an audience, each once. Languages are empty where nobody knows.</summary>
    public IEnumerable<string> LanguagesFor(string person, string audience)
    {
        var asked = Language switch
        {
            DisclaimerLanguage.Audience => new[] { audience.Length > 0 ? audience : person },
            DisclaimerLanguage.Both when audience.Length > 0 => [person, audience],
            _ => [person],
        };
        return asked.Select(language => LanguageMatch.Best(language, Texts.Keys) ?? MainLanguage).Where(Texts.ContainsKey).Distinct(StringComparer.OrdinalIgnoreCase);
    }

    /// <summary>What it says, without case, spaces and marks: equal for two that say the same.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string Said => string.Join('\u001F', Texts.Select(text => $"{text.Key}:{string.Concat(text.Value.Rich.Where(char.IsLetterOrDigit)).ToLowerInvariant()}")) + (HasParticulars ? "+" : "");

    /// <summary>What is wrong with it, all of it, each with its place.</summary>
    public ImmutableArray<DesignProblem> Check(FieldCatalogue catalogue)
    {
        var problems = ImmutableArray.CreateBuilder<DesignProblem>();
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > MaxName || Name.Any(char.IsControl)) problems.Add(new("/name", "name-length", $"A disclaimer needs a name of 1 to {MaxName} characters on one line."));
        if (Texts.Count > MaxLanguages) problems.Add(new("/texts", "too-many-languages", $"A disclaimer has at most {MaxLanguages} languages."));
        if (Texts.IsEmpty && !HasParticulars) problems.Add(new("/texts", "text-missing", "A disclaimer needs a text in at least one language, or the particulars."));
        if (!Texts.IsEmpty && !Texts.ContainsKey(MainLanguage)) problems.Add(new("/mainLanguage", "language-missing", "The main language is one of those it has a text in."));
        if (Valid is { } valid && !TimeWindow.TryRead(valid, out _, out var trouble)) problems.Add(new("/valid", "time-form", $"This can never be valid: {trouble}."));
        var fields = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (language, text) in Texts)
        {
            var place = "/texts/" + DesignDocument.Escape(language);
            if (!RuleCheck.LanguagePattern().IsMatch(language)) problems.Add(new(place, "language-form", $"\"{language}\" is not a language such as de or de-AT."));
            if (string.IsNullOrWhiteSpace(text.Rich) || text.Rich.Length > MaxText || text.Plain.Length > MaxText) problems.Add(new(place, "text-length", $"A text has 1 to {MaxText} characters."));
            if ((text.Rich + text.Plain).Any(character => char.IsControl(character) && character != '\n')) problems.Add(new(place, "text-control", "The text holds line breaks and no other control characters."));
            foreach (var run in new[] { text.Rich, text.Plain }.SelectMany(said => RichText.Lines(said)).SelectMany(line => line.Runs))
            {
                if (run is LiteralRun { Text.Length: > MaxLine }) problems.Add(new(place, "text-length", $"A line has at most {MaxLine} characters."));
                if (run.LinkAddress.Length > 0 && FieldValue.From(run.LinkAddress, FieldKind.Web).Link.Length == 0) problems.Add(new(place, "link-form", $"\"{run.LinkAddress}\" is no http or https address."));
                if (run is not FieldRun field) continue;
                if (fields.Add(field.Field) && catalogue.Find(field.Field) is not { Kind: not FieldKind.Picture }) problems.Add(new(place, "field-unknown", $"There is no field \"{field.Field}\" that can be read as text."));
            }
        }

        if (fields.Count > MaxFields) problems.Add(new("/texts", "too-many-fields", $"A disclaimer shows at most {MaxFields} different fields."));
        return problems.ToImmutable();
    }
}
