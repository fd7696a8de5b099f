using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace Relevo.Core.Rules;

/// <summary>What kind of message a signature is chosen for.</summary>
public enum Occasion
{
    /// <summary>A message that answers nothing.</summary>
    New,

    /// <summary>An answer.</summary>
    Reply,

    /// <summary>A message passed on.</summary>
    Forward,
}

/// <summary>Who will read a message, by name.</summary>
public static class Audiences
{
    /// <summary>Colleagues alone.</summary>
    public const string Inside = "inside";

    /// <summary>Anybody else; where nobody knows who will read, this is assumed, because it is the strictest.</summary>
    public const string Outside = "outside";

    /// <summary>Every audience there is.</summary>
    public static ImmutableArray<string> All { get; } = [Inside, Outside];
}

/// <summary>What a signature is chosen for. Grows with the rules: for now the account and the occasion.</summary>
public sealed record Situation(string Address, Occasion Occasion);

/// <summary>Something a situation must meet.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(OccasionCondition), "occasion")]
public abstract record Condition;

/// <summary>The occasion is one of these.</summary>
public sealed record OccasionCondition(ImmutableArray<Occasion> Occasions) : Condition;

/// <summary>Conditions on a situation, all of which must hold, and what follows.</summary>
/// <param name="Id">Stable key.</param>
/// <param name="IsOn">False for a rule that is switched off: it is kept and passed over.</param>
/// <param name="Conditions">All must hold; none means always.</param>
/// <param name="Design">The design that follows, or null for "nothing", which is a result too.</param>
public sealed record Rule(Guid Id, bool IsOn, ImmutableArray<Condition> Conditions, Guid? Design);

/// <summary>The rules in force, by track. First match wins on the signature track.</summary>
public sealed record RuleSet(ImmutableArray<Rule> Signature)
{
    /// <summary>No rules at all.</summary>
    public static RuleSet Empty { get; } = new([]);
}
