using System.Collections.Immutable;
using System.Diagnostics.CodeAnalysis;
using NodaTime;
using NodaTime.Text;
using NodaTime.TimeZones;

namespace Relevo.Core.Rules;

/// <summary>A time condition made ready: its zone found and its times read.</summary>
public sealed class TimeWindow
{
    private static readonly LocalDateTimePattern LocalTime = LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm");
    private static readonly LocalTimePattern Hour = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    private readonly DateTimeZone zone;
    private readonly Instant? from, until;
    private readonly LocalTime? fromHour, untilHour;
    private readonly ImmutableArray<DayOfWeek> days;

    private TimeWindow(DateTimeZone zone, Instant? from, Instant? until, LocalTime? fromHour, LocalTime? untilHour, ImmutableArray<DayOfWeek> days) =>
        (this.zone, this.from, this.until, this.fromHour, this.untilHour, this.days) = (zone, from, until, fromHour, untilHour, days);

    /// <summary>The time zones there are, of the tz database's version that is shipped with the application.</summary>
    public static IEnumerable<string> Zones => DateTimeZoneProviders.Tzdb.Ids;

    /// <summary>True when the whole window lies before the moment.</summary>
    public bool IsOver(Instant moment) => until is { } end && moment >= end;

    /// <summary>True when the whole window lies after the moment.</summary>
    public bool IsAhead(Instant moment) => from is { } start && moment < start;

    /// <summary>Reads a condition; false with what is wrong with it, which then never holds.</summary>
    public static bool TryRead(TimeCondition condition, [NotNullWhen(true)] out TimeWindow? window, out string trouble)
    {
        window = null;
        var zone = DateTimeZoneProviders.Tzdb.GetZoneOrNull(condition.Zone);
        trouble = zone is null ? $"there is no time zone \"{condition.Zone}\"" : "";
        var from = Read(condition.From, LocalTime, ref trouble);
        var until = Read(condition.Until, LocalTime, ref trouble);
        var fromHour = Read(condition.FromHour, Hour, ref trouble);
        var untilHour = Read(condition.UntilHour, Hour, ref trouble);
        if (trouble.Length > 0) return false;
        // A local time that clocks skip is moved on by the gap, of two the first is meant: RFC 5545 section 3.3.5.
        Instant? At(LocalDateTime? local) => local is { } time ? zone!.ResolveLocal(time, Resolvers.LenientResolver).ToInstant() : null;
        window = new TimeWindow(zone!, At(from), At(until), fromHour, untilHour, condition.Days);
        if (window.from is { } start && window.until is { } end && end <= start) trouble = "the window ends before it starts";
        else if (fromHour is not null && fromHour == untilHour) trouble = "the hours begin and end at the same time";
        if (trouble.Length == 0) return true;
        window = null;
        return false;
    }

    /// <summary>True when the moment lies in the window.</summary>
    public bool Holds(Instant moment)
    {
        if (IsAhead(moment) || IsOver(moment)) return false;
        if (days.IsDefaultOrEmpty && fromHour is null && untilHour is null) return true;
        var local = moment.InZone(zone).LocalDateTime;
        var (start, end) = (fromHour ?? NodaTime.LocalTime.Midnight, untilHour);
        var day = local.Date;
        if (end is { } closes && closes < start)
        {
            // Over midnight: the small hours belong to the day before.
            if (local.TimeOfDay < closes) day = day.PlusDays(-1);
            else if (local.TimeOfDay < start) return false;
        }
        else if (local.TimeOfDay < start || local.TimeOfDay >= end) return false;

        return days.IsDefaultOrEmpty || days.Contains((DayOfWeek)((int)day.DayOfWeek % 7));
    }

    /// <summary>The moment in the words of the window's own clock, as "Tue 24 Nov 2026, 14:05".</summary>
    public string Met(Instant moment) => moment.InZone(zone).LocalDateTime.ToString("ddd d MMM uuuu, HH:mm", System.Globalization.CultureInfo.InvariantCulture);

    private static T? Read<T>(string text, IPattern<T> pattern, ref string trouble)
        where T : struct
    {
        if (text.Length == 0) return null;
        if (pattern.Parse(text) is { Success: true } read) return read.Value;
        if (trouble.Length == 0) trouble = $"\"{text}\" is not a time";
        return null;
    }
}
