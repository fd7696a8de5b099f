using System.Buffers;
using System.Globalization;
using System.Text;

namespace Relevo.Core.People;

/// <summary>
/// A value ready to be rendered: its text on one line, and its link when the value is one that may be linked.
/// Only http, https, mailto and tel links exist; a value that is none of them has no link, whatever its kind.
/// </summary>
/// <param name="Text">What is read. Empty means the field has no value.</param>
/// <param name="Link">The link's target as a URL, or empty.</param>
public readonly record struct FieldValue(string Text, string Link)
{
    private static readonly SearchValues<char> LineBreaking = SearchValues.Create(
        [.. Enumerable.Range(0, 32).Select(code => (char)code), .. Enumerable.Range(0x7F, 33).Select(code => (char)code), '\u2028', '\u2029']);

    /// <summary>A field without a value.</summary>
    public static FieldValue None { get; } = new("", "");

    /// <summary>True when there is nothing to show.</summary>
    public bool IsEmpty => string.IsNullOrEmpty(Text);

    /// <summary>Prepares a stored value of the given kind. Control characters and line breaks become single spaces.</summary>
    public static FieldValue From(string? stored, FieldKind kind)
    {
        var text = OneLine(stored);
        if (text.Length == 0) return None;
        return kind switch
        {
            FieldKind.Phone => new FieldValue(text, TelephoneLink(text)),
            FieldKind.Mail => new FieldValue(text, MailLink(text)),
            FieldKind.Web => WebValue(text),
            _ => new FieldValue(text, ""),
        };
    }

    /// <summary>The text with every run of control characters turned into one space, trimmed.</summary>
    public static string OneLine(string? stored)
    {
        if (string.IsNullOrEmpty(stored)) return "";
        if (stored.AsSpan().IndexOfAny(LineBreaking) < 0) return stored.Trim();
        var line = new StringBuilder(stored.Length);
        foreach (var character in stored)
        {
            if (!LineBreaking.Contains(character)) line.Append(character);
            else if (line.Length > 0 && line[^1] != ' ') line.Append(' ');
        }

        return line.ToString().Trim();
    }

    /// <summary>RFC 3966 wants a global number to begin with a plus sign; anything else would need a context we do not know.</summary>
    private static string TelephoneLink(string text)
    {
        if (!text.StartsWith('+')) return "";
        var digits = new StringBuilder("tel:+");
        foreach (var character in text.AsSpan(1))
        {
            if (char.IsAsciiDigit(character)) digits.Append(character);
            else if (character is not (' ' or '-' or '.' or '(' or ')' or '/' or '\u00A0')) return "";
        }

        return digits.Length > "tel:+".Length ? digits.ToString() : "";
    }

    private static string MailLink(string text)
    {
        var at = text.LastIndexOf('@');
        if (at <= 0 || at == text.Length - 1 || text.Any(char.IsWhiteSpace)) return "";
        return "mailto:" + Uri.EscapeDataString(text[..at]) + "@" + AsciiDomain(text[(at + 1)..]);
    }

    private static string AsciiDomain(string domain)
    {
        try
        {
            return new IdnMapping().GetAscii(domain);
        }
        catch (ArgumentException)
        {
            return Uri.EscapeDataString(domain);
        }
    }

    /// <summary>labeledURI is an address, a space and a label (RFC 2079); shown without scheme and final slash.</summary>
    private static FieldValue WebValue(string text)
    {
        var address = text.Split(' ', 2)[0];
        if (!Uri.TryCreate(address, UriKind.Absolute, out var uri) || uri.Scheme is not ("http" or "https") || uri.UserInfo.Length > 0)
            return new FieldValue(text, "");
        var shown = address[(address.IndexOf("://", StringComparison.Ordinal) + 3)..].TrimEnd('/');
        return new FieldValue(shown, uri.AbsoluteUri);
    }
}
