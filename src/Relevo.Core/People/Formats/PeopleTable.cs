using System.Globalization;
using System.Text;
using CsvHelper;

namespace Relevo.Core.People.Formats;

/// <summary>Writes people as a table. Source: RFC 4180: comma, CRLF, quoted where needed; UTF-8 with a mark, so that spreadsheets see the accents (common practice).</summary>
public static class PeopleTable
{
    /// <summary>A header of labels, then a row for each person: every field's resolved value as it is kept, then all addresses of their own.</summary>
    public static byte[] Write(CompanyRecords records, IEnumerable<Person> people)
    {
        var bytes = new MemoryStream();
        using (var writer = new CsvWriter(new StreamWriter(bytes, new UTF8Encoding(encoderShouldEmitUTF8Identifier: true)), CultureInfo.InvariantCulture))
        {
            foreach (var field in records.Fields.Fields) writer.WriteField(field.Label);
            writer.WriteField("All addresses");
            writer.NextRecord();
            foreach (var person in people)
            {
                var values = FieldResolution.Explain(records, person, person.FindAccount(null)).ToDictionary(field => field.Name, field => field.Stored, StringComparer.Ordinal);
                foreach (var field in records.Fields.Fields) writer.WriteField(values.GetValueOrDefault(field.Name, ""));
                writer.WriteField(string.Join("; ", person.OwnAccounts.Select(account => account.Address)));
                writer.NextRecord();
            }
        }

        return bytes.ToArray();
    }
}
