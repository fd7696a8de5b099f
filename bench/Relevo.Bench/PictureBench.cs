using System.Diagnostics;
using System.Globalization;
using Relevo.Core.Designs;
using Relevo.Imaging;
using SkiaSharp;

namespace Relevo.Bench;

/// <summary>A portrait as a camera makes it, read, cut to a circle, scaled and encoded.</summary>
internal static class PictureBench
{
    private const int Rounds = 7; // the median counts

    public static int Run()
    {
        var file = Photograph();
        File.WriteAllText("/proc/self/clear_refs", "5"); // forget the most memory so far
        var before = Peak();
        var times = new List<double>();
        for (var round = 0; round < Rounds; round++)
        {
            var clock = Stopwatch.StartNew();
            var (picture, reason) = PictureReading.Read(file);
            if (picture is null) throw new InvalidOperationException(reason);
            if (PictureCutting.Cut(new PictureCut(new string('0', 64), 192, 192, PictureShape.Circle, ""), picture.Png) is null) throw new InvalidOperationException("The portrait was not cut.");
            times.Add(clock.Elapsed.TotalMilliseconds);
        }

        times.Sort();
        var (median, memory) = (times[Rounds / 2], (Peak() - before) / 1_000_000.0);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"A 12-megapixel portrait read, cut to a circle, scaled and encoded: median {median:N0} ms; target: under 400 ms; {(median < 400 ? "met" : "MISSED")}"));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  most memory beyond the file: {memory:N0} MB; target: under 150 MB; {(memory < 150 ? "met" : "MISSED")}"));
        return 0;
    }

    /// <summary>4,000 by 3,000 pixels with something in them, as a JPEG.</summary>
    private static byte[] Photograph()
    {
        using var bitmap = new SKBitmap(4000, 3000);
        using (var canvas = new SKCanvas(bitmap))
        {
            using var paint = new SKPaint { Shader = SKShader.CreatePerlinNoiseTurbulence(0.01f, 0.013f, 4, 7) };
            canvas.DrawPaint(paint);
        }

        using var data = bitmap.Encode(SKEncodedImageFormat.Jpeg, 90);
        return data.ToArray();
    }

    /// <summary>The most the process has held at once since the system was told to forget it, in bytes. Source: proc(5), VmHWM and clear_refs.</summary>
    private static long Peak()
    {
        var line = File.ReadLines("/proc/self/status").First(line => line.StartsWith("VmHWM", StringComparison.Ordinal));
        return 1024 * long.Parse(line.Split(' ', StringSplitOptions.RemoveEmptyEntries)[1].Trim(), CultureInfo.InvariantCulture);
    }
}
