using System.Collections.Immutable;

namespace Relevo.Core.Rules;

/// <summary>
/// What an administrator expects: wherever all conditions hold, for every account, the signature is one of these, and, if said, exactly these disclaimers are added.
/// </summary>
/// <param name="Id">Stable key.</param>
/// <param name="Name">What people call it.</param>
/// <param name="Conditions">As in rules; all must hold.</param>
/// <param name="Designs">Designs of which one is expected; none when no signature is.</param>
public sealed record RuleTest(Guid Id, string Name, ImmutableArray<Condition> Conditions, ImmutableArray<Guid> Designs)
{
    /// <summary>Disclaimers expected, in order; null when they do not matter.</summary>
    public ImmutableArray<Guid>? Disclaimers { get; init; }

    /// <summary>The moment it is meant for, as 2026-12-24T12:00 in UTC; empty for whenever it is checked.</summary>
    public string Moment { get; init; } = "";
}

/// <summary>What became of an expectation.</summary>
/// <param name="Test">Its id.</param>
/// <param name="Situations">Account and square pairs it was checked in; 0 means that nobody is meant, which is no success.</param>
/// <param name="Failed">How many of them had something else.</param>
/// <param name="First">The first of those, explained; null when there is none.</param>
public sealed record RuleTestResult(Guid Test, long Situations, long Failed, FailedSituation? First)
{
    /// <summary>True when it was met everywhere and there was somewhere to meet it.</summary>
    public bool IsMet => Failed == 0 && Situations > 0;
}

/// <summary>A situation that had something else than expected.</summary>
public sealed record FailedSituation(Situation Situation, Decision Decision);
