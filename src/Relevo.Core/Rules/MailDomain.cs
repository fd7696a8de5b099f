using System.Globalization;

namespace Relevo.Core.Rules;

/// <summary>Domains as they are compared: in ASCII, lower case. Source: RFC 5890 (A-labels), in small letters before that (RFC 5895 section 2).</summary>
public static class MailDomain
{
    /// <summary>Characters of a domain at most. Source: RFC 1035 section 2.3.4.</summary>
    public const int MaxCharacters = 253;

    private static readonly IdnMapping Mapping = new(); // without culture data this is Punycode alone (RFC 3492), which keeps ß and the like apart

    /// <summary>The domain of an address; empty when there is none that can be compared.</summary>
    public static string Of(string address)
    {
        var at = address.LastIndexOf('@');
        return at < 0 ? "" : ToAscii(address[(at + 1)..]) ?? "";
    }

    /// <summary>The ASCII form, or null for what is no domain: labels of letters, digits and inner hyphens, 63 characters at most each.</summary>
    public static string? ToAscii(string domain)
    {
        if (domain.Length == 0 || domain.Length > MaxCharacters) return null;
        var ascii = domain;
        if (!System.Text.Ascii.IsValid(domain))
        {
            // A label must be composed (RFC 5891 section 4.1), and the framework composes nothing without culture data: what is not is no domain.
            if (domain.Any(character => character is >= '\u0300' and <= '\u036F')) return null;
            // Nor may it begin or end with a hyphen, or have two where an A-label has them (RFC 5891 section 4.2.3.1); once in ASCII that cannot be seen any more.
            if (domain.Split('.').Any(label => !System.Text.Ascii.IsValid(label) && (label[0] == '-' || label[^1] == '-' || (label.Length > 3 && label[2..4] == "--")))) return null;
            try
            {
                ascii = Mapping.GetAscii(domain.ToLowerInvariant());
            }
            catch (ArgumentException)
            {
                return null;
            }
        }

        ascii = ascii.TrimEnd('.').ToLowerInvariant();
        return IsHostName(ascii) ? ascii : null;
    }

    private static bool IsHostName(string ascii)
    {
        const int maxLabel = 63; // RFC 1035 section 2.3.4
        if (ascii.Length is 0 or > MaxCharacters) return false;
        var label = 0;
        for (var index = 0; index <= ascii.Length; index++)
        {
            if (index == ascii.Length || ascii[index] == '.')
            {
                if (label is 0 or > maxLabel || ascii[index - 1] == '-' || ascii[index - label] == '-') return false;
                label = 0;
            }
            else if (char.IsAsciiLetterOrDigit(ascii[index]) || ascii[index] is '-' or '_') label++;
            else return false;
        }

        return true;
    }
}
