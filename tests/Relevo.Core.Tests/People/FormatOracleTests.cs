using System.Buffers;
using System.Text;
using System.Text.Json.Nodes;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Xunit;

namespace Relevo.Core.Tests.People;

/// <summary>
/// Outside checks of the files Relevo reads and writes: the npm packages ical.js (RFC 6350) and ldif (RFC 2849) read what it writes, and
/// ldapmodify of OpenLDAP takes the RFC's examples as it does.
/// </summary>
public sealed class FormatOracleTests
{
    private const int People = 200;
    private static readonly string[] Pieces = ["Maren", "O'Neill", "von der Lühe", "a;b", "c,d", "e\\f", "\\n", "汉字", "🐈", "\"q\"", ":", " ", "Smådjursklinik", "<x>", "=?", "ß"];

    [Fact]
    public async Task Cards_of_people_with_awkward_values_are_read_as_they_were_meant()
    {
        var random = new Random(6350);
        var people = Enumerable.Range(0, People).Select(index => Build.Person(
            $"p{index}",
            ("displayName", $"N{Words(random)}"), ("surname", Words(random)), ("givenName", Words(random)), ("postNominals", "Dipl. ECVIM-CA, MRCVS"), ("title", Words(random)),
            ("organisation", Words(random)), ("department", Words(random)), ("telephone", $"+44 20 7946 {index:0000} x{index % 90 + 10}"), ("street", Words(random)), ("location", Words(random)),
            ("webAddress", "https://brackenfold.example/a;b,c"))).ToArray();
        var cards = people.Select(person => Encoding.UTF8.GetString(VCard.Write(CompanyRecords.Plain, [person]))).ToArray();
        Assert.All(cards, card => Assert.All(card.Split("\r\n"), line => Assert.True(Encoding.UTF8.GetByteCount(line) <= 75)));
        var answers = await Outside.AskAsync("formats.mjs", new JsonObject { ["cards"] = new JsonArray([.. cards.Select(card => (JsonNode)card)]), ["ldif"] = "version: 1\n\ndn: cn=a\ncn: a\n" });
        for (var index = 0; index < People; index++)
        {
            var values = FieldResolution.Explain(CompanyRecords.Plain, people[index], people[index].FindAccount(null)).ToDictionary(field => field.Name, field => field.Value);
            var read = answers["cards"]![index]!.AsArray();
            string Value(string property) => Text(read.Single(one => one!["property"]!.ToString() == property)!["value"]!);
            string Part(string property, int part) => Text(read.Single(one => one!["property"]!.ToString() == property)!["value"]![part]!);
            Assert.Equal(values["displayName"].Text, Value("FN"));
            Assert.Equal(values["title"].Text, Value("TITLE"));
            Assert.Equal(values["surname"].Text, Part("N", 0));
            Assert.Equal(values["givenName"].Text, Part("N", 1));
            Assert.Equal("Dipl. ECVIM-CA, MRCVS", Part("N", 4));
            Assert.Equal(values["street"].Text, Part("ADR", 2));
            Assert.Equal(values["telephone"].Link, Value("TEL"));
            Assert.Equal(people[index].Address, Value("EMAIL"));
        }
    }

    [Fact]
    public async Task Entries_with_any_text_are_read_as_they_were_written()
    {
        var random = new Random(2849);
        var entries = Enumerable.Range(0, People).Select(index => new LdifEntry($"uid=p{index},dc=brackenfold,dc=example", 0,
            [.. Enumerable.Range(0, 6).Select(value => new LdifValue($"attribute{value}", [], Encoding.UTF8.GetBytes(Words(random) + new string('x', random.Next(90))), LdifValueKind.Text, 0))])).ToArray();
        var output = new ArrayBufferWriter<byte>();
        LdifWriter.Write(output, entries);
        var answers = await Outside.AskAsync("formats.mjs", new JsonObject { ["cards"] = new JsonArray(), ["ldif"] = Encoding.UTF8.GetString(output.WrittenSpan) });
        var read = answers["ldif"]!.AsArray();
        Assert.Equal(entries.Select(entry => entry.DistinguishedName), read.Select(entry => entry!["dn"]!.ToString()));
        for (var index = 0; index < People; index++)
            Assert.Equal(entries[index].Values.Select(value => value.TryGetText(out var text) ? text : ""), read[index]!["values"]!.AsArray().Select(pair => pair![1]!.ToString()));
    }

    /// <summary>Examples 5 and 6 name a picture on a disk that is not there, which ldapmodify would open.</summary>
    [Theory]
    [InlineData("rfc2849-1", 2)]
    [InlineData("rfc2849-2", 1)]
    [InlineData("rfc2849-3", 1)]
    [InlineData("rfc2849-4", 2)]
    [InlineData("rfc2849-7", 1)]
    public async Task OpenLDAPs_client_finds_as_many_records_in_the_RFCs_examples(string name, int records)
    {
        var (code, output, errors) = await Outside.RunAsync("ldapmodify", "-n", "-v", "-x", "-a", "-f", $"People/Cases/{name}.ldif");
        Assert.True(code == 0, errors);
        Assert.Equal(records, output.Split('\n').Count(line => line.StartsWith("!adding", StringComparison.Ordinal) || line.StartsWith("!deleting", StringComparison.Ordinal)));
    }

    private static string Words(Random random) => string.Concat(Enumerable.Range(0, 1 + random.Next(5)).Select(_ => Pieces[random.Next(Pieces.Length)])).Trim() is { Length: > 0 } text ? text : "x";

    private static string Text(JsonNode value) => value.ToString();
}
