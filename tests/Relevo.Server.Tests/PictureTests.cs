using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Relevo.Core.Designs;
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
            ("<html><body/></html>"u8.ToArray(), "can be read"),
            (Array.Empty<byte>(), "can be read"),
            (Draw(8000, 5000, SKEncodedImageFormat.Png), "40 megapixels"),
            (Draw(600, 600, SKEncodedImageFormat.Png)[..900], "before it is whole"),
            (new byte[PictureReading.MaxFileBytes + 1], "more than 20 MB"),
            (MovingGif(frames: 4000), "4000 frames"),
            (Draw(9000, 7000, SKEncodedImageFormat.Png), "63 megapixels"),
        })
        {
            using var answer = await HandInAsync(browser, file);
            var problem = await Problem.ReadAsync(answer);
            Assert.Equal("picture-refused", problem.Code);
            Assert.Contains(words, problem.Detail, StringComparison.Ordinal);
        }
    }

    [Fact]
    public void A_drawing_is_drawn_as_pixels_with_nothing_behind_it()
    {
        var picture = PictureReading.Read(Drawing("<defs><g id='dot'><circle cx='10' cy='10' r='8' fill='#1f6b52'/></g></defs><use href='#dot'/><use href='#dot' x='20'/>")).Picture!;
        Assert.Equal((1024, 512), (picture.Width, picture.Height));
        using var bitmap = SKBitmap.Decode(picture.Png);
        Assert.Equal((0, new SKColor(0x1F, 0x6B, 0x52)), (bitmap.GetPixel(2, 2).Alpha, bitmap.GetPixel(768, 256)));
    }

    [Theory]
    [InlineData("<script>alert(1)</script>", "\"script\"")]
    [InlineData("<rect onload='alert(1)'/>", "\"onload\"")]
    [InlineData("<foreignObject/>", "\"foreignObject\"")]
    [InlineData("<image href='https://brackenfold.example/x.png'/>", "outside the file")]
    [InlineData("<image href='file:///etc/passwd'/>", "outside the file")]
    [InlineData("<a href='javascript:alert(1)'/>", "outside the file")]
    [InlineData("<rect style='fill:URL( \"https://brackenfold.example/x\")'/>", "outside the file")]
    [InlineData("<style>@import 'x.css';</style>", "outside the file")]
    [InlineData("<g id='a'><use href='#a'/></g>", "parts")]
    [InlineData("<rect width=>", "line 1")]
    public void A_drawing_that_does_more_than_draw_is_refused_with_the_place(string content, string words) =>
        Assert.Contains(words, PictureReading.Read(Drawing(content)).Reason!, StringComparison.Ordinal);

    [Fact]
    public void A_drawing_with_entities_or_of_uses_within_uses_is_refused_at_once()
    {
        Assert.Contains("entities", PictureReading.Read("<!DOCTYPE svg [<!ENTITY x SYSTEM 'file:///etc/passwd'>]><svg xmlns='http://www.w3.org/2000/svg'><text>&x;</text></svg>"u8.ToArray()).Reason!, StringComparison.Ordinal);
        var doubling = string.Concat(Enumerable.Range(1, 40).Select(level => $"<g id='g{level}'>{string.Concat(Enumerable.Repeat($"<use href='#g{level - 1}'/>", 10))}</g>"));
        Assert.Contains("parts", PictureReading.Read(Drawing($"<g id='g0'><rect width='1' height='1'/></g>{doubling}")).Reason!, StringComparison.Ordinal);
        var odd = PictureReading.Read(Drawing("<rect width='NaN' height='1e999' transform='scale(x)'/>"));
        Assert.True(odd.Picture is null != odd.Reason is null);
    }

    private static byte[] Drawing(string content) => Encoding.UTF8.GetBytes($"<?xml version='1.0'?><svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 40 20' width='40' height='20'>{content}</svg>");

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

    [Theory]
    [InlineData(PictureShape.Square, 255, 255)]
    [InlineData(PictureShape.Rounded, 0, 255)]
    [InlineData(PictureShape.Circle, 0, 255)]
    public void A_cut_has_exactly_its_size_and_outline_and_shows_the_middle(PictureShape shape, int corner, int middle)
    {
        var cut = PictureCutting.Cut(new PictureCut(new string('a', 64), 48, 48, shape, ""), Draw(400, 100, SKEncodedImageFormat.Png))!;
        using var bitmap = SKBitmap.Decode(cut);
        Assert.Equal((48, 48), (bitmap.Width, bitmap.Height));
        Assert.Equal((corner, middle), (bitmap.GetPixel(0, 0).Alpha, bitmap.GetPixel(24, 24).Alpha));
        Assert.True(bitmap.GetPixel(2, 24).Blue > 200); // the red edge of the wide picture is cut off
        using var grounded = SKBitmap.Decode(PictureCutting.Cut(new PictureCut(new string('a', 64), 48, 48, shape, "#00ff00"), Draw(400, 100, SKEncodedImageFormat.Png)));
        Assert.Equal(255, grounded.GetPixel(0, 0).Alpha);
        Assert.Equal(cut, PictureCutting.Cut(new PictureCut(new string('a', 64), 48, 48, shape, ""), Draw(400, 100, SKEncodedImageFormat.Png)));
        Assert.Null(PictureCutting.Cut(new PictureCut(new string('a', 64), 48, 48, shape, ""), "no picture"u8.ToArray()));
    }

    [Theory]
    [InlineData(0, 0, 250, 255, 0)] // the left quarter is red
    [InlineData(250, 0, 250, 0, 255)]
    [InlineData(0, 900, 250, 255, 0)] // over the lower edge: moved inwards
    public void A_cut_shows_the_part_that_was_chosen(int left, int top, int width, int red, int blue)
    {
        var cut = new PictureCut(new string('a', 64), 40, 20, PictureShape.Square, "") { Crop = new PictureCrop(left, top, width) };
        using var bitmap = SKBitmap.Decode(PictureCutting.Cut(cut, Draw(400, 400, SKEncodedImageFormat.Png)));
        Assert.All(new[] { (0, 0), (39, 19), (20, 10) }, at => Assert.Equal((red, blue), (bitmap.GetPixel(at.Item1, at.Item2).Red, bitmap.GetPixel(at.Item1, at.Item2).Blue)));
        using var dense = SKBitmap.Decode(PictureCutting.Cut(cut with { IsDouble = true }, Draw(400, 400, SKEncodedImageFormat.Png)));
        Assert.Equal((80, 40), (dense.Width, dense.Height));
    }

    /// <summary>Read back by the library's own decoder, which is not ours: the same pixels, in fewer bytes.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(4)]
    [InlineData(16)]
    [InlineData(256)]
    [InlineData(257)]
    public void A_picture_of_few_colours_has_a_palette_and_loses_nothing(int colours)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(67, 31, SKColorType.Rgba8888, SKAlphaType.Unpremul));
        for (var at = 0; at < 67 * 31; at++) bitmap.SetPixel(at % 67, at / 67, ColourAt(at * 97 % colours));
        using var image = SKImage.FromBitmap(bitmap);
        var packed = PictureCutting.Pack(image);
        if (colours is <= 16 or > 256) Assert.Equal(colours > 256 ? 6 : 3, packed[25]); // the colour type: true colour with alpha, or a palette, where it pays
        using var read = SKBitmap.Decode(packed, bitmap.Info);
        Assert.Equal(bitmap.Pixels.Select(pixel => pixel.Alpha == 0 ? SKColor.Empty : pixel), read.Pixels.Select(pixel => pixel.Alpha == 0 ? SKColor.Empty : pixel));
        using var plain = image.Encode(SKEncodedImageFormat.Png, 100);
        Assert.True(packed.Length <= plain.Size);
    }

    private static SKColor ColourAt(int place) => new((byte)place, (byte)(place / 256 * 90), 80, (byte)(place == 1 ? 0 : 255));

    [Fact]
    public void Every_icon_is_drawn_within_its_square_in_its_colour_and_no_two_are_alike()
    {
        var drawn = Enum.GetValues<IconKind>().ToDictionary(kind => kind, kind => IconDrawing.Draw(kind, "#b8431a", 32, 32));
        Assert.Equal(drawn.Count, drawn.Values.Select(png => Core.Rendering.RenderedSignature.Sha256(png)).Distinct().Count());
        foreach (var (kind, png) in drawn)
        {
            using var bitmap = SKBitmap.Decode(png);
            var inked = bitmap.Pixels.Where(pixel => pixel.Alpha == 255).ToArray();
            Assert.True(inked.Length > 30, kind.ToString());
            Assert.All(inked, pixel => Assert.Equal((0xB8, 0x43, 0x1A), (pixel.Red, pixel.Green, pixel.Blue)));
            Assert.All(Enumerable.Range(0, 32), at => Assert.Equal(0, bitmap.GetPixel(at, 0).Alpha)); // nothing is cut off at the edge
        }
    }

    [Fact]
    public void A_pictures_colours_are_counted_without_what_is_see_through()
    {
        var colours = PictureColours.Count(Draw(100, 100, SKEncodedImageFormat.Png));
        Assert.Equal(2, colours.Count);
        Assert.InRange((double)colours.Single(colour => colour.Red > 200).Pixels / colours.Sum(colour => colour.Pixels), 0.2, 0.3);
        Assert.Empty(PictureColours.Count("no picture"u8.ToArray()));
        using var clear = new SKBitmap(9, 9);
        Assert.Empty(PictureColours.Count(clear.Encode(SKEncodedImageFormat.Png, 100).ToArray()));
    }

    /// <summary>A picture of one pixel that changes so many times. Source: GIF89a, sections 17 to 23.</summary>
    private static byte[] MovingGif(int frames)
    {
        byte[] head = [.. "GIF89a"u8, 1, 0, 1, 0, 0x80, 0, 0, 0, 0, 0, 255, 255, 255];
        byte[] frame = [0x21, 0xF9, 4, 0, 10, 0, 0, 0, 0x2C, 0, 0, 0, 0, 1, 0, 1, 0, 0, 2, 2, 0x44, 1, 0];
        return [.. head, .. Enumerable.Repeat(frame, frames).SelectMany(bytes => bytes), 0x3B];
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
