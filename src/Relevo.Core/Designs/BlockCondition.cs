using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Relevo.Core.Rules;

namespace Relevo.Core.Designs;

/// <summary>What is asked of a field.</summary>
public enum FieldTest
{
    /// <summary>It has a value.</summary>
    Present,

    /// <summary>It has none.</summary>
    Absent,

    /// <summary>Its value is one of these, without regard to case. A language matches its own variants too (RFC 4647 section 3.4): de is met by de-AT.</summary>
    OneOf,

    /// <summary>Its value is none of these; having none counts.</summary>
    NoneOf,
}

/// <summary>Something that must hold for a block to show. Legal entity, office, team and language are fields like any other.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(FieldCondition), "field")]
[JsonDerivedType(typeof(OccasionIs), "occasion")]
[JsonDerivedType(typeof(AudienceIs), "audience")]
public abstract record BlockCondition;

/// <summary>A field is as asked. Values: for <see cref="FieldTest.OneOf"/> and <see cref="FieldTest.NoneOf"/>.</summary>
public sealed record FieldCondition(string Field, FieldTest Test, ImmutableArray<string> Values) : BlockCondition;

/// <summary>The message is one of these.</summary>
public sealed record OccasionIs(ImmutableArray<Occasion> Occasions) : BlockCondition;

/// <summary>Its readers are one of these, by name: see <see cref="Audiences"/>.</summary>
public sealed record AudienceIs(ImmutableArray<string> Audiences) : BlockCondition;
