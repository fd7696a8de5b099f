using System.Collections.Concurrent;
using System.Collections.Immutable;
using Relevo.Core.People;

namespace Relevo.Core.Rules.Reach;

/// <summary>
/// Every account in columns: a field's values are numbered once, each account holds a number, and a question about a field is asked once for each different
/// value. Places are stable: a change of some people keeps everybody else's place. Safe to read from many threads.
/// </summary>
public sealed class AccountTable
{
    private readonly Sender?[] senders; // null: a place nobody has any more
    private readonly Dictionary<Guid, int[]> placesOf;
    private readonly ConcurrentDictionary<int, Column> columns;
    private readonly Lazy<Dictionary<string, int[]>> byAddress, byLocalPart;

    private AccountTable(CompanyRecords records, Sender?[] senders, Dictionary<Guid, int[]> placesOf, ConcurrentDictionary<int, Column> columns)
    {
        Records = records;
        this.senders = senders;
        this.placesOf = placesOf;
        this.columns = columns;
        Alive = AccountSet.Where(senders.Length, place => senders[place] is not null);
        Count = Alive.Count;
        byAddress = new(() => Index(sender => sender.Address));
        byLocalPart = new(() => Index(sender => sender.Address[..(sender.Address.LastIndexOf('@') + 1)]));
    }

    /// <summary>What the values were resolved with.</summary>
    public CompanyRecords Records { get; }

    /// <summary>Accounts there are.</summary>
    public int Count { get; }

    /// <summary>Places, those nobody has any more among them.</summary>
    public int Places => senders.Length;

    /// <summary>The places that somebody has.</summary>
    public AccountSet Alive { get; }

    /// <summary>The account at a place that somebody has.</summary>
    public Sender this[int place] => senders[place] ?? throw new ArgumentOutOfRangeException(nameof(place), "Nobody has this place any more.");

    /// <summary>A table of these accounts; all accounts of a person stand beside each other.</summary>
    public static AccountTable Of(CompanyRecords records, IReadOnlyList<Sender> senders)
    {
        var places = new Dictionary<Guid, int[]>(senders.Count);
        for (var from = 0; from < senders.Count;)
        {
            var to = from + 1;
            while (to < senders.Count && senders[to].Person == senders[from].Person) to++;
            places[senders[from].Person] = [.. Enumerable.Range(from, to - from)];
            from = to;
        }

        return new AccountTable(records, [.. senders], places, new());
    }

    /// <summary>The table with some people's accounts as they are now, and the places that are other than before. accounts: by person; none for somebody who has left.</summary>
    public (AccountTable Table, ImmutableArray<int> Changed) With(IReadOnlyDictionary<Guid, IReadOnlyList<Sender>> accounts)
    {
        var fresh = senders.ToList();
        var places = new Dictionary<Guid, int[]>(placesOf);
        var changed = new SortedSet<int>();
        foreach (var (person, own) in accounts)
        {
            var before = places.GetValueOrDefault(person, []);
            var now = new int[own.Count];
            for (var index = 0; index < Math.Max(before.Length, own.Count); index++)
            {
                var place = index < before.Length ? before[index] : fresh.Count;
                if (place == fresh.Count) fresh.Add(null);
                fresh[place] = index < own.Count ? own[index] : null;
                if (index < own.Count) now[index] = place;
                changed.Add(place);
            }

            if (now.Length > 0) places[person] = now;
            else places.Remove(person);
        }

        Sender?[] all = [.. fresh];
        var kept = new ConcurrentDictionary<int, Column>(columns.Select(column => KeyValuePair.Create(column.Key, column.Value.With(all.Length, changed, place => Value(all[place], column.Key)))));
        return (new AccountTable(Records, all, places, kept), [.. changed]);
    }

    /// <summary>The places of a person.</summary>
    public ReadOnlySpan<int> PlacesOf(Guid person) => placesOf.GetValueOrDefault(person, []);

    /// <summary>The place of an address among a person's, or -1.</summary>
    public int Find(Guid person, string address)
    {
        foreach (var place in PlacesOf(person))
        {
            if (string.Equals(this[place].Address, address, StringComparison.OrdinalIgnoreCase)) return place;
        }

        return -1;
    }

    /// <summary>The different values of a field, each with the accounts that have it.</summary>
    public IEnumerable<(string Value, int Accounts)> ValuesOf(int field)
    {
        var column = ColumnOf(field);
        var counts = new int[column.Values.Count];
        for (var place = 0; place < column.Codes.Length; place++) counts[column.Codes[place]] += senders[place] is null ? 0 : 1;
        return column.Values.Zip(counts).Where(pair => pair.Second > 0);
    }

    /// <summary>The accounts whose value of a field is as asked. field: its place in the catalogue, or one of <see cref="DomainColumn"/> and <see cref="KindColumn"/>.</summary>
    internal AccountSet Where(int field, Func<string, bool> holds)
    {
        var column = ColumnOf(field);
        var answers = new bool[column.Values.Count];
        for (var code = 0; code < answers.Length; code++) answers[code] = holds(column.Values[code]);
        var words = new ulong[AccountSet.WordsFor(Places)];
        var codes = column.Codes;
        for (var place = 0; place < codes.Length; place++)
        {
            if (answers[codes[place]]) words[place >> 6] |= 1UL << (place & 63);
        }

        return new AccountSet(words);
    }

    /// <summary>The accounts at these addresses; one that ends in @ stands for any domain.</summary>
    internal AccountSet At(IEnumerable<string> addresses) => Of(addresses.SelectMany(address => (address.EndsWith('@') ? byLocalPart : byAddress).Value.GetValueOrDefault(address, [])));

    /// <summary>The accounts of these people.</summary>
    internal AccountSet Of(IEnumerable<Guid> people) => Of(people.SelectMany(person => placesOf.GetValueOrDefault(person, [])));

    /// <summary>Stands for the domain of the address in place of a field.</summary>
    internal const int DomainColumn = -1;

    /// <summary>Stands for the kind of account in place of a field.</summary>
    internal const int KindColumn = -2;

    private AccountSet Of(IEnumerable<int> places)
    {
        var words = new ulong[AccountSet.WordsFor(Places)];
        foreach (var place in places) words[place >> 6] |= 1UL << (place & 63);
        return new AccountSet(words);
    }

    private Column ColumnOf(int field) => columns.GetOrAdd(field, asked => Column.Of(senders.Length, place => Value(senders[place], asked)));

    private static string Value(Sender? sender, int field) => sender is null ? "" : field switch
    {
        DomainColumn => sender.Domain,
        KindColumn => sender.Kind.ToString(),
        _ => sender.Value(field),
    };

    private Dictionary<string, int[]> Index(Func<Sender, string> key) =>
        Alive.Places().GroupBy(place => key(this[place]), StringComparer.OrdinalIgnoreCase).ToDictionary(group => group.Key, group => group.ToArray(), StringComparer.OrdinalIgnoreCase);

    /// <summary>A field over all places.</summary>
    private sealed record Column(int[] Codes, List<string> Values, Dictionary<string, int> Numbers)
    {
        public static Column Of(int places, Func<int, string> value)
        {
            var column = new Column(new int[places], [], new Dictionary<string, int>(StringComparer.Ordinal));
            for (var place = 0; place < places; place++) column.Codes[place] = column.Number(value(place));
            return column;
        }

        public Column With(int places, IEnumerable<int> changed, Func<int, string> value)
        {
            var codes = new int[places];
            Codes.CopyTo(codes.AsSpan());
            var fresh = changed.Select(place => (place, text: value(place))).ToArray();
            // A table in use is never changed: new values get a copy of the numbering.
            var numbered = fresh.All(one => Numbers.ContainsKey(one.text)) ? this with { Codes = codes } : new Column(codes, [.. Values], new Dictionary<string, int>(Numbers, StringComparer.Ordinal));
            foreach (var (place, text) in fresh) codes[place] = numbered.Number(text);
            return numbered;
        }

        private int Number(string text)
        {
            if (Numbers.TryGetValue(text, out var number)) return number;
            Numbers.Add(text, Values.Count);
            Values.Add(text);
            return Values.Count - 1;
        }
    }
}
