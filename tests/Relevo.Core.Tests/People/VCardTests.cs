using System.Text;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Xunit;

namespace Relevo.Core.Tests.People;

/// <summary>
/// Lines as RFC 6350 prints them, for the facts its examples are about. Parts of a compound value that Relevo has no field for (further given
/// names, region) are left out of the examples.
/// </summary>
public sealed class VCardTests
{
    [Theory]
    [InlineData("displayName", "Mr. John Q. Public, Esq.", @"FN:Mr. John Q. Public\, Esq.")] // section 6.2.1
    [InlineData("title", "Research Scientist", "TITLE:Research Scientist")] // section 6.6.1
    [InlineData("organisation", "ABC, Inc.", @"ORG:ABC\, Inc.;")] // section 6.6.4
    [InlineData("language", "fr", "LANG:fr")] // section 6.4.4, without its parameters
    public void A_fact_of_the_RFCs_example_becomes_its_line(string field, string value, string line) => Assert.Contains(line, Lines((field, value)));

    [Fact]
    public void The_parts_of_a_name_stand_in_the_RFCs_order() // section 6.2.2
        => Assert.Contains("N:Public;John;;;Esq.", Lines(("surname", "Public"), ("givenName", "John"), ("postNominals", "Esq.")));

    [Fact]
    public void The_parts_of_an_address_stand_in_the_RFCs_order() // section 6.3.1
        => Assert.Contains("ADR;TYPE=work:;;123 Main Street;Any Town;;91921-1234;U.S.A.", Lines(("street", "123 Main Street"), ("location", "Any Town"), ("postalCode", "91921-1234"), ("country", "U.S.A.")));

    [Fact]
    public void An_extension_is_a_parameter_of_the_number() // section 6.4.1, with a number set aside for fiction
        => Assert.Contains("TEL;VALUE=uri;TYPE=\"work,voice\":tel:+442079460123;ext=5555", Lines(("telephone", "+44 20 7946 0123 ext. 5555")));

    [Fact]
    public void A_line_is_folded_at_75_octets_before_a_whole_character() // section 3.2
    {
        var lines = Lines(("displayName", new string('é', 60)));
        Assert.Contains($"FN:{new string('é', 36)}", lines);
        Assert.Contains($" {new string('é', 24)}", lines);
    }

    [Fact]
    public void A_semicolon_parts_a_compound_value_and_is_text_anywhere_else() // sections 3.4 and 4
    {
        var lines = Lines(("title", "a;b"), ("surname", "a;b"), ("department", @"c\d"));
        Assert.Contains("TITLE:a;b", lines);
        Assert.Contains(@"N:a\;b;;;;", lines);
        Assert.Contains(@"ORG:;c\\d", lines);
    }

    private static string[] Lines(params (string, string)[] facts)
    {
        var person = Build.Person("p1", [.. facts.Where(fact => fact.Item1 == "displayName").DefaultIfEmpty(("displayName", "John")), .. facts.Where(fact => fact.Item1 != "displayName")]);
        return Encoding.UTF8.GetString(VCard.Write(CompanyRecords.Plain, [person])).Split("\r\n");
    }
}
