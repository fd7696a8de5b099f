using System.Collections.Immutable;
using System.Text.RegularExpressions;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>Proposes what a table's columns are, by their names in the demo's three languages and by what stands in them. A proposal: a person looks at it.</summary>
public static partial class MappingProposal
{
    private const int MinShare = 60; // in a hundred of a column's cells; fewer is a mixed column

    /// <summary>Folded column names by field; common practice in exports of personnel lists.</summary>
    private static readonly ImmutableDictionary<string, string> Names = Spread(
        ("displayName", "name|full name|display name|displayname|cn|anzeigename|vollstandiger name|namn|visningsnamn|employee|mitarbeiter"),
        ("givenName", "first name|given name|givenname|forename|vorname|fornamn|firstname"),
        ("surname", "last name|surname|family name|sn|nachname|familienname|efternamn|lastname"),
        ("title", "title|job title|position|role|titel|funktion|stellenbezeichnung|befattning|jobtitle"),
        ("postNominals", "post-nominals|post nominals|qualifications|letters"),
        ("department", "department|team|unit|abteilung|bereich|avdelning|departmentnumber"),
        ("organisation", "company|legal entity|entity|organisation|organization|firma|gesellschaft|unternehmen|bolag|foretag|o"),
        ("location", "location|office|site|city|standort|ort|niederlassung|kontor|stad|l"),
        ("telephone", "telephone|phone|direct line|direct dial|telefon|telefonnummer|durchwahl|telephonenumber|work phone"),
        ("mobile", "mobile|mobile phone|cell|mobil|mobiltelefon|handy|mobilnummer"),
        ("fax", "fax|telefax"),
        ("mail", "mail|email|e-mail|email address|e-mail address|e-post|epost|mailadresse|e-mail-adresse|emailadresse"),
        ("webAddress", "web|website|web address|url|webseite|webbplats|labeleduri"),
        ("employeeNumber", "employee number|employee no|employee id|staff number|personnel number|personalnummer|mitarbeiternummer|anstallningsnummer|id|employeenumber"),
        ("registrationNumber", "registration number|registration|licence number|legitimation"),
        ("language", "language|sprache|sprak|preferredlanguage"),
        ("street", "street|address|strasse|gata|gatuadress"),
        ("postalCode", "postcode|post code|postal code|zip|plz|postnummer"),
        ("country", "country|land|c"),
        ("pronouns", "pronouns|pronomen"));

    /// <summary>A mapping to begin from. Where the name is in two columns, it is joined from them.</summary>
    public static Mapping Propose(TableSample sample, FieldCatalogue catalogue)
    {
        var found = new Dictionary<string, string>(StringComparer.Ordinal);
        for (var column = 0; column < sample.Columns.Length; column++)
        {
            var name = sample.Columns[column];
            if (ByName(name, catalogue) is { } field) found.TryAdd(field, name);
        }

        for (var column = 0; column < sample.Columns.Length; column++)
        {
            var name = sample.Columns[column];
            if (!found.ContainsValue(name) && ByContent(sample, column) is { } field) found.TryAdd(field, name);
        }

        var fields = found.Where(pair => pair.Key != "mail").OrderBy(pair => catalogue.TryFind(pair.Key, out var place) ? place : int.MaxValue)
            .Select(pair => new FieldMapping(pair.Key, [pair.Value], null, [])).ToList();
        if (!found.ContainsKey("displayName") && found.TryGetValue("givenName", out var given) && found.TryGetValue("surname", out var surname))
            fields.Insert(0, new FieldMapping("displayName", [given, surname], " ", []));
        ImmutableArray<string> addresses = found.TryGetValue("mail", out var mail) ? [mail] : [];
        ImmutableArray<string> key = found.TryGetValue("employeeNumber", out var number) ? [number] : addresses;
        return new Mapping(key, addresses, [.. fields], HasStandardFields: false);
    }

    private static string? ByName(string column, FieldCatalogue catalogue)
    {
        var folded = TextFolding.Fold(column).Replace('_', ' ').Trim();
        if (Names.TryGetValue(folded, out var field)) return field;
        return catalogue.Fields.FirstOrDefault(candidate => TextFolding.Fold(candidate.Label) == folded || TextFolding.Fold(candidate.Name) == folded)?.Name;
    }

    private static string? ByContent(TableSample sample, int column)
    {
        var cells = sample.Rows.Where(row => column < row.Length && row[column].Trim().Length > 0).Select(row => row[column].Trim()).ToArray();
        if (cells.Length == 0) return null;
        bool Mostly(Func<string, bool> test) => cells.Count(test) * 100 >= cells.Length * MinShare;
        if (Mostly(MailAddress.IsOne)) return "mail";
        if (Mostly(cell => cell.StartsWith("http", StringComparison.OrdinalIgnoreCase))) return "webAddress";
        return Mostly(cell => NumberPattern().IsMatch(cell)) ? "telephone" : null;
    }

    private static ImmutableDictionary<string, string> Spread(params (string Field, string Names)[] fields) =>
        fields.SelectMany(field => field.Names.Split('|').Select(name => KeyValuePair.Create(name, field.Field))).ToImmutableDictionary(StringComparer.Ordinal);

    [GeneratedRegex(@"^(\+|0)[0-9 ()/.\-]{6,24}$", RegexOptions.CultureInvariant)]
    private static partial Regex NumberPattern();
}
