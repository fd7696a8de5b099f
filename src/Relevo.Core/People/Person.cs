using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>Facts by field name, as the source gave them.</summary>
public sealed class Facts : IEquatable<Facts>
{
    /// <summary>Keeps non-empty values only.</summary>
    public Facts(IEnumerable<KeyValuePair<string, string>> values) =>
        Values = values.Where(pair => pair.Value.Length > 0).ToImmutableSortedDictionary(StringComparer.Ordinal);

    /// <summary>The values by field name.</summary>
    public ImmutableSortedDictionary<string, string> Values { get; }

    /// <summary>The value, or null when the field has none.</summary>
    public string? this[string field] => Values.GetValueOrDefault(field);

    /// <inheritdoc />
    public bool Equals(Facts? other) => other is not null && Values.SequenceEqual(other.Values);

    /// <inheritdoc />
    public override bool Equals(object? obj) => Equals(obj as Facts);

    /// <inheritdoc />
    public override int GetHashCode() => Values.Count;
}

/// <summary>An employee. Never deleted by a sync, only retired.</summary>
/// <param name="Id">Relevo's own key.</param>
/// <param name="SourceKey">The source's stable id.</param>
/// <param name="DistinguishedName">The directory's name for the entry.</param>
/// <param name="Facts">What the source says.</param>
/// <param name="Addresses">Mail addresses in the source's order; the first is the person's own, the rest aliases.</param>
/// <param name="IsRetired">True when the source no longer lists the person.</param>
public sealed record Person(Guid Id, string SourceKey, string DistinguishedName, Facts Facts, ImmutableArray<string> Addresses, bool IsRetired)
{
    /// <summary>The name shown for this person.</summary>
    public string DisplayName => Facts["displayName"] ?? SourceKey;
}

/// <summary>What an account is to its person.</summary>
public enum AccountKind
{
    /// <summary>The person's first address.</summary>
    Own,

    /// <summary>A further address of the same person.</summary>
    Alias,
}

/// <summary>One address one person may send from.</summary>
public sealed record Account(Guid PersonId, string Address, AccountKind Kind);

/// <summary>The layer a resolved value came from, strongest first.</summary>
public enum Layer
{
    /// <summary>The account itself: its address.</summary>
    Account,

    /// <summary>The directory the person came from.</summary>
    Source,
}

/// <summary>A resolved value with its origin.</summary>
public sealed record ResolvedField(string Name, FieldValue Value, Layer Origin);

/// <summary>Resolves an account's fields.</summary>
public static class FieldResolution
{
    /// <summary>Values in catalogue order, ready for rendering. The address comes from the account, the rest from the source.</summary>
    public static FieldValue[] Resolve(FieldCatalogue catalogue, Facts facts, string address)
    {
        var values = new FieldValue[catalogue.Fields.Length];
        for (var index = 0; index < values.Length; index++)
        {
            var field = catalogue.Fields[index];
            values[index] = FieldValue.From(field.Name == "mail" ? address : facts[field.Name], field.Kind);
        }

        return values;
    }

    /// <summary>The same values with their origins, without the empty ones.</summary>
    public static ImmutableArray<ResolvedField> Explain(FieldCatalogue catalogue, Facts facts, string address) =>
        [.. Resolve(catalogue, facts, address)
            .Select((value, index) => new ResolvedField(catalogue.Fields[index].Name, value, catalogue.Fields[index].Name == "mail" ? Layer.Account : Layer.Source))
            .Where(field => !field.Value.IsEmpty)];
}
