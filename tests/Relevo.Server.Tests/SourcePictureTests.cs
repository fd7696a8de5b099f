using System.Text;
using Relevo.Core.People;
using Relevo.Core.People.Sources;
using Relevo.Server.Connectors;
using Relevo.Server.People;
using Relevo.Server.Scim;
using Relevo.Server.Tests.Ldap;
using SkiaSharp;

namespace Relevo.Server.Tests;

/// <summary>Portraits that come from where people come from. Sources: RFC 2798 section 2.6 (jpegPhoto), RFC 7643 section 4.1.2 (photos), RFC 2397 (data URIs).</summary>
public sealed class SourcePictureTests
{
    [Fact]
    public async Task A_file_brings_portraits_and_names_those_that_are_none()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var photo = Convert.ToBase64String(Portrait(SKColors.Teal));
        var run = await browser.DropAsync($"{Entry("mia")}jpegPhoto:: {photo}\n\n{Entry("joel")}jpegPhoto:: {Convert.ToBase64String("no picture"u8)}\n\n{Entry("ada")}jpegPhoto:< file:///etc/passwd\n");
        (await browser.ApplyAsync(run.Run.Id, isAccepted: true)).Dispose();
        Assert.Equal(["joel", "ada"], run.Run.Refused.Select(refused => refused.Person));
        Assert.Contains("can be read", run.Run.Refused[0].Reason, StringComparison.Ordinal);
        Assert.Contains("fetches nothing", run.Run.Refused[1].Reason, StringComparison.Ordinal);
        var kept = await PortraitAsync(browser, "mia");
        Assert.Equal(Layer.Source, kept.Origin);
        Assert.NotEmpty(await browser.Http.GetByteArrayAsync($"pictures/{kept.Stored}.png"));
        Assert.Equal("", (await PortraitAsync(browser, "joel")).Stored ?? "");

        // The same bytes again change nobody, and a change record with a picture that is none leaves the one there is.
        var again = await browser.DropAsync($"{Entry("mia")}jpegPhoto:: {photo}\n\n{Entry("joel")}\n{Entry("ada")}");
        Assert.Equal(3, again.Run.Unchanged);
        await browser.ApplyAsync($"dn: cn=mia,dc=brackenfold,dc=example\nchangetype: modify\nreplace: jpegPhoto\njpegPhoto:: AAAA\n-\nreplace: title\ntitle: Nurse\n-\n");
        Assert.Equal(kept.Stored, (await PortraitAsync(browser, "mia")).Stored);
        Assert.Equal("Nurse", (await browser.FindAsync("mia")).Title);
        await browser.ApplyAsync("dn: cn=mia,dc=brackenfold,dc=example\nchangetype: modify\ndelete: jpegPhoto\n-\n");
        Assert.Equal("", (await PortraitAsync(browser, "mia")).Stored ?? "");
    }

    [Fact]
    public async Task A_directory_server_brings_portraits()
    {
        await using var directory = await RealDirectory.StartAsync(RealDirectory.Company(2));
        await directory.ChangeAsync($"dn: uid=p0001,dc=brackenfold,dc=example\nchangetype: modify\nadd: jpegPhoto\njpegPhoto:: {Convert.ToBase64String(Portrait(SKColors.Olive))}\n-\n");
        var sent = new List<byte[]>();
        var settings = new LdapSettings("127.0.0.1", directory.Port, LdapSecurity.None, "", RealDirectory.BindName, "dc=brackenfold,dc=example", "(objectClass=*)");
        var content = await LdapDirectory.ReadAsync(settings, RealDirectory.Secret, Mapping.Standard, FieldCatalogue.Standard, (file, _) => { sent.Add(file.ToArray()); return new(new TakenPicture(new string('a', 64), null)); }, CancellationToken.None);
        Assert.Equal(Portrait(SKColors.Olive), Assert.Single(sent));
        Assert.Equal([null, new string('a', 64)], content.People.OrderBy(person => person.Key, StringComparer.Ordinal).Select(person => person.Facts["portrait"]));
        var refusing = await LdapDirectory.ReadAsync(settings, RealDirectory.Secret, Mapping.Standard, FieldCatalogue.Standard, (_, _) => new(new TakenPicture(null, "Too large.")), CancellationToken.None);
        Assert.Equal("Too large.", Assert.Single(refusing.Refused).Reason);
    }

    [Fact]
    public async Task A_pushed_photo_within_the_user_becomes_the_portrait_and_an_address_elsewhere_is_not_followed()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var client = await ScimTests.Client.MakeAsync(server, browser);
        string User(string photos) => $$"""{"schemas": ["urn:ietf:params:scim:schemas:core:2.0:User"], "userName": "mia@brackenfold.example", "displayName": "Mia", "photos": [{{photos}}]}""";
        var inline = $$"""{"value": "data:image/jpeg;base64,{{Convert.ToBase64String(Portrait(SKColors.Maroon))}}", "type": "photo", "primary": true}""";
        var created = await client.SendAsync(HttpMethod.Post, "Users", User($$"""{"value": "https://pictures.example/mia.jpg", "type": "thumbnail"}, {{inline}}"""));
        var kept = await PortraitAsync(browser, "Mia");
        Assert.Equal((Layer.Source, 64), (kept.Origin, kept.Stored!.Length));
        Assert.Contains("image/jpeg", created.Body!["photos"]!.ToJsonString(), StringComparison.Ordinal);
        await client.SendAsync(HttpMethod.Put, $"Users/{created.Body["id"]}", User("""{"value": "https://pictures.example/mia.jpg", "type": "photo"}"""));
        Assert.Equal("", (await PortraitAsync(browser, "Mia")).Stored ?? "");
        await client.SendAsync(HttpMethod.Put, $"Users/{created.Body["id"]}", User("""{"value": "data:image/png;base64,!!!", "type": "photo"}"""));
        Assert.Equal("", (await PortraitAsync(browser, "Mia")).Stored ?? "");
    }

    private static string Entry(string name) => $"dn: cn={name},dc=brackenfold,dc=example\nobjectClass: inetOrgPerson\nuid: {name}\ncn: {name}\nmail: {name}@brackenfold.example\ntitle: Vet\n";

    private static byte[] Portrait(SKColor colour)
    {
        using var bitmap = new SKBitmap(96, 128);
        bitmap.Erase(colour);
        using var data = bitmap.Encode(SKEncodedImageFormat.Jpeg, 90);
        return data.ToArray();
    }

    private static async Task<PersonField> PortraitAsync(Browser browser, string name) =>
        (await browser.GetAsync<PersonAnswer>($"api/people/{(await browser.FindAsync(name)).Id}")).Fields.Single(field => field.Name == "portrait");
}
