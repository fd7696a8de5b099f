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
        var (width, height) = (cut.Width * cut.Density, cut.Height * cut.Density);
        using var surface = SKSurface.Create(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        var canvas = surface.Canvas;
        canvas.Clear(cut.Ground.Length > 0 ? SKColor.Parse(cut.Ground) : SKColors.Transparent);
        var target = new SKRect(0, 0, width, height);
        using var outline = Outline(cut.Shape, target);
        canvas.ClipPath(outline, SKClipOperation.Intersect, antialias: true);
        using var scaled = Scale(image, PartOf(image, cut), width, height);
        canvas.DrawImage(scaled, target, new SKSamplingOptions(SKCubicResampler.Mitchell));
        using var cutOut = surface.Snapshot();
        return Pack(cutOut);
    }

    /// <summary>The picture as PNG: with a palette where that holds its colours and is smaller.</summary>
    public static byte[] Pack(SKImage image)
    {
        using var png = image.Encode(SKEncodedImageFormat.Png, 100);
        using var pixels = new SKBitmap(new SKImageInfo(image.Width, image.Height, SKColorType.Rgba8888, SKAlphaType.Unpremul));
        var palette = image.ReadPixels(pixels.Info, pixels.GetPixels(), pixels.RowBytes, 0, 0) ? PalettePng.TryWrite(pixels.Pixels, image.Width, image.Height) : null;
        return palette is not null && palette.Length < png.Size ? palette : png.ToArray();
    }

    /// <summary>The part of the picture that is shown: as it was chosen, moved inwards where it would reach over an edge, or as much of the middle as fits.</summary>
    private static SKRectI PartOf(SKImage image, PictureCut cut)
    {
        var ratio = (float)cut.Height / cut.Width;
        var most = Math.Min(image.Width, image.Height / ratio);
        var wide = cut.Crop is { } crop ? Math.Min(most, crop.Width / 1000f * image.Width) : most;
        var high = wide * ratio;
        var left = cut.Crop is { Left: var from } ? Math.Min(from / 1000f * image.Width, image.Width - wide) : (image.Width - wide) / 2;
        var top = cut.Crop is { Top: var above } ? Math.Min(above / 1000f * image.Height, image.Height - high) : (image.Height - high) / 2;
        var part = SKRectI.Round(SKRect.Create(left, top, wide, high));
        part.Right = Math.Max(part.Right, part.Left + 1);
        part.Bottom = Math.Max(part.Bottom, part.Top + 1);
        return part;
    }

    /// <summary>A part of the picture, halved until it is less than twice as large, so that the last step's filter sees every pixel.</summary>
    private static SKImage Scale(SKImage image, SKRectI part, int width, int height)
    {
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
