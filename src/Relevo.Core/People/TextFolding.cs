using System.Text;

namespace Relevo.Core.People;

/// <summary>
/// Makes texts comparable for search: lower case, Latin letters without their accents, ligatures and special letters spelled out. Covers
/// Latin-1 Supplement, Latin Extended-A and combining marks; other scripts keep their letters in lower case. A table, because the
/// program runs without the system's language data, where the framework takes no accents off.
/// </summary>
public static class TextFolding
{
    private const char First = '\u00C0';

    /// <summary>U+00C0 to U+017F, in order, parted by spaces; from memory of the Unicode charts, checked by the tests against decompositions written out there.</summary>
    private static readonly string[] Latin =
        ("a a a a a a ae c e e e e i i i i d n o o o o o \u00D7 o u u u u y th ss a a a a a a ae c e e e e i i i i d n o o o o o \u00F7 o u u u u y th y " +
         "a a a a a a c c c c c c c c d d d d e e e e e e e e e e g g g g g g g g h h h h i i i i i i i i i i ij ij j j k k k l l l l l l l l l l " +
         "n n n n n n n n n o o o o o o oe oe r r r r r r s s s s s s s s t t t t t t u u u u u u u u u u u u w w y y y z z z z z z s").Split(' ');

    /// <summary>The folded text.</summary>
    public static string Fold(string text)
    {
        StringBuilder? folded = null;
        for (var index = 0; index < text.Length; index++)
        {
            var character = text[index];
            if (character is < '\u0080' and not (>= 'A' and <= 'Z'))
            {
                folded?.Append(character);
                continue;
            }

            folded ??= new StringBuilder(text.Length + 4).Append(text, 0, index);
            if (character >= First && character - First < Latin.Length) folded.Append(Latin[character - First]);
            else if (character is not (>= '\u0300' and <= '\u036F')) folded.Append(char.ToLowerInvariant(character));
        }

        return folded?.ToString() ?? text;
    }
}
