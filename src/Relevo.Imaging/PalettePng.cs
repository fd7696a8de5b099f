using System.Buffers.Binary;
using System.IO.Compression;
using System.IO.Hashing;
using SkiaSharp;

namespace Relevo.Imaging;

/// <summary>
/// Writes pictures of few colours as PNG with a palette, exactly and smaller: what icons and plain marks are. The same pixels give the same bytes. Source: Portable
/// Network Graphics (PNG) Specification, third edition, sections 11.2 and 11.3.1.
/// </summary>
internal static class PalettePng
{
    private const int MostColours = 256; // of a palette; section 11.2.2

    /// <summary>The picture with a palette, or null when it has more colours than one holds. pixels: RGBA without premultiplied alpha, row by row.</summary>
    public static byte[]? TryWrite(ReadOnlySpan<SKColor> pixels, int width, int height)
    {
        var places = new Dictionary<SKColor, int>();
        foreach (var pixel in pixels)
        {
            if (places.TryAdd(Known(pixel), 0) && places.Count > MostColours) return null;
        }

        // Those that are see-through come first: only they need a place in the list of opacities.
        var colours = places.Keys.OrderBy(colour => colour.Alpha == 255).ThenBy(colour => (uint)colour).ToArray();
        for (var place = 0; place < colours.Length; place++) places[colours[place]] = place;
        var depth = colours.Length <= 2 ? 1 : colours.Length <= 4 ? 2 : colours.Length <= 16 ? 4 : 8;
        using var file = new MemoryStream();
        file.Write([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]);
        var head = new byte[13];
        BinaryPrimitives.WriteInt32BigEndian(head, width);
        BinaryPrimitives.WriteInt32BigEndian(head.AsSpan(4), height);
        (head[8], head[9]) = ((byte)depth, 3); // colour type 3: a place in the palette
        Chunk(file, "IHDR"u8, head);
        Chunk(file, "PLTE"u8, [.. colours.SelectMany(colour => new[] { colour.Red, colour.Green, colour.Blue })]);
        if (colours[0].Alpha < 255) Chunk(file, "tRNS"u8, [.. colours.TakeWhile(colour => colour.Alpha < 255).Select(colour => colour.Alpha)]);
        Chunk(file, "IDAT"u8, Compress(pixels, places, width, height, depth));
        Chunk(file, "IEND"u8, []);
        return file.ToArray();
    }

    /// <summary>Every see-through pixel is the same one.</summary>
    private static SKColor Known(SKColor pixel) => pixel.Alpha == 0 ? SKColor.Empty : pixel;

    private static byte[] Compress(ReadOnlySpan<SKColor> pixels, Dictionary<SKColor, int> places, int width, int height, int depth)
    {
        using var packed = new MemoryStream();
        using (var zlib = new ZLibStream(packed, CompressionLevel.SmallestSize))
        {
            var row = new byte[1 + (((width * depth) + 7) / 8)]; // filter type 0: places do not follow from their neighbours
            for (var y = 0; y < height; y++)
            {
                Array.Clear(row);
                for (var x = 0; x < width; x++)
                {
                    var bit = x * depth;
                    row[1 + (bit / 8)] |= (byte)(places[Known(pixels[(y * width) + x])] << (8 - depth - (bit % 8)));
                }

                zlib.Write(row);
            }
        }

        return packed.ToArray();
    }

    private static void Chunk(MemoryStream file, ReadOnlySpan<byte> kind, ReadOnlySpan<byte> data)
    {
        Span<byte> number = stackalloc byte[4];
        BinaryPrimitives.WriteInt32BigEndian(number, data.Length);
        file.Write(number);
        file.Write(kind);
        file.Write(data);
        var check = new Crc32();
        check.Append(kind);
        check.Append(data);
        BinaryPrimitives.WriteUInt32BigEndian(number, check.GetCurrentHashAsUInt32());
        file.Write(number);
    }
}
