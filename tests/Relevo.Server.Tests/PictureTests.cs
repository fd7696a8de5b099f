using System.Net;
using System.Net.Http.Headers;
using Relevo.Core.People;
using Relevo.Imaging;
using Relevo.Server.Designs;
using Relevo.Server.People;
using SkiaSharp;

namespace Relevo.Server.Tests;

/// <summary>Pictures that people hand in, and fields that hold one.</summary>
public sealed class PictureTests
{
    [Fact]
    public async Task A_picture_is_made_anew_kept_by_its_hash_and_set_in_a_field()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        var mia = (await browser.FindAsync("mia")).Id;
        var kept = await Browser.ReadAsync<KeptPicture>(await HandInAsync(browser, Draw(3000, 1500, SKEncodedImageFormat.Jpeg)));
        Assert.Equal((1024, 512), (kept.Width, kept.Height));
        var bytes = await browser.Http.GetByteArrayAsync($"pictures/{kept.Sha256}.png");
        Assert.Equal(kept.Sha256, Core.Rendering.RenderedSignature.Sha256(bytes));
        using var given = await browser.PutAsync($"api/people/{mia}/fields/portrait", new SetFieldRequest(null, kept.Sha256), null);
        Assert.Equal(HttpStatusCode.NoContent, given.StatusCode);
        var field = (await browser.GetAsync<PersonAnswer>($"api/people/{mia}")).Fields.Single(one => one.Name == "portrait");
        Assert.Equal((kept.Sha256, kept.Sha256, Layer.Override), (field.Stored, field.Text, field.Origin));
        using var odd = await browser.PutAsync($"api/people/{mia}/fields/portrait", new SetFieldRequest(null, "me.png"), null);
        Assert.Equal("value-refused", (await Problem.ReadAsync(odd)).Faults[0].Code);
    }

    [Fact]
    public async Task What_is_no_picture_too_large_or_cut_off_is_refused_with_the_reason()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        foreach (var (file, words) in new[]
        {
            ("<svg xmlns='http://www.w3.org/2000/svg'/>"u8.ToArray(), "can be read"),
            (Array.Empty<byte>(), "can be read"),
            (Draw(8000, 5000, SKEncodedImageFormat.Png), "40 megapixels"),
            (Draw(600, 600, SKEncodedImageFormat.Png)[..900], "before it is whole"),
            (new byte[PictureReading.MaxFileBytes + 1], "more than 20 MB"),
        })
        {
            using var answer = await HandInAsync(browser, file);
            var problem = await Problem.ReadAsync(answer);
            Assert.Equal("picture-refused", problem.Code);
            Assert.Contains(words, problem.Detail, StringComparison.Ordinal);
        }
    }

    [Fact]
    public void A_cameras_picture_on_its_side_is_kept_upright()
    {
        // JPEG's orientation 6 (EXIF 2.3, tag 0x0112): the right side of the pixels is down, so it is turned a quarter to the right.
        var upright = PictureReading.Read(WithOrientation(Draw(40, 20, SKEncodedImageFormat.Jpeg), 6)).Picture!;
        Assert.Equal((20, 40), (upright.Width, upright.Height));
        using var bitmap = SKBitmap.Decode(upright.Png);
        // The red left edge of the pixels has come to the top.
        Assert.True(bitmap.GetPixel(10, 2).Red > 200 && bitmap.GetPixel(10, 37).Red < 80);
    }

    [Theory]
    [InlineData(SKEncodedImageFormat.Png)]
    [InlineData(SKEncodedImageFormat.Jpeg)]
    [InlineData(SKEncodedImageFormat.Webp)]
    public void The_same_pixels_give_the_same_bytes(SKEncodedImageFormat format)
    {
        var file = Draw(64, 64, format);
        Assert.Equal(PictureReading.Read(file).Picture!.Png, PictureReading.Read(file).Picture!.Png);
    }

    /// <summary>Blue, with a red left edge.</summary>
    private static byte[] Draw(int width, int height, SKEncodedImageFormat format)
    {
        using var bitmap = new SKBitmap(width, height);
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColors.Blue);
        canvas.DrawRect(0, 0, width / 4f, height, new SKPaint { Color = SKColors.Red });
        using var data = bitmap.Encode(format, 95);
        return data.ToArray();
    }

    /// <summary>Puts an EXIF segment with nothing but the orientation behind the JPEG's first marker.</summary>
    private static byte[] WithOrientation(byte[] jpeg, byte orientation)
    {
        byte[] exif = [0xFF, 0xE1, 0, 34, .. "Exif\0\0"u8, .. "MM\0*"u8, 0, 0, 0, 8, 0, 1, 0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, orientation, 0, 0, 0, 0, 0, 0];
        return [.. jpeg[..2], .. exif, .. jpeg[2..]];
    }

    private static Task<HttpResponseMessage> HandInAsync(Browser browser, byte[] file)
    {
        var content = new ByteArrayContent(file);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        return browser.SendAsync(HttpMethod.Post, "api/pictures?name=portrait", content);
    }
}
