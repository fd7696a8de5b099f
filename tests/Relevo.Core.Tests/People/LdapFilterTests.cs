using FsCheck.Xunit;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Xunit;

namespace Relevo.Core.Tests.People;

public sealed class LdapFilterTests
{
    /// <summary>The examples of RFC 4515 section 4.</summary>
    [Theory]
    [InlineData("(cn=Babs Jensen)")]
    [InlineData("(!(cn=Tim Howes))")]
    [InlineData("(&(objectClass=Person)(|(sn=Jensen)(cn=Babs J*)))")]
    [InlineData("(o=univ*of*mich*)")]
    [InlineData("(seeAlso=)")]
    [InlineData("(cn:caseExactMatch:=Fred Flintstone)")]
    [InlineData("(cn:=Betty Rubble)")]
    [InlineData("(sn:dn:2.4.6.8.10:=Barney Rubble)")]
    [InlineData("(o:dn:=Ace Industry)")]
    [InlineData("(:1.2.3:=Wilma Flintstone)")]
    [InlineData("(:DN:2.4.6.8.10:=Dino)")]
    [InlineData(@"(o=Parens R Us \28for all your parenthetical needs\29)")]
    [InlineData(@"(cn=*\2A*)")]
    [InlineData(@"(filename=C:\5cMyFile)")]
    [InlineData(@"(bin=\00\00\00\04)")]
    [InlineData(@"(sn=Lu\c4\8di\c4\87)")]
    [InlineData(@"(1.3.6.1.4.1.1466.0=\04\02\48\69)")]
    public void An_example_of_the_RFC_is_read(string filter) => Assert.True(LdapFilter.TryParse(filter, out _, out var trouble), trouble);

    [Theory]
    [InlineData("(&(objectClass=person)(|(sn=jensen)(cn=Babs J*)))", true)]
    [InlineData("(o=univ*of*mich*)", true)]
    [InlineData("(o=mich*)", false)]
    [InlineData("(!(cn=Tim Howes))", true)]
    [InlineData("(mobile=*)", false)]
    [InlineData("(sn>=h)", true)]
    [InlineData("(sn<=h)", false)]
    [InlineData("(&)", true)] // RFC 4526: absolute true
    [InlineData("(|)", false)] // and false
    public void A_filter_matches_what_it_says(string text, bool isMatch)
    {
        var entry = new[] { ("objectClass", "Person"), ("cn", "Babs Jensen"), ("sn", "Jensen"), ("o", "University of Michigan") };
        Assert.True(LdapFilter.TryParse(text, out var filter, out _));
        Assert.Equal(isMatch, filter!.Matches(attribute => entry.Where(pair => string.Equals(pair.Item1, attribute, StringComparison.OrdinalIgnoreCase)).Select(pair => pair.Item2)));
    }

    [Theory]
    [InlineData("", 1)]
    [InlineData("cn=x", 1)]
    [InlineData("(cn=x", 6)]
    [InlineData("(cn)", 4)]
    [InlineData("(cn=a(b)", 6)]
    [InlineData(@"(cn=a\zz)", 6)]
    [InlineData("(cn=x)(cn=y)", 7)]
    [InlineData("(=x)", 2)]
    public void A_mistake_is_told_with_its_place(string text, int place)
    {
        Assert.False(LdapFilter.TryParse(text, out _, out var trouble));
        Assert.EndsWith($"(character {place}).", trouble, StringComparison.Ordinal);
    }

    [Fact]
    public void Brackets_without_end_do_not_break_the_stack() => Assert.False(LdapFilter.TryParse(new string('(', 100_000).Replace("(", "(!", StringComparison.Ordinal), out _, out _));

    [Property]
    public void Whatever_is_escaped_matches_itself_and_stays_one_value(string value)
    {
        var text = string.IsNullOrEmpty(value) ? "x" : System.Text.Encoding.UTF8.GetString(System.Text.Encoding.UTF8.GetBytes(value));
        Assert.True(LdapFilter.TryParse($"(cn={LdapFilter.Escape(text)})", out var filter, out _));
        Assert.Equal(new Equal("cn", text), filter);
    }

    [Theory]
    [InlineData("cn=Surgeons,ou=groups,dc=x", "Surgeons")]
    [InlineData(@"cn=Cats\, dogs,dc=x", "Cats, dogs")]
    [InlineData("cn=A+ou=B,dc=x", "A")]
    public void A_group_is_called_by_the_first_part_of_its_name(string name, string group) => Assert.Equal(group, GroupNames.OfDistinguishedName(name));

    [Property]
    public void Groups_come_back_from_their_fact(string[] names)
    {
        var clean = names.Select(name => FieldValue.OneLine((name ?? "").Replace(';', ','))).Where(name => name.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase).Order(StringComparer.Ordinal);
        Assert.Equal(clean, GroupNames.Split(GroupNames.Join(names.Select(name => name ?? ""))));
    }
}
