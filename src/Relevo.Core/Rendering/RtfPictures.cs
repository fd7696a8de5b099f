using System.Buffers;
using System.Text;

namespace Relevo.Core.Rendering;

/// <summary>Puts pictures into the places that a rendered RTF has for them. Source: Rich Text Format (RTF) Specification, version 1.9, "Pictures".</summary>
public static class RtfPictures
{
    /// <summary>How a place begins; the picture's name and a brace follow. No value can hold it: its backslashes and braces are written escaped.</summary>
    internal const string Place = "{\\*\\relevopicture ";

    private const int BytesInLine = 64;

    // One pixel of nothing: what stands for a picture that could not be made.
    private static readonly byte[] Nothing = Convert.FromBase64String("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGNgYGBgAAAABQABh6FO1AAAAABJRU5ErkJggg==");

    /// <summary>The RTF with each picture's bytes as hexadecimal digits. rtf: as rendered. pictures: bytes of PNG files by name; one that is missing leaves its room empty.</summary>
    public static ReadOnlyMemory<byte> Fill(ReadOnlySpan<byte> rtf, IReadOnlyDictionary<string, byte[]> pictures)
    {
        var place = Encoding.ASCII.GetBytes(Place);
        var filled = new ArrayBufferWriter<byte>(rtf.Length + 1);
        while (true)
        {
            var at = rtf.IndexOf(place);
            filled.Write(at < 0 ? rtf : rtf[..at]);
            if (at < 0) return filled.WrittenMemory;
            rtf = rtf[(at + place.Length)..];
            var end = rtf.IndexOf((byte)'}');
            Write(pictures.GetValueOrDefault(Encoding.ASCII.GetString(rtf[..end]), Nothing), filled);
            rtf = rtf[(end + 1)..];
        }
    }

    private static void Write(ReadOnlySpan<byte> picture, ArrayBufferWriter<byte> filled)
    {
        for (; picture.Length > 0; picture = picture[Math.Min(BytesInLine, picture.Length)..])
        {
            var line = picture[..Math.Min(BytesInLine, picture.Length)];
            Convert.TryToHexStringLower(line, filled.GetSpan(line.Length * 2), out var written);
            filled.Advance(written);
            filled.Write("\n"u8);
        }
    }
}
