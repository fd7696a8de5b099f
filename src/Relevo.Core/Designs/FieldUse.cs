using System.Collections.Immutable;
using Relevo.Core.Editions;

namespace Relevo.Core.Designs;

/// <summary>Which fields designs show.</summary>
public static class FieldUse
{
    /// <summary>Names of the fields a design shows, in the order they first stand in it by block key.</summary>
    public static IEnumerable<string> Of(DesignDocument design) => design.Blocks.Values.SelectMany(DesignCheck.FieldsOf).Distinct(StringComparer.Ordinal);

    /// <summary>Names of the fields that designs named by rules that are on show.</summary>
    public static ImmutableArray<string> InUse(EditionContent content) =>
    [
        .. content.Rules.Signature.Where(rule => rule.IsOn).SelectMany(rule => rule.Then.AllDesigns).Distinct()
            .Select(content.Find).OfType<DesignDocument>().SelectMany(Of).Distinct(StringComparer.Ordinal),
    ];
}
