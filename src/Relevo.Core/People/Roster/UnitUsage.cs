using System.Collections.Immutable;

namespace Relevo.Core.People.Roster;

/// <summary>How many people each unit holds, and how many take each of its facts from it.</summary>
public sealed class UnitUsage
{
    private readonly Dictionary<Guid, int> people = [];
    private readonly Dictionary<(Guid Unit, string Field), int> uses = [];

    private UnitUsage()
    {
    }

    /// <summary>Counts over everybody who is not retired.</summary>
    public static UnitUsage Count(PeopleRoster roster)
    {
        var usage = new UnitUsage();
        var holders = roster.Records.Units.Units.Where(unit => unit.Facts.Count > 0).Select(unit => unit.Id).ToHashSet();
        foreach (var row in roster.Rows)
        {
            if (row.Person.IsRetired) continue;
            var units = FieldResolution.Units(roster.Records.Units, row.Team?.Name, row.Office?.Name, row.Entity?.Name).ToArray();
            foreach (var unit in units) usage.people[unit.Id] = usage.people.GetValueOrDefault(unit.Id) + 1;
            if (units.Any(unit => holders.Contains(unit.Id))) usage.CountFacts(FieldResolution.Layers(roster.Records, row.Person, null));
        }

        return usage;
    }

    /// <summary>A unit's people, and for each of its facts that somebody takes from it, how many do.</summary>
    public (int People, ImmutableSortedDictionary<string, int> Uses) Of(Guid unit) =>
        (people.GetValueOrDefault(unit), uses.Where(pair => pair.Key.Unit == unit).ToImmutableSortedDictionary(pair => pair.Key.Field, pair => pair.Value, StringComparer.Ordinal));

    private void CountFacts(ImmutableArray<LayerFacts> layers)
    {
        for (var place = 0; place < layers.Length; place++)
        {
            if (layers[place].Layer < Layer.Team) continue;
            foreach (var pair in layers[place].Facts.Pairs)
            {
                if (layers.Take(place).All(stronger => stronger.Facts[pair.Key] is null)) uses[(layers[place].Record, pair.Key)] = uses.GetValueOrDefault((layers[place].Record, pair.Key)) + 1;
            }
        }
    }
}
