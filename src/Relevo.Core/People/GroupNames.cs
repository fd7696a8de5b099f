using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>
/// The groups a person is in, kept as one fact: names in their order, parted by "; ". As a fact they are compared, told in plans and
/// histories, and taken back like every other.
/// </summary>
public static class GroupNames
{
    /// <summary>The field's name.</summary>
    public const string Field = "groups";

    /// <summary>What stands between two names in the fact.</summary>
    public const string Parting = "; ";

    /// <summary>The fact for these groups; null for none. Semicolons in names become commas.</summary>
    public static string? Join(IEnumerable<string> names)
    {
        var sorted = names.Select(name => FieldValue.OneLine(name).Replace(';', ',')).Where(name => name.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase).Order(StringComparer.Ordinal).ToArray();
        return sorted.Length == 0 ? null : string.Join(Parting, sorted);
    }

    /// <summary>The groups of a fact.</summary>
    public static ImmutableArray<string> Split(string? fact) => string.IsNullOrEmpty(fact) ? [] : [.. fact.Split(Parting)];

    /// <summary>What a group is called by its distinguished name: the value of its first part, with RFC 4514's escapes of single characters undone.</summary>
    public static string OfDistinguishedName(string name)
    {
        var text = new System.Text.StringBuilder();
        var at = name.IndexOf('=', StringComparison.Ordinal) + 1;
        for (; at < name.Length && name[at] is not (',' or '+'); at++)
        {
            if (name[at] == '\\' && at + 1 < name.Length) at++;
            text.Append(name[at]);
        }

        return text.ToString().Trim();
    }
}
