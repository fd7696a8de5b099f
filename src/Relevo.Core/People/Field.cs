using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>What a field's value is, which decides how it is checked, shown and linked.</summary>
public enum FieldKind
{
    /// <summary>Any text.</summary>
    Text,

    /// <summary>A telephone number, linked as <c>tel:</c> (RFC 3966).</summary>
    Phone,

    /// <summary>A mail address, linked as <c>mailto:</c> (RFC 6068).</summary>
    Mail,

    /// <summary>An http or https address.</summary>
    Web,

    /// <summary>A day, kept as RFC 3339's full-date and shown as 24 Nov 2026.</summary>
    Date,

    /// <summary>One of a list of texts.</summary>
    Choice,

    /// <summary>A picture of the library, kept as its SHA-256 in 64 hexadecimal digits.</summary>
    Picture,
}

/// <summary>How a telephone number is shown.</summary>
public enum PhoneDisplay
{
    /// <summary>With the plus sign and the country's number (ITU-T E.123).</summary>
    International,

    /// <summary>As it is dialled at home, for readers in the same country; for everybody else as <see cref="International"/>.</summary>
    NationalAtHome,

    /// <summary>As it stands in the source.</summary>
    AsTyped,
}

/// <summary>What a profile link leads to, which decides its icon.</summary>
public enum ProfileKind
{
    /// <summary>A page or a site.</summary>
    Web,

    /// <summary>A channel of films.</summary>
    Video,

    /// <summary>A feed of pictures.</summary>
    Photos,

    /// <summary>Short posts.</summary>
    Posts,

    /// <summary>A professional profile.</summary>
    Profession,

    /// <summary>Source code.</summary>
    Code,

    /// <summary>A podcast.</summary>
    Podcast,

    /// <summary>A calendar in which readers book a time.</summary>
    Booking,

    /// <summary>A place on a map.</summary>
    Map,

    /// <summary>A chat.</summary>
    Chat,
}

/// <summary>Where a field may hold a value, from the nearest to the person to the furthest.</summary>
public enum FieldHolder
{
    /// <summary>The person.</summary>
    Person,

    /// <summary>The team.</summary>
    Team,

    /// <summary>The office.</summary>
    Office,

    /// <summary>The legal entity.</summary>
    Entity,

    /// <summary>The whole company.</summary>
    Company,
}

/// <summary>What an employee may do with a field, and what a value must be.</summary>
/// <param name="IsOpen">True when employees may set it for themselves.</param>
/// <param name="NeedsApproval">True when what an employee sets waits for an administrator's yes.</param>
/// <param name="Pattern">A regular expression the whole value must match, or empty. Run without backtracking, so none can hang.</param>
/// <param name="MaxLength">Characters at most; 0 for the general limit.</param>
/// <param name="Choices">For a choice: the texts there are.</param>
public sealed record FieldRule(bool IsOpen, bool NeedsApproval, string Pattern, int MaxLength, ImmutableArray<string> Choices)
{
    /// <summary>Closed to employees, no further check.</summary>
    public static FieldRule Closed { get; } = new(false, false, "", 0, []);
}

/// <summary>A named, typed fact.</summary>
/// <param name="Name">Stable name used in designs and the API.</param>
/// <param name="Label">What people read.</param>
/// <param name="Kind">Its type.</param>
/// <param name="Attributes">Directory attributes it is read from unless a source's mapping says otherwise; the first non-empty wins.</param>
/// <param name="Holders">Where a value may stand.</param>
/// <param name="Rule">Checks, and whether employees may set it.</param>
/// <param name="Display">For telephone numbers.</param>
/// <param name="Source">Where the attribute is defined, or "company".</param>
/// <param name="Profile">For a web address that is a profile link: what it leads to.</param>
public sealed record Field(
    string Name, string Label, FieldKind Kind, ImmutableArray<string> Attributes, ImmutableArray<FieldHolder> Holders, FieldRule Rule, PhoneDisplay Display, string Source, ProfileKind? Profile = null)
{
    /// <summary>True for a field that the company made.</summary>
    public bool IsCompanyMade => Source == "company";
}

/// <summary>The fields a company works with, in a fixed order; designs refer to them by name, programs by index.</summary>
public sealed class FieldCatalogue
{
    private readonly Dictionary<string, int> indexes;

    /// <summary>Keeps the given fields in their order. Names must differ.</summary>
    public FieldCatalogue(ImmutableArray<Field> fields)
    {
        Fields = fields;
        indexes = fields.Select((field, index) => (field.Name, index)).ToDictionary(pair => pair.Name, pair => pair.index, StringComparer.Ordinal);
        Fingerprint = string.Join(' ', fields.Select(field => $"{field.Name}:{field.Kind}"));
    }

    /// <summary>The fields in order.</summary>
    public ImmutableArray<Field> Fields { get; }

    /// <summary>Equal for catalogues that programs can be shared between: the same names and kinds in the same order.</summary>
    public string Fingerprint { get; }

    /// <summary>Finds a field's place; false when there is none of that name.</summary>
    public bool TryFind(string name, out int index) => indexes.TryGetValue(name, out index);

    /// <summary>The field of that name, or null.</summary>
    public Field? Find(string name) => TryFind(name, out var index) ? Fields[index] : null;

    /// <summary>What people read for a field, or its name when it is gone.</summary>
    public string Label(string name) => Find(name)?.Label ?? name;

    /// <summary>
    /// The standard fields. Attributes follow inetOrgPerson (RFC 2798) and RFC 4519; labeledURI is RFC 2079. Post-nominals
    /// and registration number have no standard attribute; they are read from attributes of those names.
    /// </summary>
    public static FieldCatalogue Standard { get; } = new(
    [
        OfPerson("displayName", "Name", FieldKind.Text, ["displayName", "cn"], "RFC 2798 section 2.3"),
        OfPerson("givenName", "Given name", FieldKind.Text, ["givenName"], "RFC 4519 section 2.12"),
        OfPerson("surname", "Surname", FieldKind.Text, ["sn"], "RFC 4519 section 2.32"),
        OfPerson("postNominals", "Post-nominals", FieldKind.Text, ["postNominals"], "no standard attribute"),
        OfPerson("title", "Title", FieldKind.Text, ["title"], "RFC 4519 section 2.38"),
        OfPerson("department", "Department", FieldKind.Text, ["departmentNumber"], "RFC 2798 section 2.2"),
        OfPerson("organisation", "Legal entity", FieldKind.Text, ["o"], "RFC 4519 section 2.19"),
        OfPerson("location", "Location", FieldKind.Text, ["l"], "RFC 4519 section 2.16"),
        Anywhere("telephone", "Telephone", FieldKind.Phone, ["telephoneNumber"], "RFC 4519 section 2.35"),
        OfPerson("mobile", "Mobile", FieldKind.Phone, ["mobile"], "RFC 4524 section 2.18"),
        OfPerson("mail", "Mail address", FieldKind.Mail, ["mail"], "RFC 4524 section 2.16"),
        Anywhere("webAddress", "Web address", FieldKind.Web, ["labeledURI"], "RFC 2079"),
        OfPerson("registrationNumber", "Registration number", FieldKind.Text, ["registrationNumber"], "no standard attribute"),
        Anywhere("language", "Language", FieldKind.Text, ["preferredLanguage"], "RFC 2798 section 2.7"),
        OfPerson("employeeNumber", "Employee number", FieldKind.Text, ["employeeNumber"], "RFC 2798 section 2.4"),
        Anywhere("street", "Street", FieldKind.Text, ["street"], "RFC 4519 section 2.34"),
        Anywhere("postalCode", "Postal code", FieldKind.Text, ["postalCode"], "RFC 4519 section 2.23"),
        Anywhere("country", "Country", FieldKind.Text, ["c"], "RFC 4519 section 2.2"),
        Anywhere("fax", "Fax", FieldKind.Phone, ["facsimileTelephoneNumber"], "RFC 4519 section 2.10"),
        OfPerson("pronouns", "Pronouns", FieldKind.Text, ["pronouns"], "no standard attribute"),
        OfPerson(GroupNames.Field, "Groups", FieldKind.Text, [], "RFC 4519 sections 2.17 and 2.40, by their members"),
        OfPerson("manager", "Manager", FieldKind.Text, ["manager"], "RFC 4524 section 2.15"),
        OfPerson("portrait", "Portrait", FieldKind.Picture, ["jpegPhoto"], "RFC 2798 section 2.6, jpegPhoto"),
        Anywhere("notice", "Notice", FieldKind.Text, [], "no standard attribute"),
        OfEntity("legalName", "Registered name"),
        OfEntity("legalForm", "Legal form"),
        OfEntity("seat", "Seat"),
        OfEntity("register", "Register"),
        OfEntity("registerNumber", "Register number"),
        OfEntity("registeredOffice", "Registered office"),
        OfEntity("officers", "Officers"),
        OfEntity("chair", "Chair of the board"),
        OfEntity("taxId", "Tax id"),
    ]);

    private static Field OfPerson(string name, string label, FieldKind kind, ImmutableArray<string> attributes, string source) =>
        new(name, label, kind, attributes, [FieldHolder.Person], FieldRule.Closed, PhoneDisplay.International, source);

    /// <summary>What a legal entity's record states in register matters; inetOrgPerson has nothing of the kind.</summary>
    private static Field OfEntity(string name, string label) =>
        new(name, label, FieldKind.Text, [], [FieldHolder.Entity, FieldHolder.Company], FieldRule.Closed, PhoneDisplay.International, "no standard attribute");

    private static Field Anywhere(string name, string label, FieldKind kind, ImmutableArray<string> attributes, string source) =>
        new(name, label, kind, attributes, [.. Enum.GetValues<FieldHolder>()], FieldRule.Closed, PhoneDisplay.International, source);
}
