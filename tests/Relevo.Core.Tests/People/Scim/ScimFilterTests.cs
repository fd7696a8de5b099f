using System.Text.Json.Nodes;
using Relevo.Core.People.Formats.Scim;
using Xunit;

namespace Relevo.Core.Tests.People.Scim;

public sealed class ScimFilterTests
{
    private static readonly JsonNode Babs = JsonNode.Parse("""
        {"schemas": ["urn:ietf:params:scim:schemas:core:2.0:User"], "id": "2819C223", "userName": "bjensen", "userType": "Employee", "title": "Vet", "active": true,
         "name": {"familyName": "O'Malley"}, "emails": [{"value": "bjensen@example.com", "type": "work", "primary": true}, {"value": "babs@jensen.example.org", "type": "home"}],
         "ims": [{"type": "xmpp", "value": "bjensen@foo.com"}], "meta": {"lastModified": "2011-05-13T04:42:34Z"},
         "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User": {"department": "Surgery", "employeeNumber": "701984"}}
        """)!;

    /// <summary>The examples of RFC 7644 figure 2, against a user of the kind of RFC 7643 section 8.</summary>
    [Theory]
    [InlineData("userName eq \"bjensen\"", true)]
    [InlineData("userName Eq \"BJENSEN\"", true)]
    [InlineData("name.familyName co \"O'Malley\"", true)]
    [InlineData("userName sw \"J\"", false)]
    [InlineData("urn:ietf:params:scim:schemas:core:2.0:User:userName sw \"J\"", false)]
    [InlineData("title pr", true)]
    [InlineData("meta.lastModified gt \"2011-05-13T04:42:34Z\"", false)]
    [InlineData("meta.lastModified ge \"2011-05-13T04:42:34Z\"", true)]
    [InlineData("meta.lastModified lt \"2011-05-13T06:42:35+01:00\"", true)] // another zone, a later moment
    [InlineData("title pr and userType eq \"Employee\"", true)]
    [InlineData("title pr or userType eq \"Intern\"", true)]
    [InlineData("schemas eq \"urn:ietf:params:scim:schemas:extension:enterprise:2.0:User\"", false)]
    [InlineData("userType eq \"Employee\" and (emails co \"example.com\" or emails.value co \"example.org\")", true)]
    [InlineData("userType ne \"Employee\" and not (emails co \"example.com\" or emails.value co \"example.org\")", false)]
    [InlineData("userType eq \"Employee\" and (emails.type eq \"work\")", true)]
    [InlineData("userType eq \"Employee\" and emails[type eq \"work\" and value co \"@example.com\"]", true)]
    [InlineData("emails[type eq \"work\" and value co \"@example.com\"] or ims[type eq \"xmpp\" and value co \"@foo.com\"]", true)]
    [InlineData("emails[type eq \"home\" and value co \"@example.com\"]", false)] // of one and the same value
    [InlineData("id eq \"2819c223\"", false)] // ids are exact
    [InlineData("active eq true", true)]
    [InlineData("nickName pr", false)]
    [InlineData("nickName eq null", true)]
    [InlineData("urn:ietf:params:scim:schemas:extension:enterprise:2.0:User:department eq \"surgery\"", true)]
    [InlineData("title eq \"Vet\" or title eq \"x\" and userName eq \"nobody\"", true)] // and binds closer
    public void A_filter_matches_what_it_says(string text, bool isMatch)
    {
        Assert.Null(ScimFilter.TryParse(text, out var filter));
        Assert.Equal(isMatch, filter!.Matches(Babs));
    }

    [Theory]
    [InlineData("")]
    [InlineData("userName")]
    [InlineData("userName eq")]
    [InlineData("userName is \"x\"")]
    [InlineData("userName eq \"x")]
    [InlineData("userName eq x")]
    [InlineData("(userName eq \"x\"")]
    [InlineData("emails[type eq \"work\"")]
    [InlineData("userName eq \"x\" and")]
    [InlineData("userName eq \"x\" userName eq \"y\"")]
    [InlineData("active gt true")]
    [InlineData("not userName eq \"x\"")]
    public void What_is_no_filter_is_refused_with_the_standards_word(string text)
    {
        var error = ScimFilter.TryParse(text, out _);
        Assert.Equal((400, "invalidFilter"), (error!.Status, error.ScimType));
        Assert.Contains("(character ", error.Detail, StringComparison.Ordinal);
    }

    [Fact]
    public void Brackets_without_end_do_not_break_the_stack() => Assert.NotNull(ScimFilter.TryParse(new string('(', 100_000), out _));
}
