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

/// <summary>A piece of a rule's sentence. Condition: for a condition, its place among the rule's; -1 for others, and for the message when no condition asks for it.</summary>
public sealed record SentencePiece(SentenceRole Role, string Text, int Condition = -1);

/// <summary>Rules as sentences one can read aloud. Screens, traces and lists of changes all use these.</summary>
public static class Sentence
{
    /// <summary>The rule as pieces in reading order.</summary>
    public static ImmutableArray<SentencePiece> Write(Rule rule, RuleNames names)
    {
        var pieces = ImmutableArray.CreateBuilder<SentencePiece>();
        var occasion = rule.Conditions.IndexOf(rule.Conditions.OfType<OccasionCondition>().FirstOrDefault()!);
        Plain(occasion < 0 ? "Every " : StartsWithVowel(Words.Of(rule.Conditions[occasion], names)) ? "An " : "A ");
        pieces.Add(new(SentenceRole.Condition, occasion < 0 ? "message" : Words.Of(rule.Conditions[occasion], names), occasion));
        var before = "";
        foreach (var index in Enumerable.Range(0, rule.Conditions.Length).Where(index => index != occasion).OrderBy(index => Words.ReadingOrder(rule.Conditions[index])))
        {
            var lead = Words.Lead(rule.Conditions[index]) is { Length: > 0 } own ? own : ", ";
            Plain(lead != before ? lead : lead == Words.PeopleWhose ? " and whose " : $" and{lead}");
            before = lead;
            pieces.Add(new(SentenceRole.Condition, Words.Of(rule.Conditions[index], names), index));
        }

        var (verb, result, more) = Result(rule.Then, names);
        Plain(pieces[^1].Condition >= 0 && rule.Conditions[pieces[^1].Condition] is TimeCondition ? $", {verb} " : $" {verb} ");
        pieces.Add(new(SentenceRole.Result, result));
        Plain(more + ".");
        return pieces.ToImmutable();

        void Plain(string text) => pieces.Add(new(SentenceRole.Plain, text));
    }

    /// <summary>The sentence as text.</summary>
    public static string Text(Rule rule, RuleNames names) => string.Concat(Write(rule, names).Select(piece => piece.Text));

    private static (string Verb, string Result, string More) Result(Outcome then, RuleNames names)
    {
        switch (then)
        {
            case CarryDesigns carry:
                var more = (carry.Designs.Length > 1 ? $" in turn, one a {(carry.By == TurnUnit.Day ? "day" : "message")}{(carry.Order == TurnOrder.Shuffled ? ", shuffled" : "")}" : "")
                    + (carry.Place == AnswerPlace.AtEnd ? ", at the very end" : "")
                    + (carry.Offered.IsEmpty ? "" : $", and offers {And(carry.Offered.Select(id => names.Design(id) ?? "a design that is gone"))}")
                    + (carry.MayChoose ? carry.Offered.IsEmpty ? ", unless the employee leaves it off" : ", unless the employee chooses otherwise" : "");
                return ("carries", And(carry.Designs.Select(id => names.Design(id) ?? "a design that is gone")), more);
            case AddDisclaimers add:
                return ("adds", And(add.Disclaimers.Select(id => names.Disclaimer(id) ?? "a disclaimer that is gone")), "");
            case StopDisclaimers:
                return ("takes", "no further disclaimer", "");
            case ShowBanner show:
                return ("shows", names.Banner(show.Banner) ?? "a banner that is gone", show.Link.Length > 0 ? $", leading to {show.Link}" : "");
            default:
                return ("carries", "nothing", "");
        }
    }

    private static string And(IEnumerable<string> words)
    {
        var all = words.ToArray();
        return all.Length switch { 0 => "nothing", 1 => all[0], _ => $"{string.Join(", ", all[..^1])} and {all[^1]}" };
    }

    private static bool StartsWithVowel(string word) => word.Length > 0 && "aeiou".Contains(char.ToLowerInvariant(word[0]), StringComparison.Ordinal);
}
