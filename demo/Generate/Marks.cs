using SkiaSharp;

namespace Relevo.Demo;

/// <summary>Draws the pictures that ship: the demo company's mark and a plain one for a company that has none yet.</summary>
internal static class Marks
{
    private const int Size = 64; // pixels: shown at the same size, because some clients cannot scale

    /// <summary>A bracken frond on pine green: a stem with pairs of leaves that grow shorter.</summary>
    public static byte[] Brackenfold() => Draw(canvas =>
    {
        using var ground = new SKPaint { Color = new SKColor(0x1F, 0x6B, 0x52), IsAntialias = true };
        canvas.DrawRoundRect(0, 0, Size, Size, 10, 10, ground);
        using var leaf = new SKPaint { Color = new SKColor(0xF7, 0xF5, 0xF0), IsAntialias = true, StrokeCap = SKStrokeCap.Round, Style = SKPaintStyle.Stroke, StrokeWidth = 3.2f };
        canvas.DrawLine(32, 56, 32, 12, leaf);
        for (var pair = 0; pair < 5; pair++)
        {
            var y = 48 - (pair * 8.5f);
            var reach = 19 - (pair * 3.4f);
            canvas.DrawLine(32, y, 32 - reach, y - (reach * 0.62f), leaf);
            canvas.DrawLine(32, y, 32 + reach, y - (reach * 0.62f), leaf);
        }
    });

    /// <summary>A plain square with a ring, in grey: clearly a place for something better.</summary>
    public static byte[] Plain() => Draw(canvas =>
    {
        using var ground = new SKPaint { Color = new SKColor(0xDD, 0xD8, 0xCC), IsAntialias = true };
        canvas.DrawRoundRect(0, 0, Size, Size, 10, 10, ground);
        using var ring = new SKPaint { Color = new SKColor(0x55, 0x63, 0x6D), IsAntialias = true, Style = SKPaintStyle.Stroke, StrokeWidth = 5 };
        canvas.DrawCircle(32, 32, 15, ring);
    });

    private static byte[] Draw(Action<SKCanvas> paint)
    {
        using var surface = SKSurface.Create(new SKImageInfo(Size, Size, SKColorType.Rgba8888, SKAlphaType.Premul));
        surface.Canvas.Clear(SKColors.Transparent);
        paint(surface.Canvas);
        using var image = surface.Snapshot();
        return image.Encode(SKEncodedImageFormat.Png, 100).ToArray();
    }
}
