using SkiaSharp;

namespace Relevo.Imaging;

/// <summary>A picture as it is kept: PNG, upright, without what a camera wrote beside it. Sizes in pixels.</summary>
public sealed record ReadPicture(byte[] Png, int Width, int Height);

/// <summary>Reads pictures that people hand in. What comes out is made anew, so nothing of the file but its pixels is kept.</summary>
public static class PictureReading
{
    /// <summary>Bytes of a file at most: a camera's largest JPEG fits.</summary>
    public const int MaxFileBytes = 20 << 20;

    /// <summary>Pixels of a file at most, looked at before any of them is decoded: 25 million take 100 MB.</summary>
    public const long MaxPixels = 25_000_000;

    // What is kept is cut and encoded anew before it goes anywhere, so it is packed quickly rather than small.
    private static readonly SKPngEncoderOptions Quick = new(SKPngEncoderFilterFlags.Sub, 2);

    /// <summary>Frames of a moving picture at most; only the first is kept.</summary>
    public const int MaxFrames = 500;

    private const int LongestKept = 1024; // pixels; four times the largest portrait in a signature, for dense screens and later cuts

    /// <summary>Reads a PNG, JPEG, WebP, GIF (its first picture) or SVG file. Gives the picture, or why it is not taken as a sentence.</summary>
    public static (ReadPicture? Picture, string? Reason) Read(byte[] file)
    {
        if (file.Length > MaxFileBytes) return (null, $"The file has more than {MaxFileBytes >> 20} MB.");
        if (DrawingReading.LooksLikeDrawing(file))
        {
            var (drawn, refusal) = DrawingReading.Draw(file, LongestKept);
            using (drawn) return drawn is null ? (null, refusal) : (new ReadPicture(Pack(drawn), drawn.Width, drawn.Height), null);
        }

        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        if (codec is null) return (null, "This is not a picture that can be read; PNG, JPEG, WebP, GIF and SVG can.");
        var (width, height) = (codec.Info.Width, codec.Info.Height);
        if ((long)width * height > MaxPixels) return (null, $"The picture has {(long)width * height / 1_000_000} megapixels ({width} x {height}); at most {MaxPixels / 1_000_000} are taken. Scale it down first.");
        if (codec.FrameCount > MaxFrames) return (null, $"The picture moves: it has {codec.FrameCount} frames; at most {MaxFrames} are taken, and the first one is kept.");
        var decodedSize = Sampled(codec, Math.Min(1f, (float)LongestKept / Math.Max(width, height)));
        using var decoded = new SKBitmap(new SKImageInfo(decodedSize.Width, decodedSize.Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        var result = codec.GetPixels(decoded.Info, decoded.GetPixels());
        if (result is not (SKCodecResult.Success or SKCodecResult.IncompleteInput)) return (null, "The picture is damaged.");
        if (result == SKCodecResult.IncompleteInput) return (null, "The picture ends before it is whole.");
        var turned = codec.EncodedOrigin == SKEncodedOrigin.TopLeft ? null : Turn(decoded, codec.EncodedOrigin);
        using var owned = turned;
        var upright = turned ?? decoded;
        var scale = Math.Min(1f, (float)LongestKept / Math.Max(upright.Width, upright.Height));
        var size = new SKImageInfo(Math.Max(1, (int)MathF.Round(upright.Width * scale)), Math.Max(1, (int)MathF.Round(upright.Height * scale)), SKColorType.Rgba8888, SKAlphaType.Premul);
        using var smaller = scale < 1f ? upright.Resize(size, new SKSamplingOptions(SKCubicResampler.Mitchell)) : null;
        var kept = smaller ?? upright;
        return (new ReadPicture(Pack(kept), kept.Width, kept.Height), null);
    }

    private static byte[] Pack(SKBitmap picture)
    {
        using var pixels = picture.PeekPixels();
        using var png = pixels!.Encode(Quick) ?? throw new InvalidOperationException("The picture could not be encoded.");
        return png.ToArray();
    }

    /// <summary>The pixels of a file, or null when it is no picture.</summary>
    internal static SKBitmap? Decode(byte[] file)
    {
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        return codec is null ? null : SKBitmap.Decode(codec);
    }

    /// <summary>The smallest size the file can be decoded at without falling under what is kept: a JPEG's blocks give halves, quarters and eighths for less work and memory.</summary>
    private static SKSizeI Sampled(SKCodec codec, float least)
    {
        foreach (var share in new[] { 0.125f, 0.25f, 0.5f })
        {
            if (share < least) continue;
            var size = codec.GetScaledDimensions(share);
            if (size.Width >= codec.Info.Width * least && size.Height >= codec.Info.Height * least) return size;
        }

        return codec.Info.Size;
    }

    /// <summary>Cameras write which way is up beside the pixels (EXIF orientation, 1 to 8).</summary>
    private static SKBitmap Turn(SKBitmap picture, SKEncodedOrigin origin)
    {
        var isOnItsSide = (int)origin >= (int)SKEncodedOrigin.LeftTop;
        var turned = new SKBitmap(new SKImageInfo(isOnItsSide ? picture.Height : picture.Width, isOnItsSide ? picture.Width : picture.Height, picture.ColorType, picture.AlphaType));
        using var canvas = new SKCanvas(turned);
        var (width, height) = ((float)turned.Width, (float)turned.Height);
        canvas.SetMatrix(origin switch
        {
            SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, width, 0, 1, 0, 0, 0, 1),
            SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, width, 0, -1, height, 0, 0, 1),
            SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, height, 0, 0, 1),
            SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightTop => new SKMatrix(0, -1, width, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, width, -1, 0, height, 0, 0, 1),
            _ => new SKMatrix(0, 1, 0, -1, 0, height, 0, 0, 1),
        });
        canvas.DrawBitmap(picture, 0, 0, SKSamplingOptions.Default);
        return turned;
    }
}
