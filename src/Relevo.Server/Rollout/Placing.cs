using Relevo.Core.People.Roster;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.People;

namespace Relevo.Server.Rollout;

/// <summary>Says what a client that is new is to hold: what others like it hold. Joiners are served without a rollout of their own.</summary>
public sealed class Placing(RolloutStore rollouts, CurrentRoster rosters)
{
    /// <summary>The placement of anybody's new client now.</summary>
    public async Task<Func<Guid, Placement>> ReadAsync(CancellationToken cancellationToken)
    {
        var settled = await rollouts.SettledEditionAsync(cancellationToken);
        var newest = await rollouts.NewestAsync(cancellationToken);
        if (newest is not { EndedAt: null }) return _ => new Placement(settled, null, null);
        var waves = Assign(newest, await rosters.GetAsync(cancellationToken));
        return person => waves.TryGetValue(person, out var wave)
            ? new Placement(newest.Waves[wave].State == WaveState.Waits ? settled : newest.Edition, newest.Id, wave)
            : new Placement(settled, null, null);
    }

    /// <summary>The wave of each person in a rollout.</summary>
    public static IReadOnlyDictionary<Guid, int> Assign(Data.Rollout rollout, PeopleRoster roster) => Waves.Assign([.. rollout.Waves.Select(wave => wave.Plan)], roster, Salt(rollout.Edition));

    /// <summary>Makes the shares of one edition's rollout differ from those of another's.</summary>
    public static string Salt(int edition) => $"edition {edition}";
}
