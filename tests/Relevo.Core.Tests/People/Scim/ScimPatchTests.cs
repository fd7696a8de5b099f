using System.Text.Json.Nodes;
using Relevo.Core.People.Formats.Scim;
using Relevo.Core.People.Sources;
using Xunit;

namespace Relevo.Core.Tests.People.Scim;

public sealed class ScimPatchTests
{
    private const string Enterprise = ScimAttribute.Enterprise;

    private const string User = """
        {"userName": "mia", "active": true, "name": {"givenName": "Mia", "familyName": "Lindqvist"},
         "emails": [{"value": "mia@x.example", "type": "work", "primary": true}, {"value": "mia@home.example", "type": "home"}],
         "addresses": [{"type": "work", "locality": "Malmö", "streetAddress": "Gatan 1"}]}
        """;

    /// <summary>The kinds of operations of RFC 7644 section 3.5.2, its examples' shapes with our data.</summary>
    [Theory]
    [InlineData("""{"op": "replace", "path": "active", "value": false}""", "active", "false")]
    [InlineData("""{"op": "Replace", "path": "name.familyName", "value": "Ekholm"}""", "name.familyName", "Ekholm")]
    [InlineData("""{"op": "add", "path": "title", "value": "Vet"}""", "title", "Vet")]
    [InlineData("""{"op": "add", "value": {"title": "Vet", "nickName": "M"}}""", "nickName", "M")]
    [InlineData("""{"op": "replace", "value": {"name.familyName": "Ekholm"}}""", "name.familyName", "Ekholm")]
    [InlineData("""{"op": "add", "path": "emails", "value": [{"value": "m@x.example"}]}""", "emails.value", "mia@x.example mia@home.example m@x.example")]
    [InlineData("""{"op": "add", "path": "emails", "value": [{"value": "mia@x.example", "type": "work", "primary": true}]}""", "emails.value", "mia@x.example mia@home.example")]
    [InlineData("""{"op": "replace", "path": "emails", "value": [{"value": "m@x.example"}]}""", "emails.value", "m@x.example")]
    [InlineData("""{"op": "remove", "path": "emails[type eq \"home\"]"}""", "emails.value", "mia@x.example")]
    [InlineData("""{"op": "remove", "path": "emails[type eq \"work\" and value ew \"home.example\"]"}""", "emails.value", "mia@x.example mia@home.example")]
    [InlineData("""{"op": "replace", "path": "emails[type eq \"work\"].value", "value": "m@x.example"}""", "emails.value", "m@x.example mia@home.example")]
    [InlineData("""{"op": "replace", "path": "addresses[type eq \"work\"]", "value": {"type": "work", "locality": "Lund"}}""", "addresses.streetAddress", "")]
    [InlineData("""{"op": "add", "path": "addresses[type eq \"work\"]", "value": {"locality": "Lund"}}""", "addresses.streetAddress", "Gatan 1")]
    [InlineData("""{"op": "add", "path": "phoneNumbers[type eq \"mobile\"].value", "value": "+46 8 465 004 12"}""", "phoneNumbers.type", "mobile")]
    [InlineData("""{"op": "add", "path": "emails", "value": [{"value": "m@x.example", "primary": true}]}""", "emails.primary", "false true")]
    [InlineData("""{"op": "remove", "path": "name.givenName"}""", "name.givenName", "")]
    [InlineData("""{"op": "remove", "path": "nickName"}""", "nickName", "")]
    [InlineData($$"""{"op": "add", "path": "{{Enterprise}}:department", "value": "Surgery"}""", $"{Enterprise}:department", "Surgery")]
    [InlineData($$$$"""{"op": "add", "value": {"{{{{Enterprise}}}}": {"department": "Surgery"}}}""", $"{Enterprise}:department", "Surgery")]
    [InlineData("""{"op": "replace", "path": "NAME.FAMILYNAME", "value": "Ekholm"}""", "name.familyName", "Ekholm")]
    public void An_operation_does_what_the_standard_says(string operation, string attribute, string values)
    {
        var (changed, error) = Apply(operation);
        Assert.Null(error);
        Assert.Equal(values, string.Join(' ', ScimAttribute.TryParse(attribute)!.Values(changed).Select(value => value?.ToString())));
    }

    [Theory]
    [InlineData("""{"op": "replace", "path": "emails[type eq \"other\"].value", "value": "x"}""", "noTarget")]
    [InlineData("""{"op": "remove"}""", "noTarget")]
    [InlineData("""{"op": "replace", "path": "emails[type eq", "value": "x"}""", "invalidPath")]
    [InlineData("""{"op": "replace", "path": "shoeSize", "value": "x"}""", "invalidPath")]
    [InlineData("""{"op": "replace", "path": "name.shoeSize", "value": "x"}""", "invalidPath")]
    [InlineData("""{"op": "replace", "path": "id", "value": "x"}""", "mutability")]
    [InlineData("""{"op": "replace", "path": "meta.created", "value": "x"}""", "mutability")]
    [InlineData("""{"op": "jump", "path": "title", "value": "x"}""", "invalidSyntax")]
    [InlineData("""{"path": "title", "value": "x"}""", "invalidSyntax")]
    [InlineData("""{"op": "add", "path": "title"}""", "invalidValue")]
    [InlineData("""{"op": "add", "value": "x"}""", "invalidValue")]
    public void A_mistake_is_told_in_the_standards_words_and_nothing_is_changed(string operation, string scimType)
    {
        var before = JsonNode.Parse(User)!.AsObject();
        var (_, error) = ScimPatch.Apply(before, new JsonObject { ["Operations"] = new JsonArray(JsonNode.Parse("""{"op": "replace", "path": "title", "value": "half"}"""), JsonNode.Parse(operation)) });
        Assert.Equal(scimType, error!.ScimType);
        Assert.True(JsonNode.DeepEquals(JsonNode.Parse(User), before));
    }

    [Fact]
    public void A_user_becomes_a_record_with_primary_values_first()
    {
        var user = JsonNode.Parse("""
            {"userName": "mia", "name": {"givenName": "Mia", "familyName": "L", "formatted": "Mia L"}, "profileUrl": "https://x.example/mia",
             "emails": [{"value": "b@x.example"}, {"value": "a@x.example", "primary": true}],
             "phoneNumbers": [{"value": "tel:+46-8-465-004-12;ext=7", "type": "work"}, {"value": "+46 8 465 004 13", "type": "mobile"}],
             "addresses": [{"type": "home", "locality": "Lund"}, {"type": "work", "locality": "Malmö", "country": "SE"}],
             "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User": {"department": "Surgery", "employeeNumber": "7"}}
            """)!.AsObject();
        var listing = new Listing(ScimRecord.Mapping, Core.People.FieldCatalogue.Standard, 1);
        listing.Take(ScimRecord.Read("id-1", user, null));
        var person = Assert.Single(listing.Finish("").People);
        Assert.Equal(["a@x.example", "b@x.example"], person.Addresses);
        Assert.Equal(
            "country=SE department=Surgery displayName=Mia L employeeNumber=7 givenName=Mia location=Malmö mobile=+46 8 465 004 13 surname=L telephone=+46 8 465 004 12 ext. 7 webAddress=https://x.example/mia",
            string.Join(' ', person.Facts.Pairs.ToArray().Select(pair => $"{pair.Key}={pair.Value}")));
    }

    [Theory]
    [InlineData("userName", null, "id schemas userName")]
    [InlineData("name.familyName", null, "id name schemas")]
    [InlineData(null, "emails,name", "active id schemas userName")]
    [InlineData(null, "id", "active emails id name schemas userName")] // always answered
    public void What_is_asked_for_is_answered_and_no_more(string? attributes, string? excluded, string members)
    {
        var resource = JsonNode.Parse("""{"schemas": ["x"], "id": "1", "userName": "mia", "active": true, "name": {"familyName": "L", "givenName": "M"}, "emails": [{"value": "a"}]}""")!.AsObject();
        var answered = ScimProjection.Read(attributes, excluded).Apply(resource);
        Assert.Equal(members, string.Join(' ', answered.Select(member => member.Key).Order(StringComparer.Ordinal)));
        if (attributes == "name.familyName") Assert.Equal("""{"familyName":"L"}""", answered["name"]!.ToJsonString());
    }

    private static (JsonObject? Resource, ScimError? Error) Apply(string operation) => ScimPatch.Apply(JsonNode.Parse(User)!.AsObject(), new JsonObject { ["Operations"] = new JsonArray(JsonNode.Parse(operation)) });
}
