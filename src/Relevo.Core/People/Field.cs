using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>What a field's value is, which decides how it is linked and checked.</summary>
public enum FieldKind
{
    /// <summary>Any text.</summary>
    Text,

    /// <summary>A telephone number, linked as <c>tel:</c> when it is global (RFC 3966).</summary>
    Phone,

    /// <summary>A mail address, linked as <c>mailto:</c> (RFC 6068).</summary>
    Mail,

    /// <summary>An http or https address.</summary>
    Web,
}

/// <summary>A named, typed fact of a person.</summary>
/// <param name="Name">Stable name used in designs and the API.</param>
/// <param name="Label">What people read.</param>
/// <param name="Kind">Its type.</param>
/// <param name="Attributes">Directory attributes it is read from, first non-empty wins.</param>
/// <param name="Source">Where the attribute is defined.</param>
public sealed record Field(string Name, string Label, FieldKind Kind, ImmutableArray<string> Attributes, string Source);

/// <summary>The fields a company works with, in a fixed order; designs refer to them by name, programs by index.</summary>
public sealed class FieldCatalogue
{
    private readonly Dictionary<string, int> indexes;

    /// <summary>Keeps the given fields in their order. Names must differ.</summary>
    public FieldCatalogue(ImmutableArray<Field> fields)
    {
        Fields = fields;
        indexes = fields.Select((field, index) => (field.Name, index)).ToDictionary(pair => pair.Name, pair => pair.index, StringComparer.Ordinal);
    }

    /// <summary>The fields in order.</summary>
    public ImmutableArray<Field> Fields { get; }

    /// <summary>Finds a field's place; false when there is none of that name.</summary>
    public bool TryFind(string name, out int index) => indexes.TryGetValue(name, out index);

    /// <summary>
    /// The standard fields. Attributes follow inetOrgPerson (RFC 2798) and RFC 4519; labeledURI is RFC 2079. Post-nominals
    /// and registration number have no standard attribute; they are read from attributes of those names.
    /// </summary>
    public static FieldCatalogue Standard { get; } = new(
    [
        new("displayName", "Name", FieldKind.Text, ["displayName", "cn"], "RFC 2798 section 2.3"),
        new("givenName", "Given name", FieldKind.Text, ["givenName"], "RFC 4519 section 2.12"),
        new("surname", "Surname", FieldKind.Text, ["sn"], "RFC 4519 section 2.32"),
        new("postNominals", "Post-nominals", FieldKind.Text, ["postNominals"], "company"),
        new("title", "Title", FieldKind.Text, ["title"], "RFC 4519 section 2.38"),
        new("department", "Department", FieldKind.Text, ["departmentNumber"], "RFC 2798 section 2.2"),
        new("organisation", "Legal entity", FieldKind.Text, ["o"], "RFC 4519 section 2.19"),
        new("location", "Location", FieldKind.Text, ["l"], "RFC 4519 section 2.16"),
        new("telephone", "Telephone", FieldKind.Phone, ["telephoneNumber"], "RFC 4519 section 2.35"),
        new("mobile", "Mobile", FieldKind.Phone, ["mobile"], "RFC 4524 section 2.18"),
        new("mail", "Mail address", FieldKind.Mail, ["mail"], "RFC 4524 section 2.16"),
        new("webAddress", "Web address", FieldKind.Web, ["labeledURI"], "RFC 2079"),
        new("registrationNumber", "Registration number", FieldKind.Text, ["registrationNumber"], "company"),
        new("language", "Language", FieldKind.Text, ["preferredLanguage"], "RFC 2798 section 2.7"),
        new("employeeNumber", "Employee number", FieldKind.Text, ["employeeNumber"], "RFC 2798 section 2.4"),
    ]);
}
