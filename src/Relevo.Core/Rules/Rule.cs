using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace Relevo.Core.Rules;

/// <summary>Where rules run.</summary>
public enum Track
{
    /// <summary>The first match decides.</summary>
    Signature,

    /// <summary>All matches add, in order, unless one stops the track.</summary>
    Disclaimer,

    /// <summary>All matches show, as many as a design's banner place holds.</summary>
    Banner,
}

/// <summary>How several designs share a rule.</summary>
public enum TurnOrder
{
    /// <summary>One after the other.</summary>
    InSequence,

    /// <summary>Each once in every round, in an order that is another one each round and the same for everybody.</summary>
    Shuffled,
}

/// <summary>When the next one has its turn.</summary>
public enum TurnUnit
{
    /// <summary>Each day, by the calendar of UTC.</summary>
    Day,

    /// <summary>Each message.</summary>
    Message,
}

/// <summary>Where a signature stands in an answer.</summary>
public enum AnswerPlace
{
    /// <summary>Directly under the new text, above what is quoted.</summary>
    UnderNewText,

    /// <summary>At the very end.</summary>
    AtEnd,
}

/// <summary>What follows from a rule.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(CarryDesigns), "designs")]
[JsonDerivedType(typeof(CarryNothing), "nothing")]
[JsonDerivedType(typeof(AddDisclaimers), "disclaimers")]
[JsonDerivedType(typeof(StopDisclaimers), "stop")]
[JsonDerivedType(typeof(ShowBanner), "banner")]
public abstract record Outcome
{
    /// <summary>The track it belongs on.</summary>
    [JsonIgnore]
    public Track Track => this switch
    {
        CarryDesigns or CarryNothing => Track.Signature,
        ShowBanner => Track.Banner,
        _ => Track.Disclaimer,
    };

    /// <summary>Every design it names.</summary>
    [JsonIgnore]
    public IEnumerable<Guid> AllDesigns => this is CarryDesigns carry ? carry.Designs.Concat(carry.Offered).Distinct() : [];
}

/// <summary>The message carries a signature: one design, or several that take turns.</summary>
/// <param name="Designs">One or more.</param>
public sealed record CarryDesigns(ImmutableArray<Guid> Designs) : Outcome
{
    /// <summary>For several: in which order.</summary>
    public TurnOrder Order { get; init; }

    /// <summary>For several: when the next one has its turn.</summary>
    public TurnUnit By { get; init; }

    /// <summary>Further designs the employee may choose for this account.</summary>
    public ImmutableArray<Guid> Offered { get; init; } = [];

    /// <summary>Where it stands in an answer.</summary>
    public AnswerPlace Place { get; init; }

    /// <summary>True for the separator line of RFC 3676 before it in an answer, where the client kind has one.</summary>
    public bool HasSeparator { get; init; } = true;

    /// <summary>True when the employee may send without it, or with one of those offered.</summary>
    public bool MayChoose { get; init; }

    /// <summary>Whose turn it is. rule: the rule's id, which shuffles; moment and message: see <see cref="Situation"/>.</summary>
    public Guid DesignFor(Guid rule, NodaTime.Instant moment, long message)
    {
        if (Designs.Length <= 1) return Designs.IsEmpty ? Guid.Empty : Designs[0];
        var number = By == TurnUnit.Day ? (long)Math.Floor((moment - NodaTime.NodaConstants.UnixEpoch).TotalDays) : message;
        var (round, turn) = (Math.DivRem(number, Designs.Length, out var left) - (left < 0 ? 1 : 0), (int)(left < 0 ? left + Designs.Length : left));
        return Order == TurnOrder.InSequence ? Designs[turn] : Designs[Turns.Shuffle(rule, round, Designs.Length)[turn]];
    }
}

/// <summary>The message carries no signature, which is a result too.</summary>
public sealed record CarryNothing : Outcome;

/// <summary>Disclaimers are added, in this order.</summary>
public sealed record AddDisclaimers(ImmutableArray<Guid> Disclaimers) : Outcome;

/// <summary>Later rules of the track are not looked at.</summary>
public sealed record StopDisclaimers : Outcome;

/// <summary>A banner is shown. Link: where it leads instead of its own target, or empty.</summary>
public sealed record ShowBanner(Guid Banner, string Link = "") : Outcome;

/// <summary>Conditions on a situation, all of which must hold, and what follows.</summary>
/// <param name="Id">Stable key.</param>
/// <param name="IsOn">False for a rule that is switched off: it is kept and passed over.</param>
/// <param name="Conditions">All must hold; none means always.</param>
/// <param name="Then">What follows.</param>
public sealed record Rule(Guid Id, bool IsOn, ImmutableArray<Condition> Conditions, Outcome Then)
{
    /// <summary>What people call it, or empty.</summary>
    public string Name { get; init; } = "";

    /// <summary>Words to find it by.</summary>
    public ImmutableArray<string> Tags { get; init; } = [];

    /// <summary>Why it is there, or empty.</summary>
    public string Note { get; init; } = "";

    /// <summary>The design it carries, of several the one whose turn it is; null when it carries none. moment and message: see <see cref="Situation"/>.</summary>
    public Guid? DesignFor(NodaTime.Instant moment, long message) => Then is CarryDesigns carry ? carry.DesignFor(Id, moment, message) : null;

    /// <summary>Every condition, nested ones too.</summary>
    [JsonIgnore]
    public IEnumerable<Condition> AllConditions => Conditions.SelectMany(condition => condition.Whole);
}

/// <summary>The rules in force, by track, with what they are expected to do.</summary>
public sealed record RuleSet(ImmutableArray<Rule> Signature)
{
    /// <summary>Rules that add disclaimers.</summary>
    public ImmutableArray<Rule> Disclaimer { get; init; } = [];

    /// <summary>Rules that show banners.</summary>
    public ImmutableArray<Rule> Banner { get; init; } = [];

    /// <summary>Expectations that are checked at every change.</summary>
    public ImmutableArray<RuleTest> Tests { get; init; } = [];

    /// <summary>No rules at all.</summary>
    public static RuleSet Empty { get; } = new([]);

    /// <summary>The rules of a track, in order.</summary>
    public ImmutableArray<Rule> On(Track track) => track switch { Track.Signature => Signature, Track.Disclaimer => Disclaimer, _ => Banner };
}
