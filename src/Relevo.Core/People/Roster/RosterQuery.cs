using System.Buffers;
using System.Collections.Immutable;

namespace Relevo.Core.People.Roster;

/// <summary>Which people a list shows by their state.</summary>
public enum RosterState
{
    /// <summary>Not retired.</summary>
    Active,

    /// <summary>Not retired, with a value that is not what its field's kind says.</summary>
    Doubtful,

    /// <summary>Not retired, with something an administrator or the employee set.</summary>
    Overridden,

    /// <summary>Retired.</summary>
    Retired,
}

/// <summary>What is asked of a roster. Null or empty means any.</summary>
/// <param name="Search">Words that must all be found, in names, addresses, titles, teams, places, numbers.</param>
/// <param name="Entity">Legal entity by id.</param>
/// <param name="Office">Office by id.</param>
/// <param name="Team">Team by id; its sub-teams count.</param>
/// <param name="Source">Source by id.</param>
/// <param name="Missing">A field that has no value.</param>
/// <param name="State">State.</param>
public sealed record RosterQuery(string Search, Guid? Entity, Guid? Office, Guid? Team, Guid? Source, string? Missing, RosterState State)
{
    /// <summary>Everybody who is not retired.</summary>
    public static RosterQuery Everybody { get; } = new("", null, null, null, null, null, RosterState.Active);
}

/// <summary>One value of a facet with how many people have it, under everything else that is asked.</summary>
public sealed record FacetCount(string Key, string Label, int Count);

/// <summary>What was found.</summary>
/// <param name="Rows">Everybody found: those whose name begins with the search first, then by name.</param>
/// <param name="Forgiven">Names that were taken for a misspelt word; none when every word was found as typed.</param>
/// <param name="Facets">For each facet (entity, office, team, source, missing, state) its values with counts, most people first.</param>
public sealed record RosterAnswer(ImmutableArray<RosterRow> Rows, ImmutableArray<string> Forgiven, ImmutableSortedDictionary<string, ImmutableArray<FacetCount>> Facets);

/// <summary>Finds people in a roster. Exact and complete: every row is looked at.</summary>
public static class RosterSearch
{
    private const int MaxWords = 8; // of one search; more are not read
    private const int Facets = 6;
    private static readonly SearchValues<char> NumberCharacters = SearchValues.Create("+-()/.0123456789");

    /// <summary>Answers a query. needed: fields whose lack is counted, in the order they are shown.</summary>
    public static RosterAnswer Answer(PeopleRoster roster, RosterQuery query, ImmutableArray<string> needed)
    {
        var (words, forgiven) = Words(roster, query.Search);
        var fields = roster.Records.Fields;
        var neededIndexes = needed.Where(name => fields.TryFind(name, out _)).Select(name => (Name: name, Index: fields.TryFind(name, out var index) ? index : -1)).ToArray();
        var missing = query.Missing is { } asked && fields.TryFind(asked, out var place) ? place : -1;
        var teams = query.Team is { } team ? SubTeams(roster.Records.Units, team) : null;
        var counts = new FacetCounter(neededIndexes.Length);
        var first = ImmutableArray.CreateBuilder<RosterRow>();
        var rest = ImmutableArray.CreateBuilder<RosterRow>();
        foreach (var row in roster.Rows)
        {
            if (!Matches(row, words)) continue;
            var passes = (query.Entity is null || row.Entity?.Id == query.Entity ? 1 : 0)
                | (query.Office is null || row.Office?.Id == query.Office ? 2 : 0)
                | (teams is null || (row.Team is { } its && teams.Contains(its.Id)) ? 4 : 0)
                | (query.Source is null || row.Person.Entries.Any(entry => entry.Source == query.Source) ? 8 : 0)
                | (missing < 0 || string.IsNullOrEmpty(row.Stored(missing)) ? 16 : 0)
                | (IsIn(row, query.State) ? 32 : 0);
            counts.Count(row, passes, neededIndexes);
            if (passes != (1 << Facets) - 1) continue;
            if (words.Length > 0 && row.FoldedName.StartsWith(words[0][0], StringComparison.Ordinal)) first.Add(row);
            else rest.Add(row);
        }

        first.AddRange(rest);
        return new RosterAnswer(first.ToImmutable(), forgiven, counts.Finish(roster.Records, neededIndexes));
    }

    /// <summary>For each word of the search, the texts of which one must be found.</summary>
    private static (ImmutableArray<string[]> Words, ImmutableArray<string> Forgiven) Words(PeopleRoster roster, string search)
    {
        var words = ImmutableArray.CreateBuilder<string[]>();
        var forgiven = ImmutableArray.CreateBuilder<string>();
        foreach (var word in Split(search))
        {
            if (IsFound(roster, word))
            {
                words.Add([word]);
                continue;
            }

            var near = roster.Words.Near(word);
            forgiven.AddRange(near);
            words.Add(near.Count == 0 ? [word] : [.. near]);
        }

        return (words.ToImmutable(), forgiven.ToImmutable());
    }

    /// <summary>Words in folded form; digits that are parted by spaces or signs are one telephone number, of which the leading zeros go.</summary>
    private static IEnumerable<string> Split(string search)
    {
        var number = "";
        foreach (var word in TextFolding.Fold(search).Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Take(MaxWords))
        {
            if (word.AsSpan().IndexOfAnyExcept(NumberCharacters) < 0 && word.AsSpan().ContainsAnyInRange('0', '9')) number += string.Concat(word.Where(char.IsAsciiDigit));
            else yield return word;
        }

        if (number.Length > 0) yield return number.TrimStart('0') is { Length: > 0 } digits ? digits : number;
    }

    private static bool IsFound(PeopleRoster roster, string word)
    {
        foreach (var row in roster.Rows)
        {
            if (row.Searched.Contains(word, StringComparison.Ordinal)) return true;
        }

        return false;
    }

    private static bool Matches(RosterRow row, ImmutableArray<string[]> words)
    {
        foreach (var word in words)
        {
            var found = false;
            for (var index = 0; index < word.Length && !found; index++) found = row.Searched.Contains(word[index], StringComparison.Ordinal);
            if (!found) return false;
        }

        return true;
    }

    private static bool IsIn(RosterRow row, RosterState state) => state switch
    {
        RosterState.Retired => row.Person.IsRetired,
        RosterState.Doubtful => !row.Person.IsRetired && row.IsDoubtful,
        RosterState.Overridden => !row.Person.IsRetired && FacetCounter.IsOverridden(row.Person),
        _ => !row.Person.IsRetired,
    };

    private static HashSet<Guid> SubTeams(UnitChart units, Guid team) =>
        [.. units.Units.Where(unit => unit.Kind == UnitKind.Team && units.Upward(unit).Any(above => above.Id == team)).Select(unit => unit.Id)];
}

/// <summary>Counts facets in one pass: a person counts for a facet's value when everything but that facet passes.</summary>
internal sealed class FacetCounter(int needed)
{
    private readonly Dictionary<Guid, int> entities = [], offices = [], teams = [], sources = [];
    private readonly int[] missing = new int[needed];
    private readonly int[] states = new int[4];

    public static bool IsOverridden(Person person) =>
        person.Override.Count > 0 || person.Own.Count > 0 || person.Accounts.Any(account => account.Override.Count > 0);

    public void Count(RosterRow row, int passes, (string Name, int Index)[] fields)
    {
        if ((passes | 1) == 63 && row.Entity is { } entity) Add(entities, entity.Id);
        if ((passes | 2) == 63 && row.Office is { } office) Add(offices, office.Id);
        if ((passes | 4) == 63 && row.Team is { } team) Add(teams, team.Id);
        if ((passes | 8) == 63) CountSources(row);
        if ((passes | 16) == 63)
        {
            for (var index = 0; index < fields.Length; index++)
            {
                if (string.IsNullOrEmpty(row.Stored(fields[index].Index))) missing[index]++;
            }
        }

        if ((passes | 32) == 63) CountStates(row);
    }

    public ImmutableSortedDictionary<string, ImmutableArray<FacetCount>> Finish(CompanyRecords records, (string Name, int Index)[] fields) =>
        ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal,
        [
            KeyValuePair.Create("entity", Units(records, entities)),
            KeyValuePair.Create("office", Units(records, offices)),
            KeyValuePair.Create("team", Units(records, teams)),
            KeyValuePair.Create("source", Sorted(sources.Select(pair => new FacetCount(pair.Key.ToString(), records.SourceNames.GetValueOrDefault(pair.Key, "directory"), pair.Value)))),
            KeyValuePair.Create("missing", (ImmutableArray<FacetCount>)[.. fields.Select((field, index) => new FacetCount(field.Name, records.Fields.Label(field.Name), missing[index])).Where(count => count.Count > 0)]),
            KeyValuePair.Create("state", (ImmutableArray<FacetCount>)[.. Enum.GetValues<RosterState>().Select(state => new FacetCount(JsonName(state), "", states[(int)state]))]),
        ]);

    private void CountSources(RosterRow row)
    {
        foreach (var entry in row.Person.Entries) Add(sources, entry.Source);
    }

    private void CountStates(RosterRow row)
    {
        if (row.Person.IsRetired)
        {
            states[(int)RosterState.Retired]++;
            return;
        }

        states[(int)RosterState.Active]++;
        if (row.IsDoubtful) states[(int)RosterState.Doubtful]++;
        if (IsOverridden(row.Person)) states[(int)RosterState.Overridden]++;
    }

    private static void Add(Dictionary<Guid, int> counts, Guid key) => System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(counts, key, out _)++;

    private static ImmutableArray<FacetCount> Units(CompanyRecords records, Dictionary<Guid, int> counts) =>
        Sorted(counts.Select(pair => new FacetCount(pair.Key.ToString(), records.Units.Find(pair.Key)?.Name ?? "", pair.Value)));

    private static ImmutableArray<FacetCount> Sorted(IEnumerable<FacetCount> counts) => [.. counts.OrderByDescending(count => count.Count).ThenBy(count => count.Label, StringComparer.Ordinal)];

    private static string JsonName(RosterState state) => state.ToString().ToLowerInvariant();
}
