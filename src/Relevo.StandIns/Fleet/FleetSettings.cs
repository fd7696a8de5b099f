namespace Relevo.StandIns.Fleet;

/// <summary>How simulated clients behave. Shares are from 0 to 1 and fall by a seeded dice, so that a run can be repeated.</summary>
/// <param name="Seed">What the dice begin with.</param>
/// <param name="PollSeconds">How often a client asks, give or take a fifth.</param>
/// <param name="Latency">Milliseconds a client takes before it reports.</param>
/// <param name="Failing">Share of the deliveries that a client cannot write at the first attempt.</param>
/// <param name="HandEdited">Share of the polls before which somebody changed a signature by hand.</param>
/// <param name="Restarting">Share of the deliveries in whose middle the client is switched off, with the files written and the report not sent.</param>
/// <param name="NeverOn">Share of the clients that are never switched on.</param>
/// <param name="ClockSkewHours">Hours by which clients' clocks are off, to either side.</param>
public sealed record FleetSettings(int Seed, double PollSeconds, int Latency, double Failing, double HandEdited, double Restarting, double NeverOn, double ClockSkewHours)
{
    /// <summary>Well behaved clients that ask every two seconds.</summary>
    public static FleetSettings Quiet { get; } = new(6, 2, 0, 0, 0, 0, 0, 0);
}

/// <summary>A client of the fleet: what it is and the token it asks with.</summary>
public sealed record FleetMember(string Kind, string Name, string Person, string Address, string Token);
