using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Relevo.Core.People;

namespace Relevo.Core.Rules;

/// <summary>Something a situation must meet.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(OccasionCondition), "occasion")]
[JsonDerivedType(typeof(AudienceCondition), "audience")]
[JsonDerivedType(typeof(ClientCondition), "client")]
[JsonDerivedType(typeof(TimeCondition), "time")]
[JsonDerivedType(typeof(ValueCondition), "value")]
[JsonDerivedType(typeof(UnitCondition), "unit")]
[JsonDerivedType(typeof(GroupCondition), "group")]
[JsonDerivedType(typeof(PersonCondition), "person")]
[JsonDerivedType(typeof(AccountCondition), "account")]
[JsonDerivedType(typeof(AddressCondition), "address")]
[JsonDerivedType(typeof(DomainCondition), "domain")]
[JsonDerivedType(typeof(AllOf), "all")]
[JsonDerivedType(typeof(AnyOf), "any")]
[JsonDerivedType(typeof(NoneOf), "none")]
public abstract record Condition
{
    /// <summary>This condition and every one within it.</summary>
    [JsonIgnore]
    public IEnumerable<Condition> Whole => Within.SelectMany(inner => inner.Whole).Prepend(this);

    /// <summary>The conditions directly within it.</summary>
    [JsonIgnore]
    public ImmutableArray<Condition> Within => this switch
    {
        AllOf all => all.Conditions,
        AnyOf any => any.Conditions,
        NoneOf none => none.Conditions,
        _ => [],
    };
}

/// <summary>The message is one of these.</summary>
public sealed record OccasionCondition(ImmutableArray<Occasion> Occasions) : Condition;

/// <summary>Its readers are one of these, by key: see <see cref="Audiences"/>.</summary>
public sealed record AudienceCondition(ImmutableArray<string> Audiences) : Condition;

/// <summary>It is written with one of these client kinds.</summary>
public sealed record ClientCondition(ImmutableArray<string> Clients) : Condition;

/// <summary>What is asked of a field's value.</summary>
public enum ValueTest
{
    /// <summary>It is one of these, without regard to case. A language matches its own variants too (RFC 4647 section 3.4): de is met by de-AT.</summary>
    OneOf,

    /// <summary>It contains one of these, without regard to case.</summary>
    Contains,

    /// <summary>It starts with one of these, without regard to case.</summary>
    StartsWith,

    /// <summary>The whole of it matches one of these regular expressions. They are run without backtracking, so none can hang.</summary>
    Matches,

    /// <summary>There is a value.</summary>
    Present,
}

/// <summary>A field of the account is as asked. Values: none for <see cref="ValueTest.Present"/>.</summary>
public sealed record ValueCondition(string Field, ValueTest Test, ImmutableArray<string> Values) : Condition;

/// <summary>The account's legal entity, office or team is one of these, by the names people use for them. WithParts: sub-teams count too.</summary>
public sealed record UnitCondition(UnitKind Unit, ImmutableArray<string> Names, bool WithParts = false) : Condition;

/// <summary>The person is in one of these groups, by the names sources use for them.</summary>
public sealed record GroupCondition(ImmutableArray<string> Groups) : Condition;

/// <summary>It is one of these people, picked by hand.</summary>
public sealed record PersonCondition(ImmutableArray<Guid> People) : Condition;

/// <summary>The account is one of these kinds.</summary>
public sealed record AccountCondition(ImmutableArray<AccountKind> Kinds) : Condition;

/// <summary>The account is one of these addresses, without regard to case; one that ends in @ stands for any domain.</summary>
public sealed record AddressCondition(ImmutableArray<string> Addresses) : Condition;

/// <summary>The account's address is in one of these domains, compared in ASCII (IDNA). WithParts: subdomains count too.</summary>
public sealed record DomainCondition(ImmutableArray<string> Domains, bool WithParts = false) : Condition;

/// <summary>
/// The moment lies in a window. All that is given must hold. Days and hours are read on the clock of the zone, and a window of hours that ends before it
/// begins runs over midnight and belongs to the day it began on.
/// </summary>
/// <param name="Zone">A time zone of the tz database, such as Europe/Berlin.</param>
public sealed record TimeCondition(string Zone) : Condition
{
    /// <summary>Local day and time it begins, as 2026-12-01T08:00, or empty. The first of two such times where clocks go back; moved on by the gap where they skip it (RFC 5545 section 3.3.5).</summary>
    public string From { get; init; } = "";

    /// <summary>Local day and time it ends, itself no longer in it, or empty.</summary>
    public string Until { get; init; } = "";

    /// <summary>Days of the week, none for every day.</summary>
    public ImmutableArray<DayOfWeek> Days { get; init; } = [];

    /// <summary>Local time of day it begins, as 08:00, or empty.</summary>
    public string FromHour { get; init; } = "";

    /// <summary>Local time of day it ends, itself no longer in it, or empty.</summary>
    public string UntilHour { get; init; } = "";
}

/// <summary>All of these hold; of none, always.</summary>
public sealed record AllOf(ImmutableArray<Condition> Conditions) : Condition;

/// <summary>At least one of these holds; of none, never.</summary>
public sealed record AnyOf(ImmutableArray<Condition> Conditions) : Condition;

/// <summary>Not one of these holds; of none, always.</summary>
public sealed record NoneOf(ImmutableArray<Condition> Conditions) : Condition;
