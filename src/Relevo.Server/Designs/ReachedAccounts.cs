using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.Rules.Reach;

namespace Relevo.Server.Designs;

/// <summary>
/// Every account of everybody who is not retired, with the values that designs ask for, field by field: a field is resolved when a design first shows it,
/// so that an edit costs no more than what it adds. Belongs to one roster.
/// </summary>
public sealed class ReachedAccounts(PeopleRoster roster)
{
    [ThreadStatic]
    private static FieldValue[]? assembled;

    private readonly Lock building = new();
    private readonly (RosterRow Row, Account Account)[] accounts = Accounts(roster);
    private readonly FieldValue[]?[] columns = new FieldValue[]?[roster.Records.Fields.Fields.Length];

    /// <summary>The roster they are of.</summary>
    public PeopleRoster Roster => roster;

    /// <summary>How many accounts.</summary>
    public int Count => accounts.Length;

    /// <summary>The account at a place, in the order of names.</summary>
    public (RosterRow Row, Account Account) this[int place] => accounts[place];

    /// <summary>Resolves the fields of these catalogue indexes for everybody, those that are not yet.</summary>
    public void Prepare(IEnumerable<int> fields)
    {
        lock (building)
        {
            var missing = fields.Distinct().Where(field => columns[field] is null).ToArray();
            if (missing.Length == 0) return;
            var fresh = Array.ConvertAll(missing, _ => new FieldValue[accounts.Length]);
            Parallel.For(0, accounts.Length, () => (Values: new FieldValue[missing.Length], Known: new PreparedValues()), (place, _, own) =>
            {
                accounts[place].Row.Resolve(roster.Records, accounts[place].Account, missing, own.Values, own.Known);
                for (var index = 0; index < missing.Length; index++) fresh[index][place] = own.Values[index];
                return own;
            }, _ => { });
            for (var index = 0; index < missing.Length; index++) columns[missing[index]] = fresh[index];
        }
    }

    /// <summary>One value of an account. The field must have been prepared.</summary>
    public FieldValue Value(int place, int field) => columns[field]![place];

    /// <summary>An account's values in catalogue order, those that were prepared. Good until the same thread asks again.</summary>
    public ReadOnlySpan<FieldValue> Values(int place)
    {
        if (assembled is null || assembled.Length != columns.Length) assembled = new FieldValue[columns.Length];
        for (var field = 0; field < columns.Length; field++) assembled[field] = columns[field] is { } column ? column[place] : FieldValue.None;
        return assembled;
    }

    private static (RosterRow Row, Account Account)[] Accounts(PeopleRoster roster)
    {
        var accounts = new List<(RosterRow, Account)>(roster.ActiveCount);
        foreach (var row in roster.Rows)
        {
            if (row.Person.IsRetired) continue;
            foreach (var account in row.Person.Accounts) accounts.Add((row, account));
        }

        return [.. accounts];
    }
}

/// <summary>Those of the accounts that rules reach with a design and that have a value in a field, or all of them. The field must have been prepared.</summary>
public sealed class ReachedGroup
{
    private readonly ReachedAccounts all;
    private readonly int[]? places;

    /// <summary>Picks the accounts. reached: those a design reaches, or null for everybody. field: its catalogue index, or -1 for any value. Compared without regard to case.</summary>
    public ReachedGroup(ReachedAccounts all, bool[]? reached, int field, string value)
    {
        this.all = all;
        if (reached is null && field < 0) return;
        places = [.. Enumerable.Range(0, all.Count).Where(place => (reached is null || reached[place]) && (field < 0 || string.Equals(all.Value(place, field).Text, value, StringComparison.OrdinalIgnoreCase)))];
    }

    /// <summary>How many.</summary>
    public int Count => places?.Length ?? all.Count;

    /// <summary>The account at a place of the group.</summary>
    public (RosterRow Row, Account Account) this[int place] => all[places?[place] ?? place];

    /// <summary>One value of an account. The field must have been prepared.</summary>
    public FieldValue Value(int place, int field) => all.Value(places?[place] ?? place, field);

    /// <summary>An account's values in catalogue order. Good until the same thread asks again.</summary>
    public ReadOnlySpan<FieldValue> Values(int place) => all.Values(places?[place] ?? place);
}

/// <summary>Keeps the accounts of the newest roster that was asked for, and which of them the newest map reaches with which design.</summary>
public sealed class CurrentAccounts
{
    private readonly Lock exchange = new();
    private ReachedAccounts? newest;
    private (ReachMap Map, ReachedAccounts Accounts, Dictionary<Guid, AccountSet> Sets, Dictionary<Guid, bool[]> Places)? reached;

    /// <summary>The accounts of this roster.</summary>
    public ReachedAccounts Of(PeopleRoster roster)
    {
        lock (exchange) return newest?.Roster == roster ? newest : newest = new ReachedAccounts(roster);
    }

    /// <summary>Which of the accounts rules reach with a design somewhere; null when no rule does, as with a design that is being made: then it is looked at on everybody.</summary>
    public bool[]? ReachedBy(Guid design, ReachMap map, ReachedAccounts accounts)
    {
        if (!map.Rules.Signature.Any(rule => rule.IsOn && rule.Then.AllDesigns.Contains(design))) return null;
        lock (exchange)
        {
            if (reached is not { } known || known.Map != map || known.Accounts != accounts) reached = known = (map, accounts, ReachFindings.ReachedBy(map), []);
            if (!known.Sets.TryGetValue(design, out var set)) return null;
            if (known.Places.TryGetValue(design, out var places)) return places;
            return known.Places[design] = [.. Enumerable.Range(0, accounts.Count).Select(place => map.Accounts.Find(accounts[place].Row.Person.Id, accounts[place].Account.Address) is >= 0 and var at && set.Contains(at))];
        }
    }
}
