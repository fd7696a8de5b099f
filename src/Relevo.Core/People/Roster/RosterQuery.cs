using System.Buffers;
using System.Collections;
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
    private static readonly SearchValues<char> NumberCharacters = SearchValues.Create("+-()/.0123456789");

    /// <summary>Answers a query. needed: fields whose lack is counted, in the order they are shown.</summary>
    public static RosterAnswer Answer(PeopleRoster roster, RosterQuery query, ImmutableArray<string> needed)
    {
        var (found, head, forgiven) = Find(roster, query.Search);
        var fields = roster.Records.Fields;
        var asked = new AskedFacets(roster.Records, query);
        var counter = new FacetCounter(roster.Records, [.. needed.Select(name => fields.TryFind(name, out var index) ? index : -1).Where(index => index >= 0)]);
        var first = ImmutableArray.CreateBuilder<RosterRow>();
        var rest = ImmutableArray.CreateBuilder<RosterRow>();
        var rows = roster.Rows;
        var keys = roster.Keys;
        for (var index = 0; index < keys.Length; index++)
        {
            if (found is not null && !found[index]) continue;
            var passes = asked.Passes(keys[index], rows[index]);
            counter.Count(keys[index], rows[index], passes);
            if (passes != AskedFacets.All) continue;
            if (head.Length > 0 && roster.Text.BeginsWith(index, head)) first.Add(rows[index]);
            else rest.Add(rows[index]);
        }

        if (first.Count > 0) first.AddRange(rest);
        return new RosterAnswer((first.Count > 0 ? first : rest).DrainToImmutable(), forgiven, counter.Finish());
    }

    /// <summary>Which rows hold every word (null: all do), the text names should begin with to come first, and what misspelt words were taken for.</summary>
    private static (BitArray? Found, string Head, ImmutableArray<string> Forgiven) Find(PeopleRoster roster, string search)
    {
        BitArray? found = null;
        var head = "";
        var forgiven = ImmutableArray.CreateBuilder<string>();
        foreach (var word in Split(search))
        {
            var rows = roster.Text.Find(word);
            if (!rows.HasAnySet())
            {
                foreach (var near in roster.Words.Near(word))
                {
                    forgiven.Add(near);
                    rows.Or(roster.Text.Find(near));
                }
            }

            if (found is null) head = word;
            found = found?.And(rows) ?? rows;
        }

        return (found, head, forgiven.ToImmutable());
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
}
