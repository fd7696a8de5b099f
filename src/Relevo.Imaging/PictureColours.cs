using Relevo.Core.Designs;
using SkiaSharp;

namespace Relevo.Imaging;

/// <summary>The colours of a picture, counted.</summary>
public static class PictureColours
{
    private const int LongestLooked = 128; // pixels; enough to tell a mark's colours apart
    private const int Steps = 8; // of a channel, taken together

    /// <summary>Colours of what is not see-through, or none when the file cannot be decoded.</summary>
    public static IReadOnlyList<PictureColour> Count(byte[] file)
    {
        using var picture = PictureReading.Decode(file);
        if (picture is null) return [];
        var scale = Math.Min(1f, (float)LongestLooked / Math.Max(picture.Width, picture.Height));
        using var small = picture.Resize(new SKImageInfo(Math.Max(1, (int)(picture.Width * scale)), Math.Max(1, (int)(picture.Height * scale)), SKColorType.Rgba8888, SKAlphaType.Unpremul), new SKSamplingOptions(SKFilterMode.Nearest));
        return [.. small.Pixels.Where(pixel => pixel.Alpha > 200)
            .GroupBy(pixel => (pixel.Red / Steps, pixel.Green / Steps, pixel.Blue / Steps))
            .Select(group => new PictureColour((byte)group.Average(pixel => pixel.Red), (byte)group.Average(pixel => pixel.Green), (byte)group.Average(pixel => pixel.Blue), group.Count()))];
    }
}
