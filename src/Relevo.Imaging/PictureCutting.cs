using Relevo.Core.Designs;
using SkiaSharp;

namespace Relevo.Imaging;

/// <summary>Makes cuts of pictures at their exact size. The same cut of the same picture gives the same bytes.</summary>
public static class PictureCutting
{
    private const float CornerShare = 8; // a rounded corner is an eighth of the shorter side

    /// <summary>Makes a cut of a picture file that was read by <see cref="PictureReading"/>, or null when it cannot be decoded.</summary>
    public static byte[]? Cut(PictureCut cut, byte[] source)
    {
        using var picture = PictureReading.Decode(source);
        if (picture is null) return null;
        using var image = SKImage.FromBitmap(picture);
        using var surface = SKSurface.Create(new SKImageInfo(cut.Width, cut.Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        var canvas = surface.Canvas;
        canvas.Clear(cut.Ground.Length > 0 ? SKColor.Parse(cut.Ground) : SKColors.Transparent);
        var target = new SKRect(0, 0, cut.Width, cut.Height);
        using var outline = Outline(cut.Shape, target);
        canvas.ClipPath(outline, SKClipOperation.Intersect, antialias: true);
        using var scaled = Scale(image, cut.Width, cut.Height);
        canvas.DrawImage(scaled, target, new SKSamplingOptions(SKCubicResampler.Mitchell));
        using var cutOut = surface.Snapshot();
        using var png = cutOut.Encode(SKEncodedImageFormat.Png, 100);
        return png.ToArray();
    }

    /// <summary>The middle of the picture in the shape of the target, halved until it is less than twice as large, so that the last step's filter sees every pixel.</summary>
    private static SKImage Scale(SKImage image, int width, int height)
    {
        var scale = Math.Max((float)width / image.Width, (float)height / image.Height);
        var (wide, high) = (width / scale, height / scale);
        var part = SKRectI.Round(SKRect.Create((image.Width - wide) / 2, (image.Height - high) / 2, wide, high));
        var current = image.Subset(part) ?? throw new InvalidOperationException($"A picture of {image.Width} x {image.Height} has no part {part}.");
        while (current.Width >= 2 * width && current.Height >= 2 * height)
        {
            var info = new SKImageInfo(current.Width / 2, current.Height / 2, SKColorType.Rgba8888, SKAlphaType.Premul);
            using var surface = SKSurface.Create(info);
            surface.Canvas.DrawImage(current, new SKRect(0, 0, info.Width, info.Height), new SKSamplingOptions(SKFilterMode.Linear));
            current.Dispose();
            current = surface.Snapshot();
        }

        return current;
    }

    private static SKPath Outline(PictureShape shape, SKRect target)
    {
        using var outline = new SKPathBuilder();
        var corner = Math.Min(target.Width, target.Height) / CornerShare;
        if (shape == PictureShape.Circle) outline.AddOval(target);
        else if (shape == PictureShape.Rounded) outline.AddRoundRect(new SKRoundRect(target, corner));
        else outline.AddRect(target);
        return outline.Detach();
    }
}
