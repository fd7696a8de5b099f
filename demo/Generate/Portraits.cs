using System.IO.Compression;
using SkiaSharp;

namespace Relevo.Demo;

/// <summary>Draws portraits of invented people: a head, hair and shoulders in a few tones, different for each name and the same every time.</summary>
internal static class Portraits
{
    private const int Size = 240;
    private static readonly SKColor[] Skins = [new(0xF1, 0xD0, 0xB0), new(0xE3, 0xB5, 0x8C), new(0xC6, 0x8D, 0x63), new(0x8A, 0x5A, 0x3C), new(0x5E, 0x3B, 0x28)];
    private static readonly SKColor[] Hairs = [new(0x2B, 0x21, 0x1D), new(0x5A, 0x3A, 0x22), new(0x9B, 0x6A, 0x3A), new(0xD3, 0xB0, 0x6E), new(0x8C, 0x8C, 0x8C), new(0x7A, 0x2F, 0x1C)];
    private static readonly SKColor[] Clothes = [new(0x1F, 0x6B, 0x52), new(0x2F, 0x5D, 0x8C), new(0x7D, 0x4E, 0x7A), new(0x33, 0x45, 0x4F), new(0xB0, 0x6A, 0x2C)];
    private static readonly SKColor[] Walls = [new(0xDE, 0xE9, 0xE4), new(0xE6, 0xE2, 0xD6), new(0xD9, 0xE3, 0xEC), new(0xEC, 0xDF, 0xDA)];

    /// <summary>An archive with a portrait of most people, named by their address; some have none, as in life.</summary>
    public static byte[] Archive(IEnumerable<Employee> people)
    {
        var bytes = new MemoryStream();
        using (var archive = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var person in people)
            {
                var seed = Seed(person.Uid);
                if (seed % 10 >= 4) continue;
                var file = archive.CreateEntry($"{person.Mail}.png", CompressionLevel.NoCompression);
                file.LastWriteTime = new DateTimeOffset(2026, 1, 1, 0, 0, 0, TimeSpan.Zero);
                using var stream = file.Open();
                stream.Write(Draw(seed));
            }
        }

        return bytes.ToArray();
    }

    private static byte[] Draw(uint seed)
    {
        using var surface = SKSurface.Create(new SKImageInfo(Size, Size, SKColorType.Rgba8888, SKAlphaType.Opaque));
        var canvas = surface.Canvas;
        canvas.Clear(Pick(Walls, seed));
        using var skin = Paint(Pick(Skins, seed / 7));
        using var hair = Paint(Pick(Hairs, seed / 31));
        using var cloth = Paint(Pick(Clothes, seed / 101));
        if (seed / 211 % 2 == 0) canvas.DrawRoundRect(72, 66, 96, 112, 44, 44, hair);
        canvas.DrawOval(120, 246, 92, 78, cloth);
        canvas.DrawRoundRect(102, 140, 36, 46, 14, 14, skin);
        canvas.DrawOval(120, 104, 42, 52, skin);
        using var cap = new SKPathBuilder();
        cap.MoveTo(76, 104);
        cap.CubicTo(70, 30, 170, 30, 164, 104);
        cap.CubicTo(158, 84, 150 - (seed / 17 % 30), 74, 120, 76);
        cap.CubicTo(96, 78, 84, 88, 76, 104);
        cap.Close();
        using var fringe = cap.Detach();
        canvas.DrawPath(fringe, hair);
        using var image = surface.Snapshot();
        return image.Encode(SKEncodedImageFormat.Png, 100).ToArray();
    }

    private static SKPaint Paint(SKColor colour) => new() { Color = colour, IsAntialias = true };

    private static SKColor Pick(SKColor[] tones, uint seed) => tones[seed % (uint)tones.Length];

    /// <summary>FNV-1a over the name, so that a portrait follows from it on every machine.</summary>
    private static uint Seed(string name) => name.Aggregate(2166136261u, (hash, letter) => (hash ^ letter) * 16777619u);
}
