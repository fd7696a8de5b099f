using NodaTime;

namespace Relevo.Core.Rollouts;

/// <summary>
/// How changed facts and joiners reach clients outside rollouts: so many a minute, and not at all when more than a share of everybody would change at once,
/// until somebody has looked.
/// </summary>
/// <param name="MostPerMinute">Clients that may be given something new in a minute.</param>
/// <param name="BrakePercent">Share of the clients that may change at once without anybody looking.</param>
public sealed record Flow(int MostPerMinute, int BrakePercent)
{
    /// <summary>Fewer changes than this are never braked: in a small company one team is a large share.</summary>
    public const int NeverBraked = 20;

    /// <summary>Two thousand a minute, a fifth of everybody at once.</summary>
    public static Flow Standard { get; } = new(2000, 20);

    /// <summary>True when so many changes are held until somebody lets them go.</summary>
    public bool Brakes(int changes, int clients) => changes > NeverBraked && changes * 100L > (long)BrakePercent * clients;

    /// <summary>How many may go now, after this time since the last ones went.</summary>
    public int MayGo(Duration since) => (int)Math.Min(MostPerMinute, Math.Max(0, MostPerMinute * since.TotalMinutes));
}
