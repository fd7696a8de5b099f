using System.Collections.Immutable;
using System.Text.RegularExpressions;
using Relevo.Core.People;

namespace Relevo.Core.Rules;

/// <summary>What conditions mean, one situation at a time. Unreadable ones do not hold; nothing throws.</summary>
public static class Conditions
{
    /// <summary>Time a pattern may take for one value; without backtracking it is linear, so this is never met.</summary>
    private static readonly TimeSpan MatchTime = TimeSpan.FromSeconds(1);

    /// <summary>True when the condition holds in the situation.</summary>
    public static bool Holds(Condition condition, Situation situation, CompanyRecords records) => condition switch
    {
        AllOf all => all.Conditions.All(inner => Holds(inner, situation, records)),
        AnyOf any => any.Conditions.Any(inner => Holds(inner, situation, records)),
        NoneOf none => !none.Conditions.Any(inner => Holds(inner, situation, records)),
        OccasionCondition or AudienceCondition or ClientCondition or TimeCondition => HoldsIn(condition, situation.Cell, situation.Moment),
        ValueCondition value => records.Fields.TryFind(value.Field, out var field) && TestOf(value)(situation.Sender.Value(field)),
        UnitCondition unit => TestOf(unit, records)(situation.Sender.Value(FieldOf(unit.Unit, records))),
        GroupCondition group => TestOf(group)(situation.Sender.Value(FieldOf(GroupNames.Field, records))),
        PersonCondition person => person.People.Contains(situation.Sender.Person),
        AccountCondition account => account.Kinds.Contains(situation.Sender.Kind),
        AddressCondition address => TestOf(address)(situation.Sender.Address),
        DomainCondition domain => TestOf(domain)(situation.Sender.Domain),
        _ => false,
    };

    /// <summary>True for a condition that is the same for every account.</summary>
    internal static bool IsOfCell(Condition condition) => condition is OccasionCondition or AudienceCondition or ClientCondition or TimeCondition;

    /// <summary>True when a condition on the message, its readers, the client kind or the moment holds.</summary>
    internal static bool HoldsIn(Condition condition, Cell cell, NodaTime.Instant moment) => condition switch
    {
        OccasionCondition occasion => occasion.Occasions.Contains(cell.Occasion),
        AudienceCondition audience => audience.Audiences.Contains(cell.Audience),
        ClientCondition client => client.Clients.Contains(cell.Client),
        TimeCondition time => TimeWindow.TryRead(time, out var window, out _) && window.Holds(moment),
        _ => false,
    };

    /// <summary>The test of a field's value.</summary>
    internal static Func<string, bool> TestOf(ValueCondition value)
    {
        var values = value.Values;
        switch (value.Test)
        {
            case ValueTest.OneOf when value.Field == "language":
                return text => LanguageMatch.Best(text, values) is not null;
            case ValueTest.OneOf:
                return text => text.Length > 0 && values.Contains(text, StringComparer.OrdinalIgnoreCase);
            case ValueTest.Contains:
                return text => values.Any(part => part.Length > 0 && text.Contains(part, StringComparison.OrdinalIgnoreCase));
            case ValueTest.StartsWith:
                return text => values.Any(part => part.Length > 0 && text.StartsWith(part, StringComparison.OrdinalIgnoreCase));
            case ValueTest.Matches:
                var patterns = values.Select(Pattern).OfType<Regex>().ToArray();
                return text => text.Length > 0 && patterns.Any(pattern => pattern.IsMatch(text));
            default:
                return text => text.Length > 0;
        }
    }

    /// <summary>The test of the unit's name.</summary>
    internal static Func<string, bool> TestOf(UnitCondition unit, CompanyRecords records)
    {
        var names = unit.Names.ToHashSet(StringComparer.OrdinalIgnoreCase);
        if (!unit.WithParts || unit.Unit != UnitKind.Team) return name => name.Length > 0 && names.Contains(name);
        return name => name.Length > 0 && (names.Contains(name) || (records.Units.Find(UnitKind.Team, name) is { } team && records.Units.Upward(team).Any(above => names.Contains(above.Name))));
    }

    /// <summary>The test of the groups a person is in.</summary>
    internal static Func<string, bool> TestOf(GroupCondition group)
    {
        var names = group.Groups.ToHashSet(StringComparer.OrdinalIgnoreCase);
        return fact => fact.Length > 0 && GroupNames.Split(fact).Any(names.Contains);
    }

    /// <summary>The test of the address.</summary>
    internal static Func<string, bool> TestOf(AddressCondition condition)
    {
        var whole = condition.Addresses.Where(address => !address.EndsWith('@')).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var local = condition.Addresses.Where(address => address.EndsWith('@')).ToHashSet(StringComparer.OrdinalIgnoreCase);
        return address => whole.Contains(address) || (local.Count > 0 && local.Contains(address[..(address.LastIndexOf('@') + 1)]));
    }

    /// <summary>The test of the address's domain.</summary>
    internal static Func<string, bool> TestOf(DomainCondition condition)
    {
        var domains = condition.Domains.Select(MailDomain.ToAscii).OfType<string>().ToHashSet(StringComparer.Ordinal);
        if (!condition.WithParts) return domains.Contains;
        return domain =>
        {
            for (var rest = domain; ; rest = rest[(rest.IndexOf('.', StringComparison.Ordinal) + 1)..])
            {
                if (domains.Contains(rest)) return true;
                if (!rest.Contains('.', StringComparison.Ordinal)) return false;
            }
        };
    }

    /// <summary>The field in which people name their unit; its place in the catalogue, or -1.</summary>
    internal static int FieldOf(UnitKind unit, CompanyRecords records) => FieldOf(Unit.FieldNaming(unit), records);

    /// <summary>A field's place in the catalogue, or -1.</summary>
    internal static int FieldOf(string field, CompanyRecords records) => records.Fields.TryFind(field, out var index) ? index : -1;

    /// <summary>A pattern for whole values, without backtracking; null for what is none.</summary>
    internal static Regex? Pattern(string pattern)
    {
        try
        {
            return new Regex($"^(?:{pattern})$", RegexOptions.NonBacktracking | RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, MatchTime);
        }
        catch (Exception refused) when (refused is ArgumentException or NotSupportedException)
        {
            return null;
        }
    }
}
