using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>
/// Facts by field name. A field that is not there has no value on its layer; a field that is there with an empty text is an explicit blank,
/// which is a value. Kept as one sorted array: a hundred thousand people have one of these each.
/// </summary>
public sealed class Facts : IEquatable<Facts>
{
    private readonly KeyValuePair<string, string>[] pairs;

    /// <summary>Keeps the values in the order of their names; of a name that stands twice the last value stays.</summary>
    public Facts(IEnumerable<KeyValuePair<string, string>> values)
    {
        pairs = [.. values];
        // Sources mostly give their facts in this order already.
        if (!IsSorted()) Array.Sort(pairs, (left, right) => string.CompareOrdinal(left.Key, right.Key));
        if (HasRepeats()) pairs = [.. pairs.GroupBy(pair => pair.Key, StringComparer.Ordinal).Select(group => group.Last())];
    }

    /// <summary>No facts at all.</summary>
    public static Facts None { get; } = new([]);

    /// <summary>The values in the order of their names.</summary>
    public ReadOnlySpan<KeyValuePair<string, string>> Pairs => pairs;

    /// <summary>How many fields there are.</summary>
    public int Count => pairs.Length;

    /// <summary>The names in order.</summary>
    public IEnumerable<string> Names => pairs.Select(pair => pair.Key);

    /// <summary>The value, or null when the field is not there.</summary>
    public string? this[string field]
    {
        get
        {
            int low = 0, high = pairs.Length - 1;
            while (low <= high)
            {
                var middle = (low + high) >> 1;
                var order = string.CompareOrdinal(pairs[middle].Key, field);
                if (order == 0) return pairs[middle].Value;
                if (order < 0) low = middle + 1;
                else high = middle - 1;
            }

            return null;
        }
    }

    /// <summary>The same facts with one field set (null takes it out).</summary>
    public Facts With(string field, string? value)
    {
        var others = pairs.Where(pair => pair.Key != field);
        return new Facts(value is null ? others : others.Append(KeyValuePair.Create(field, value)));
    }

    /// <inheritdoc />
    public bool Equals(Facts? other) => other is not null && pairs.AsSpan().SequenceEqual(other.pairs);

    /// <inheritdoc />
    public override bool Equals(object? obj) => Equals(obj as Facts);

    /// <inheritdoc />
    public override int GetHashCode() => pairs.Length == 0 ? 0 : HashCode.Combine(pairs.Length, pairs[0].Value, pairs[^1].Value);

    private bool IsSorted()
    {
        for (var index = 1; index < pairs.Length; index++)
        {
            if (string.CompareOrdinal(pairs[index - 1].Key, pairs[index].Key) > 0) return false;
        }

        return true;
    }

    private bool HasRepeats()
    {
        for (var index = 1; index < pairs.Length; index++)
        {
            if (pairs[index].Key == pairs[index - 1].Key) return true;
        }

        return false;
    }
}
