namespace Relevo.Core.People.Roster;

/// <summary>Every word of everybody's names with the rows it stands in: finds the words a misspelt one may have meant.</summary>
internal sealed class NameWords
{
    private const int OneErrorFrom = 4; // letters; of three letters, one changed is another name
    private const int TwoErrorsFrom = 8; // letters; long names are misspelt twice
    private readonly string[] words;
    private readonly ulong[] letters;

    private NameWords(string[] words)
    {
        this.words = words;
        letters = [.. words.Select(word => Letters(word))];
    }

    public static NameWords Of(RosterRow[] rows) =>
        new([.. rows.SelectMany(row => row.FoldedName.Split([' ', '-', '.', '\''], StringSplitOptions.RemoveEmptyEntries)).Distinct(StringComparer.Ordinal)]);

    /// <summary>Words that begin as the misspelt one might have: at most one error from four letters, two from eight. An error is a letter changed, missing, too many, or two swapped.</summary>
    public List<string> Near(string misspelt)
    {
        var found = new List<string>();
        var errors = misspelt.Length >= TwoErrorsFrom ? 2 : misspelt.Length >= OneErrorFrom ? 1 : 0;
        if (errors == 0) return found;
        var mask = Letters(misspelt);
        for (var index = 0; index < words.Length; index++)
        {
            // A letter the word lacks altogether is an error by itself: most words are put aside by this alone.
            if (System.Numerics.BitOperations.PopCount(mask & ~letters[index]) > errors || words[index].Length < misspelt.Length - errors) continue;
            if (PrefixDistance(misspelt, words[index], errors) <= errors) found.Add(words[index]);
        }

        return found;
    }

    /// <summary>The fewest errors between the text and any beginning of the word; more than the limit is only "too many". Source: optimal string alignment, a restricted Damerau-Levenshtein distance.</summary>
    internal static int PrefixDistance(string text, string word, int limit)
    {
        var width = Math.Min(word.Length, text.Length + limit) + 1;
        Span<int> twoUp = stackalloc int[64], up = stackalloc int[64], row = stackalloc int[64];
        if (width > 64 || text.Length > 60) return int.MaxValue;
        for (var column = 0; column < width; column++) up[column] = column;
        for (var line = 1; line <= text.Length; line++)
        {
            row[0] = line;
            var least = line;
            for (var column = 1; column < width; column++)
            {
                var cost = text[line - 1] == word[column - 1] ? 0 : 1;
                var best = Math.Min(Math.Min(up[column] + 1, row[column - 1] + 1), up[column - 1] + cost);
                if (line > 1 && column > 1 && text[line - 1] == word[column - 2] && text[line - 2] == word[column - 1]) best = Math.Min(best, twoUp[column - 2] + 1);
                row[column] = best;
                least = Math.Min(least, best);
            }

            if (least > limit) return int.MaxValue;
            var spare = twoUp;
            twoUp = up;
            up = row;
            row = spare;
        }

        var nearest = int.MaxValue;
        for (var column = 0; column < width; column++) nearest = Math.Min(nearest, up[column]);
        return nearest;
    }

    private static ulong Letters(string word)
    {
        ulong mask = 0;
        foreach (var letter in word) mask |= 1UL << (letter & 63);
        return mask;
    }
}
