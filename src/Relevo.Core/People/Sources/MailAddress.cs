using System.Buffers;
using System.Globalization;
using System.Runtime.CompilerServices;

namespace Relevo.Core.People.Sources;

/// <summary>Mail addresses as directories hold them.</summary>
public static class MailAddress
{
    /// <summary>Characters of a whole address. Source: RFC 5321 section 4.5.3.1.3, less the angle brackets.</summary>
    public const int MaxCharacters = 254;

    private static readonly SearchValues<char> Specials = SearchValues.Create("()<>[]:;@\\,\" "); // RFC 5322 section 3.2.3, and space
    private static readonly SearchValues<char> Partings = SearchValues.Create(",;: ");
    private const int MaxLocalPart = 64; // octets; RFC 5321 section 4.5.3.1.1

    /// <summary>
    /// True for a local part, an at sign and a domain that has an ASCII form (IDNA 2003 as the framework computes it). Quoted local parts are
    /// not taken: no account has one.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public static bool IsOne(string address)
    {
        var at = address.LastIndexOf('@');
        if (at <= 0 || at == address.Length - 1 || address.Length > MaxCharacters || System.Text.Encoding.UTF8.GetByteCount(address.AsSpan(0, at)) > MaxLocalPart) return false;
        var local = address.AsSpan(0, at);
        if (local[0] == '.' || local[^1] == '.' || local.Contains("..", StringComparison.Ordinal) || local.IndexOfAny(Specials) >= 0) return false;
        foreach (var character in address)
        {
            if (char.IsControl(character) || char.IsWhiteSpace(character)) return false;
        }

        return IsPlainDomain(address.AsSpan(at + 1)) || IsDomain(address[(at + 1)..]);
    }

    /// <summary>
    /// The addresses in one value: as it is, or several parted by semicolons or commas, or a proxy-style list (common practice) in which each has a
    /// prefix; then only those with "smtp:" are taken, the one in capitals, the person's own, first.
    /// </summary>
    public static IEnumerable<string> ReadList(string value)
    {
        const string prefix = "smtp:";
        if (IsPlain(value)) return [value];
        var parts = value.Split([';', ','], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        if (!value.Contains(prefix, StringComparison.OrdinalIgnoreCase)) return parts;
        return parts.Where(part => part.StartsWith(prefix, StringComparison.OrdinalIgnoreCase))
            .OrderByDescending(part => part.StartsWith("SMTP:", StringComparison.Ordinal))
            .Select(part => part[prefix.Length..].Trim());
    }

    /// <summary>True when a value is no list, so that <see cref="ReadList"/> would give it as it is.</summary>
    internal static bool IsPlain(string value) => !value.AsSpan().ContainsAny(Partings);

    /// <summary>Labels of small letters, digits and inner hyphens: surely a domain, without asking for its ASCII form.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static bool IsPlainDomain(ReadOnlySpan<char> domain)
    {
        const int maxLabel = 63; // RFC 1035 section 2.3.4
        var label = 0;
        for (var index = 0; index < domain.Length; index++)
        {
            if (domain[index] == '.')
            {
                if (label is 0 or > maxLabel || domain[index - 1] == '-') return false;
                label = 0;
            }
            else if (char.IsAsciiLetterLower(domain[index]) || char.IsAsciiDigit(domain[index]) || (domain[index] == '-' && label > 0)) label++;
            else return false;
        }

        // "xn--" announces an encoded label, which has rules of its own.
        return label is > 0 and <= maxLabel && domain.Length <= 253 && domain[^1] != '-' && !domain.Contains("--", StringComparison.Ordinal);
    }

    /// <summary>True for a name that may stand after the at sign.</summary>
    public static bool IsDomain(string domain)
    {
        if (IsPlainDomain(domain)) return true;
        try
        {
            var ascii = new IdnMapping { UseStd3AsciiRules = true }.GetAscii(domain);
            return ascii.Length is > 0 and <= 253 && !ascii.StartsWith('.') && !ascii.EndsWith('.');
        }
        catch (ArgumentException)
        {
            return false;
        }
    }
}
