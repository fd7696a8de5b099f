using System.Buffers;
using PhoneNumbers;

namespace Relevo.Core.People;

/// <summary>
/// A telephone number as the general library for them understands it. The library knows every country's plan; whether a number is in use
/// it cannot know, and Relevo does not ask: a possible number is a number.
/// </summary>
/// <param name="E164">The number with plus sign, at most fifteen digits. Source: ITU-T E.164.</param>
/// <param name="Extension">The extension's digits, or empty.</param>
/// <param name="Region">Its country (ISO 3166-1 alpha-2), or empty when the number belongs to none alone.</param>
public sealed record Telephone(string E164, string Extension, string Region)
{
    private const int MaxCharacters = 60; // longer is prose; the library would search it for a number
    private static readonly SearchValues<char> DigitsAndSpace = SearchValues.Create("0123456789 ");
    private static readonly SearchValues<char> NumberMarks = SearchValues.Create("0123456789+ -.()/\u00A0\u2010\u2011\u2013");
    private static readonly PhoneNumberUtil Library = PhoneNumberUtil.GetInstance();

    /// <summary>The link. Source: RFC 3966: global number, extension as parameter.</summary>
    public string Link => Extension.Length == 0 ? $"tel:{E164}" : $"tel:{E164};ext={Extension}";

    /// <summary>Reads a number as typed. region: the country whose home form is tried when it has no plus sign, or empty. False when it is no number.</summary>
    public static bool TryParse(string typed, string region, out Telephone? telephone)
    {
        telephone = null;
        // The library takes letters for keypad digits and finds numbers inside sentences; a signature's number is written in digits.
        if (typed.Length > MaxCharacters || !HasOnlyNumberCharacters(typed)) return false;
        try
        {
            var number = Library.Parse(typed, region.Length == 2 ? region.ToUpperInvariant() : null);
            if (!Library.IsPossibleNumber(number)) return false;
            telephone = new Telephone(Library.Format(number, PhoneNumberFormat.E164), number.Extension, Library.GetRegionCodeForCountryCode(number.CountryCode) is var home and not ("ZZ" or "001") ? home : "");
            return true;
        }
        catch (NumberParseException)
        {
            return false;
        }
    }

    /// <summary>The number as a reader sees it. typed: what the source says. readerRegion: the reader's country, or empty when it is not known.</summary>
    public string Show(PhoneDisplay display, string typed, string readerRegion)
    {
        if (display == PhoneDisplay.AsTyped) return typed;
        var isAtHome = display == PhoneDisplay.NationalAtHome && Region.Length > 0 && string.Equals(Region, readerRegion, StringComparison.OrdinalIgnoreCase);
        // E.123 parts a number as its users are used to. The library groups by plan; a number typed internationally keeps its own groups.
        var text = !isAtHome && typed.StartsWith('+') && IsGrouped(typed) ? StripExtension(typed) : Library.Format(Library.Parse(E164, null), isAtHome ? PhoneNumberFormat.NATIONAL : PhoneNumberFormat.INTERNATIONAL);
        return Extension.Length == 0 ? text : $"{text} ext. {Extension}";
    }

    /// <summary>Digits, spaces and the marks people part numbers with; an extension may be announced by words.</summary>
    private static bool HasOnlyNumberCharacters(string typed)
    {
        var digits = 0;
        foreach (var character in StripExtension(typed))
        {
            if (char.IsAsciiDigit(character)) digits++;
            else if (!NumberMarks.Contains(character)) return false;
        }

        return digits > 0;
    }

    /// <summary>True for E.123 international notation: plus sign, digits, single spaces.</summary>
    private static bool IsGrouped(string typed)
    {
        var main = StripExtension(typed);
        return main.Contains(' ', StringComparison.Ordinal) && !main.Contains("  ", StringComparison.Ordinal) && main.AsSpan(1).IndexOfAnyExcept(DigitsAndSpace) < 0;
    }

    private static string StripExtension(string typed)
    {
        if (typed.AsSpan().IndexOfAnyExcept(NumberMarks) < 0) return typed; // no word in it that could announce one
        foreach (var word in (ReadOnlySpan<string>)["ext.", "ext", "extension", ";ext=", "x", "#", "durchwahl", "anknytning"])
        {
            var at = typed.LastIndexOf(word, StringComparison.OrdinalIgnoreCase);
            if (at > 0 && typed.AsSpan(at + word.Length).Trim().IndexOfAnyExceptInRange('0', '9') < 0 && !typed.AsSpan(at + word.Length).Trim().IsEmpty) return typed[..at].TrimEnd(' ', ',');
        }

        return typed;
    }
}
