using System.Collections.Immutable;
using System.Text;

namespace Relevo.Core.People.Sources;

/// <summary>
/// Writes names as their bearers do when a source has them in one case. Knows particles that stay small, Mc and Mac, O' and D', hyphens and
/// Roman numerals; anything else gets a capital. A name that already mixes cases is left alone: its bearer knew. Common practice, not a
/// standard.
/// </summary>
public static class NameCase
{
    private static readonly ImmutableHashSet<string> Particles = ImmutableHashSet.Create(
        StringComparer.Ordinal, "van", "der", "den", "de", "von", "vom", "zu", "zum", "zur", "af", "av", "di", "da", "dos", "das", "du", "la", "le", "el", "ter", "ten", "und", "y", "bin", "ibn");

    private static readonly ImmutableHashSet<string> Numerals = ["ii", "iii", "iv", "vi", "vii"];

    /// <summary>Names that begin with Mac and go on small; a list, because no rule tells them from the others.</summary>
    private static readonly ImmutableHashSet<string> PlainMac = ["mack", "macey", "machin", "mace", "macy", "mackie", "maccabee", "macias", "macek", "mach", "machado"];

    /// <summary>The name with its capitals.</summary>
    public static string Apply(string name)
    {
        if (name.Any(char.IsUpper) && name.Any(char.IsLower)) return name;
        var words = name.ToLowerInvariant().Split(' ');
        // A particle at the head of a whole name stays small only when a name follows it.
        return string.Join(' ', words.Select((word, index) => Particles.Contains(word) && index < words.Length - 1 ? word : Numerals.Contains(word) ? word.ToUpperInvariant() : Word(word)));
    }

    private static string Word(string word) => string.Join('-', word.Split('-').Select(part => Particles.Contains(part) && part != word ? part : Part(part)));

    private static string Part(string part)
    {
        var capital = new StringBuilder(part);
        var next = 0;
        if (part.Length > 2 && part[1] is '\'' or '\u2019' && part[0] is 'o' or 'd' or 'l')
        {
            capital[0] = char.ToUpperInvariant(part[0]);
            next = 2;
        }
        else if (part.Length > 3 && part.StartsWith("mc", StringComparison.Ordinal))
        {
            capital[0] = 'M';
            next = 2;
        }
        else if (part.Length > 5 && part.StartsWith("mac", StringComparison.Ordinal) && !PlainMac.Contains(part))
        {
            capital[0] = 'M';
            next = 3;
        }

        if (next < capital.Length) capital[next] = char.ToUpperInvariant(capital[next]);
        return capital.ToString();
    }
}
