using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using FsCheck.Xunit;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Xunit;

namespace Relevo.Core.Tests.People.Sources;

public sealed class TableTests
{
    private const string German = "Personalnummer;Vorname;Nachname;E-Mail;Funktion;Durchwahl;Standort\r\n10001;Söhnke;Müller;s.mueller@x.example;Tierärztin;030 23125 118;Köln\r\n10002;Mia;Łuk;mia@x.example;\"Leitung; Labor\";;Berlin\r\n";

    [Theory]
    [InlineData("utf-8", false, TextEncoding.Utf8)]
    [InlineData("utf-8", true, TextEncoding.Utf8)]
    [InlineData("utf-16", true, TextEncoding.Utf16LittleEndian)]
    [InlineData("utf-16", false, TextEncoding.Utf16LittleEndian)]
    [InlineData("utf-16BE", true, TextEncoding.Utf16BigEndian)]
    [InlineData("windows-1252", false, TextEncoding.Windows1252)]
    public void What_offices_send_is_read_whatever_its_encoding(string name, bool hasMark, TextEncoding encoding)
    {
        var text = name == "windows-1252" ? German.Replace("Łuk", "Luk", StringComparison.Ordinal) : German;
        var net = name == "windows-1252" ? CodePagesEncodingProvider.Instance.GetEncoding(1252)! : Encoding.GetEncoding(name);
        byte[] file = [.. hasMark ? net.GetPreamble() : [], .. net.GetBytes(text)];
        var sample = TableDetection.Look(file, isWhole: true)!;
        Assert.Equal(new TableForm(encoding, ";", true), sample.Form);
        var mapping = MappingProposal.Propose(sample, FieldCatalogue.Standard);
        var content = TableListing.Read(file, sample.Form, mapping, FieldCatalogue.Standard, LdifLimits.Default);
        Assert.Empty(content.Problems);
        Assert.Equal(["Söhnke Müller", name == "windows-1252" ? "Mia Luk" : "Mia Łuk"], content.People.Select(person => person.Name));
        Assert.Equal(("10001", "Tierärztin", "Köln", "030 23125 118"), (content.People[0].Key, content.People[0].Facts["title"], content.People[0].Facts["location"], content.People[0].Facts["telephone"]));
        Assert.Equal("Leitung; Labor", content.People[1].Facts["title"]);
        Assert.Equal(["s.mueller@x.example"], content.People[0].Addresses);
    }

    [Theory]
    [InlineData("a,b,c\n1,2,3\n4,5,6\n", ",")]
    [InlineData("a;b;c\n1,5;2,5;3\n4,1;5;6\n", ";")]
    [InlineData("a\tb\n\"x,y\"\t2\n", "\t")]
    [InlineData("a|b\n1|2\n", "|")]
    public void The_delimiter_is_found(string file, string delimiter) => Assert.Equal(delimiter, Look(file).Form.Delimiter);

    [Fact]
    public void Columns_without_names_are_proposed_by_what_stands_in_them()
    {
        var sample = Look("Mia Lindqvist,mia@x.example,+46 8 465 004 12,https://x.example/mia\nJoel,joel@x.example,,https://x.example/joel\n");
        Assert.False(sample.Form.HasHeader);
        var mapping = MappingProposal.Propose(sample, FieldCatalogue.Standard);
        Assert.Equal(["Column 2"], mapping.Addresses);
        Assert.Equal(["telephone: Column 3", "webAddress: Column 4"], mapping.Fields.Select(field => $"{field.Field}: {field.Attributes[0]}"));
    }

    [Fact]
    public void A_broken_quote_is_named_with_the_line_it_opens_on_and_nobody_is_taken()
    {
        var file = new StringBuilder("Name,E-Mail\n");
        for (var line = 2; line <= 61_300; line++) file.Append(line == 61_204 ? "\"Broken,b@x.example\n" : $"P{line},p{line}@x.example\n");
        var problem = Assert.Single(Read(file.ToString()).Problems);
        Assert.Equal(61_204, problem.Line);
        Assert.Contains("quotation mark", problem.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("Name,E-Mail\nMia,mia@x.example,extra\n", 2, "3 cells")]
    [InlineData("Name,E-Mail\n\n\nMia,mia@x.example\n\nMia,mia@x.example\n", 6, "line 4")]
    [InlineData("Name,Mailbox\nMia,mia@x.example\n", 1, "no longer has the column")]
    [InlineData("", 1, "empty")]
    [InlineData("Name,E-Mail\nMia,\n", 2, "known again")]
    public void A_fault_in_a_table_is_named_with_its_line(string file, long line, string words)
    {
        var mapping = MappingProposal.Propose(Look("Name,E-Mail\nMia,mia@x.example\n"), FieldCatalogue.Standard);
        var problem = Assert.Single(TableListing.Read(Encoding.UTF8.GetBytes(file), new TableForm(TextEncoding.Utf8, ",", true), mapping, FieldCatalogue.Standard, LdifLimits.Default).Problems);
        Assert.Equal(line, problem.Line);
        Assert.Contains(words, problem.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_cell_may_hold_line_breaks_and_quotes()
    {
        var person = Assert.Single(Read("Name,E-Mail,Title\n\"Mia \"\"Mimi\"\" Lindqvist\",mia@x.example,\"Vet\nand more\"\n").People);
        Assert.Equal("Mia \"Mimi\" Lindqvist", person.Name);
        Assert.Equal("Vet and more", person.Facts["title"]);
    }

    /// <summary>Outside check: what the general CSV library writes, in the form of RFC 4180, is read with the same values.</summary>
    [Property]
    public void Whatever_a_CSV_library_writes_is_read_back(string[] names)
    {
        var rows = names.Select(name => FieldValue.OneLine((name ?? "").Replace("\0", "", StringComparison.Ordinal))).Where(name => name.Length is > 0 and < 900).ToArray();
        var text = new StringWriter();
        using (var writer = new CsvWriter(text, new CsvConfiguration(System.Globalization.CultureInfo.InvariantCulture) { NewLine = "\r\n" }))
        {
            writer.WriteField("Name");
            writer.WriteField("Id");
            writer.NextRecord();
            for (var index = 0; index < rows.Length; index++)
            {
                writer.WriteField(rows[index]);
                writer.WriteField($"k{index}");
                writer.NextRecord();
            }
        }

        var mapping = new Mapping(["Id"], [], [new("displayName", ["Name"], null, [])], HasStandardFields: false);
        var content = TableListing.Read(new UTF8Encoding(false, false).GetBytes(text.ToString()), new TableForm(TextEncoding.Utf8, ",", true), mapping, FieldCatalogue.Standard, LdifLimits.Default);
        if (rows.Length == 0) return;
        Assert.Empty(content.Problems);
        Assert.Equal(rows.Select(Wellformed), content.People.Select(person => person.Name));
    }

    private static string Wellformed(string text) => Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text));

    private static TableSample Look(string file) => TableDetection.Look(Encoding.UTF8.GetBytes(file), isWhole: true)!;

    private static DirectoryContent Read(string file)
    {
        var sample = Look(file[..Math.Min(file.Length, 2000)]);
        return TableListing.Read(Encoding.UTF8.GetBytes(file), sample.Form, MappingProposal.Propose(sample, FieldCatalogue.Standard), FieldCatalogue.Standard, LdifLimits.Default);
    }
}
