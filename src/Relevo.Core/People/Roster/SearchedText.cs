using System.Collections;
using System.Text;

namespace Relevo.Core.People.Roster;

/// <summary>
/// Everything that searches look into, of all rows one after the other in one piece of memory: a word is looked for in all of it at once, at the
/// speed of memory, instead of row by row. Rows are parted by a character no search has.
/// </summary>
internal sealed class SearchedText
{
    private const char Parting = '\uFFFF'; // a noncharacter: texts hold none
    private readonly char[] text;
    private readonly int[] starts;

    private SearchedText(char[] text, int[] starts)
    {
        this.text = text;
        this.starts = starts;
    }

    public static SearchedText Of(RosterRow[] rows)
    {
        var starts = new int[rows.Length + 1];
        for (var index = 0; index < rows.Length; index++) starts[index + 1] = starts[index] + Encoding.UTF8.GetCharCount(rows[index].Searched) + 1;
        var text = new char[starts[^1]];
        for (var index = 0; index < rows.Length; index++)
        {
            Encoding.UTF8.GetChars(rows[index].Searched, text.AsSpan(starts[index]));
            text[starts[index + 1] - 1] = Parting;
        }

        return new SearchedText(text, starts);
    }

    /// <summary>The rows that hold a word. The word is not empty and holds no line break.</summary>
    public BitArray Find(string word)
    {
        var found = new BitArray(starts.Length - 1);
        var (at, row) = (0, 0);
        while (at < text.Length && text.AsSpan(at).IndexOf(word, StringComparison.Ordinal) is >= 0 and var offset)
        {
            var place = at + offset;
            row = RowOf(place, row);
            found[row] = true;
            at = starts[row + 1];
        }

        return found;
    }

    /// <summary>True when a row's text, and so its name, begins with this.</summary>
    public bool BeginsWith(int row, string head) => text.AsSpan(starts[row]).StartsWith(head, StringComparison.Ordinal);

    /// <summary>The row a place lies in, at or after one that is known; near ones are found by walking.</summary>
    private int RowOf(int place, int from)
    {
        for (var step = 0; step < 8; step++, from++)
        {
            if (place < starts[from + 1]) return from;
        }

        var found = Array.BinarySearch(starts, from, starts.Length - from, place);
        return found >= 0 ? found : ~found - 1;
    }
}
