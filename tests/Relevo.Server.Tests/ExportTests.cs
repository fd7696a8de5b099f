using System.IO.Compression;
using System.Net;
using System.Net.Http.Headers;
using System.Text.Json.Nodes;
using Relevo.Core.Tests;
using Relevo.Server.Designs;
using Relevo.Server.People;
using SkiaSharp;

namespace Relevo.Server.Tests;

/// <summary>A signature as files that anybody can open. The message is read by the npm package mailparser, which is not ours.</summary>
public sealed class ExportTests
{
    [Fact]
    public async Task A_test_message_holds_text_html_and_every_picture_for_a_parser_that_is_not_ours()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia", title: "Tierärztin & Söhne"));
        var (design, person) = ((await browser.OpenStarterAsync("beside-the-mark", "Full")).Id, (await browser.FindAsync("mia")).Id);
        var message = await browser.Http.GetByteArrayAsync($"api/designs/{design}/files/eml?person={person}");
        var read = await Outside.AskAsync("mail.mjs", new JsonObject { ["message"] = Convert.ToBase64String(message) });
        Assert.Equal(("mia@brackenfold.example", "mia@brackenfold.example"), (read["from"]!["address"]!.ToString(), read["to"]!["address"]!.ToString()));
        Assert.Contains("\n-- \nmia\nTierärztin & Söhne\n", read["text"]!.ToString().ReplaceLineEndings("\n"), StringComparison.Ordinal);
        var html = read["html"]!.ToString();
        Assert.Contains("Tierärztin &amp; Söhne", html, StringComparison.Ordinal);
        var picture = Assert.Single(read["pictures"]!.AsArray())!;
        Assert.Equal(("image/png", "inline"), (picture["contentType"]!.ToString(), picture["contentDisposition"]!.ToString()));
        Assert.Contains($"src=\"cid:{picture["cid"]}\"", html, StringComparison.Ordinal); // RFC 2392
        using var bitmap = SKBitmap.Decode(Convert.FromBase64String(picture["bytes"]!.ToString()));
        Assert.Equal(64, bitmap.Width);
        // RFC 5322 section 2.1.1: no line is longer than 998 characters; RFC 2045 section 6.8: base64 in lines of 76.
        Assert.All(System.Text.Encoding.UTF8.GetString(message).Split("\r\n"), line => Assert.True(line.Length <= 998));
    }

    [Fact]
    public async Task A_bundle_opens_anywhere_with_its_pictures_beside_it()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        var (design, person) = ((await browser.OpenStarterAsync("beside-the-mark", "Full")).Id, (await browser.FindAsync("mia")).Id);
        await using var archive = new ZipArchive(new MemoryStream(await browser.Http.GetByteArrayAsync($"api/designs/{design}/files/zip?person={person}")));
        var names = archive.Entries.Select(entry => entry.FullName).ToArray();
        Assert.Contains("signature.html", names);
        Assert.Contains("signature.txt", names);
        Assert.Contains("signature.rtf", names);
        using var manifest = new StreamReader(archive.GetEntry("manifest.json")!.Open());
        foreach (var file in JsonNode.Parse(await manifest.ReadToEndAsync())!["files"]!.AsArray())
        {
            await using var stream = archive.GetEntry(file!["path"]!.ToString())!.Open();
            var bytes = new MemoryStream();
            await stream.CopyToAsync(bytes);
            Assert.Equal(file["sha256"]!.ToString(), Core.Rendering.RenderedSignature.Sha256(bytes.ToArray()));
        }

        using var html = new StreamReader(archive.GetEntry("signature.html")!.Open());
        Assert.Contains(names, name => name.StartsWith("pictures/", StringComparison.Ordinal));
        Assert.Contains($"src=\"{names.Single(name => name.StartsWith("pictures/", StringComparison.Ordinal))}\"", await html.ReadToEndAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_page_and_rich_text_need_no_file_beside_them()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        var (design, person) = ((await browser.OpenStarterAsync("beside-the-mark", "Full")).Id, (await browser.FindAsync("mia")).Id);
        var page = await browser.Http.GetStringAsync(new Uri($"api/designs/{design}/files/html?person={person}", UriKind.Relative));
        Assert.Contains("src=\"data:image/png;base64,iVBORw0KGgo", page, StringComparison.Ordinal);
        Assert.DoesNotContain("src=\"pictures/", page, StringComparison.Ordinal);
        var rtf = await browser.Http.GetStringAsync(new Uri($"api/designs/{design}/files/rtf?person={person}", UriKind.Relative));
        Assert.StartsWith("{\\rtf1", rtf, StringComparison.Ordinal);
        Assert.Contains("\n89504e470d0a1a0a", rtf, StringComparison.Ordinal); // the PNG signature: W3C PNG section 5.2
    }

    [Fact]
    public async Task A_whole_set_goes_out_for_chosen_people_with_a_folder_each()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia") + Ldif.Person("tom") + Ldif.Person("eva"));
        var (full, brief) = (await browser.OpenStarterAsync("beside-the-mark", "Full"), await browser.OpenStarterAsync("two-lines", "Short/er"));
        await browser.SaveDesignAsync(full.Id, full.Document with { Set = "Clinics" });
        await browser.SaveDesignAsync(brief.Id, brief.Document with { Set = "Clinics", Theme = full.Document.Theme });
        var chosen = new PeopleSelection([(await browser.FindAsync("mia")).Id, (await browser.FindAsync("tom")).Id], null);
        using var answer = await browser.PostAsync("api/people/signatures", new SignaturesRequest(chosen, null, "Clinics"));
        await using var archive = new ZipArchive(new MemoryStream(await answer.Content.ReadAsByteArrayAsync()));
        var names = archive.Entries.Select(entry => entry.FullName).ToArray();
        Assert.Equal(["mia@brackenfold.example", "tom@brackenfold.example"], names.Where(name => name.Contains('/', StringComparison.Ordinal)).Select(name => name.Split('/')[0]).Distinct());
        foreach (var ending in new[] { "html", "txt", "rtf" }) Assert.Equal(2, names.Count(name => name.StartsWith("mia", StringComparison.Ordinal) && name.EndsWith(ending, StringComparison.Ordinal)));
        Assert.Contains("mia@brackenfold.example/Short%2Fer.txt", names);
        Assert.Single(names, name => name.StartsWith("mia@brackenfold.example/pictures/", StringComparison.Ordinal));
        await browser.SaveDesignAsync(brief.Id, brief.Document with { Name = "FULL", Set = "Clinics", Theme = full.Document.Theme });
        using var alike = await browser.PostAsync("api/people/signatures", new SignaturesRequest(chosen, null, "Clinics"));
        await using var both = new ZipArchive(new MemoryStream(await alike.Content.ReadAsByteArrayAsync()));
        Assert.Equal(2, both.Entries.Count(entry => entry.FullName.StartsWith("mia", StringComparison.Ordinal) && entry.FullName.EndsWith(".txt", StringComparison.Ordinal)));
        using var nothing = await browser.PostAsync("api/people/signatures", new SignaturesRequest(chosen, null, "Nowhere"));
        Assert.Equal(HttpStatusCode.NotFound, nothing.StatusCode);
    }

    [Fact]
    public async Task A_set_goes_out_as_a_file_and_comes_into_another_company_after_a_look()
    {
        byte[] file;
        await using (var here = await RunningServer.StartAsync())
        {
            using var browser = await here.SignInAsync();
            var (full, brief) = (await browser.OpenStarterAsync("beside-the-mark", "Full"), await browser.OpenStarterAsync("two-lines", "Short"));
            await browser.SaveDesignAsync(full.Id, full.Document with { Set = "Clinics" });
            await browser.SaveDesignAsync(brief.Id, brief.Document with { Set = "Clinics", Theme = full.Document.Theme });
            file = await browser.Http.GetByteArrayAsync("api/design-files?set=Clinics");
        }

        await using var there = await RunningServer.StartAsync();
        using var other = await there.SignInAsync();
        await other.OpenStarterAsync("one-line", "Full");
        var look = await Browser.ReadAsync<Arrival>(await other.SendAsync(HttpMethod.Post, "api/design-files?look=true", Bytes(file)));
        Assert.Equal([("Full", "Full, copy", "Clinics"), ("Short", "Short", "Clinics")], look.Designs.Select(design => (design.Name, design.Becomes, design.BecomesSet)));
        Assert.False(Assert.Single(look.Pictures).IsNew); // the shipped mark is everywhere
        Assert.Single(await other.GetAsync<List<DesignRow>>("api/designs")); // a look adds nothing
        var taken = await Browser.ReadAsync<Arrival>(await other.SendAsync(HttpMethod.Post, "api/design-files", Bytes(file)));
        Assert.Equal(look.Designs.ToArray(), taken.Designs.ToArray());
        Assert.Equal([("Full", ""), ("Full, copy", "Clinics"), ("Short", "Clinics")], (await other.GetAsync<List<DesignRow>>("api/designs")).Select(row => (row.Name, row.Set)));
        using var broken = await other.SendAsync(HttpMethod.Post, "api/design-files", Bytes("{\"format\":\"relevo-designs/1\"}"u8.ToArray()));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, broken.StatusCode);
        Assert.Equal("file-unreadable", (await Problem.ReadAsync(broken)).Faults[0].Code);
    }

    [Fact]
    public async Task What_cannot_be_exported_is_refused()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        var (design, person) = ((await browser.OpenStarterAsync("two-lines", "Short")).Id, (await browser.FindAsync("mia")).Id);
        foreach (var (asked, status) in new[]
        {
            ($"doc?person={person}", HttpStatusCode.NotFound),
            ($"txt?person={person}&occasion=soon", HttpStatusCode.BadRequest),
            ($"txt?person={person}&audience=everybody", HttpStatusCode.BadRequest),
            ($"txt?person={Guid.NewGuid()}", HttpStatusCode.NotFound),
        })
        {
            using var answer = await browser.Http.GetAsync(new Uri($"api/designs/{design}/files/{asked}", UriKind.Relative));
            Assert.Equal((asked, status), (asked, answer.StatusCode));
            Assert.NotEmpty((await Problem.ReadAsync(answer)).Code);
        }
    }

    private static ByteArrayContent Bytes(byte[] file) => new(file) { Headers = { ContentType = new MediaTypeHeaderValue("application/octet-stream") } };
}
