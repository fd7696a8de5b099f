using Relevo.Core.People.Roster;
using Relevo.Data;

namespace Relevo.Server.People;

/// <summary>
/// Everybody as the database has them now, kept in memory and brought up to date at each asking by one query that names what changed. Whoever
/// asks after a change was committed, by whichever process, sees it.
/// </summary>
public sealed class CurrentRoster(PersonStore people) : IDisposable
{
    private readonly SemaphoreSlim oneAtATime = new(1);
    private PeopleRoster? roster;
    private ulong marker;

    /// <summary>The roster.</summary>
    public async ValueTask<PeopleRoster> GetAsync(CancellationToken cancellationToken)
    {
        await oneAtATime.WaitAsync(cancellationToken);
        try
        {
            var changes = await people.ReadChangesAsync(roster is null ? null : marker, cancellationToken);
            roster = roster is null ? PeopleRoster.Build(changes.Records!, changes.People) : roster.With(changes.Records ?? roster.Records, changes.People);
            marker = changes.Marker;
            return roster;
        }
        finally
        {
            oneAtATime.Release();
        }
    }

    /// <inheritdoc />
    public void Dispose() => oneAtATime.Dispose();
}
