using Npgsql;
using Relevo.Core.Rollouts;

namespace Relevo.Data;

/// <summary>A rollout.</summary>
public sealed record Rollout(long Id, int Edition, DateTimeOffset StartedAt, string StartedBy);

/// <summary>One computer's row on the Rollout leg. Person is whose it is; the name is filled in by who knows people.</summary>
public sealed record ComputerStanding(
    Guid ComputerId,
    string Computer,
    Guid PersonId,
    string Person,
    DeliveryState State,
    string[] Differing,
    string Trouble,
    DateTimeOffset? ChangedAt,
    DateTimeOffset? FirstInPlaceAt,
    DateTimeOffset? LastDriftAt,
    DateTimeOffset? PutRightAt,
    DateTimeOffset? LastSeenAt);

/// <summary>One line of a computer's story.</summary>
public sealed record DeliveryEvent(DateTimeOffset At, int Edition, DeliveryState State, string Detail);

/// <summary>Rollouts and their deliveries. A delivery changes under its row's lock, through the core's state machine, with its event in the same transaction.</summary>
public sealed class RolloutStore(NpgsqlDataSource database)
{
    /// <summary>The running rollout, or null before the first.</summary>
    public async Task<Rollout?> CurrentAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            "select rollout.id, rollout.edition, rollout.started_at, app_user.display_name from rollout join app_user on app_user.id = rollout.started_by where rollout.ended_at is null",
            [],
            row => new Rollout(row.GetInt64(0), row.GetInt32(1), row.GetFieldValue<DateTimeOffset>(2), row.GetString(3)),
            cancellationToken);
    }

    /// <summary>Ends the running rollout and starts one for every computer. Returns its id, or null when somebody else started one in the same moment.</summary>
    public async Task<long?> StartAsync(int edition, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        try
        {
            await connection.ExecuteAsync("update rollout set ended_at = now() where ended_at is null", [], cancellationToken);
            var id = await connection.ReadFirstAsync(
                "insert into rollout (edition, started_by) values ($1, $2) returning id", [edition, actor.Id], row => row.GetInt64(0), cancellationToken);
            await connection.ExecuteAsync(
                "insert into delivery (rollout_id, computer_id) select $1, id from computer where retired_at is null", [id], cancellationToken);
            await AuditLog.AppendAsync(connection, actor, new AuditLine("rollout started", "rollout", id.ToString(), null, $$"""{"edition":{{edition}}}"""), cancellationToken);
            await transaction.CommitAsync(cancellationToken);
            return id;
        }
        catch (PostgresException taken) when (taken is { SqlState: PostgresErrorCodes.UniqueViolation, ConstraintName: "rollout_running_key" })
        {
            return null;
        }
    }

    /// <summary>Every computer with where it stands in the running rollout; before the first, everybody waits.</summary>
    public async Task<List<ComputerStanding>> StandingsAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            """
            select computer.id, computer.name, computer.person_id, '', coalesce(delivery.state, 'waits'), coalesce(delivery.differing, '{}'), coalesce(delivery.trouble, ''),
                delivery.changed_at, delivery.first_in_place_at, delivery.last_drift_at, delivery.put_right_at, computer.last_seen_at
            from computer
            left join rollout on rollout.ended_at is null
            left join delivery on delivery.rollout_id = rollout.id and delivery.computer_id = computer.id
            where computer.retired_at is null
            order by lower(computer.name), computer.id
            """,
            [],
            ReadComputer,
            cancellationToken);
    }

    /// <summary>A computer's story, newest first.</summary>
    public async Task<List<DeliveryEvent>> StoryAsync(Guid computer, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            """
            select event.at, rollout.edition, event.state, event.detail from delivery_event event join rollout on rollout.id = event.rollout_id
            where event.computer_id = $1 order by event.id desc limit 200
            """,
            [computer],
            row => new DeliveryEvent(row.GetFieldValue<DateTimeOffset>(0), row.GetInt32(1), State(row.GetString(2)), row.GetString(3)),
            cancellationToken);
    }

    /// <summary>Moves a computer's standing by the given step. Nothing is written when the step changes nothing.</summary>
    public async Task<DeliveryStanding> MoveAsync(long rollout, Guid computer, Func<DeliveryStanding, DeliveryStanding> step, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into delivery (rollout_id, computer_id) values ($1, $2) on conflict do nothing", [rollout, computer], cancellationToken);
        var before = (await connection.ReadFirstAsync(
            "select state, wanted_tag, differing, trouble from delivery where rollout_id = $1 and computer_id = $2 for update", [rollout, computer], row => ReadStanding(row, 0), cancellationToken))!;
        var after = step(before);
        if (!Same(before, after))
        {
            await WriteAsync(connection, rollout, computer, before, after, cancellationToken);
        }

        await transaction.CommitAsync(cancellationToken);
        return after;
    }

    internal static DeliveryStanding ReadStanding(NpgsqlDataReader row, int column) =>
        new(State(row.GetString(column)), row.GetString(column + 1), [.. row.GetFieldValue<string[]>(column + 2)], row.GetString(column + 3));

    private static async Task WriteAsync(NpgsqlConnection connection, long rollout, Guid computer, DeliveryStanding before, DeliveryStanding after, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync(
            """
            update delivery set state = $3, wanted_tag = $4, differing = $5, trouble = $6, changed_at = now(),
                first_in_place_at = case when $3 = 'inPlace' then coalesce(first_in_place_at, now()) else first_in_place_at end,
                last_drift_at = case when $3 = 'drifted' and state <> 'drifted' then now() else last_drift_at end,
                put_right_at = case when $3 = 'inPlace' and state = 'drifted' then now() else put_right_at end
            where rollout_id = $1 and computer_id = $2
            """,
            [rollout, computer, Text(after.State), after.WantedTag, after.Differing.ToArray(), after.Trouble],
            cancellationToken);
        if (before.State == after.State && before.Differing.SequenceEqual(after.Differing) && before.Trouble == after.Trouble) return;
        var detail = after.Trouble.Length > 0 ? after.Trouble : string.Join(", ", after.Differing);
        await connection.ExecuteAsync(
            "insert into delivery_event (rollout_id, computer_id, state, detail) values ($1, $2, $3, $4)", [rollout, computer, Text(after.State), detail], cancellationToken);
    }

    private static bool Same(DeliveryStanding left, DeliveryStanding right) =>
        left.State == right.State && left.WantedTag == right.WantedTag && left.Trouble == right.Trouble && left.Differing.SequenceEqual(right.Differing);

    private static string Text(DeliveryState state) => state switch
    {
        DeliveryState.OnItsWay => "onItsWay",
        DeliveryState.InPlace => "inPlace",
        _ => state.ToString().ToLowerInvariant(),
    };

    private static DeliveryState State(string text) => Enum.Parse<DeliveryState>(text, ignoreCase: true);

    private static ComputerStanding ReadComputer(NpgsqlDataReader row) => new(
        row.GetGuid(0),
        row.GetString(1),
        row.GetGuid(2),
        row.GetString(3),
        State(row.GetString(4)),
        row.GetFieldValue<string[]>(5),
        row.GetString(6),
        row.Maybe<DateTimeOffset?>(7),
        row.Maybe<DateTimeOffset?>(8),
        row.Maybe<DateTimeOffset?>(9),
        row.Maybe<DateTimeOffset?>(10),
        row.Maybe<DateTimeOffset?>(11));
}
