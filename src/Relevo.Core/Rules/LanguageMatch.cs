using System.Collections.Immutable;

namespace Relevo.Core.Rules;

/// <summary>Looks a person's language up among those there are. Source: RFC 4647 section 3.4.</summary>
public static class LanguageMatch
{
    /// <summary>The first of the language, its region taken off and so on that is known, or null.</summary>
    public static string? Best(string language, IEnumerable<string> known)
    {
        for (var range = language; range.Length > 0; range = range[..Math.Max(0, range.LastIndexOf('-'))])
        {
            foreach (var candidate in known)
            {
                if (string.Equals(candidate, range, StringComparison.OrdinalIgnoreCase)) return candidate;
            }
        }

        return null;
    }
}
