using System.Collections.Immutable;

namespace Relevo.Core.People.Roster;

/// <summary>
/// Everybody at one moment, resolved and sorted by name: what the People leg, the lens and all later computation over people look at.
/// Immutable; a change gives a new roster that shares what stayed.
/// </summary>
public sealed class PeopleRoster
{
    private readonly RosterRow[] rows;
    private readonly Lazy<RosterKey[]> keys;
    private readonly Dictionary<Guid, RosterRow> byId;
    private readonly Lazy<Dictionary<string, RosterRow>> byAddress;
    private readonly Lazy<NameWords> words;
    private readonly Lazy<SearchedText> text;

    private PeopleRoster(CompanyRecords records, RosterRow[] rows)
    {
        Records = records;
        this.rows = rows;
        byId = new Dictionary<Guid, RosterRow>(rows.Length);
        foreach (var row in rows) byId[row.Person.Id] = row;
        byAddress = new Lazy<Dictionary<string, RosterRow>>(IndexAddresses);
        keys = new Lazy<RosterKey[]>(() => Array.ConvertAll(rows, row => row.Key));
        words = new Lazy<NameWords>(() => NameWords.Of(rows));
        text = new Lazy<SearchedText>(() => SearchedText.Of(rows));
        ActiveCount = rows.Count(row => !row.Person.IsRetired);
    }

    /// <summary>What the rows were resolved with.</summary>
    public CompanyRecords Records { get; }

    /// <summary>Everybody, retired people too, in the order of their names.</summary>
    public ReadOnlySpan<RosterRow> Rows => rows;

    /// <summary>How many people are not retired.</summary>
    public int ActiveCount { get; }

    /// <summary>The words of everybody's names, for searches that forgive.</summary>
    internal NameWords Words => words.Value;

    /// <summary>What facets look at, in the order of the rows.</summary>
    internal ReadOnlySpan<RosterKey> Keys => keys.Value;

    /// <summary>Everything that searches look into.</summary>
    internal SearchedText Text => text.Value;

    /// <summary>Resolves everybody, on all cores.</summary>
    public static PeopleRoster Build(CompanyRecords records, IReadOnlyList<Person> people)
    {
        var rows = new RosterRow[people.Count];
        Parallel.For(0, rows.Length, index => rows[index] = new RosterRow(records, people[index]));
        Array.Sort(rows, Compare);
        return new PeopleRoster(records, rows);
    }

    /// <summary>The same roster with some people new or in another state. Everybody is resolved again when the company's records are others.</summary>
    public PeopleRoster With(CompanyRecords records, IReadOnlyList<Person> changed)
    {
        var replaced = changed.ToDictionary(person => person.Id);
        if (!ReferenceEquals(records, Records))
            return Build(records, [.. rows.Select(row => replaced.GetValueOrDefault(row.Person.Id) ?? row.Person), .. changed.Where(person => !byId.ContainsKey(person.Id))]);
        if (changed.Count == 0) return this;
        var fresh = changed.Select(person => new RosterRow(records, person)).ToArray();
        Array.Sort(fresh, Compare);
        var merged = new RosterRow[rows.Length + fresh.Count(row => !byId.ContainsKey(row.Person.Id))];
        int next = 0, at = 0;
        foreach (var row in rows)
        {
            if (replaced.ContainsKey(row.Person.Id)) continue;
            while (next < fresh.Length && Compare(fresh[next], row) < 0) merged[at++] = fresh[next++];
            merged[at++] = row;
        }

        while (next < fresh.Length) merged[at++] = fresh[next++];
        return new PeopleRoster(records, merged);
    }

    /// <summary>The person's row, or null.</summary>
    public RosterRow? Find(Guid id) => byId.GetValueOrDefault(id);

    /// <summary>The row of the person whose own or further address this is; shared mailboxes belong to nobody alone. Retired people have none.</summary>
    public RosterRow? FindByAddress(string address) => byAddress.Value.GetValueOrDefault(address);

    /// <summary>The first person by name who is not retired, or null.</summary>
    public RosterRow? First() => Array.Find(rows, row => !row.Person.IsRetired);

    private static int Compare(RosterRow left, RosterRow right)
    {
        var order = string.CompareOrdinal(left.FoldedName, right.FoldedName);
        return order != 0 ? order : left.Person.Id.CompareTo(right.Person.Id);
    }

    private Dictionary<string, RosterRow> IndexAddresses()
    {
        var index = new Dictionary<string, RosterRow>(rows.Length, StringComparer.OrdinalIgnoreCase);
        foreach (var row in rows)
        {
            if (row.Person.IsRetired) continue;
            foreach (var account in row.Person.OwnAccounts) index.TryAdd(account.Address, row);
        }

        return index;
    }
}
