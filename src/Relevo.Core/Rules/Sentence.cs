using System.Collections.Immutable;

namespace Relevo.Core.Rules;

/// <summary>What a piece of a rule's sentence is.</summary>
public enum SentenceRole
{
    /// <summary>Words that only join.</summary>
    Plain,

    /// <summary>A condition, edited in place.</summary>
    Condition,

    /// <summary>What follows, edited in place.</summary>
    Result,
}

/// <summary>A piece of a rule's sentence.</summary>
public sealed record SentencePiece(SentenceRole Role, string Text);

/// <summary>Rules as sentences one can read aloud. Screens, traces and lists of changes all use these.</summary>
public static class Sentence
{
    /// <summary>The rule as pieces in reading order. designName: gives a design's name, or null when it is unknown.</summary>
    public static ImmutableArray<SentencePiece> Write(Rule rule, Func<Guid, string?> designName)
    {
        var result = rule.Design is { } design ? designName(design) ?? "a design that is gone" : "nothing";
        var occasions = rule.Conditions.OfType<OccasionCondition>().FirstOrDefault();
        return occasions is null
            ? [new(SentenceRole.Plain, "Every "), new(SentenceRole.Condition, "message"), new(SentenceRole.Plain, " carries "), new(SentenceRole.Result, result), new(SentenceRole.Plain, ".")]
            : [new(SentenceRole.Plain, "A "), new(SentenceRole.Condition, Words.Of(occasions)), new(SentenceRole.Plain, " carries "), new(SentenceRole.Result, result), new(SentenceRole.Plain, ".")];
    }

    /// <summary>The sentence as text.</summary>
    public static string Text(Rule rule, Func<Guid, string?> designName) => string.Concat(Write(rule, designName).Select(piece => piece.Text));
}

/// <summary>The words of the rules.</summary>
internal static class Words
{
    public static string Of(Occasion occasion) => occasion switch
    {
        Occasion.New => "new message",
        Occasion.Reply => "reply",
        _ => "forward",
    };

    public static string Of(Condition condition) => condition switch
    {
        OccasionCondition { Occasions.IsEmpty: true } => "no occasion",
        OccasionCondition occasion => string.Join(" or ", occasion.Occasions.Distinct().Order().Select(Of)),
        _ => condition.GetType().Name,
    };
}
