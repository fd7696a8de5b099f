using System.Collections.Immutable;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rules;

namespace Relevo.Core.Rendering;

/// <summary>A question about one account's values and the message, answered once for each signature of a design that asks it. Name: equal for equal questions.</summary>
internal sealed record Test(string Name, Test.Question Holds)
{
    public delegate bool Question(ReadOnlySpan<FieldValue> values, Circumstances circumstances);

    /// <summary>The person's language, looked up among a design's languages, is this one.</summary>
    public static Test SpeaksLanguage(int field, string language, IEnumerable<string> languages)
    {
        var known = languages.ToImmutableArray();
        return new Test($"speaks {language} of {string.Join(',', known)}", (values, _) => LanguageMatch.Best(values[field].Text, known) == language);
    }

    /// <summary>A block's condition. field: the catalogue's place of the field it asks.</summary>
    public static Test Of(BlockCondition condition, int field) => condition switch
    {
        FieldCondition { Test: FieldTest.Present } => new Test($"present {field}", (values, _) => !values[field].IsEmpty),
        FieldCondition { Test: FieldTest.Absent } => new Test($"absent {field}", (values, _) => values[field].IsEmpty),
        FieldCondition asked => Compare(asked, field),
        OccasionIs occasion => new Test($"occasion {string.Join(',', occasion.Occasions)}", (_, circumstances) => occasion.Occasions.Contains(circumstances.Occasion)),
        AudienceIs audience => new Test($"audience {string.Join(',', audience.Audiences)}", (_, circumstances) => audience.Audiences.Contains(circumstances.Audience)),
        _ => throw new ArgumentException($"The condition {condition.GetType().Name} is not known.", nameof(condition)),
    };

    private static Test Compare(FieldCondition asked, int field)
    {
        var (wanted, isLanguage) = (asked.Test == FieldTest.OneOf, asked.Field == "language");
        var values = asked.Values;
        return new Test($"{asked.Test} {field} {string.Join('\u001F', values)}", (all, _) =>
        {
            var text = all[field].Text;
            var isOne = isLanguage ? LanguageMatch.Best(text, values) is not null : values.Contains(text, StringComparer.OrdinalIgnoreCase);
            return isOne == wanted;
        });
    }
}
