using System.Buffers;
using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Json;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Xunit;

namespace Relevo.Core.Tests.People;

/// <summary>Facts that were read from a file are one piece of JSON until somebody looks; they say what facts made one by one say.</summary>
public sealed class FactsTests
{
    private static readonly (string Field, string Attribute)[] Mapped = [("department", "departmentNumber"), ("displayName", "displayName"), ("organisation", "o"), ("postNominals", "postNominals"), ("title", "title")];

    [Property(MaxTest = 500)]
    public Property Facts_that_were_read_say_what_facts_made_one_by_one_say() => Prop.ForAll(
        Gen.Elements("", "Vet", "a \"quoted\" \\ word", "title", "\"title\":\"", "Söhne & Co", "汉\U0001F431", "long ".PadRight(900, 'x'), "tab\there", "\u2028 line").ArrayOf(Mapped.Length).ToArbitrary(),
        values =>
        {
            var said = Mapped.Zip(values).Where(pair => pair.First.Field != "displayName").Append((Mapped[1], "Mia " + values[1])).ToArray();
            var read = Read([.. said.Select(pair => (pair.Item1.Attribute, pair.Item2))]);
            var made = new Facts(said.Select(pair => KeyValuePair.Create(pair.Item1.Field, FieldValue.OneLine(pair.Item2))).Where(pair => pair.Value.Length > 0));
            foreach (var (field, _) in Mapped) Assert.Equal(made[field], read[field]);
            Assert.Null(read["mobile"]);
            Assert.Equal(Hash(made), Hash(read));
            Assert.Equal(Written(made), Written(read)); // the framework wrote the one, the reading the other
            // Looked at whole, which takes the piece apart.
            Assert.Equal(made.Pairs.ToArray(), read.Pairs.ToArray());
            Assert.Equal((made, made.GetHashCode(), Hash(made)), (read, read.GetHashCode(), Hash(read)));
            Assert.Equal(made.With("title", "Other"), read.With("title", "Other"));
        });

    [Property(MaxTest = 300)]
    public Property Values_of_a_field_are_each_named_once_in_order_and_blanks_left_out() => Prop.ForAll(
        Gen.Elements("", "Vet", "Vets", "vet", "Söhne & Co", "a \"quoted\" word", new string('x', 254), new string('x', 255), new string('ü', 200)).ListOf(12).ToArbitrary(),
        values =>
        {
            // Some as they are read, some as they are made, and some people without the field.
            Facts[] many = [.. values.Select((value, place) => place % 3 == 0 ? Build.Facts(("title", value)) : place % 3 == 1 ? Read(("displayName", "Mia"), ("title", value)) : Build.Facts(("displayName", value)))];
            Assert.Equal(many.Select(facts => facts["title"]).Where(value => !string.IsNullOrEmpty(value)).Distinct(StringComparer.Ordinal).Order(StringComparer.Ordinal), Facts.ValuesOf(many, "title"));
        });

    [Fact]
    public async Task Thousands_of_people_keep_their_own_facts_however_large_they_are()
    {
        var file = new StringBuilder("version: 1\n\n");
        for (var number = 0; number < 3000; number++) file.Append(CultureInfo.InvariantCulture, $"dn: uid=p{number}\nobjectClass: person\nuid: p{number}\ncn: P {number}\ntitle: {new string('t', 1 + (number * 7 % 990))}{number}\n\n");
        var people = (await ReadAsync(file.ToString())).People;
        Assert.Equal(3000, people.Length);
        for (var number = 0; number < people.Length; number++) Assert.Equal(($"P {number}", $"{new string('t', 1 + (number * 7 % 990))}{number}"), (people[number].Facts["displayName"], people[number].Facts["title"]));
    }

    /// <summary>Each attribute is looked for where the record before had it; another order, other letters' case, options and lines beyond those that are kept make no difference.</summary>
    [Property(MaxTest = 200)]
    public Property The_order_of_attributes_makes_no_difference() => Prop.ForAll(
        (from orders in Gen.Shuffle([.. Enumerable.Range(0, 6)]).ListOf(4) from before in Gen.Choose(0, 70) select (orders, before)).ToArbitrary(),
        world =>
        {
            string[] lines = ["uid: {0}", "CN: Name {0}", "title: Vet {0}", "title;lang-de: Arzt {0}", "O: House {0}", "mail: m{0}@brackenfold.example"];
            var file = string.Concat(world.orders.Select((order, person) =>
                $"dn: uid={person}\nobjectClass: person\n{string.Concat(Enumerable.Repeat("seeAlso: x\n", world.before * (person % 2)))}{string.Concat(order.Select(line => string.Format(CultureInfo.InvariantCulture, lines[line], person) + "\n"))}\n"));
            var content = ReadAsync(file).GetAwaiter().GetResult();
            Assert.Empty(content.Problems);
            Assert.Equal(world.orders.Count, content.People.Length);
            foreach (var (person, listed) in content.People.Index())
            {
                Assert.Equal(($"{person}", $"Name {person}", $"Vet {person}", $"House {person}", $"m{person}@brackenfold.example"), (listed.Key, listed.Facts["displayName"], listed.Facts["title"], listed.Facts["organisation"], Assert.Single(listed.Addresses)));
            }
        });

    private static Facts Read(params (string Attribute, string Value)[] values)
    {
        var listing = new Listing(Mapping.Standard with { Fields = [new FieldMapping("postNominals", ["postNominals"], null, [])] }, FieldCatalogue.Standard, 10);
        listing.Take(new DirectoryRecord("uid=mia", 1, [new RecordValue("uid", "mia", 1), .. values.Select(value => new RecordValue(value.Attribute, FieldValue.OneLine(value.Value), 1))]));
        return Assert.Single(listing.Finish(null).People).Facts;
    }

    private static Task<DirectoryContent> ReadAsync(string file) =>
        LdifListing.ReadAsync(new MemoryStream(Encoding.UTF8.GetBytes(file)), Mapping.Standard, FieldCatalogue.Standard, LdifLimits.Default, null, TestContext.Current.CancellationToken);

    private static Guid Hash(Facts facts) => EntryContent.Hash(new ListedPerson("mia", "uid=mia", facts, [], 0));

    private static string Written(Facts facts)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using var writer = new Utf8JsonWriter(buffer, Facts.WriterOptions);
        return Encoding.UTF8.GetString(facts.Write(buffer, writer).Span);
    }
}
