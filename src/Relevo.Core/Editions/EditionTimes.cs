using NodaTime;
using Relevo.Core.Rules;

namespace Relevo.Core.Editions;

/// <summary>Whether time alone changes what an edition says.</summary>
public static class EditionTimes
{
    /// <summary>True when something of the edition holds at one moment and not at the other: a rule's time, a disclaimer's validity, a banner's run, whose turn it is today.</summary>
    public static bool Differ(EditionContent content, Instant one, Instant other)
    {
        var rules = Enum.GetValues<Track>().SelectMany(track => content.Rules.On(track)).Where(rule => rule.IsOn).ToArray();
        var times = rules.SelectMany(rule => rule.AllConditions).OfType<TimeCondition>()
            .Concat(content.Disclaimers.Select(disclaimer => disclaimer.Document.Valid).OfType<TimeCondition>())
            .Concat(content.Banners.Select(banner => banner.Document.Runs).OfType<TimeCondition>());
        return times.Any(time => TimeWindow.TryRead(time, out var window, out _) && window.Holds(one) != window.Holds(other))
            || rules.Any(rule => rule.Then is CarryDesigns { Designs.Length: > 1, By: TurnUnit.Day } && rule.DesignFor(one, 0) != rule.DesignFor(other, 0));
    }
}
