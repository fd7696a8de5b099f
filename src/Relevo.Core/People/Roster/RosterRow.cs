using System.Text;

namespace Relevo.Core.People.Roster;

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
        for (var index = 0; index < fields.Length; index++) stored[index] = FieldResolution.First(layers, fields[index].Name);
        if (records.Fields.TryFind("mail", out var mail) && person.Address.Length > 0) stored[mail] = person.Address;
        Name = Value(records, "displayName") is { Length: > 0 } name ? name : person.Address.Length > 0 ? person.Address : person.Entries.Select(entry => entry.Key).FirstOrDefault("nobody");
        FoldedName = TextFolding.Fold(Name);
        Team = records.Units.Find(UnitKind.Team, Value(records, "department"));
        Office = records.Units.Find(UnitKind.Office, Value(records, "location"));
        Entity = records.Units.Find(UnitKind.Entity, Value(records, "organisation"));
        IsDoubtful = FindDoubt(records);
        Searched = Fold(records);
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

    /// <summary>Everything a search looks into, folded; after the first line break, digits of the telephone numbers.</summary>
    public string Searched { get; }

    /// <summary>The resolved value of a field by its place in the catalogue, as the record has it; null or empty when there is none.</summary>
    public string? Stored(int field) => field < stored.Length ? stored[field] : null;

    private string? Value(CompanyRecords records, string field) => records.Fields.TryFind(field, out var index) ? stored[index] : null;

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
