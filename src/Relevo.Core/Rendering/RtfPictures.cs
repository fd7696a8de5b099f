using System.Runtime.CompilerServices;
using System.Text;

namespace Relevo.Core.Rendering;

/// <summary>Puts pictures into the places that a rendered RTF has for them. Source: Rich Text Format (RTF) Specification, version 1.9, "Pictures".</summary>
public static class RtfPictures
{
    /// <summary>How a place begins; the picture's name and a brace follow. No value can hold it: its backslashes and braces are written escaped.</summary>
    internal const string Place = "{\\*\\relevopicture ";

    private const int BytesInLine = 64;
    private static readonly byte[] PlaceBytes = Encoding.ASCII.GetBytes(Place);

    // Written once for as long as the picture itself is kept: a company's mark stands in everybody's signature.
    private static readonly ConditionalWeakTable<byte[], byte[]> Digits = [];

    // One pixel of nothing: what stands for a picture that could not be made.
    private static readonly byte[] Nothing = Convert.FromBase64String("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGNgYGBgAAAABQABh6FO1AAAAABJRU5ErkJggg==");

    /// <summary>The RTF with each picture's bytes as hexadecimal digits. rtf: as rendered. pictures: bytes of PNG files by name; one that is missing leaves its room empty.</summary>
    public static ReadOnlyMemory<byte> Fill(ReadOnlySpan<byte> rtf, IReadOnlyDictionary<string, byte[]> pictures)
    {
        var places = Places(rtf);
        var length = rtf.Length;
        foreach (var (place, name) in places) length += DigitsOf(name, pictures).Length - (place.End.Value - place.Start.Value);
        var filled = GC.AllocateUninitializedArray<byte>(length);
        var (from, to) = (0, 0);
        foreach (var (place, name) in places)
        {
            to += Copy(rtf[from..place.Start.Value], filled.AsSpan(to));
            to += Copy(DigitsOf(name, pictures), filled.AsSpan(to));
            from = place.End.Value;
        }

        Copy(rtf[from..], filled.AsSpan(to));
        return filled;
    }

    private static List<(Range Place, string Name)> Places(ReadOnlySpan<byte> rtf)
    {
        var places = new List<(Range, string)>();
        for (var from = 0; rtf[from..].IndexOf(PlaceBytes) is >= 0 and var at;)
        {
            var name = from + at + PlaceBytes.Length;
            var end = name + rtf[name..].IndexOf((byte)'}');
            places.Add(((from + at)..(end + 1), Encoding.ASCII.GetString(rtf[name..end])));
            from = end + 1;
        }

        return places;
    }

    private static byte[] DigitsOf(string name, IReadOnlyDictionary<string, byte[]> pictures) => Digits.GetValue(pictures.GetValueOrDefault(name, Nothing), Write);

    private static int Copy(ReadOnlySpan<byte> from, Span<byte> to)
    {
        from.CopyTo(to);
        return from.Length;
    }

    private static byte[] Write(byte[] picture) => Encoding.ASCII.GetBytes(string.Concat(picture.Chunk(BytesInLine).Select(line => Convert.ToHexStringLower(line) + "\n")));
}
