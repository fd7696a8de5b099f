using System.Collections.Immutable;
using System.Text.Json;
using Relevo.Core.People;
using Relevo.Core.People.Sources;
using Xunit;

namespace Relevo.Core.Tests.People.Sources;

public sealed class MappingTests
{
    /// <summary>Common practice in writing names.</summary>
    [Theory]
    [InlineData("JAN VAN DER BERG", "Jan van der Berg")]
    [InlineData("angus mckay", "Angus McKay")]
    [InlineData("SINEAD O'NEILL", "Sinead O'Neill")]
    [InlineData("flora MACDONALD", "flora MACDONALD")] // mixed: the bearer knew
    [InlineData("FLORA MACDONALD", "Flora MacDonald")]
    [InlineData("ERNST MACH", "Ernst Mach")]
    [InlineData("åsa källberg-östlund", "Åsa Källberg-Östlund")]
    [InlineData("ANNEGRET VON DER LÜHE", "Annegret von der Lühe")]
    [InlineData("GEORG VI", "Georg VI")]
    [InlineData("VAN", "Van")]
    [InlineData("d’angelo", "D’Angelo")]
    [InlineData("", "")]
    public void Names_in_one_case_are_written_as_their_bearers_do(string typed, string written) => Assert.Equal(written, NameCase.Apply(typed));

    [Fact]
    public void Transforms_are_done_in_their_order()
    {
        var split = new SplitTransform(",", -1);
        var extract = new ExtractTransform(@"\((\d+)\)");
        var lookup = new LookupTransform(ImmutableSortedDictionary.CreateRange([KeyValuePair.Create("B", "Berlin")]), IsStrict: false);
        Assert.Equal("B", Read(("room", "3rd floor, b"), new FieldMapping("location", ["room"], null, [split, new CaseTransform(CaseStyle.Upper)])));
        Assert.Equal("Berlin", Read(("room", "3rd floor, b"), new FieldMapping("location", ["room"], null, [split, lookup])));
        Assert.Equal("417", Read(("note", "vet (417) since 2011"), new FieldMapping("location", ["note"], null, [extract])));
        Assert.Null(Read(("note", "nothing there"), new FieldMapping("location", ["note"], null, [extract])));
        Assert.Null(Read(("room", "C"), new FieldMapping("location", ["room"], null, [lookup with { IsStrict = true }])));
    }

    [Fact]
    public void The_first_attribute_with_a_value_is_taken_and_several_are_joined()
    {
        var record = Record(("cn", "M. Lindqvist"), ("displayName", ""), ("givenName", "Mia"), ("sn", "Lindqvist"), ("uid", "mia"));
        Assert.Equal("M. Lindqvist", List(record, Mapping.Standard).Name);
        var joined = Mapping.Standard with { Fields = [new FieldMapping("displayName", ["givenName", "sn"], " ", [])] };
        Assert.Equal("Mia Lindqvist", List(record, joined).Name);
    }

    [Fact]
    public void A_pattern_that_would_backtrack_for_ever_answers_at_once()
    {
        var evil = new ExtractTransform("(a+)+b");
        Assert.Null(evil.Refuse());
        Assert.Equal("", evil.Apply(new string('a', 50_000)));
    }

    [Theory]
    [InlineData("(a")]
    [InlineData("(a)\\1")] // needs backtracking, and is refused for it
    public void A_pattern_that_cannot_be_used_is_refused(string pattern) => Assert.NotNull(new ExtractTransform(pattern).Refuse());

    [Fact]
    public void A_mapping_with_faults_names_each()
    {
        var mapping = new Mapping([], [], [new("nonsense", ["a"], null, []), new("title", ["b"], null, [new SplitTransform("", 0)])], HasStandardFields: false);
        Assert.Equal(["/key", "/fields", "/fields/0/field", "/fields/1/transforms/0"], mapping.Check(FieldCatalogue.Standard).Select(problem => problem.Pointer));
    }

    [Fact]
    public void A_mapping_survives_its_JSON_form()
    {
        var mapping = Mapping.Standard with { Fields = [new("title", ["a"], null, [new CaseTransform(CaseStyle.Name), new SplitTransform(";", 1), new ExtractTransform("x")])] };
        var json = JsonSerializer.Serialize(mapping, RelevoJson.Options);
        Assert.Equal(json, JsonSerializer.Serialize(JsonSerializer.Deserialize<Mapping>(json, RelevoJson.Options), RelevoJson.Options));
    }

    [Fact]
    public void Values_that_do_not_fit_their_field_are_refused_and_others_stay()
    {
        var rule = FieldRule.Closed with { Choices = ["cat", "dog"] };
        var catalogue = new FieldSet(
            [new("species", "Species", FieldKind.Choice, ["species"], [FieldHolder.Person], rule, PhoneDisplay.International, false),
             new("since", "Since", FieldKind.Date, ["since"], [FieldHolder.Person], FieldRule.Closed, PhoneDisplay.International, false),
             new("code", "Code", FieldKind.Text, ["code"], [FieldHolder.Person], FieldRule.Closed with { Pattern = "[A-Z]{2}[0-9]+" }, PhoneDisplay.International, false)],
            ImmutableSortedDictionary<string, StandardFieldSetting>.Empty).ToCatalogue();
        var listing = new Listing(Mapping.Standard, catalogue, 100);
        listing.Take(Record(("uid", "mia"), ("cn", "Mia"), ("species", "cow"), ("since", "24.11.2026"), ("code", "xAB1"), ("title", new string('x', 1001))));
        listing.Take(Record(("uid", "joel"), ("cn", "Joel"), ("species", "dog"), ("since", "2026-11-24"), ("code", "AB1")));
        var content = listing.Finish("");
        Assert.Equal(["Code", "Since", "Species", "Title"], content.Refused.Select(value => value.Field).Order());
        Assert.Equal(["displayName"], content.People[0].Facts.Names);
        Assert.Equal(["code", "displayName", "since", "species"], content.People[1].Facts.Names);
    }

    [Theory]
    [InlineData("smtp:alias@x.example;SMTP:own@x.example", "own@x.example alias@x.example")]
    [InlineData("own@x.example, alias@x.example", "own@x.example alias@x.example")]
    [InlineData("X400:c=de;a= ;p=x;SMTP:own@x.example;sip:own@y.example", "own@x.example")]
    public void Lists_of_addresses_in_one_value_are_read_own_first(string value, string addresses) =>
        Assert.Equal(addresses, string.Join(' ', MailAddress.ReadList(value)));

    [Theory]
    [InlineData("mia@brackenfold.example", true)]
    [InlineData("mia@källa.example", true)] // internationalised: RFC 5891
    [InlineData("söhne@brackenfold.example", true)] // RFC 6531
    [InlineData("mia", false)]
    [InlineData("@x.example", false)]
    [InlineData("mia@", false)]
    [InlineData("mia..b@x.example", false)] // RFC 5322 section 3.2.3: dots part atoms
    [InlineData(".mia@x.example", false)]
    [InlineData("mia@x..example", false)]
    [InlineData("mia b@x.example", false)]
    [InlineData("mia@-x.example", false)]
    [InlineData("<mia@x.example>", false)]
    public void An_address_is_one_or_is_not(string address, bool isOne) => Assert.Equal(isOne, MailAddress.IsOne(address));

    private static string? Read((string, string) value, FieldMapping mapping)
    {
        var person = List(Record(value, ("uid", "a"), ("cn", "A")), Mapping.Standard with { Fields = [mapping] });
        return person.Facts[mapping.Field];
    }

    private static ListedPerson List(DirectoryRecord record, Mapping mapping)
    {
        var listing = new Listing(mapping, FieldCatalogue.Standard, 100);
        listing.Take(record);
        return Assert.Single(listing.Finish("").People);
    }

    private static DirectoryRecord Record(params (string Attribute, string Text)[] values) => new("uid=x", 1, [.. values.Select(value => new RecordValue(value.Attribute, value.Text, 1))]);
}
