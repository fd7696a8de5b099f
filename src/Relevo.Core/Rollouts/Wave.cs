using System.Buffers.Binary;
using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Serialization;
using NodaTime;
using Relevo.Core.People;
using Relevo.Core.People.Roster;

namespace Relevo.Core.Rollouts;

/// <summary>Whom a wave is for.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(EverybodyElse), "everybody")]
[JsonDerivedType(typeof(Pilots), "pilots")]
[JsonDerivedType(typeof(OfUnits), "units")]
[JsonDerivedType(typeof(Share), "share")]
[JsonDerivedType(typeof(Found), "found")]
public abstract record WavePeople;

/// <summary>Everybody whom no earlier wave is for.</summary>
public sealed record EverybodyElse : WavePeople;

/// <summary>People picked by hand.</summary>
public sealed record Pilots(ImmutableArray<Guid> People) : WavePeople;

/// <summary>The people of teams, offices or legal entities, by their names; with everything that is part of them.</summary>
public sealed record OfUnits(UnitKind Unit, ImmutableArray<string> Names) : WavePeople;

/// <summary>So many percent of everybody, by a stable hash: the same people each time it is asked for the same edition, others for another one.</summary>
public sealed record Share(int Percent) : WavePeople;

/// <summary>Those that a search among the people finds.</summary>
public sealed record Found(string Search) : WavePeople;

/// <summary>When a wave begins.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(StartAtOnce), "atOnce")]
[JsonDerivedType(typeof(StartAt), "at")]
[JsonDerivedType(typeof(StartAfter), "after")]
public abstract record WaveStart;

/// <summary>As soon as the wave before it has passed.</summary>
public sealed record StartAtOnce : WaveStart;

/// <summary>At a time, and not before the wave before it has passed.</summary>
public sealed record StartAt(DateTimeOffset At) : WaveStart;

/// <summary>When the wave before it has been in place for so long.</summary>
public sealed record StartAfter(int Minutes) : WaveStart;

/// <summary>What must hold of a wave before the next one begins. A gate that is missed pauses the rollout.</summary>
/// <param name="MostTrouble">Clients that may have failed or drifted, in percent of the wave.</param>
/// <param name="LeastInPlace">Clients that must be in place, in percent of the wave.</param>
public sealed record WaveGate(int MostTrouble, int LeastInPlace)
{
    /// <summary>Minutes after which it is missed if it has not been met; 0 for no limit.</summary>
    public int WithinMinutes { get; init; }

    /// <summary>At most one in twenty in trouble, nine in ten in place.</summary>
    public static WaveGate Standard { get; } = new(5, 90);
}

/// <summary>A wave as it is planned.</summary>
public sealed record WavePlan(string Name, WavePeople People, WaveStart Start, WaveGate Gate);

/// <summary>Something that keeps waves from being started. Pointer: the place as a JSON Pointer (RFC 6901).</summary>
public sealed record WaveProblem(string Pointer, string Code, string Message);

/// <summary>Plans waves: whom each is for, and what is wrong with them.</summary>
public static class Waves
{
    /// <summary>Waves of one rollout at most.</summary>
    public const int Most = 20;

    /// <summary>One wave for everybody.</summary>
    public static ImmutableArray<WavePlan> Plain { get; } = [new("Everybody", new EverybodyElse(), new StartAtOnce(), WaveGate.Standard)];

    /// <summary>What is wrong with the waves as they are written, all of it.</summary>
    public static ImmutableArray<WaveProblem> Check(ImmutableArray<WavePlan> waves)
    {
        var problems = ImmutableArray.CreateBuilder<WaveProblem>();
        if (waves.Length is 0 or > Most) problems.Add(new("/waves", "wave-count", $"A rollout has 1 to {Most} waves."));
        for (var index = 0; index < waves.Length; index++)
        {
            var (wave, place) = (waves[index], $"/waves/{index}");
            if (string.IsNullOrWhiteSpace(wave.Name) || wave.Name.Length > 100) problems.Add(new($"{place}/name", "name-length", "A wave needs a name of 1 to 100 characters."));
            if (wave.Gate.MostTrouble is < 0 or > 100) problems.Add(new($"{place}/gate/mostTrouble", "gate-share", "Failed and drifted clients are given in percent, 0 to 100."));
            if (wave.Gate.LeastInPlace is < 0 or > 100) problems.Add(new($"{place}/gate/leastInPlace", "gate-share", "Clients in place are given in percent, 0 to 100."));
            if (wave.Gate.WithinMinutes is < 0 or > 525_600) problems.Add(new($"{place}/gate/withinMinutes", "gate-time", "A gate is met within a year, or has no limit."));
            if (wave.Start is StartAfter { Minutes: < 0 or > 525_600 }) problems.Add(new($"{place}/start/minutes", "start-time", "A wave begins within a year of the one before it."));
            switch (wave.People)
            {
                case Share { Percent: < 1 or > 100 }:
                    problems.Add(new($"{place}/people/percent", "share", "A share is 1 to 100 percent."));
                    break;
                case Pilots { People.IsEmpty: true }:
                    problems.Add(new($"{place}/people/people", "nobody", "Nobody is picked for this wave."));
                    break;
                case OfUnits { Unit: UnitKind.Company }:
                    problems.Add(new($"{place}/people/unit", "unit-kind", "A wave is for teams, offices or legal entities; for the whole company, choose everybody."));
                    break;
                case OfUnits { Names.IsEmpty: true }:
                    problems.Add(new($"{place}/people/names", "nobody", "No team, office or entity is named for this wave."));
                    break;
                case Found found when string.IsNullOrWhiteSpace(found.Search) || found.Search.Length > 200:
                    problems.Add(new($"{place}/people/search", "nobody", "A search has 1 to 200 characters."));
                    break;
            }
        }

        return problems.ToImmutable();
    }

    /// <summary>
    /// The wave of each person, by number from 0; somebody whom no wave is for is not in it. Where waves overlap, the first one has the person.
    /// salt: makes shares of one rollout differ from those of another.
    /// </summary>
    public static IReadOnlyDictionary<Guid, int> Assign(ImmutableArray<WavePlan> waves, PeopleRoster roster, string salt)
    {
        var tests = waves.Select(wave => TestOf(wave.People, roster, salt)).ToArray();
        var assigned = new Dictionary<Guid, int>(roster.Rows.Length);
        foreach (var row in roster.Rows)
        {
            var wave = Array.FindIndex(tests, holds => holds(row));
            if (wave >= 0) assigned[row.Person.Id] = wave;
        }

        return assigned;
    }

    private static Func<RosterRow, bool> TestOf(WavePeople people, PeopleRoster roster, string salt)
    {
        switch (people)
        {
            case Pilots pilots:
                var picked = pilots.People.ToHashSet();
                return row => picked.Contains(row.Person.Id);
            case OfUnits units:
                var holds = Rules.Conditions.TestOf(new Rules.UnitCondition(units.Unit, units.Names, WithParts: true), roster.Records);
                var field = Rules.Conditions.FieldOf(units.Unit, roster.Records);
                return row => row.Person.Accounts is [var account, ..] && holds(row.SenderOf(roster.Records, account).Value(field));
            case Share share:
                return row => Percentile(row.Person.Id, salt) < share.Percent;
            case Found search:
                var found = RosterSearch.Answer(roster, RosterQuery.Everybody with { Search = search.Search }, []).Rows.Select(row => row.Person.Id).ToHashSet();
                return row => found.Contains(row.Person.Id);
            default:
                return _ => true;
        }
    }

    /// <summary>A number from 0 to 99 that stays a person's own for a salt: the first bytes of SHA-256 (FIPS 180-4), scaled.</summary>
    internal static int Percentile(Guid person, string salt)
    {
        var hash = SHA256.HashData(Encoding.UTF8.GetBytes($"{person:N}{salt}"));
        return (int)((ulong)BinaryPrimitives.ReadUInt32BigEndian(hash) * 100 >> 32);
    }
}
