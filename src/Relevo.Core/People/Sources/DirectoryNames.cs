using System.Buffers;
using System.Text;

namespace Relevo.Core.People.Sources;

/// <summary>Distinguished names as keys.</summary>
public static class DirectoryNames
{
    private static readonly SearchValues<char> Normal = SearchValues.Create("abcdefghijklmnopqrstuvwxyz0123456789=,.-_@");

    /// <summary>Names are compared without regard to case and to spaces round commas and equals signs. Source: RFC 4514, loosely: escapes are left as they are.</summary>
    public static string Normalise(string name)
    {
        if (IsNormal(name)) return name;
        var plain = new StringBuilder(name.Length);
        var isValue = false; // after the first equals sign of a part; further ones belong to the value
        for (var index = 0; index < name.Length; index++)
        {
            var isMark = name[index] == ',' || (name[index] == '=' && !isValue);
            if (isMark || !char.IsWhiteSpace(name[index]))
            {
                plain.Append(char.ToLowerInvariant(name[index]));
                if (isMark) isValue = name[index] == '=';
                continue;
            }

            var next = index;
            while (next < name.Length && char.IsWhiteSpace(name[next])) next++;
            var isAtMark = next == name.Length || name[next] == ',' || (name[next] == '=' && !isValue);
            var isAfterMark = plain.Length == 0 || plain[^1] == ',' || (plain[^1] == '=' && isValue && IsFirstOfValue(plain));
            if (!isAtMark && !isAfterMark) plain.Append(name.AsSpan(index, next - index));
            index = next - 1;
        }

        return plain.ToString();
    }

    /// <summary>Small letters, digits and marks without a space: nothing to do, as for most names of a directory.</summary>
    private static bool IsNormal(string name) => name.AsSpan().IndexOfAnyExcept(Normal) < 0;

    /// <summary>True when the equals sign at the end is the one that begins the value.</summary>
    private static bool IsFirstOfValue(StringBuilder plain)
    {
        for (var index = plain.Length - 2; index >= 0 && plain[index] != ','; index--)
        {
            if (plain[index] == '=') return false;
        }

        return true;
    }
}
