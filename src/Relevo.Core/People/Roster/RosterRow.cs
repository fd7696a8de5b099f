using System.Text;
using Relevo.Core.Rules;

namespace Relevo.Core.People.Roster;

/// <summary>
/// What facets look at, small and one after the other in memory: places of units in their chart and of the source among the sources (-1 for
/// none), which of the first fields have a value, and states.
/// </summary>
internal readonly record struct RosterKey(int Entity, int Office, int Team, int Source, ulong Present, bool IsRetired, bool IsDoubtful, bool IsOverridden)
{
    /// <summary>The place that says "in several sources": they are looked up on the row.</summary>
    public const int Several = -2;

    /// <summary>Fields told by <see cref="Present"/>; later ones are looked up on the row.</summary>
    public const int PresentFields = 64;
}

/// <summary>A person with what lists, searches and facets look at, computed once for each state of the person.</summary>
public sealed class RosterRow
{
    private static readonly string[] SearchedFields = ["displayName", "title", "department", "location", "organisation", "employeeNumber"];
    private readonly string?[] stored;

    /// <summary>Resolves the person.</summary>
    public RosterRow(CompanyRecords records, Person person)
    {
        Person = person;
        var layers = FieldResolution.Layers(records, person, null);
        var fields = records.Fields.Fields;
        stored = new string?[fields.Length];
        foreach (var layer in layers)
        {
            foreach (var pair in layer.Facts.Pairs)
            {
                if (records.Fields.TryFind(pair.Key, out var index)) stored[index] ??= pair.Value;
            }
        }

        if (records.Fields.TryFind("mail", out var mail) && person.Address.Length > 0) stored[mail] = person.Address;
        Name = Value(records, "displayName") is { Length: > 0 } name ? name : person.Address.Length > 0 ? person.Address : person.Entries.Select(entry => entry.Key).FirstOrDefault("nobody");
        FoldedName = TextFolding.Fold(Name);
        Team = records.Units.Find(UnitKind.Team, Value(records, "department"));
        Office = records.Units.Find(UnitKind.Office, Value(records, "location"));
        Entity = records.Units.Find(UnitKind.Entity, Value(records, "organisation"));
        IsDoubtful = FindDoubt(records);
        Searched = Encoding.UTF8.GetBytes(Fold(records));
        Key = new RosterKey(
            records.Units.PlaceOf(Entity), records.Units.PlaceOf(Office), records.Units.PlaceOf(Team),
            person.Entries.Length == 1 ? records.PlaceOfSource(person.Entries[0].Source) : RosterKey.Several, Present(),
            person.IsRetired, IsDoubtful, person.Override.Count > 0 || person.Own.Count > 0 || person.Accounts.Any(account => account.Override.Count > 0));
    }

    /// <summary>The person.</summary>
    public Person Person { get; }

    /// <summary>What the person is called.</summary>
    public string Name { get; }

    /// <summary>The name without case and accents, by which lists are sorted.</summary>
    public string FoldedName { get; }

    /// <summary>The team named in the department, or null.</summary>
    public Unit? Team { get; }

    /// <summary>The office named in the location, or null.</summary>
    public Unit? Office { get; }

    /// <summary>The legal entity, or null.</summary>
    public Unit? Entity { get; }

    /// <summary>True when a value is not what its field's kind says.</summary>
    public bool IsDoubtful { get; }

    /// <summary>Everything a search looks into, folded; digits of the telephone numbers on lines of their own. In UTF-8, which takes half the memory: a row's own is only read when everybody's is put together.</summary>
    internal byte[] Searched { get; }

    /// <summary>What facets look at.</summary>
    internal RosterKey Key { get; }

    /// <summary>The resolved value of a field by its place in the catalogue, as the record has it; null or empty when there is none.</summary>
    public string? Stored(int field) => field < stored.Length ? stored[field] : null;

    /// <summary>
    /// Some values for one of the person's accounts, for readers nobody knows: what the row has resolved, unless something is set for the account alone.
    /// fields: catalogue indexes; target: takes their values in that order; known: what was prepared before, used over and over by one thread.
    /// </summary>
    public void Resolve(CompanyRecords records, Account account, ReadOnlySpan<int> fields, Span<FieldValue> target, PreparedValues known)
    {
        if (account.Override.Count > 0 || account.Mailbox.Count > 0)
        {
            FieldResolution.ResolveSome(records, Person, account, fields, target);
            return;
        }

        var region = Value(records, "country") ?? "";
        for (var place = 0; place < fields.Length; place++)
        {
            var field = records.Fields.Fields[fields[place]];
            target[place] = known.Prepare(field, stored[fields[place]], account.Address, region);
        }
    }

    /// <summary>One of the person's accounts as rules see it. What nothing is set for alone shares the row's own values.</summary>
    public Sender SenderOf(CompanyRecords records, Account account)
    {
        if (account.Override.Count > 0 || account.Mailbox.Count > 0) return Sender.Of(records, Person, account);
        if (!records.Fields.TryFind("mail", out var mail) || stored[mail] == account.Address) return new Sender(Person.Id, Name, account.Address, account.Kind, stored);
        var own = (string?[])stored.Clone();
        own[mail] = account.Address;
        return new Sender(Person.Id, Name, account.Address, account.Kind, own);
    }

    private string? Value(CompanyRecords records, string field) => records.Fields.TryFind(field, out var index) ? stored[index] : null;

    private ulong Present()
    {
        ulong present = 0;
        for (var index = 0; index < Math.Min(stored.Length, RosterKey.PresentFields); index++)
        {
            if (!string.IsNullOrEmpty(stored[index])) present |= 1UL << index;
        }

        return present;
    }

    private bool FindDoubt(CompanyRecords records)
    {
        var region = Value(records, "country") ?? "";
        var fields = records.Fields.Fields;
        for (var index = 0; index < fields.Length; index++)
        {
            if (fields[index].Kind is FieldKind.Phone or FieldKind.Mail or FieldKind.Web && stored[index] is { Length: > 0 } text && FieldCheck.Doubt(fields[index], text, region) is not null) return true;
        }

        return false;
    }

    private string Fold(CompanyRecords records)
    {
        var text = new StringBuilder(160);
        foreach (var field in SearchedFields)
        {
            if (Value(records, field) is { Length: > 0 } value) text.Append(TextFolding.Fold(value)).Append(' ');
        }

        foreach (var account in Person.Accounts) text.Append(TextFolding.Fold(account.Address)).Append(' ');
        var fields = records.Fields.Fields;
        for (var index = 0; index < fields.Length; index++)
        {
            if (fields[index].Kind != FieldKind.Phone || stored[index] is not { Length: > 0 } number) continue;
            text.Append('\n');
            foreach (var character in number)
            {
                if (char.IsAsciiDigit(character)) text.Append(character);
            }
        }

        return text.ToString();
    }
}
