using System.Collections.Immutable;
using System.Globalization;
using System.Text;

namespace Relevo.Core.People.Formats;

/// <summary>
/// A search filter of a directory. Read from its text form so that a mistake is told with its place before any server is asked, and matched
/// against entries by the stand-in directory. Source: RFC 4515 (text form), RFC 4511 section 4.5.1.7 (meaning). Extensible matching is read and
/// matches nothing.
/// </summary>
public abstract record LdapFilter
{
    private const int MaxDepth = 50; // nested; a deeper filter is an attack on the stack

    /// <summary>Reads a filter. False with a sentence and the place (characters from 1) when it is none.</summary>
    public static bool TryParse(string text, out LdapFilter? filter, out string trouble)
    {
        var parser = new Parser(text);
        filter = parser.Parse();
        trouble = parser.Trouble;
        return filter is not null;
    }

    /// <summary>A value as it may stand in a filter: what has a meaning there is escaped. Source: RFC 4515 section 3.</summary>
    public static string Escape(string value)
    {
        var escaped = new StringBuilder(value.Length);
        foreach (var character in value)
        {
            if (character is '*' or '(' or ')' or '\\' or '\0') escaped.Append(CultureInfo.InvariantCulture, $"\\{(int)character:x2}");
            else escaped.Append(character);
        }

        return escaped.ToString();
    }

    /// <summary>True when an entry matches. values: gives the texts of an attribute. Values are compared without regard to case.</summary>
    public abstract bool Matches(Func<string, IEnumerable<string>> values);

    private sealed class Parser(string text)
    {
        private int at;

        public string Trouble { get; private set; } = "";

        public LdapFilter? Parse()
        {
            var filter = ReadFilter(0);
            if (filter is not null && at < text.Length) return Fail("Something stands after the filter's end");
            return filter;
        }

        private LdapFilter? ReadFilter(int depth)
        {
            if (depth > MaxDepth) return Fail("The filter is nested too deeply");
            if (!Take('(')) return Fail("An opening bracket is missing");
            var filter = at < text.Length ? text[at] switch
            {
                '&' => ReadList(depth, list => new AllOf(list)),
                '|' => ReadList(depth, list => new AnyOf(list)),
                '!' => ReadNot(depth),
                _ => ReadItem(),
            } : Fail("The filter ends too early");
            if (filter is null) return null;
            return Take(')') ? filter : Fail("A closing bracket is missing");
        }

        private LdapFilter? ReadList(int depth, Func<ImmutableArray<LdapFilter>, LdapFilter> make)
        {
            at++;
            var list = ImmutableArray.CreateBuilder<LdapFilter>();
            while (at < text.Length && text[at] == '(')
            {
                if (ReadFilter(depth + 1) is not { } inner) return null;
                list.Add(inner);
            }

            return make(list.ToImmutable());
        }

        private LdapFilter? ReadNot(int depth)
        {
            at++;
            return ReadFilter(depth + 1) is { } inner ? new NoneOf(inner) : null;
        }

        private LdapFilter? ReadItem()
        {
            var start = at;
            while (at < text.Length && (char.IsAsciiLetterOrDigit(text[at]) || text[at] is '-' or '.' or ';' or ':')) at++;
            var attribute = text[start..at];
            // The last colon of an extensible match belongs to its operator.
            if (attribute.EndsWith(':')) return ReadValue() is { } ignored ? new Extensible(attribute.TrimEnd(':'), string.Concat(ignored)) : null;
            if (attribute.Length == 0) return Fail("An attribute is missing");
            var operation = text[at..Math.Min(text.Length, at + 2)];
            if (operation is ">=" or "<=" or "~=")
            {
                at++;
                return ReadValue() is not { } bound ? null : operation == "~=" ? new Equal(attribute, string.Concat(bound)) : new Ordered(attribute, string.Concat(bound), operation == ">=");
            }

            if (ReadValue() is not { } parts) return null;
            return parts.Count == 1 ? new Equal(attribute, parts[0]) : parts.TrueForAll(part => part.Length == 0) && parts.Count == 2 ? new Present(attribute) : new Substrings(attribute, [.. parts]);
        }

        /// <summary>The value after an equals sign, parted at its asterisks, with escapes undone.</summary>
        private List<string>? ReadValue()
        {
            if (!Take('='))
            {
                Fail("An equals sign is missing");
                return null;
            }

            var parts = new List<string>();
            var bytes = new MemoryStream();
            for (; at < text.Length && text[at] != ')'; at++)
            {
                if (text[at] == '(')
                {
                    Fail("An opening bracket inside a value is written \\28");
                    return null;
                }

                if (text[at] == '*')
                {
                    parts.Add(Encoding.UTF8.GetString(bytes.ToArray()));
                    bytes = new MemoryStream();
                }
                else if (text[at] != '\\') bytes.Write(Encoding.UTF8.GetBytes(char.IsHighSurrogate(text[at]) && at + 1 < text.Length ? text.Substring(at++, 2) : text[at].ToString()));
                else if (at + 2 < text.Length && byte.TryParse(text.AsSpan(at + 1, 2), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var octet))
                {
                    bytes.WriteByte(octet);
                    at += 2;
                }
                else
                {
                    Fail("A backslash begins two hexadecimal digits; alone it is written \\5c");
                    return null;
                }
            }

            parts.Add(Encoding.UTF8.GetString(bytes.ToArray()));
            return parts;
        }

        private bool Take(char character)
        {
            if (at >= text.Length || text[at] != character) return false;
            at++;
            return true;
        }

        private LdapFilter? Fail(string sentence)
        {
            if (Trouble.Length == 0) Trouble = $"{sentence} (character {at + 1}).";
            return null;
        }
    }
}

/// <summary>All of these; of none it is true (RFC 4526).</summary>
public sealed record AllOf(ImmutableArray<LdapFilter> Filters) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => Filters.All(filter => filter.Matches(values));
}

/// <summary>Any of these; of none it is false (RFC 4526).</summary>
public sealed record AnyOf(ImmutableArray<LdapFilter> Filters) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => Filters.Any(filter => filter.Matches(values));
}

/// <summary>Not this.</summary>
public sealed record NoneOf(LdapFilter Filter) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => !Filter.Matches(values);
}

/// <summary>A value is this.</summary>
public sealed record Equal(string Attribute, string Value) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => values(Attribute).Any(value => string.Equals(value, Value, StringComparison.OrdinalIgnoreCase));
}

/// <summary>A value is not before, or not after, this one by its characters.</summary>
public sealed record Ordered(string Attribute, string Value, bool IsAtLeast) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => values(Attribute).Any(value =>
        string.Compare(value, Value, StringComparison.OrdinalIgnoreCase) is var order && (IsAtLeast ? order >= 0 : order <= 0));
}

/// <summary>There is a value.</summary>
public sealed record Present(string Attribute) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => values(Attribute).Any();
}

/// <summary>A value holds these parts in this order; an empty first or last part leaves that end open.</summary>
public sealed record Substrings(string Attribute, ImmutableArray<string> Parts) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => values(Attribute).Any(Holds);

    private bool Holds(string value)
    {
        if (!value.StartsWith(Parts[0], StringComparison.OrdinalIgnoreCase)) return false;
        var at = Parts[0].Length;
        foreach (var part in Parts.AsSpan()[1..^1])
        {
            var found = value.IndexOf(part, at, StringComparison.OrdinalIgnoreCase);
            if (found < 0) return false;
            at = found + part.Length;
        }

        return value.Length - at >= Parts[^1].Length && value.EndsWith(Parts[^1], StringComparison.OrdinalIgnoreCase);
    }
}

/// <summary>A match by a named rule, which is left to real servers.</summary>
public sealed record Extensible(string Rule, string Value) : LdapFilter
{
    /// <inheritdoc />
    public override bool Matches(Func<string, IEnumerable<string>> values) => false;
}
