using System.Collections.Immutable;

namespace Relevo.Core.People.Roster;

/// <summary>A query's facets, made ready to be held against many rows: a bit for each facet that a row passes.</summary>
internal sealed class AskedFacets
{
    public const int Entity = 1, Office = 2, Team = 4, Source = 8, Missing = 16, State = 32, All = 63;

    private const int Any = int.MinValue;
    private readonly int entity, office, source, missing;
    private readonly bool[]? teams;
    private readonly RosterState state;
    private readonly Guid sourceId;

    public AskedFacets(CompanyRecords records, RosterQuery query)
    {
        int Place(Guid? unit) => unit is { } id ? records.Units.PlaceOf(records.Units.Find(id)) is >= 0 and var place ? place : int.MaxValue : Any;
        (entity, office) = (Place(query.Entity), Place(query.Office));
        teams = query.Team is { } team ? SubTeams(records.Units, team) : null;
        sourceId = query.Source ?? Guid.Empty;
        source = query.Source is { } id ? records.PlaceOfSource(id) is >= 0 and var place ? place : int.MaxValue : Any;
        missing = query.Missing is { } name && records.Fields.TryFind(name, out var index) ? index : Any;
        state = query.State;
    }

    public int Passes(in RosterKey key, RosterRow row) =>
        (entity == Any || key.Entity == entity ? Entity : 0)
        | (office == Any || key.Office == office ? Office : 0)
        | (teams is null || (key.Team >= 0 && teams[key.Team]) ? Team : 0)
        | (source == Any || key.Source == source || (key.Source == RosterKey.Several && row.Person.Entries.Any(entry => entry.Source == sourceId)) ? Source : 0)
        | (missing == Any || IsMissing(key, row, missing) ? Missing : 0)
        | (IsIn(key) ? State : 0);

    public static bool IsMissing(in RosterKey key, RosterRow row, int field) =>
        field < RosterKey.PresentFields ? (key.Present & (1UL << field)) == 0 : string.IsNullOrEmpty(row.Stored(field));

    private bool IsIn(in RosterKey key) => state switch
    {
        RosterState.Retired => key.IsRetired,
        RosterState.Doubtful => !key.IsRetired && key.IsDoubtful,
        RosterState.Overridden => !key.IsRetired && key.IsOverridden,
        _ => !key.IsRetired,
    };

    private static bool[] SubTeams(UnitChart units, Guid team) =>
        [.. units.Units.Select(unit => unit.Kind == UnitKind.Team && units.Upward(unit).Any(above => above.Id == team))];
}

/// <summary>Counts facets in one pass: a person counts for a facet's value when everything but that facet passes. needed: places of fields whose lack is counted.</summary>
internal sealed class FacetCounter(CompanyRecords records, ImmutableArray<int> needed)
{
    private readonly int[] units = new int[records.Units.Units.Length];
    private readonly int[] sources = new int[records.Sources.Length];
    private readonly int[] missing = new int[needed.Length];
    private readonly int[] states = new int[Enum.GetValues<RosterState>().Length];

    public void Count(in RosterKey key, RosterRow row, int passes)
    {
        if ((passes | AskedFacets.Entity) == AskedFacets.All && key.Entity >= 0) units[key.Entity]++;
        if ((passes | AskedFacets.Office) == AskedFacets.All && key.Office >= 0) units[key.Office]++;
        if ((passes | AskedFacets.Team) == AskedFacets.All && key.Team >= 0) units[key.Team]++;
        if ((passes | AskedFacets.Source) == AskedFacets.All) CountSources(key, row);
        if ((passes | AskedFacets.Missing) == AskedFacets.All)
        {
            for (var index = 0; index < missing.Length; index++)
            {
                if (AskedFacets.IsMissing(key, row, needed[index])) missing[index]++;
            }
        }

        if ((passes | AskedFacets.State) == AskedFacets.All) CountStates(key);
    }

    public ImmutableSortedDictionary<string, ImmutableArray<FacetCount>> Finish() => ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal,
    [
        KeyValuePair.Create("entity", Units(UnitKind.Entity)),
        KeyValuePair.Create("office", Units(UnitKind.Office)),
        KeyValuePair.Create("team", Units(UnitKind.Team)),
        KeyValuePair.Create("source", Sorted(records.Sources.Select((source, place) => new FacetCount(source.ToString(), records.SourceNames[source], sources[place])))),
        KeyValuePair.Create("missing", (ImmutableArray<FacetCount>)[.. needed.Select((field, index) => new FacetCount(records.Fields.Fields[field].Name, records.Fields.Fields[field].Label, missing[index])).Where(count => count.Count > 0)]),
        KeyValuePair.Create("state", (ImmutableArray<FacetCount>)[.. Enum.GetValues<RosterState>().Select(state => new FacetCount(state.ToString().ToLowerInvariant(), "", states[(int)state]))]),
    ]);

    private void CountSources(in RosterKey key, RosterRow row)
    {
        if (key.Source >= 0) sources[key.Source]++;
        if (key.Source != RosterKey.Several) return;
        foreach (var entry in row.Person.Entries)
        {
            if (records.PlaceOfSource(entry.Source) is >= 0 and var place) sources[place]++;
        }
    }

    private void CountStates(in RosterKey key)
    {
        if (key.IsRetired)
        {
            states[(int)RosterState.Retired]++;
            return;
        }

        states[(int)RosterState.Active]++;
        if (key.IsDoubtful) states[(int)RosterState.Doubtful]++;
        if (key.IsOverridden) states[(int)RosterState.Overridden]++;
    }

    private ImmutableArray<FacetCount> Units(UnitKind kind) =>
        Sorted(records.Units.Units.Select((unit, place) => (unit, place)).Where(pair => pair.unit.Kind == kind).Select(pair => new FacetCount(pair.unit.Id.ToString(), pair.unit.Name, units[pair.place])));

    private static ImmutableArray<FacetCount> Sorted(IEnumerable<FacetCount> counts) =>
        [.. counts.Where(count => count.Count > 0).OrderByDescending(count => count.Count).ThenBy(count => count.Label, StringComparer.Ordinal)];
}
