using System.Collections.Immutable;
using System.Text.Json.Serialization;
using System.Text.RegularExpressions;

namespace Relevo.Core.People.Sources;

/// <summary>A small change made to a value on its way from a source to a field. Values are trimmed before and after each.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(CaseTransform), "case")]
[JsonDerivedType(typeof(SplitTransform), "split")]
[JsonDerivedType(typeof(LookupTransform), "lookup")]
[JsonDerivedType(typeof(ExtractTransform), "extract")]
public abstract record Transform
{
    /// <summary>The changed text; empty when nothing is left. Never fails on a transform that <see cref="Refuse"/> finds nothing wrong with.</summary>
    public abstract string Apply(string text);

    /// <summary>Why it cannot be used, as a sentence, or null.</summary>
    public virtual string? Refuse() => null;
}

/// <summary>Sets upper and lower case.</summary>
public sealed record CaseTransform(CaseStyle Style) : Transform
{
    /// <inheritdoc />
    public override string Apply(string text) => Style switch
    {
        CaseStyle.Upper => text.ToUpperInvariant(),
        CaseStyle.Lower => text.ToLowerInvariant(),
        CaseStyle.Sentence => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..].ToLowerInvariant(),
        _ => NameCase.Apply(text),
    };
}

/// <summary>Takes one part of a text. Index: from 0; from the end when negative. A part that is not there is empty.</summary>
public sealed record SplitTransform(string Separator, int Index) : Transform
{
    /// <inheritdoc />
    public override string Apply(string text)
    {
        var parts = text.Split(Separator);
        var index = Index < 0 ? parts.Length + Index : Index;
        return index >= 0 && index < parts.Length ? parts[index] : "";
    }

    /// <inheritdoc />
    public override string? Refuse() => Separator.Length == 0 ? "A text is split at something; say at what." : null;
}

/// <summary>Replaces whole values by others, without regard to case. A value that is not in the table stays, or goes when <paramref name="IsStrict"/> is set.</summary>
public sealed record LookupTransform(ImmutableSortedDictionary<string, string> Table, bool IsStrict) : Transform
{
    /// <inheritdoc />
    public override string Apply(string text)
    {
        foreach (var pair in Table)
        {
            if (string.Equals(pair.Key, text, StringComparison.OrdinalIgnoreCase)) return pair.Value;
        }

        return IsStrict ? "" : text;
    }
}

/// <summary>Takes what a pattern finds: its first group, or all of it when there is none; empty when it finds nothing. Run without backtracking.</summary>
public sealed record ExtractTransform(string Pattern) : Transform
{
    /// <inheritdoc />
    public override string Apply(string text)
    {
        var match = new Regex(Pattern, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant).Match(text);
        return !match.Success ? "" : match.Groups.Count > 1 ? match.Groups[1].Value : match.Value;
    }

    /// <inheritdoc />
    public override string? Refuse() => FieldCheck.RefusePattern(Pattern);
}

/// <summary>Ways to set upper and lower case.</summary>
public enum CaseStyle
{
    /// <summary>As names are written.</summary>
    Name,

    /// <summary>ALL UPPER.</summary>
    Upper,

    /// <summary>all lower.</summary>
    Lower,

    /// <summary>First letter upper, the rest lower.</summary>
    Sentence,
}
