using System.Buffers.Binary;

namespace Relevo.Server.Hosting;

/// <summary>Reads the head of a PNG file. Source: PNG (Third Edition), sections 5.2 and 11.2.1.</summary>
internal static class Png
{
    /// <summary>Width and height in pixels, or null when the bytes are not a PNG.</summary>
    public static (int Width, int Height)? ReadSize(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length < 33 || !bytes.StartsWith((ReadOnlySpan<byte>)[0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]) || !bytes[12..16].SequenceEqual("IHDR"u8)) return null;
        return (BinaryPrimitives.ReadInt32BigEndian(bytes[16..]), BinaryPrimitives.ReadInt32BigEndian(bytes[20..]));
    }
}
