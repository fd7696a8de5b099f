using System.Buffers;
using System.Globalization;
using System.IO.Hashing;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Xunit;

namespace Relevo.Core.Tests.People.Sources;

/// <summary>A listed person is a piece of UTF-8; what comes out is what went in.</summary>
public sealed class ListedPersonTests
{
    private static readonly Gen<string> Text = Gen.Elements("", "mia", "Mía Łuk", "uid=mia,ou=people,dc=x", "汉\U0001F431", "m@brackenfold.example", new string('é', 400));

    [Property]
    public Property What_is_said_of_a_person_comes_out_as_it_was_put_in() => Prop.ForAll(
        (from key in Text from name in Text from addresses in Text.ListOf(3) select (key, name, addresses)).ToArbitrary(),
        said =>
        {
            var person = new ListedPerson(said.key, said.name, Build.Facts(("title", "Vet")), [.. said.addresses], 12);
            Assert.Equal((said.key.ToLowerInvariant(), said.name, "Vet", 12), (person.Key, person.DistinguishedName, person.Facts["title"], person.Line));
            Assert.Equal(said.addresses, person.Addresses);
            Assert.Equal((person.Key, person.DistinguishedName), (Encoding.UTF8.GetString(person.Utf8Key.Span), Encoding.UTF8.GetString(person.Utf8DistinguishedName.Span)));
        });

    [Fact]
    public void Somebody_without_a_name_of_the_source_and_without_addresses_has_neither()
    {
        var person = new ListedPerson("MIA", "", Facts.None, [], 0);
        Assert.Equal(("mia", "", 0), (person.Key, person.DistinguishedName, person.Addresses.Length));
        Assert.Equal("mia", person.Name);
    }

    [Fact]
    public void Other_facts_leave_the_rest_as_it_was()
    {
        var before = Build.Listed("mia", ("title", "Vet"));
        var after = before with { Facts = before.Facts.With("title", "Senior vet") };
        Assert.Equal((before.Key, before.DistinguishedName, before.Line, "Senior vet"), (after.Key, after.DistinguishedName, after.Line, after.Facts["title"]));
        Assert.Equal(before.Addresses, after.Addresses);
        Assert.Equal(before.Facts.Names, after.Facts.Names);
        Assert.NotEqual(EntryContent.Hash(before), EntryContent.Hash(after));
        Assert.Equal(EntryContent.Hash(before), EntryContent.Hash(after with { Facts = before.Facts }));
    }

    /// <summary>
    /// Entries are kept with this hash, so it must not change from one version to the next: XXH3 in 128 bits (xxHash specification 0.8) over the facts as the framework writes
    /// them in JSON, and the texts, each with its end.
    /// </summary>
    [Property]
    public Property The_hash_is_that_of_facts_key_name_and_addresses() => Prop.ForAll(
        (from name in Text from title in Text from addresses in Text.ListOf(2) select (name, title, addresses)).ToArbitrary(),
        said =>
        {
            var bytes = new ArrayBufferWriter<byte>();
            using (var facts = new Utf8JsonWriter(bytes, new JsonWriterOptions { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
            {
                facts.WriteStartObject();
                facts.WriteString("displayName", "Mia");
                facts.WriteString("title", said.title);
                facts.WriteEndObject();
            }

            foreach (var text in (string[])["any", said.name, .. said.addresses])
            {
                bytes.Write(Encoding.UTF8.GetBytes(text));
                bytes.Write((ReadOnlySpan<byte>)[0xFF]);
            }

            var hash = EntryContent.Hash(new ListedPerson("any", said.name, Build.Facts(("displayName", "Mia"), ("title", said.title)), [.. said.addresses], 3));
            Assert.Equal(new Guid(XxHash128.Hash(bytes.WrittenSpan)), hash);
        });

    [Theory]
    [InlineData(true, "m@brackenfold.example")]
    [InlineData(true, "m@brackenfold.example", "mia@brackenfold.example")]
    [InlineData(true)]
    [InlineData(false, "m@brackenfold.example", "mía@brackenfold.example")]
    [InlineData(false, "\u212a@brackenfold.example")]
    public void Addresses_are_plain_when_all_of_a_new_persons_are_ASCII(bool arePlain, params string[] addresses)
    {
        var person = new ListedPerson("mia", "uid=mia", Facts.None, [.. addresses], 1);
        Assert.Equal(arePlain, SyncPlan.Plan([], [person], _ => null, Guid.NewGuid).HasPlainAddresses);
        // Whoever is there already brings no addresses to people.
        Assert.True(SyncPlan.Plan([], [person], _ => Guid.NewGuid(), Guid.NewGuid).HasPlainAddresses);
    }

    /// <summary>More lines than a record of a directory ever has, and few again after it: where lines lie is kept in room that is used over and over.</summary>
    [Fact]
    public async Task Records_of_many_and_of_few_lines_are_read_one_after_the_other()
    {
        var file = new StringBuilder("version: 1\n\n");
        int[] lines = [1, 400, 2, 70, 64, 65, 1];
        foreach (var (index, count) in lines.Index())
        {
            file.Append(CultureInfo.InvariantCulture, $"dn: uid=p{index}\nobjectClass: person\nuid: p{index}\ncn: P {index}\n");
            for (var line = 0; line < count; line++) file.Append(CultureInfo.InvariantCulture, $"mail: p{index}.{line}@brackenfold.example\n# a comment\n");
            file.Append('\n');
        }

        var content = await LdifListing.ReadAsync(new MemoryStream(Encoding.UTF8.GetBytes(file.ToString())), Mapping.Standard, FieldCatalogue.Standard, LdifLimits.Default, null, TestContext.Current.CancellationToken);
        Assert.Empty(content.Problems);
        Assert.Equal(lines, content.People.Select(person => person.Addresses.Length));
        Assert.Equal(lines.Select((count, index) => $"p{index}.{count - 1}@brackenfold.example"), content.People.Select(person => person.Addresses[^1]));
    }
}
