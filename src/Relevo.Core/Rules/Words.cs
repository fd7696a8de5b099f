using System.Collections.Immutable;
using System.Globalization;
using Relevo.Core.Clients;
using Relevo.Core.People;

namespace Relevo.Core.Rules;

/// <summary>The words of the rules: what a condition asks, and what a situation has to say to it.</summary>
internal static class Words
{
    public static string Of(Occasion occasion) => occasion switch
    {
        Occasion.New => "new message",
        Occasion.Reply => "reply",
        _ => "forward",
    };

    public static string Of(AccountKind kind) => kind switch
    {
        AccountKind.Own => "the person's own address",
        AccountKind.Alias => "an alias",
        _ => "a shared mailbox",
    };

    public static string OfClient(string kind) => ClientKind.Find(kind)?.Name ?? kind;

    /// <summary>The words that lead to conditions on people.</summary>
    public const string PeopleWhose = " from people whose ";

    /// <summary>Where a condition stands in a sentence: who sends, from where, to whom, on what, and when last.</summary>
    public static int ReadingOrder(Condition condition) => condition switch
    {
        ValueCondition or UnitCondition => 0,
        GroupCondition or PersonCondition => 1,
        AccountCondition or AddressCondition or DomainCondition => 2,
        AudienceCondition => 3,
        ClientCondition => 4,
        TimeCondition => 6,
        _ => 5,
    };

    /// <summary>What a condition asks for, without the words that lead to it.</summary>
    public static string Of(Condition condition, RuleNames names) => condition switch
    {
        OccasionCondition occasion => Or(occasion.Occasions.Distinct().Order().Select(Of), "no occasion"),
        AudienceCondition audience => Or(audience.Audiences.Select(key => names.Audience(key) ?? $"an audience that is gone ({key})"), "no audience"),
        ClientCondition client => Or(client.Clients.Select(OfClient), "no client kind"),
        TimeCondition time => Time(time),
        ValueCondition value => Asked(names.Field(value.Field) ?? $"a field that is gone ({value.Field})", value),
        UnitCondition unit => $"{Of(unit.Unit)} is {Or(unit.Names, "nothing")}{(unit.WithParts ? " with its teams" : "")}",
        GroupCondition group => Or(group.Groups, "no group"),
        PersonCondition person => Or(person.People.Select(id => names.Person(id) ?? "somebody who is gone"), "nobody"),
        AccountCondition account => Or(account.Kinds.Distinct().Order().Select(Of), "no account"),
        AddressCondition address => Or(address.Addresses, "no address"),
        DomainCondition domain => $"{Or(domain.Domains, "no domain")}{(domain.WithParts ? " with subdomains" : "")}",
        AllOf all => Joined(all.Conditions, " and ", "always", names),
        AnyOf any => Joined(any.Conditions, " or ", "never", names),
        NoneOf none => none.Conditions.IsEmpty ? "always" : $"not {Joined(none.Conditions, " nor ", "", names)}",
        _ => condition.GetType().Name,
    };

    /// <summary>What a condition asks for, with the words that lead to it, as it stands inside others.</summary>
    public static string Led(Condition condition, RuleNames names) => Lead(condition).Trim() is { Length: > 0 } lead ? $"{lead} {Of(condition, names)}" : Of(condition, names);

    /// <summary>The words that lead to a condition in a sentence.</summary>
    public static string Lead(Condition condition) => condition switch
    {
        AudienceCondition => " to ",
        ClientCondition => " on the ",
        ValueCondition or UnitCondition => PeopleWhose,
        GroupCondition => " from people in ",
        PersonCondition or AccountCondition or AddressCondition or DomainCondition => " from ",
        AllOf or AnyOf or NoneOf => " where it is ",
        TimeCondition => ", ",
        _ => "",
    };

    /// <summary>What a condition wanted instead of what it met; empty where that says it all.</summary>
    public static string Wanted(Condition condition, RuleNames names) => condition switch
    {
        UnitCondition unit => Or(unit.Names, "") + (unit.WithParts ? " or one of its teams" : ""),
        GroupCondition group => $"in {Or(group.Groups, "any")}",
        AddressCondition or DomainCondition => $"from {Of(condition, names)}",
        AudienceCondition => $"to {Of(condition, names)}",
        OccasionCondition occasion => Or(occasion.Occasions.Distinct().Order().Select(one => $"a {Of(one)}"), ""),
        ClientCondition => $"on the {Of(condition, names)}",
        ValueCondition value => value.Test switch
        {
            ValueTest.OneOf => Or(value.Values, ""),
            ValueTest.Contains => $"one that contains {Or(value.Values, "")}",
            ValueTest.StartsWith => $"one that starts with {Or(value.Values, "")}",
            ValueTest.Matches => $"one that matches {Or(value.Values, "")}",
            _ => "",
        },
        TimeCondition time when !TimeWindow.TryRead(time, out _, out _) => "",
        _ => Of(condition, names),
    };

    /// <summary>What the situation has to say to a condition.</summary>
    public static string Met(Condition condition, Situation situation, CompanyRecords records, RuleNames names) => condition switch
    {
        OccasionCondition => $"this is a {Of(situation.Occasion)}",
        AudienceCondition => $"it goes to {names.Audience(situation.Audience) ?? situation.Audience}",
        ClientCondition => $"it is written on the {OfClient(situation.Client)}",
        TimeCondition time => TimeWindow.TryRead(time, out var window, out var trouble) ? $"it is {window.Met(situation.Moment)}" : trouble,
        ValueCondition value => records.Fields.TryFind(value.Field, out var field) ? Has(records.Fields.Fields[field].Label, situation.Sender.Value(field)) : $"there is no field \"{value.Field}\"",
        UnitCondition unit => Has(Of(unit.Unit), situation.Sender.Value(Conditions.FieldOf(unit.Unit, records))),
        GroupCondition => GroupNames.Split(situation.Sender.Value(Conditions.FieldOf(GroupNames.Field, records))) is { IsEmpty: false } groups ? $"they are in {string.Join(", ", groups)}" : "they are in no group",
        PersonCondition => $"it is {situation.Sender.Name}",
        AccountCondition => $"it is {Of(situation.Sender.Kind)}",
        AddressCondition => $"it is sent from {Said(situation.Sender.Address)}",
        DomainCondition => $"it is sent from {Said(situation.Sender.Domain)}",
        _ => "",
    };

    private static string Of(UnitKind unit) => unit switch
    {
        UnitKind.Entity => "legal entity",
        UnitKind.Office => "office",
        UnitKind.Team => "team",
        _ => "company",
    };

    private static string Said(string address) => address.Length == 0 ? "no address" : address;

    private static string Has(string what, string value) => value.Length == 0 ? $"the {what.ToLowerInvariant()} is empty" : $"the {what.ToLowerInvariant()} is {value}";

    private static string Asked(string label, ValueCondition value) => $"{label.ToLowerInvariant()} " + value.Test switch
    {
        ValueTest.OneOf => $"is {Or(value.Values, "nothing")}",
        ValueTest.Contains => $"contains {Or(value.Values, "nothing")}",
        ValueTest.StartsWith => $"starts with {Or(value.Values, "nothing")}",
        ValueTest.Matches => $"matches {Or(value.Values, "nothing")}",
        _ => "is there",
    };

    private static string Time(TimeCondition time)
    {
        string[] said =
        [
            time.From.Length > 0 ? $"from {Moment(time.From)}" : "",
            time.Until.Length > 0 ? $"until {Moment(time.Until)}" : "",
            time.Days.IsDefaultOrEmpty ? "" : $"on {Or(time.Days.Distinct().OrderBy(day => ((int)day + 6) % 7).Select(day => day.ToString()), "")}",
            time.FromHour.Length > 0 || time.UntilHour.Length > 0 ? $"between {(time.FromHour.Length > 0 ? time.FromHour : "0:00")} and {(time.UntilHour.Length > 0 ? time.UntilHour : "24:00")}" : "",
        ];
        var text = string.Join(", ", said.Where(part => part.Length > 0));
        return $"{(text.Length > 0 ? text : "at any time")} ({time.Zone})";
    }

    private static string Moment(string local) => DateTime.TryParseExact(local, "yyyy-MM-dd'T'HH:mm", CultureInfo.InvariantCulture, DateTimeStyles.None, out var time)
        ? time.ToString(time.TimeOfDay == TimeSpan.Zero ? "d MMM yyyy" : "d MMM yyyy HH:mm", CultureInfo.InvariantCulture)
        : local;

    private static string Joined(ImmutableArray<Condition> conditions, string between, string none, RuleNames names) => conditions.Length switch
    {
        0 => none,
        1 => Led(conditions[0], names),
        _ => $"({string.Join(between, conditions.Select(condition => Led(condition, names)))})",
    };

    private static string Or(IEnumerable<string> words, string none)
    {
        var all = words.ToArray();
        return all.Length switch
        {
            0 => none,
            1 => all[0],
            <= 4 => $"{string.Join(", ", all[..^1])} or {all[^1]}",
            _ => $"{string.Join(", ", all[..3])} or {all.Length - 3} more",
        };
    }
}
