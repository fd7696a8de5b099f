using System.Collections.Concurrent;
using System.Xml.Linq;
using Relevo.Core.Designs;
using SkiaSharp;

namespace Relevo.Imaging;

/// <summary>Relevo's own icons: drawings of one style on a square of 24, stroked in any colour at any size.</summary>
public static class IconDrawing
{
    private const float Grid = 24;
    private const float Stroke = 1.8f; // of the grid, as in the files
    private static readonly ConcurrentDictionary<IconKind, SKPath> Drawings = new();

    /// <summary>The icon as a PNG of so many pixels a side.</summary>
    public static byte[] Draw(IconKind kind, string colour, int width, int height)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(bitmap);
        using var paint = new SKPaint { Color = SKColor.Parse(colour), Style = SKPaintStyle.Stroke, StrokeWidth = Stroke, StrokeCap = SKStrokeCap.Round, StrokeJoin = SKStrokeJoin.Round, IsAntialias = true };
        canvas.Scale(width / Grid, height / Grid);
        canvas.DrawPath(Drawings.GetOrAdd(kind, Read), paint);
        using var image = SKImage.FromBitmap(bitmap);
        return PictureCutting.Pack(image);
    }

    private static SKPath Read(IconKind kind)
    {
        var name = $"Relevo.Imaging.Icons.{kind.ToString().ToLowerInvariant()}.svg";
        using var file = typeof(IconDrawing).Assembly.GetManifestResourceStream(name) ?? throw new InvalidOperationException($"The drawing {name} is not in the assembly.");
        using var all = new SKPathBuilder();
        foreach (var path in XDocument.Load(file).Descendants().Where(element => element.Name.LocalName == "path"))
        {
            using var one = SKPath.ParseSvgPathData(path.Attribute("d")!.Value);
            all.AddPath(one);
        }

        return all.Detach();
    }
}
