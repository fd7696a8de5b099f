using System.Collections.Immutable;
using System.Text.RegularExpressions;
using NodaTime.Text;
using Relevo.Core.People;

namespace Relevo.Core.Rules;

/// <summary>What is wrong with a rule set or an audience.</summary>
/// <param name="Pointer">Where, as a JSON Pointer (RFC 6901).</param>
/// <param name="Code">A stable name for the kind of problem.</param>
/// <param name="Message">A sentence for the administrator.</param>
public sealed record RuleProblem(string Pointer, string Code, string Message)
{
    /// <summary>The line of a file, or 0.</summary>
    public long Line { get; init; }
}

/// <summary>
/// Finds what is wrong with a rule set before it is kept. What a rule names may go away later, so names of things that are gone are no fault here, unless nobody could
/// ever have meant them: they are told with the reach.
/// </summary>
public static partial class RuleCheck
{
    /// <summary>Rules on one track; people stop being able to read them aloud long before.</summary>
    public const int MaxRules = 500;

    /// <summary>Conditions of one rule, nested ones counted.</summary>
    public const int MaxConditions = 50;

    /// <summary>Conditions within conditions.</summary>
    public const int MaxDepth = 5;

    /// <summary>Values of one condition: addresses, names, people.</summary>
    public const int MaxValues = 1_000;

    private const int MaxTests = 200, MaxName = 100, MaxNote = 2_000, MaxTags = 10, MaxValue = 300;

    /// <summary>Checks every rule and every expectation.</summary>
    /// <param name="rules">The rules.</param>
    /// <param name="designs">The designs that exist.</param>
    /// <param name="fields">The fields there are.</param>
    public static ImmutableArray<RuleProblem> Check(RuleSet rules, IReadOnlySet<Guid> designs, FieldCatalogue fields)
    {
        var problems = ImmutableArray.CreateBuilder<RuleProblem>();
        var seen = new HashSet<Guid>();
        foreach (var (track, name) in new[] { (Track.Signature, "signature"), (Track.Disclaimer, "disclaimer"), (Track.Banner, "banner") })
        {
            var on = rules.On(track);
            if (on.Length > MaxRules) problems.Add(new($"/{name}", "too-many-rules", $"There are {on.Length} rules on the {name} track; at most {MaxRules} are possible."));
            for (var index = 0; index < on.Length && index <= MaxRules; index++) Check($"/{name}/{index}", on[index], track, designs, fields, seen, problems);
        }

        if (rules.Tests.Length > MaxTests) problems.Add(new("/tests", "too-many-tests", $"There are at most {MaxTests} expectations."));
        for (var index = 0; index < rules.Tests.Length && index <= MaxTests; index++)
        {
            var test = rules.Tests[index];
            var place = $"/tests/{index}";
            if (!seen.Add(test.Id)) problems.Add(new($"{place}/id", "rule-twice", "Two rules or expectations have the same id."));
            CheckText($"{place}/name", test.Name, MaxName, problems);
            CheckConditions($"{place}/conditions", test.Conditions, fields, problems);
            if (test.Moment.Length > 0 && !LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm").Parse(test.Moment).Success) problems.Add(new($"{place}/moment", "time-form", $"\"{test.Moment}\" is not a moment such as 2026-12-24T12:00."));
        }

        return problems.ToImmutable();
    }

    private static void Check(string place, Rule rule, Track track, IReadOnlySet<Guid> designs, FieldCatalogue fields, HashSet<Guid> seen, ImmutableArray<RuleProblem>.Builder problems)
    {
        if (!seen.Add(rule.Id)) problems.Add(new($"{place}/id", "rule-twice", "Two rules have the same id."));
        CheckText($"{place}/name", rule.Name, MaxName, problems);
        if (rule.Note.Length > MaxNote) problems.Add(new($"{place}/note", "text-length", $"A note has at most {MaxNote} characters."));
        if (rule.Tags.Length > MaxTags) problems.Add(new($"{place}/tags", "too-many-tags", $"A rule has at most {MaxTags} tags."));
        foreach (var tag in rule.Tags) CheckText($"{place}/tags", tag, MaxName, problems);
        CheckConditions($"{place}/conditions", rule.Conditions, fields, problems);
        if (rule.Then.Track != track) problems.Add(new($"{place}/then", "wrong-track", "What follows from this rule belongs on another track."));
        switch (rule.Then)
        {
            case CarryDesigns { Designs.IsEmpty: true }:
                problems.Add(new($"{place}/then/designs", "design-missing", "Say which design the message carries, or that it carries nothing."));
                break;
            case CarryDesigns carry:
                if (carry.AllDesigns.Any(design => !designs.Contains(design))) problems.Add(new($"{place}/then/designs", "design-missing", "The rule names a design that does not exist."));
                if (carry.Designs.Distinct().Count() < carry.Designs.Length) problems.Add(new($"{place}/then/designs", "design-twice", "A design stands twice among those that take turns."));
                break;
            case AddDisclaimers { Disclaimers.IsEmpty: true }:
                problems.Add(new($"{place}/then/disclaimers", "disclaimer-missing", "Say which disclaimer is added."));
                break;
            case ShowBanner { Link.Length: > 0 } show when FieldValue.From(show.Link, FieldKind.Web).Link.Length == 0:
                problems.Add(new($"{place}/then/link", "link-form", "A link is an http or https address."));
                break;
        }
    }

    private static void CheckConditions(string place, ImmutableArray<Condition> conditions, FieldCatalogue fields, ImmutableArray<RuleProblem>.Builder problems)
    {
        if (conditions.Sum(condition => Count(condition, 0)) > MaxConditions)
        {
            problems.Add(new(place, "too-many-conditions", $"A rule has at most {MaxConditions} conditions."));
            return;
        }

        for (var index = 0; index < conditions.Length; index++) CheckCondition($"{place}/{index}", conditions[index], 1, fields, problems);
    }

    /// <summary>Counts without going deeper than is possible, so that no document can exhaust the stack.</summary>
    private static int Count(Condition condition, int depth) => depth > MaxDepth ? 1 : 1 + condition.Within.Sum(inner => Count(inner, depth + 1));

    private static void CheckCondition(string place, Condition condition, int depth, FieldCatalogue fields, ImmutableArray<RuleProblem>.Builder problems)
    {
        if (depth > MaxDepth)
        {
            problems.Add(new(place, "too-deep", $"Conditions stand at most {MaxDepth} deep within each other."));
            return;
        }

        void Named(string member, int count, string what)
        {
            if (count == 0) problems.Add(new($"{place}/{member}", $"{what.Replace(' ', '-')}-empty", $"The condition names no {what}, so it could never hold."));
            if (count > MaxValues) problems.Add(new($"{place}/{member}", "too-many-values", $"A condition names at most {MaxValues}; use an audience, a group or a team instead."));
        }

        void Texts(string member, ImmutableArray<string> texts)
        {
            for (var index = 0; index < Math.Min(texts.Length, MaxValues); index++)
            {
                if (string.IsNullOrWhiteSpace(texts[index]) || texts[index].Length > MaxValue || texts[index].Any(char.IsControl)) problems.Add(new($"{place}/{member}/{index}", "value-form", $"A value has 1 to {MaxValue} characters on one line."));
            }
        }

        switch (condition)
        {
            case OccasionCondition occasion:
                Named("occasions", occasion.Occasions.Length, "occasion");
                break;
            case AudienceCondition audience:
                Named("audiences", audience.Audiences.Length, "audience");
                Texts("audiences", audience.Audiences);
                break;
            case ClientCondition client:
                Named("clients", client.Clients.Length, "client kind");
                foreach (var kind in client.Clients.Where(kind => Clients.ClientKind.Find(kind) is null)) problems.Add(new($"{place}/clients", "client-unknown", $"There is no client kind \"{kind}\"."));
                break;
            case AccountCondition account:
                Named("kinds", account.Kinds.Length, "account");
                break;
            case PersonCondition person:
                Named("people", person.People.Length, "person");
                break;
            case UnitCondition unit:
                Named("names", unit.Names.Length, "unit");
                Texts("names", unit.Names);
                break;
            case GroupCondition group:
                Named("groups", group.Groups.Length, "group");
                Texts("groups", group.Groups);
                break;
            case AddressCondition address:
                Named("addresses", address.Addresses.Length, "address");
                Texts("addresses", address.Addresses);
                for (var index = 0; index < Math.Min(address.Addresses.Length, MaxValues); index++)
                {
                    if (address.Addresses[index] is var text && text.LastIndexOf('@') <= 0) problems.Add(new($"{place}/addresses/{index}", "address-form", $"\"{text}\" is not an address; write emergency@clinic.example, or emergency@ for any domain."));
                }

                break;
            case DomainCondition domain:
                Named("domains", domain.Domains.Length, "domain");
                for (var index = 0; index < Math.Min(domain.Domains.Length, MaxValues); index++)
                {
                    if (MailDomain.ToAscii(domain.Domains[index]) is null) problems.Add(new($"{place}/domains/{index}", "domain-form", $"\"{domain.Domains[index]}\" is not a domain."));
                }

                break;
            case TimeCondition time:
                if (!TimeWindow.TryRead(time, out _, out var trouble)) problems.Add(new(place, "time-form", $"This can never hold: {trouble}."));
                break;
            case ValueCondition value:
                CheckValue(place, value, fields, problems);
                if (value.Test != ValueTest.Present) Named("values", value.Values.Length, "value");
                Texts("values", value.Values);
                break;
            default:
                if (condition.Within.IsEmpty) problems.Add(new(place, "within-empty", "Say what is to hold here, or take it out."));
                for (var index = 0; index < condition.Within.Length; index++) CheckCondition($"{place}/conditions/{index}", condition.Within[index], depth + 1, fields, problems);
                break;
        }
    }

    private static void CheckValue(string place, ValueCondition value, FieldCatalogue fields, ImmutableArray<RuleProblem>.Builder problems)
    {
        if (fields.Find(value.Field) is not { } field) problems.Add(new($"{place}/field", "field-unknown", $"There is no field \"{value.Field}\"."));
        else if (field.Kind == FieldKind.Picture && value.Test != ValueTest.Present) problems.Add(new($"{place}/field", "field-picture", $"\"{field.Label}\" is a picture: it can be there or not, and not be compared."));
        if (value.Test != ValueTest.Matches) return;
        for (var index = 0; index < Math.Min(value.Values.Length, MaxValues); index++)
        {
            if (Conditions.Pattern(value.Values[index]) is null) problems.Add(new($"{place}/values/{index}", "pattern-form", $"\"{value.Values[index]}\" is not a regular expression that can be run without going back; it may hold no look-around and no back-reference."));
        }
    }

    private static void CheckText(string place, string text, int most, ImmutableArray<RuleProblem>.Builder problems)
    {
        if (text.Length > most || text.Any(char.IsControl)) problems.Add(new(place, "text-length", $"A name or tag has at most {most} characters on one line."));
    }

    /// <summary>Checks an audience book: own domains, keys, names, every member. Every faulty member is named, up to a hundred.</summary>
    public static ImmutableArray<RuleProblem> Check(AudienceBook book)
    {
        const int mostNamed = 100;
        var problems = ImmutableArray.CreateBuilder<RuleProblem>();
        for (var index = 0; index < book.OwnDomains.Length; index++)
        {
            if (MailDomain.ToAscii(book.OwnDomains[index]) is null) problems.Add(new($"/ownDomains/{index}", "domain-form", $"\"{book.OwnDomains[index]}\" is not a domain."));
        }

        if (book.Named.Length > AudienceBook.MaxNamed) problems.Add(new("/named", "too-many-audiences", $"There are at most {AudienceBook.MaxNamed} named audiences."));
        var (keys, names) = (new HashSet<string>(Audiences.Fixed, StringComparer.Ordinal), new HashSet<string>(Audiences.Fixed, StringComparer.OrdinalIgnoreCase));
        for (var rank = 0; rank < book.Named.Length; rank++)
        {
            var (place, audience) = ($"/named/{rank}", book.Named[rank]);
            if (!KeyPattern().IsMatch(audience.Key) || !keys.Add(audience.Key)) problems.Add(new($"{place}/key", "audience-key", $"\"{audience.Key}\" is not a key of its own: small letters, digits and hyphens, and no other audience's."));
            if (string.IsNullOrWhiteSpace(audience.Name) || !names.Add(audience.Name)) problems.Add(new($"{place}/name", "audience-name", "An audience needs a name, and one that no other has."));
            CheckText($"{place}/name", audience.Name, MaxName, problems);
            if (audience.Language.Length > 0 && !LanguagePattern().IsMatch(audience.Language)) problems.Add(new($"{place}/language", "language-form", $"\"{audience.Language}\" is not a language such as de or de-AT."));
            if (audience.Country.Length > 0 && !CountryPattern().IsMatch(audience.Country)) problems.Add(new($"{place}/country", "country-form", $"\"{audience.Country}\" is not a country's two letters, such as DE."));
            if (audience.Members.Length > AudienceBook.MaxMembers) problems.Add(new($"{place}/members", "too-many-members", $"An audience has at most {AudienceBook.MaxMembers} members."));
            for (var index = 0; index < audience.Members.Length && problems.Count < mostNamed; index++)
            {
                if (AudienceMember.Read(audience.Members[index]) is null) problems.Add(new($"{place}/members/{index}", "member-form", $"\"{audience.Members[index]}\" is neither an address nor a domain.") { Line = index + 1 });
            }
        }

        return problems.ToImmutable();
    }

    /// <summary>The form of a language (RFC 5646), roughly.</summary>
    [GeneratedRegex("^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*$", RegexOptions.CultureInvariant)]
    internal static partial Regex LanguagePattern();

    [GeneratedRegex("^[A-Z]{2}$", RegexOptions.CultureInvariant)]
    private static partial Regex CountryPattern();

    /// <summary>The form of an audience's key.</summary>
    [GeneratedRegex("^[a-z0-9]+(-[a-z0-9]+)*$", RegexOptions.CultureInvariant)]
    internal static partial Regex KeyPattern();
}
