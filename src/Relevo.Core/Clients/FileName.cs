using System.Buffers;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace Relevo.Core.Clients;

/// <summary>
/// File names that every file system takes and that read back as exactly the text they were made from: what is not allowed is
/// percent-encoded as UTF-8, as RFC 3986 section 2.1 does in addresses.
/// </summary>
public static class FileName
{
    private const int MaxBytes = 200; // file systems take 255 bytes; leaves room for endings
    private const string NotAllowed = "<>:\"/\\|?*%";
    private static readonly SearchValues<char> AlwaysFine = SearchValues.Create("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_@+.");

    /// <summary>Encodes text as one path segment. A longer text is cut and ends in a hash, and then does not read back.</summary>
    public static string Encode(string text)
    {
        if (text.Length <= MaxBytes && !text.AsSpan().ContainsAnyExcept(AlwaysFine) && !text.StartsWith('.') && !text.EndsWith('.')) return text; // nearly every one
        var name = new StringBuilder();
        var runes = text.EnumerateRunes().ToArray();
        for (var index = 0; index < runes.Length; index++)
        {
            var rune = runes[index];
            var atEdge = index == 0 || index == runes.Length - 1;
            var isFine = !NotAllowed.Contains(rune.ToString(), StringComparison.Ordinal) && !Rune.IsControl(rune) && !(atEdge && rune.Value is (' ' or '.'));
            if (isFine) name.Append(rune.ToString());
            else foreach (var unit in Encoding.UTF8.GetBytes(rune.ToString())) name.Append('%').Append(unit.ToString("X2", CultureInfo.InvariantCulture));
        }

        return Encoding.UTF8.GetByteCount(name.ToString()) <= MaxBytes ? name.ToString() : Cut(name.ToString(), text);
    }

    /// <summary>The text a name was made from.</summary>
    public static string Decode(string name) => Uri.UnescapeDataString(name);

    private static string Cut(string name, string text)
    {
        var hash = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..16];
        var kept = new StringBuilder();
        foreach (var rune in name.EnumerateRunes())
        {
            if (Encoding.UTF8.GetByteCount(kept.ToString()) + rune.Utf8SequenceLength > MaxBytes - hash.Length - 1) break;
            kept.Append(rune.ToString());
        }

        return $"{kept}~{hash}";
    }
}
