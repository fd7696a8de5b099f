using System.IO.Compression;
using System.Net.Http.Headers;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Relevo.Server.Designs;
using Relevo.Server.Lens;
using Relevo.Server.People;
using SkiaSharp;

namespace Relevo.Server.Tests;

/// <summary>Portraits by the archive, and pictures as signatures show them: made at their size, kept, and fetched by whoever reads the mail.</summary>
public sealed class PortraitTests
{
    [Fact]
    public async Task An_archive_gives_each_person_their_portrait_and_says_what_it_could_not_use()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia") + Ldif.Person("bo"));
        var answer = await TakeAsync(browser, Pack(("mia@brackenfold.example.jpg", Draw(300, 400, SKEncodedImageFormat.Jpeg)), ("folder/bo@brackenfold.example.png", "no picture"u8.ToArray()), ("someone@else.example.png", Draw(9, 9, SKEncodedImageFormat.Png))));
        Assert.Equal((1, 2), (answer.Taken, answer.Refused.Length));
        Assert.Equal(["bo@brackenfold.example.png", "someone@else.example.png"], answer.Refused.Select(refused => refused.File).Order());
        var mia = await browser.GetAsync<PersonAnswer>($"api/people/{(await browser.FindAsync("mia")).Id}");
        Assert.Equal(64, mia.Fields.Single(field => field.Name == "portrait").Stored.Length);
        using var odd = await HandInAsync(browser, "PK but not really"u8.ToArray());
        Assert.Equal("archive-refused", (await Problem.ReadAsync(odd)).Code);
        // Portraits are people's, not the library's: no editor finds a colleague's face among the logos.
        Assert.DoesNotContain(await browser.GetAsync<LibraryPicture[]>("api/pictures"), picture => picture.Width == 300);
    }

    [Fact]
    public async Task A_signature_shows_the_portrait_in_a_circle_of_exactly_its_size_and_anybody_can_fetch_it()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        await TakeAsync(browser, Pack(("mia@brackenfold.example.png", Draw(300, 400, SKEncodedImageFormat.Png))));
        var design = await browser.OpenStarterAsync("portrait-and-icons", "With portrait");
        var person = (await browser.FindAsync("mia")).Id;
        var signature = (await browser.GetAsync<LensAnswer>($"api/lens?design={design.Id}&person={person}")).Signature!;
        var name = Assert.Single(signature.Pictures, picture => picture.EndsWith("-96x96-circle", StringComparison.Ordinal));
        Assert.Contains($"src=\"pictures/{name}.png\" width=\"96\" height=\"96\"", signature.Html, StringComparison.Ordinal);
        using var outside = new HttpClient { BaseAddress = server.Address };
        foreach (var picture in signature.Pictures)
        {
            using var answer = await outside.GetAsync(new Uri($"pictures/{picture}.png", UriKind.Relative));
            Assert.True(answer.Headers.CacheControl!.MaxAge > TimeSpan.FromDays(300));
            using var bitmap = SKBitmap.Decode(await answer.Content.ReadAsByteArrayAsync());
            var cut = PictureCut.Parse(picture)!;
            Assert.Equal((cut.Width, cut.Height), (bitmap.Width, bitmap.Height));
            if (picture == name) Assert.Equal((0, 255), (bitmap.GetPixel(1, 1).Alpha, bitmap.GetPixel(48, 48).Alpha));
        }

        // What no signature has shown cannot be had, so nobody outside can set the server to work.
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await outside.GetAsync(new Uri($"pictures/{name.Replace("96x96", "97x97", StringComparison.Ordinal)}.png", UriKind.Relative))).StatusCode);
    }

    [Fact]
    public async Task A_review_names_the_longest_and_the_emptiest_and_weighs_what_each_message_carries()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("ann") + Ldif.Person("a-very-long-name-indeed"));
        var design = await browser.OpenStarterAsync("beside-the-mark", "Full");
        var review = await browser.GetAsync<ReviewAnswer>($"api/designs/{design.Id}/review");
        Assert.Equal((2, "a-very-long-name-indeed@brackenfold.example", "a-very-long-name-indeed@brackenfold.example"), (review.Accounts, review.Longest!.Account.Address, review.Emptiest!.Account.Address));
        Assert.Equal(2, review.Emptiest.Sharing);
        Assert.Equal(review.Weight.Html + Weight.Base64(review.Weight.Pictures), review.Weight.Each);
        Assert.True(review.Weight.Pictures > 500);
        var among = await browser.GetAsync<ReviewAnswer>($"api/designs/{design.Id}/review?field=displayName&value={Uri.EscapeDataString(review.Longest.Account.Name.ToUpperInvariant())}");
        Assert.Equal((1, review.Longest.Account.Address), (among.Accounts, among.Longest!.Account.Address));
        Assert.Null((await browser.GetAsync<ReviewAnswer>($"api/designs/{design.Id}/review?field=displayName&value=nobody")).Longest);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await browser.Http.GetAsync(new Uri($"api/designs/{design.Id}/review?field=shoeSize&value=44", UriKind.Relative))).StatusCode);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await browser.Http.GetAsync(new Uri($"api/designs/{Guid.NewGuid()}/review", UriKind.Relative))).StatusCode);
    }

    [Fact]
    public async Task A_review_names_whose_portrait_is_heaviest_and_weighs_the_message_with_it()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("plain") + Ldif.Person("busy") + Ldif.Person("none"));
        await TakeAsync(browser, Pack(("plain@brackenfold.example.png", Draw(300, 400, SKEncodedImageFormat.Png)), ("busy@brackenfold.example.png", Noise(300, 400))));
        var design = await browser.OpenStarterAsync("portrait-and-icons", "With portrait");
        var review = await browser.GetAsync<ReviewAnswer>($"api/designs/{design.Id}/review");
        Assert.Equal(("busy", 2, 2), (review.Heaviest!.Account.Name, review.Heaviest.Measured, review.Heaviest.Of));
        var seen = (await browser.GetAsync<LensAnswer>($"api/lens?design={design.Id}&person={review.Heaviest.Account.Person}")).Signature!.Pictures.Single(name => name.EndsWith("-circle", StringComparison.Ordinal));
        Assert.Equal((await browser.Http.GetByteArrayAsync($"pictures/{seen}.png")).Length, review.Heaviest.Bytes);
        Assert.True(review.Weight.Pictures >= review.Heaviest.Bytes);
    }

    [Fact]
    public async Task Themes_are_kept_taken_again_and_thrown_away_and_colours_come_from_a_picture()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var theme = (await browser.OpenStarterAsync("beside-the-mark", "Full")).Document.Theme;
        using var kept = await browser.PostAsync("api/themes", new KeepThemeRequest(" Winter ", theme));
        Assert.Equal(System.Net.HttpStatusCode.NoContent, kept.StatusCode);
        using var again = await browser.PostAsync("api/themes", new KeepThemeRequest("winter", theme with { LineHeight = 150 }));
        var one = Assert.Single(await browser.GetAsync<ThemeAnswer[]>("api/themes"));
        Assert.Equal(("winter", 150), (one.Name, one.Theme.LineHeight));
        using var odd = await browser.PostAsync("api/themes", new KeepThemeRequest("x", theme with { LineHeight = 900 }));
        Assert.Equal("line-height-range", (await Problem.ReadAsync(odd)).Faults[0].Code);
        using var gone = await browser.DeleteAsync($"api/themes/{one.Id}", null);
        Assert.Empty(await browser.GetAsync<ThemeAnswer[]>("api/themes"));
        var logo = (await browser.GetAsync<LibraryPicture[]>("api/pictures"))[0];
        var proposal = await browser.GetAsync<ThemeProposal>($"api/pictures/{logo.Sha256}/colours");
        Assert.True(Contrast.Ratio(proposal.Colours.Text, "#ffffff") >= 10);
    }

    private static byte[] Noise(int width, int height)
    {
        var random = new Random(1);
        using var bitmap = new SKBitmap(width, height);
        for (var y = 0; y < height; y++)
        {
            for (var x = 0; x < width; x++) bitmap.SetPixel(x, y, new SKColor((uint)random.Next() | 0xFF000000));
        }

        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }

    private static async Task<PortraitsAnswer> TakeAsync(Browser browser, byte[] archive) => await Browser.ReadAsync<PortraitsAnswer>(await HandInAsync(browser, archive));

    private static Task<HttpResponseMessage> HandInAsync(Browser browser, byte[] archive)
    {
        var content = new ByteArrayContent(archive);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        return browser.SendAsync(HttpMethod.Post, "api/portraits", content);
    }

    private static byte[] Pack(params (string Name, byte[] Bytes)[] files)
    {
        var packed = new MemoryStream();
        using (var archive = new ZipArchive(packed, ZipArchiveMode.Create))
        {
            foreach (var (name, bytes) in files)
            {
                using var file = archive.CreateEntry(name).Open();
                file.Write(bytes);
            }
        }

        return packed.ToArray();
    }

    private static byte[] Draw(int width, int height, SKEncodedImageFormat format)
    {
        using var bitmap = new SKBitmap(width, height);
        bitmap.Erase(SKColors.SeaGreen);
        using var data = bitmap.Encode(format, 95);
        return data.ToArray();
    }
}
