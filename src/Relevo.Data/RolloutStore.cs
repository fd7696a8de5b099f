using System.Collections.Immutable;
using System.Text.Json;
using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Relevo.Core;
using Relevo.Core.Rollouts;

namespace Relevo.Data;

/// <summary>Whether a rollout goes on.</summary>
public enum RolloutState
{
    /// <summary>It goes on.</summary>
    Running,

    /// <summary>Nothing is told and nothing begins until somebody says so.</summary>
    Paused,

    /// <summary>Every wave has passed.</summary>
    Done,

    /// <summary>Somebody stopped it, or another one took its place.</summary>
    Stopped,
}

/// <summary>A wave as it stands.</summary>
public sealed record RolloutWave(WavePlan Plan, WaveState State, DateTimeOffset? OpenedAt, DateTimeOffset? EndedAt);

/// <summary>A rollout.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Edition">The edition it brings.</param>
/// <param name="State">Whether it goes on.</param>
/// <param name="Note">Why it is paused, or empty.</param>
/// <param name="IsForgiven">True when somebody went on over the missed gate of the wave that is open.</param>
/// <param name="StartedAt">When it was started.</param>
/// <param name="StartedBy">By whom.</param>
/// <param name="EndedAt">When it was done or stopped.</param>
/// <param name="Waves">Its waves, in order.</param>
public sealed record Rollout(long Id, int Edition, RolloutState State, string Note, bool IsForgiven, DateTimeOffset StartedAt, string StartedBy, DateTimeOffset? EndedAt, ImmutableArray<RolloutWave> Waves);

/// <summary>Where a rollout stood at a moment.</summary>
public sealed record ProgressPoint(DateTimeOffset At, int Waits, int OnItsWay, int InPlace, int Drifted, int Failed, int Silent);

/// <summary>Something an administrator should know.</summary>
public sealed record Notice(long Id, DateTimeOffset At, string Kind, string Text, DateTimeOffset? SeenAt);

/// <summary>Rollouts, their waves and how they went. Whoever changes one has it locked.</summary>
public sealed class RolloutStore(NpgsqlDataSource database)
{
    private const string Read =
        """
        select rollout.id, rollout.edition, rollout.state, rollout.note, rollout.is_forgiven, rollout.started_at, app_user.display_name, rollout.ended_at,
            (select coalesce(json_agg(json_build_object('plan', wave.plan, 'state', wave.state, 'openedAt', wave.opened_at, 'endedAt', wave.ended_at) order by wave.number), '[]')::text from wave where wave.rollout_id = rollout.id)
        from rollout join app_user on app_user.id = rollout.started_by
        """;

    /// <summary>The newest rollout, whether it goes on or not; null before the first.</summary>
    public async Task<Rollout?> NewestAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"{Read} order by rollout.id desc limit 1", [], ReadRollout, cancellationToken);
    }

    /// <summary>Every rollout, newest first.</summary>
    public async Task<List<Rollout>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync($"{Read} order by rollout.id desc limit 100", [], ReadRollout, cancellationToken);
    }

    /// <summary>The edition that whoever is in no wave that has begun is to hold: that of the last rollout that was done; null before the first.</summary>
    public async Task<int?> SettledEditionAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select edition from rollout where state = 'done' order by id desc limit 1", [], row => (int?)row.GetInt32(0), cancellationToken);
    }

    /// <summary>
    /// Starts a rollout in the place of the one the starter saw (null where none was going on). people: each person's wave by number, for those who are in one.
    /// Returns its id, or null when another was started meanwhile.
    /// </summary>
    public async Task<long?> StartAsync(int edition, ImmutableArray<WavePlan> waves, IReadOnlyDictionary<Guid, int> people, long? inPlaceOf, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("select pg_advisory_xact_lock(hashtext('relevo rollout'))", [], cancellationToken);
        var running = await connection.ReadFirstAsync("select id from rollout where ended_at is null", [], row => (long?)row.GetInt64(0), cancellationToken);
        if (running != inPlaceOf) return null;
        await connection.ExecuteAsync("update rollout set ended_at = now(), state = 'stopped' where ended_at is null", [], cancellationToken);
        var id = await connection.ReadFirstAsync("insert into rollout (edition, started_by) values ($1, $2) returning id", [edition, actor.Id], row => row.GetInt64(0), cancellationToken);
        var begins = waves is [{ Start: StartAtOnce }, ..]; // the first wave begins in the same breath
        for (var number = 0; number < waves.Length; number++)
        {
            await connection.ExecuteAsync(
                "insert into wave (rollout_id, number, plan, state, opened_at) values ($1, $2, $3, case when $4 then 'open' else 'waits' end, case when $4 then now() end)",
                [id, number, Sql.Json(JsonSerializer.Serialize(waves[number], RelevoJson.Options)), begins && number == 0],
                cancellationToken);
        }

        // Whoever adds a client meanwhile waits, and then sees that another rollout goes on.
        await connection.ExecuteAsync("lock table rollout_member in exclusive mode", [], cancellationToken);
        await connection.ExecuteAsync("delete from rollout_member", [], cancellationToken);
        await using (var copy = await connection.BeginBinaryImportAsync("copy rollout_member (person_id, rollout_id, wave) from stdin (format binary)", cancellationToken))
        {
            foreach (var (person, wave) in people)
            {
                await copy.StartRowAsync(cancellationToken);
                await copy.WriteAsync(person, NpgsqlDbType.Uuid, cancellationToken);
                await copy.WriteAsync(id, NpgsqlDbType.Bigint, cancellationToken);
                await copy.WriteAsync(wave, NpgsqlDbType.Integer, cancellationToken);
            }

            await copy.CompleteAsync(cancellationToken);
        }

        await connection.ExecuteAsync("analyze rollout_member", [], cancellationToken); // they were empty or somebody else's

        await AuditLog.AppendAsync(connection, actor, new AuditLine("rollout started", "rollout", id.ToString(), null, $$"""{"edition":{{edition}}}"""), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return id;
    }

    /// <summary>Takes a step under the rollout's lock, if it still goes on. Clients of a wave that begins are to hold the rollout's edition from then on.</summary>
    public async Task StepAsync(long rollout, RolloutStep step, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var edition = await connection.ReadFirstAsync("select edition from rollout where id = $1 and state = 'running' for update", [rollout], row => (int?)row.GetInt32(0), cancellationToken);
        if (edition is null) return;
        switch (step)
        {
            case RolloutStep.Open open:
                await connection.ExecuteAsync("update wave set state = 'open', opened_at = now() where rollout_id = $1 and number = $2 and state = 'waits'", [rollout, open.Number], cancellationToken);
                break;
            case RolloutStep.Pass pass:
                await connection.ExecuteAsync("update wave set state = 'passed', ended_at = now() where rollout_id = $1 and number = $2 and state = 'open'", [rollout, pass.Number], cancellationToken);
                await connection.ExecuteAsync("update rollout set is_forgiven = false where id = $1", [rollout], cancellationToken);
                break;
            case RolloutStep.Pause pause:
                await connection.ExecuteAsync("update rollout set state = 'paused', note = $2 where id = $1", [rollout, pause.Reason], cancellationToken);
                await connection.ExecuteAsync("insert into notice (kind, text) values ('gate missed', $1)", [$"The rollout of edition {edition} paused itself: {pause.Reason}"], cancellationToken);
                break;
            default:
                await connection.ExecuteAsync("update rollout set state = 'done', ended_at = now() where id = $1", [rollout], cancellationToken);
                await connection.ExecuteAsync("insert into notice (kind, text) values ('rollout done', $1)", [$"The rollout of edition {edition} is done."], cancellationToken);
                break;
        }

        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Pauses a rollout that runs. False when it does not.</summary>
    public Task<bool> PauseAsync(long rollout, Actor actor, CancellationToken cancellationToken) =>
        ChangeAsync(rollout, "rollout paused", "update rollout set state = 'paused', note = '' where id = $1 and state = 'running'", actor, cancellationToken);

    /// <summary>Goes on with a paused rollout; a gate that was missed does not pause it again. False when it is not paused.</summary>
    public Task<bool> GoOnAsync(long rollout, Actor actor, CancellationToken cancellationToken) =>
        ChangeAsync(rollout, "rollout went on", "update rollout set state = 'running', is_forgiven = note <> '', note = '' where id = $1 and state = 'paused'", actor, cancellationToken);

    /// <summary>Ends a rollout: waves that have not begun keep what they have. False when it had ended.</summary>
    public Task<bool> StopAsync(long rollout, Actor actor, CancellationToken cancellationToken) =>
        ChangeAsync(rollout, "rollout stopped", "update rollout set state = 'stopped', ended_at = now(), note = '' where id = $1 and ended_at is null", actor, cancellationToken);

    /// <summary>Leaves the wave that is open to itself and goes on with the next, whose gate counts anew. False when none is open.</summary>
    public Task<bool> SkipAsync(long rollout, Actor actor, CancellationToken cancellationToken) => ChangeAsync(
        rollout,
        "wave skipped",
        """
        with skipped as (update wave set state = 'skipped', ended_at = now() where rollout_id = $1 and state = 'open' and exists (select from rollout where id = $1 and ended_at is null) returning rollout_id)
        update rollout set state = 'running', note = '', is_forgiven = false from skipped where rollout.id = skipped.rollout_id
        """,
        actor,
        cancellationToken);

    /// <summary>Brings another edition instead, to those who have the one so far as well: a correction of it. False when the rollout has ended.</summary>
    public async Task<bool> RetargetAsync(long rollout, int edition, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (await connection.ExecuteAsync("update rollout set edition = $2 where id = $1 and ended_at is null", [rollout, edition], cancellationToken) == 0) return false;
        await AuditLog.AppendAsync(connection, actor, new AuditLine("rollout corrected", "rollout", rollout.ToString(), null, $$"""{"edition":{{edition}}}"""), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return true;
    }

    /// <summary>Notes where a rollout stands, at most every so often and only when it stands elsewhere than before.</summary>
    public async Task NoteProgressAsync(long rollout, WaveCounts counts, TimeSpan every, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into rollout_progress (rollout_id, waits, on_its_way, in_place, drifted, failed, silent)
            select $1, $2, $3, $4, $5, $6, $7
            where not exists (select from (select * from rollout_progress where rollout_id = $1 order by at desc limit 1) last
                where last.at > now() - $8 or (last.waits, last.on_its_way, last.in_place, last.drifted, last.failed, last.silent) = ($2, $3, $4, $5, $6, $7))
            on conflict do nothing
            """,
            [rollout, counts.Waits, counts.OnItsWay, counts.InPlace, counts.Drifted, counts.Failed, counts.Silent, every],
            cancellationToken);
    }

    /// <summary>Where a rollout stood, in order of time.</summary>
    public async Task<List<ProgressPoint>> ProgressAsync(long rollout, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select at, waits, on_its_way, in_place, drifted, failed, silent from rollout_progress where rollout_id = $1 order by at",
            [rollout],
            row => new ProgressPoint(row.GetFieldValue<DateTimeOffset>(0), row.GetInt32(1), row.GetInt32(2), row.GetInt32(3), row.GetInt32(4), row.GetInt32(5), row.GetInt32(6)),
            cancellationToken);
    }

    /// <summary>The newest notices.</summary>
    public async Task<List<Notice>> NoticesAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select id, at, kind, text, seen_at from notice where person_id is null order by id desc limit 50",
            [],
            row => new Notice(row.GetInt64(0), row.GetFieldValue<DateTimeOffset>(1), row.GetString(2), row.GetString(3), row.Maybe<DateTimeOffset?>(4)),
            cancellationToken);
    }

    /// <summary>Somebody has seen the notices up to this one.</summary>
    public async Task SeeNoticesAsync(long upTo, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("update notice set seen_at = now() where id <= $1 and seen_at is null", [upTo], cancellationToken);
    }

    /// <summary>Takes notices that were not mailed yet, of the last hour, so many at most; whoever takes them mails them. Person: whom each is for, or null for administrators.</summary>
    public async Task<List<(string Text, Guid? Person)>> TakeUnmailedAsync(int most, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            """
            with due as (select id from notice where mailed_at is null and at > now() - interval '1 hour' order by id limit $1 for update skip locked)
            update notice set mailed_at = now() from due where notice.id = due.id returning notice.text, notice.person_id
            """,
            [most],
            row => (row.GetString(0), row.Maybe<Guid?>(1)),
            cancellationToken);
    }

    /// <summary>Tells administrators something.</summary>
    public async Task NoticeAsync(string kind, string text, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into notice (kind, text) values ($1, $2)", [kind, text], cancellationToken);
    }

    private async Task<bool> ChangeAsync(long rollout, string what, string sql, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (await connection.ExecuteAsync(sql, [rollout], cancellationToken) == 0) return false;
        await AuditLog.AppendAsync(connection, actor, new AuditLine(what, "rollout", rollout.ToString(), null, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return true;
    }

    private static Rollout ReadRollout(NpgsqlDataReader row) => new(
        row.GetInt64(0),
        row.GetInt32(1),
        Enum.Parse<RolloutState>(row.GetString(2), ignoreCase: true),
        row.GetString(3),
        row.GetBoolean(4),
        row.GetFieldValue<DateTimeOffset>(5),
        row.GetString(6),
        row.Maybe<DateTimeOffset?>(7),
        JsonSerializer.Deserialize<ImmutableArray<RolloutWave>>(row.GetString(8), RelevoJson.Options));
}
