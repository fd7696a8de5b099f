using NodaTime;
using NodaTime.Text;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Rules;

public sealed class TimeWindowTests
{
    /// <summary>
    /// Source: RFC 5545 section 3.3.5: 02:30 on 11 March 2007 in America/New_York does not occur and is read with the offset before the gap (07:30 UTC); 01:30 on 4 November 2007
    /// occurs twice and the first is meant (05:30 UTC).
    /// </summary>
    [Theory]
    [InlineData("America/New_York", "2007-03-11T02:30", "2007-03-11T07:30:00Z")]
    [InlineData("America/New_York", "2007-11-04T01:30", "2007-11-04T05:30:00Z")]
    [InlineData("Europe/Berlin", "2026-03-29T02:30", "2026-03-29T01:30:00Z")]
    [InlineData("Europe/Berlin", "2026-10-25T02:30", "2026-10-25T00:30:00Z")]
    [InlineData("Europe/London", "2026-07-01T00:00", "2026-06-30T23:00:00Z")]
    [InlineData("Australia/Lord_Howe", "2026-10-04T02:15", "2026-10-03T15:45:00Z")]
    [InlineData("UTC", "2026-12-24T00:00", "2026-12-24T00:00:00Z")]
    public void A_window_begins_and_ends_at_the_instant_its_local_time_names(string zone, string local, string utc)
    {
        var instant = InstantPattern.General.Parse(utc).Value;
        var begins = Window(new TimeCondition(zone) { From = local });
        Assert.Equal((false, true), (begins.Holds(instant - Duration.FromNanoseconds(1)), begins.Holds(instant)));
        var ends = Window(new TimeCondition(zone) { Until = local });
        Assert.Equal((true, false), (ends.Holds(instant - Duration.FromNanoseconds(1)), ends.Holds(instant)));
    }

    /// <summary>Known transitions of the tz database, by the system-independent copy that the library ships: an hour of day lies in a window by what the clock on the wall says.</summary>
    [Theory]
    [InlineData("2026-03-29T00:59:00Z", true)] // 01:59 in Berlin, before clocks go to 03:00
    [InlineData("2026-03-29T01:00:00Z", false)] // 03:00
    [InlineData("2026-10-24T23:30:00Z", true)] // 01:30, before
    [InlineData("2026-10-25T00:30:00Z", true)] // 02:30 the first time
    [InlineData("2026-10-25T01:30:00Z", true)] // 02:30 the second time
    [InlineData("2026-10-25T02:00:00Z", false)] // 03:00
    public void Hours_are_read_on_the_clock_of_the_zone(string utc, bool holds) =>
        Assert.Equal(holds, Window(new TimeCondition("Europe/Berlin") { FromHour = "01:00", UntilHour = "03:00" }).Holds(InstantPattern.General.Parse(utc).Value));

    [Theory]
    [InlineData("2026-11-27T22:30:00Z", true)] // Friday night
    [InlineData("2026-11-28T03:00:00Z", true)] // early on Saturday: still Friday's night
    [InlineData("2026-11-28T23:00:00Z", false)] // Saturday night
    [InlineData("2026-11-27T03:00:00Z", false)] // early on Friday: Thursday's night
    [InlineData("2026-11-27T12:00:00Z", false)]
    public void A_window_over_midnight_belongs_to_the_day_it_began_on(string utc, bool holds) =>
        Assert.Equal(holds, Window(new TimeCondition("UTC") { Days = [DayOfWeek.Friday], FromHour = "22:00", UntilHour = "06:00" }).Holds(InstantPattern.General.Parse(utc).Value));

    [Fact]
    public void A_window_of_days_alone_is_those_days_from_midnight_to_midnight()
    {
        var window = Window(new TimeCondition("Europe/Stockholm") { Days = [DayOfWeek.Monday, DayOfWeek.Sunday] });
        var days = Enumerable.Range(0, 14 * 24).Select(hour => Instant.FromUtc(2026, 11, 1, 0, 30) + Duration.FromHours(hour));
        Assert.All(days, moment => Assert.Equal(moment.ToDateTimeUtc().AddHours(1).DayOfWeek is DayOfWeek.Monday or DayOfWeek.Sunday, window.Holds(moment)));
    }

    [Theory]
    [InlineData("Nowhere/Atall", "", "", "", "", "there is no time zone \"Nowhere/Atall\"")]
    [InlineData("UTC", "2026-02-30T00:00", "", "", "", "\"2026-02-30T00:00\" is not a time")]
    [InlineData("UTC", "", "", "25:00", "", "\"25:00\" is not a time")]
    [InlineData("UTC", "2026-12-24T00:00", "2026-12-01T00:00", "", "", "the window ends before it starts")]
    [InlineData("UTC", "2026-12-24T00:00", "2026-12-24T00:00", "", "", "the window ends before it starts")]
    [InlineData("Europe/Berlin", "2026-03-29T02:30", "2026-03-29T03:30", "", "", "the window ends before it starts")]
    [InlineData("UTC", "", "", "08:00", "08:00", "the hours begin and end at the same time")]
    public void A_window_that_can_never_hold_says_why(string zone, string from, string until, string fromHour, string untilHour, string trouble)
    {
        Assert.False(TimeWindow.TryRead(new TimeCondition(zone) { From = from, Until = until, FromHour = fromHour, UntilHour = untilHour }, out _, out var said));
        Assert.Equal(trouble, said);
    }

    [Fact]
    public void Designs_take_turns_by_the_day_in_the_order_they_stand()
    {
        var turns = new CarryDesigns([.. Enumerable.Range(1, 3).Select(number => new Guid(number, 0, 0, new byte[8]))]) { By = TurnUnit.Day };
        var days = Enumerable.Range(0, 7).Select(day => Array.IndexOf([.. turns.Designs], turns.DesignFor(Guid.Empty, Instant.FromUtc(2026, 11, 26, 23, 59) + Duration.FromDays(day), 0))).ToArray();
        Assert.All(days.Zip(days.Skip(1)), pair => Assert.Equal((pair.First + 1) % 3, pair.Second));
        Assert.Equal(days[0], Array.IndexOf([.. turns.Designs], turns.DesignFor(Guid.Empty, Instant.FromUtc(2026, 11, 26, 0, 0), 99)));
    }

    [Fact]
    public void Shuffled_designs_each_come_once_in_every_round_and_rounds_differ()
    {
        var turns = new CarryDesigns([.. Enumerable.Range(1, 5).Select(number => new Guid(number, 0, 0, new byte[8]))]) { By = TurnUnit.Message, Order = TurnOrder.Shuffled };
        var rule = Guid.Parse("00000000-0000-0000-0000-0000000000aa");
        var rounds = Enumerable.Range(-3, 20).Select(round => string.Join(' ', Enumerable.Range(0, 5).Select(turn => turns.DesignFor(rule, default, (round * 5) + turn).ToString()[7]))).ToArray();
        Assert.All(rounds, round => Assert.Equal("1 2 3 4 5", string.Join(' ', round.Split(' ').Order())));
        Assert.InRange(rounds.Distinct().Count(), 15, 20);
        Assert.NotEqual(rounds, Enumerable.Range(-3, 20).Select(round => string.Join(' ', Enumerable.Range(0, 5).Select(turn => turns.DesignFor(Guid.Empty, default, (round * 5) + turn).ToString()[7]))));
    }

    private static TimeWindow Window(TimeCondition condition) => TimeWindow.TryRead(condition, out var window, out var trouble) ? window : throw new Xunit.Sdk.XunitException(trouble);
}
