using System.Text;

namespace Relevo.Core.People.Formats;

/// <summary>Writes people as vCard 4.0. Source: RFC 6350; telephone numbers as URIs (section 6.4.1).</summary>
public static class VCard
{
    private const int MaxLineOctets = 75; // RFC 6350 section 3.2

    /// <summary>One card a person, in UTF-8, lines ended by CRLF and folded between characters.</summary>
    public static byte[] Write(CompanyRecords records, IEnumerable<Person> people)
    {
        var cards = new StringBuilder();
        foreach (var person in people) Write(cards, records, person);
        return Encoding.UTF8.GetBytes(cards.ToString());
    }

    private static void Write(StringBuilder cards, CompanyRecords records, Person person)
    {
        var values = FieldResolution.Explain(records, person, person.FindAccount(null)).ToDictionary(field => field.Name, StringComparer.Ordinal);
        string Text(string field) => values.TryGetValue(field, out var value) ? Escape(value.Value.Text) : "";
        string Part(string field) => Text(field).Replace(";", "\\;", StringComparison.Ordinal);
        Line(cards, "BEGIN:VCARD");
        Line(cards, "VERSION:4.0");
        Line(cards, "KIND:individual");
        Line(cards, $"UID:urn:uuid:{person.Id}");
        Line(cards, $"FN:{(Text("displayName") is { Length: > 0 } name ? name : Escape(person.Address))}");
        Line(cards, $"N:{Part("surname")};{Part("givenName")};;;{Part("postNominals")}");
        foreach (var account in person.OwnAccounts) Line(cards, account.Kind == AccountKind.Own ? $"EMAIL;TYPE=work;PREF=1:{Escape(account.Address)}" : $"EMAIL;TYPE=work:{Escape(account.Address)}");
        Telephone(cards, values, "telephone", "\"work,voice\"");
        Telephone(cards, values, "mobile", "cell");
        Telephone(cards, values, "fax", "\"work,fax\"");
        Property(cards, "TITLE", Text("title"));
        if (Text("organisation").Length + Text("department").Length > 0) Line(cards, $"ORG:{Part("organisation")};{Part("department")}");
        if (Text("street").Length + Text("location").Length + Text("postalCode").Length + Text("country").Length > 0) Line(cards, $"ADR;TYPE=work:;;{Part("street")};{Part("location")};;{Part("postalCode")};{Part("country")}");
        if (values.TryGetValue("webAddress", out var web) && web.Value.Link.Length > 0) Line(cards, $"URL;TYPE=work:{web.Value.Link}");
        Property(cards, "LANG", Text("language"));
        Line(cards, "END:VCARD");
    }

    private static void Telephone(StringBuilder cards, Dictionary<string, ResolvedField> values, string field, string type)
    {
        if (!values.TryGetValue(field, out var value) || value.Value.IsEmpty) return;
        Line(cards, value.Value.Link.Length > 0 ? $"TEL;VALUE=uri;TYPE={type}:{value.Value.Link}" : $"TEL;VALUE=text;TYPE={type}:{Escape(value.Value.Text)}");
    }

    private static void Property(StringBuilder cards, string name, string text)
    {
        if (text.Length > 0) Line(cards, $"{name}:{text}");
    }

    /// <summary>A text; only in parts of a compound value semicolons are escaped as well. Source: RFC 6350 sections 3.4 and 4, TEXT-CHAR.</summary>
    private static string Escape(string text) => text
        .Replace("\\", "\\\\", StringComparison.Ordinal).Replace(",", "\\,", StringComparison.Ordinal).Replace("\n", "\\n", StringComparison.Ordinal);

    private static void Line(StringBuilder cards, string line)
    {
        var octets = 0;
        foreach (var character in line.EnumerateRunes())
        {
            if (octets + character.Utf8SequenceLength > MaxLineOctets)
            {
                cards.Append("\r\n ");
                octets = 1;
            }

            cards.Append(character.ToString());
            octets += character.Utf8SequenceLength;
        }

        cards.Append("\r\n");
    }
}
