using System.Buffers;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using Relevo.Core.Designs;

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

    /// <summary>Prepares a stored value of the given kind, shown internationally. Control characters and line breaks become single spaces.</summary>
    public static FieldValue From(string? stored, FieldKind kind) => From(stored, kind, PhoneDisplay.International, "", "");

    /// <summary>Prepares a stored value of a field. region: the country whose home numbers are understood. readerRegion: the reader's country. Both ISO 3166-1 alpha-2 or empty.</summary>
    public static FieldValue From(string? stored, FieldKind kind, PhoneDisplay display, string region, string readerRegion)
    {
        var text = OneLine(stored);
        if (text.Length == 0) return None;
        return kind switch
        {
            FieldKind.Phone => Telephone.TryParse(text, region, out var telephone) ? new FieldValue(telephone!.Show(display, text, readerRegion), telephone.Link) : new FieldValue(text, ""),
            FieldKind.Mail => new FieldValue(text, MailLink(text)),
            FieldKind.Web => WebValue(text),
            // A picture is nothing to read; its name says which, and must be one that can stand in an address.
            FieldKind.Picture => PictureCut.IsSha256(text) ? new FieldValue(text, "") : None,
            FieldKind.Date => new FieldValue(DateText(text), ""),
            _ => new FieldValue(text, ""),
        };
    }

    /// <summary>True when the text holds no control character or line break.</summary>
    public static bool IsOneLine(ReadOnlySpan<char> text) => text.IndexOfAny(LineBreaking) < 0;

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

    /// <summary>The same in UTF-8, which must be valid. Plain ASCII without spaces at its ends, nearly every value there is, is itself.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public static ReadOnlyMemory<byte> OneLine(ReadOnlyMemory<byte> utf8)
    {
        var text = utf8.Span;
        if (text.IsEmpty || (text[0] != ' ' && text[^1] != ' ' && text.IndexOfAnyExceptInRange((byte)' ', (byte)'~') < 0)) return utf8;
        return Encoding.UTF8.GetBytes(OneLine(Encoding.UTF8.GetString(text)));
    }

    /// <summary>RFC 3339's full-date as 24 Nov 2026; anything else as it is.</summary>
    private static string DateText(string text) =>
        DateOnly.TryParseExact(text, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day) ? day.ToString("d MMM yyyy", CultureInfo.InvariantCulture) : text;

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
