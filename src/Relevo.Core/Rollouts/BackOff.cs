using NodaTime;

namespace Relevo.Core.Rollouts;

/// <summary>How long to wait before trying again: twice as long each time, up to a longest, with jitter so that many do not come back at once.</summary>
/// <param name="First">The wait after the first failure.</param>
/// <param name="Longest">The longest wait.</param>
/// <param name="MostAttempts">Failures in a row after which a delivery is set aside.</param>
public sealed record BackOff(Duration First, Duration Longest, int MostAttempts)
{
    private const double Jitter = 0.2; // share of the wait, to either side

    /// <summary>From half a minute to an hour; set aside after ten failures, which is some three hours.</summary>
    public static BackOff Standard { get; } = new(Duration.FromSeconds(30), Duration.FromHours(1), 10);

    /// <summary>The wait after so many failures in a row, of one or more. chance: from 0 to 1. asked: what the other side asked for (RFC 9110 section 10.2.3), which is kept to at least.</summary>
    public Duration Wait(int failures, double chance, Duration? asked = null)
    {
        var doubled = First * Math.Pow(2, Math.Clamp(failures - 1, 0, 30));
        var wait = (doubled < Longest ? doubled : Longest) * (1 + (Jitter * ((2 * chance) - 1)));
        return asked is { } least && least > wait ? least : wait;
    }
}
