using System.Buffers;
using System.Collections.Concurrent;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.RegularExpressions;

namespace Relevo.Core.People;

/// <summary>Whether a value may stand in a field, and whether it is what the field's kind says.</summary>
public static class FieldCheck
{
    /// <summary>No signature field is longer; more is a mistake in the export.</summary>
    public const int MaxCharacters = 1000;

    private const int MaxPatternCharacters = 500; // a pattern people can read
    private static readonly SearchValues<char> HexDigits = SearchValues.Create("0123456789abcdef");
    private static readonly SearchValues<char> PlainAddress = SearchValues.Create("abcdefghijklmnopqrstuvwxyz0123456789./-");
    private static readonly ConcurrentDictionary<string, Regex> Patterns = new(StringComparer.Ordinal);

    /// <summary>Why the value is not taken, as a sentence, or null when it is. An empty value is always taken: it is an explicit blank.</summary>
    public static string? Refuse(Field field, string text)
    {
        if (text.Length == 0) return null;
        var limit = field.Rule.MaxLength > 0 ? Math.Min(field.Rule.MaxLength, MaxCharacters) : MaxCharacters;
        if (text.Length > limit) return $"It has {text.Length} characters; at most {limit} are taken.";
        if (field.Kind == FieldKind.Date && !DateOnly.TryParseExact(text, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out _)) return "It is not a day written as 2026-11-24.";
        if (field.Kind == FieldKind.Choice && !field.Rule.Choices.Contains(text, StringComparer.Ordinal)) return $"It is none of {string.Join(", ", field.Rule.Choices)}.";
        if (field.Kind == FieldKind.Picture && !IsPicture(text)) return "It is no picture of the library; hand the picture in, and it becomes one.";
        return field.Rule.Pattern.Length > 0 && !Compile(field.Rule.Pattern).IsMatch(text) ? "It does not match the field's pattern." : null;
    }

    /// <summary>Bytes of UTF-8 up to which no value of a field is refused: most fields have no rule but their length, and nothing has more characters than bytes.</summary>
    internal static int FreeBytes(Field field) =>
        field.Kind is not (FieldKind.Date or FieldKind.Choice or FieldKind.Picture) && field.Rule.Pattern.Length == 0 && field.Rule.MaxLength == 0 ? MaxCharacters : 0;

    /// <summary>What is doubtful about a value that is taken as it is, as a sentence, or null. region: for telephone numbers without a plus sign.</summary>
    public static string? Doubt(Field field, string text, string region) => field.Kind switch
    {
        _ when text.Length == 0 => null,
        FieldKind.Phone => LooksInternational(text) || Telephone.TryParse(text, region, out _) ? null : "This is not a telephone number.",
        FieldKind.Mail => Sources.MailAddress.IsOne(text) ? null : "This is not a mail address.",
        FieldKind.Web when !LooksLikeAddress(text) && FieldValue.From(text, FieldKind.Web).Link.Length == 0 => "This is not a web address that begins with http:// or https://.",
        FieldKind.Web when field.Profile is { } profile && IsOnNetwork(profile) && IsFrontPage(text) => "This is a front page; a profile link leads to somebody's own page.",
        _ => null,
    };

    /// <summary>True for the hash by which a picture is kept.</summary>
    public static bool IsPicture(string text) => text.Length == 64 && text.AsSpan().IndexOfAnyExcept(HexDigits) < 0;

    /// <summary>Why a pattern cannot be used, or null when it can.</summary>
    public static string? RefusePattern(string pattern)
    {
        if (pattern.Length > MaxPatternCharacters) return $"A pattern has at most {MaxPatternCharacters} characters.";
        try
        {
            _ = Compile(pattern);
            return null;
        }
        catch (Exception unusable) when (unusable is ArgumentException or NotSupportedException)
        {
            return $"The pattern cannot be used: {unusable.Message}";
        }
    }

    /// <summary>Kinds that many people and companies have a page of on one site. A site, a map or a calendar may well have an address of its own.</summary>
    private static bool IsOnNetwork(ProfileKind profile) => profile is not (ProfileKind.Web or ProfileKind.Booking or ProfileKind.Map);

    private static bool IsFrontPage(string text) => Uri.TryCreate(text.Split(' ', 2)[0], UriKind.Absolute, out var address) && address.AbsolutePath == "/" && address.Query.Length == 0;

    /// <summary>A scheme, letters, digits and the usual marks: surely an address, without taking it apart.</summary>
    private static bool LooksLikeAddress(string text) =>
        text.StartsWith("https://", StringComparison.Ordinal) && text.Length > 12 && char.IsAsciiLetterLower(text[8]) && text.AsSpan(8).IndexOfAnyExcept(PlainAddress) < 0;

    /// <summary>The whole value must match. Without backtracking, so that no pattern can hang.</summary>
    private static Regex Compile(string pattern) =>
        Patterns.GetOrAdd(pattern, static source => new Regex($"^(?:{source})$", RegexOptions.NonBacktracking | RegexOptions.CultureInvariant));

    /// <summary>A plus sign and 8 to 15 digits that do not begin with zero, perhaps with spaces (ITU-T E.164, E.123): taken for a number without asking the library, which takes a hundred times as long.</summary>
    private static bool LooksInternational(string text)
    {
        if (text.Length < 9 || text[0] != '+' || text[1] is < '1' or > '9') return false;
        var digits = 0;
        foreach (var character in text.AsSpan(1))
        {
            if (char.IsAsciiDigit(character)) digits++;
            else if (character != ' ') return false;
        }

        return digits is >= 8 and <= 15;
    }
}
