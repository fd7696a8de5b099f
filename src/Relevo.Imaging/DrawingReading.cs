using System.Xml;
using System.Xml.Linq;
using SkiaSharp;
using Svg.Skia;

namespace Relevo.Imaging;

/// <summary>
/// Reads drawings (SVG) that people hand in and draws them as pixels, since mail programs show no SVG. A drawing that would run something or fetch
/// something is refused, not cleaned: nobody means to put a script into a logo. Source: W3C SVG 2, chapters 5 (structure), 15 (scripting) and 16 (linking).
/// </summary>
internal static class DrawingReading
{
    private const int MaxFileBytes = 2 << 20;
    private const int MaxElements = 20_000; // after every use of a part is written out; a logo has some hundreds

    private static readonly string[] Running = ["script", "foreignObject", "handler", "iframe", "audio", "video", "canvas", "animate", "animateMotion", "animateTransform", "set"];

    /// <summary>True when a file looks like one: its first sign is an angle bracket.</summary>
    public static bool LooksLikeDrawing(ReadOnlySpan<byte> file)
    {
        var start = file.StartsWith("\uFEFF"u8) ? file[3..] : file;
        return start.TrimStart(" \t\r\n"u8) is [(byte)'<', ..];
    }

    /// <summary>Draws it so that its longer side has so many pixels. Gives the pixels, or why it is not taken as a sentence.</summary>
    public static (SKBitmap? Picture, string? Reason) Draw(byte[] file, int longest)
    {
        if (file.Length > MaxFileBytes) return (null, $"The drawing has more than {MaxFileBytes >> 20} MB.");
        XDocument document;
        try
        {
            using var reader = XmlReader.Create(new MemoryStream(file), new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null });
            document = XDocument.Load(reader);
        }
        catch (XmlException broken)
        {
            return (null, broken.Message.Contains("DTD", StringComparison.Ordinal)
                ? "The drawing declares entities or a document type. Save it as plain SVG, without them."
                : $"The drawing cannot be read at line {broken.LineNumber}, character {broken.LinePosition}.");
        }

        if (document.Root is not { Name.LocalName: "svg" } root) return (null, "This is not a picture that can be read; PNG, JPEG, WebP, GIF and SVG can.");
        if (Refusal(root) is { } refusal) return (null, refusal);
        try
        {
            return Draw(document, longest);
        }
        catch (Exception trouble) when (trouble is FormatException or ArgumentException or InvalidOperationException or NotSupportedException or XmlException or OverflowException)
        {
            return (null, "The drawing cannot be drawn: it holds a value that makes no sense.");
        }
    }

    private static (SKBitmap? Picture, string? Reason) Draw(XDocument document, int longest)
    {
        using var svg = new SKSvg();
        using var checkedText = new MemoryStream();
        document.Save(checkedText); // what was looked at, not what was sent
        checkedText.Position = 0;
        if (svg.Load(checkedText) is not { CullRect: { IsEmpty: false } bounds } drawing || !float.IsFinite(bounds.Width) || !float.IsFinite(bounds.Height)) return (null, "The drawing has no size.");
        var scale = longest / Math.Max(bounds.Width, bounds.Height);
        var picture = new SKBitmap(new SKImageInfo(Math.Max(1, (int)MathF.Round(bounds.Width * scale)), Math.Max(1, (int)MathF.Round(bounds.Height * scale)), SKColorType.Rgba8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(picture);
        canvas.Clear(SKColors.Transparent);
        canvas.Scale(scale);
        canvas.Translate(-bounds.Left, -bounds.Top);
        canvas.DrawPicture(drawing);
        return (picture, null);
    }

    private static string? Refusal(XElement root)
    {
        var parts = new Dictionary<string, XElement>(StringComparer.Ordinal);
        foreach (var element in root.DescendantsAndSelf())
        {
            if (Running.Contains(element.Name.LocalName, StringComparer.OrdinalIgnoreCase)) return $"The drawing has a \"{element.Name.LocalName}\", which does more than draw. Save it without.";
            if (element.Name.LocalName == "style" && IsOutside(element.Value)) return "The drawing's style sheet refers to something outside the file. Save it with everything inside.";
            foreach (var attribute in element.Attributes().Where(attribute => !attribute.IsNamespaceDeclaration))
            {
                if (attribute.Name.LocalName.StartsWith("on", StringComparison.OrdinalIgnoreCase)) return $"The drawing runs something by \"{attribute.Name.LocalName}\". Save it without.";
                if (attribute.Name.LocalName is "href" or "src" && !IsInside(attribute.Value)) return $"The drawing refers to something outside the file by \"{element.Name.LocalName}\". Save it with everything inside.";
                if (IsOutside(attribute.Value)) return $"The drawing's \"{attribute.Name.LocalName}\" refers to something outside the file. Save it with everything inside.";
                if (attribute.Name.LocalName == "id") parts.TryAdd(attribute.Value, element);
            }
        }

        return Size(root, parts, []) > MaxElements ? $"The drawing has more than {MaxElements} parts. Simplify it, or hand in a PNG." : null;
    }

    /// <summary>A part of the file itself, or a picture written into it.</summary>
    private static bool IsInside(string address) => address.TrimStart() is { } start && (start.StartsWith('#') || start.StartsWith("data:image/png", StringComparison.OrdinalIgnoreCase) || start.StartsWith("data:image/jpeg", StringComparison.OrdinalIgnoreCase));

    private static bool IsOutside(string text)
    {
        if (text.Contains("@import", StringComparison.OrdinalIgnoreCase)) return true;
        for (var at = text.IndexOf("url(", StringComparison.OrdinalIgnoreCase); at >= 0; at = text.IndexOf("url(", at + 4, StringComparison.OrdinalIgnoreCase))
        {
            if (!text.AsSpan(at + 4).TrimStart(" \t\r\n\"'").StartsWith("#")) return true;
        }

        return false;
    }

    /// <summary>Elements that would be drawn with every use written out; more than is taken for one that uses itself.</summary>
    private static long Size(XElement element, Dictionary<string, XElement> parts, HashSet<XElement> within, int depth = 0)
    {
        if (depth > 200 || !within.Add(element)) return MaxElements + 1;
        var size = 1L;
        foreach (var child in element.Elements())
        {
            size += Size(child, parts, within, depth + 1);
            if (size > MaxElements) break;
        }

        if (size <= MaxElements && element.Name.LocalName == "use" && element.Attributes().FirstOrDefault(attribute => attribute.Name.LocalName == "href")?.Value.Trim() is ['#', .. var id] && parts.TryGetValue(id, out var used))
            size += Size(used, parts, within, depth + 1);
        within.Remove(element);
        return size;
    }
}
