using Npgsql;
using NpgsqlTypes;
using Relevo.Core.Rollouts;

namespace Relevo.Data;

/// <summary>A client with its delivery.</summary>
/// <param name="Client">The client.</param>
/// <param name="Edition">The edition it is to hold; null for none yet.</param>
/// <param name="Standing">Where its delivery stands.</param>
/// <param name="IsPaused">True while the rollout it belongs to is paused.</param>
public sealed record ClientDelivery(Client Client, int? Edition, DeliveryStanding Standing, bool IsPaused)
{
    /// <summary>True when it asked with a token that was given to it to follow the one it had.</summary>
    public bool HasNextToken { get; init; }

    /// <summary>False while it is to hold another edition and what that is to be for it has not been planned yet.</summary>
    public bool IsPlanned { get; init; } = true;

    /// <summary>Which version of its row this is; any change makes it another.</summary>
    internal uint Version { get; init; }

    /// <summary>True when the person may not choose otherwise.</summary>
    public bool IsFixed { get; init; } = true;
}

/// <summary>One row in a list of clients. Person is whose it is; the name is filled in by who knows people.</summary>
public sealed record ClientStanding(
    Guid ClientId,
    string Kind,
    string Client,
    Guid PersonId,
    string Person,
    int? Edition,
    int? Wave,
    DeliveryState State,
    bool IsSilent,
    bool IsByHand,
    string[] Differing,
    string Trouble,
    bool IsSetAside,
    DateTimeOffset ChangedAt,
    DateTimeOffset? FirstInPlaceAt,
    DateTimeOffset? LastDriftAt,
    DateTimeOffset? PutRightAt,
    DateTimeOffset? NextAttemptAt,
    DateTimeOffset? LastSeenAt);

/// <summary>How many clients of a kind stand where in a wave; wave null: those of no rollout. IsFixed: false where the person may choose otherwise. IsSetAside: they failed too often.</summary>
public sealed record StandingCount(int? Wave, string Kind, DeliveryState State, bool IsSilent, bool IsFixed, bool IsSetAside, int Clients);

/// <summary>One line of a client's story.</summary>
public sealed record DeliveryEvent(DateTimeOffset At, int? Edition, DeliveryState State, string Detail);

/// <summary>After how many minutes without a sign of life each kind is silent.</summary>
public sealed record SilenceLimits(string[] Kinds, int[] Minutes);

/// <summary>Deliveries, one per client. A delivery changes through the core's state machine, under its row's lock or only where the row is still what was read; an event goes with it in the same transaction.</summary>
public sealed class DeliveryStore(NpgsqlDataSource database)
{
    // A client that holds what it should but has not been heard of for its kind's interval is silent, and so is one that was never heard of.
    // What a person puts in by hand says nothing by itself, and is not expected to.
    private const string IsSilent = "not client.is_by_hand and coalesce(client.last_seen_at, client.created_at) < now() - limits.minutes * interval '1 minute'";

    /// <summary>Everything needed to serve the clients with these tokens, in one round trip: by the token's SHA-256 hash in upper-case hexadecimal digits. A token that nobody has is left out.</summary>
    public async Task<Dictionary<string, ClientDelivery>> FindByTokensAsync(byte[][] tokenHashes, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var rows = await connection.ReadAllAsync(
            $"""
            select {DeliveryRows.Columns}, client.token_hash, client.next_token_hash {DeliveryRows.FromFewDeliveries}
            where (client.token_hash = any($1) or client.next_token_hash = any($1)) and client.retired_at is null
            """,
            [tokenHashes],
            row => (Delivery: DeliveryRows.ReadDelivery(row), Token: row.Maybe<byte[]?>(24), Next: row.Maybe<byte[]?>(25)),
            cancellationToken);
        var found = new Dictionary<string, ClientDelivery>(rows.Count);
        foreach (var (delivery, token, next) in rows)
        {
            if (token is not null) found[Convert.ToHexString(token)] = delivery;
            if (next is not null) found[Convert.ToHexString(next)] = delivery with { HasNextToken = true };
        }

        return found;
    }

    /// <summary>A client with its delivery, or null.</summary>
    public async Task<ClientDelivery?> FindAsync(Guid client, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {DeliveryRows.Columns} {DeliveryRows.FromFewDeliveries} where client.id = $1 and client.retired_at is null", [client], DeliveryRows.ReadDelivery, cancellationToken);
    }

    /// <summary>How many clients each person has, those who have any.</summary>
    public async Task<Dictionary<Guid, int>> CountByPersonAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return (await connection.ReadAllAsync("select person_id, count(*)::int from client where retired_at is null group by person_id", [], row => (row.GetGuid(0), row.GetInt32(1)), cancellationToken)).ToDictionary(pair => pair.Item1, pair => pair.Item2);
    }

    /// <summary>Keeps what was found in a drifted client, so that it can be shown beside what should be there.</summary>
    public async Task KeepFoundAsync(Guid client, IReadOnlyCollection<FoundContent> found, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("delete from found_content where client_id = $1", [client], cancellationToken);
        foreach (var one in found.DistinctBy(one => one.Path))
            await connection.ExecuteAsync("insert into found_content (client_id, path, content) values ($1, $2, $3)", [client, one.Path, one.Text], cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>What was found in a client when it was seen to have drifted last, and when.</summary>
    public async Task<List<(string Path, string Text, DateTimeOffset At)>> FoundAsync(Guid client, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync("select path, content, at from found_content where client_id = $1 order by path", [client], row => (row.GetString(0), row.GetString(1), row.GetFieldValue<DateTimeOffset>(2)), cancellationToken);
    }

    /// <summary>Moves a client's standing by the given step. Nothing is written when the step changes nothing. Null when there is no such client.</summary>
    public async Task<DeliveryStanding?> MoveAsync(Guid client, Func<DeliveryStanding, DeliveryStanding> step, CancellationToken cancellationToken)
    {
        var after = await MoveAsync([KeyValuePair.Create(client, step)], cancellationToken);
        return after.GetValueOrDefault(client);
    }

    /// <summary>Moves many clients' standings, each by its own step, in one transaction: one wait for the disk. Those there are, as they stand then.</summary>
    public async Task<Dictionary<Guid, DeliveryStanding>> MoveAsync(IReadOnlyCollection<KeyValuePair<Guid, Func<DeliveryStanding, DeliveryStanding>>> steps, CancellationToken cancellationToken)
    {
        var moved = new Dictionary<Guid, DeliveryStanding>(steps.Count);
        if (steps.Count == 0) return moved;
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = (await connection.ReadAllAsync(
            $"select client_id, {DeliveryRows.StandingColumns} from delivery where client_id = any($1) order by client_id for update", [steps.Select(step => step.Key).Distinct().ToArray()], row => (row.GetGuid(0), DeliveryRows.ReadStanding(row, 1)), cancellationToken))
            .ToDictionary(pair => pair.Item1, pair => pair.Item2);
        await using var batch = new NpgsqlBatch(connection, transaction);
        foreach (var (client, step) in steps)
        {
            if (!before.TryGetValue(client, out var stood)) continue;
            var stands = step(moved.GetValueOrDefault(client, stood));
            if (!DeliveryRows.Same(moved.GetValueOrDefault(client, stood), stands)) Write(batch, client, moved.GetValueOrDefault(client, stood), stands);
            moved[client] = stands;
        }

        if (batch.BatchCommands.Count > 0) await batch.ExecuteNonQueryAsync(cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return moved;
    }

    /// <summary>
    /// Takes deliveries of a kind that are due, for so long; nobody else gets them meanwhile, and when this process dies they are free again. Due is what waits,
    /// what failed and may be tried again, drift that is to be put right, and whatever has not been looked at for a while.
    /// </summary>
    public async Task<List<ClientDelivery>> LeaseAsync(string kind, int most, string owner, TimeSpan lease, TimeSpan lookEvery, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            $"""
            with due as (
                select delivery.client_id {DeliveryRows.FromDeliveries}
                where delivery.kind = $1 and client.retired_at is null and delivery.edition is not null and {DeliveryRows.IsPlanned} and not delivery.is_set_aside
                    and coalesce(rollout.state, '') <> 'paused'
                    and (delivery.leased_until is null or delivery.leased_until < now())
                    and (delivery.next_attempt_at is null or delivery.next_attempt_at <= now())
                    and (delivery.state in ('waits', 'onItsWay', 'failed') or delivery.looked_at is null or delivery.looked_at < now() - $5)
                order by delivery.next_attempt_at nulls first, delivery.looked_at nulls first
                limit $2
                for update of delivery skip locked)
            update delivery set leased_by = $3, leased_until = now() + $4 from due, client
            where delivery.client_id = due.client_id and client.id = due.client_id
            returning {ClientStore.Columns}, delivery.edition, {DeliveryRows.StandingColumns}, false, delivery.is_fixed, true, delivery.xmin
            """,
            [kind, most, owner, lease, lookEvery],
            DeliveryRows.ReadDelivery,
            cancellationToken);
    }

    /// <summary>Gives back what was taken. areLookedAt: they were looked at just now; false where something came between.</summary>
    public async Task ReleaseAsync(Guid[] clients, string owner, bool areLookedAt, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("update delivery set leased_by = null, leased_until = null, looked_at = case when $3 then now() else looked_at end where client_id = any($1) and leased_by = $2", [clients, owner, areLookedAt], cancellationToken);
    }

    /// <summary>How many clients stand where, by wave of the rollout and kind.</summary>
    public async Task<List<StandingCount>> CountAsync(long? rollout, SilenceLimits limits, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        // Counted by one number for all that is asked of a client: by six columns the planner expects hundreds of thousands of groups, and sorts the clients.
        return await connection.ReadAllAsync(
            $"""
            select case when member.rollout_id = $1 then member.wave end, delivery.kind,
                8 * array_position(array['waits', 'onItsWay', 'inPlace', 'drifted', 'failed'], {DeliveryRows.StateNow}) + 4 * ({IsSilent})::int + 2 * delivery.is_fixed::int + delivery.is_set_aside::int, count(*)::int
            {DeliveryRows.FromDeliveries} join unnest($2::text[], $3::int[]) limits (kind, minutes) on limits.kind = delivery.kind
            where client.retired_at is null
            group by 1, 2, 3 order by 1, 2, 3
            """,
            [new NpgsqlParameter { Value = (object?)rollout ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.Bigint }, limits.Kinds, limits.Minutes],
            row => new StandingCount(row.Maybe<int?>(0), row.GetString(1), (DeliveryState)((row.GetInt32(2) >> 3) - 1), (row.GetInt32(2) & 4) != 0, (row.GetInt32(2) & 2) != 0, (row.GetInt32(2) & 1) != 0, row.GetInt32(3)),
            cancellationToken);
    }

    /// <summary>Clients, trouble first. Empty texts and null ask for any. people: only theirs, or null. after: how many are passed over.</summary>
    public async Task<List<ClientStanding>> ListAsync(string kind, string state, int? wave, long? rollout, Guid[]? people, int after, int most, SilenceLimits limits, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            $"""
            select * from (
                select client.id, client.kind, client.name, client.person_id, {DeliveryRows.Edition} as edition, case when member.rollout_id = $4 then member.wave end as wave, {DeliveryRows.StateNow} as state, {IsSilent} as is_silent, client.is_by_hand,
                    delivery.differing, delivery.trouble, delivery.is_set_aside, delivery.changed_at, delivery.first_in_place_at, delivery.last_drift_at, delivery.put_right_at, delivery.next_attempt_at, client.last_seen_at
                {DeliveryRows.FromDeliveries} join unnest($8::text[], $9::int[]) limits (kind, minutes) on limits.kind = client.kind
                where client.retired_at is null and ($1 = '' or client.kind = $1) and ($3::int is null or member.rollout_id = $4 and member.wave = $3) and ($5::uuid[] is null or client.person_id = any($5))) row
            where $2 = '' or $2 = case when is_silent then 'silent' else state end
            order by case when state = 'failed' then 0 when state = 'drifted' then 1 when is_silent then 2 when state = 'waits' then 3 when state = 'onItsWay' then 4 else 5 end, lower(name), id
            offset $6 limit $7
            """,
            [
                kind, state, Sql.Integer(wave), new NpgsqlParameter { Value = (object?)rollout ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.Bigint },
                new NpgsqlParameter { Value = (object?)people ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Uuid }, after, most, limits.Kinds, limits.Minutes,
            ],
            ReadListed,
            cancellationToken);
    }

    /// <summary>A client's story, newest first.</summary>
    public async Task<List<DeliveryEvent>> StoryAsync(Guid client, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select at, edition, state, detail from delivery_event where client_id = $1 order by id desc limit 200",
            [client],
            row => new DeliveryEvent(row.GetFieldValue<DateTimeOffset>(0), row.Maybe<int?>(1), DeliveryRows.State(row.GetString(2)), row.GetString(3)),
            cancellationToken);
    }

    /// <summary>A state as it is kept and exported.</summary>
    public static string Text(DeliveryState state) => state switch
    {
        DeliveryState.OnItsWay => "onItsWay",
        DeliveryState.InPlace => "inPlace",
        _ => state.ToString().ToLowerInvariant(),
    };

    private static void Write(NpgsqlBatch batch, Guid client, DeliveryStanding before, DeliveryStanding after)
    {
        var trouble = after.Trouble.Length > 500 ? after.Trouble[..500] : after.Trouble;
        Add(
            batch,
            """
            update delivery set state = $2, wanted_tag = $3, told_tag = $4, held_tag = $5, differing = $6, trouble = $7, failures = $8, next_attempt_at = $9, is_set_aside = $10, changed_at = now(),
                first_in_place_at = case when $2 = 'inPlace' then coalesce(first_in_place_at, now()) else first_in_place_at end,
                last_drift_at = case when $2 = 'drifted' and state <> 'drifted' then now() else last_drift_at end,
                put_right_at = case when $2 = 'inPlace' and state = 'drifted' then now() else put_right_at end, recipe = $11, held_recipe = $12
            where client_id = $1
            """,
            client, Text(after.State), after.WantedTag, after.ToldTag, after.HeldTag, after.Differing.ToArray(), trouble, after.Failures,
            new NpgsqlParameter { Value = (object?)after.NextAttempt?.ToDateTimeOffset() ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.TimestampTz }, after.IsSetAside, Sql.Id(after.Recipe), Sql.Id(after.HeldRecipe));
        if (before.State == after.State && before.HeldTag == after.HeldTag && before.Differing.SequenceEqual(after.Differing) && before.Trouble == after.Trouble && before.IsSetAside == after.IsSetAside) return;
        var detail = after.Trouble.Length > 0 ? trouble + (after.IsSetAside ? " It is set aside after this failure." : "") : string.Join(", ", after.Differing);
        Add(
            batch,
            $"insert into delivery_event (client_id, edition, state, tag, detail) select client.id, {DeliveryRows.Edition}, $2, $3, $4 {DeliveryRows.FromFewDeliveries} where client.id = $1",
            client, Text(after.State), after.State == DeliveryState.InPlace ? after.HeldTag : after.WantedTag, detail);
    }

    private static void Add(NpgsqlBatch batch, string sql, params ReadOnlySpan<object> values)
    {
        var command = new NpgsqlBatchCommand(sql);
        foreach (var value in values) command.Parameters.Add(value as NpgsqlParameter ?? new NpgsqlParameter { Value = value });
        batch.BatchCommands.Add(command);
    }

    private static ClientStanding ReadListed(NpgsqlDataReader row) => new(
        row.GetGuid(0),
        row.GetString(1),
        row.GetString(2),
        row.GetGuid(3),
        "",
        row.Maybe<int?>(4),
        row.Maybe<int?>(5),
        DeliveryRows.State(row.GetString(6)),
        row.GetBoolean(7),
        row.GetBoolean(8),
        row.GetFieldValue<string[]>(9),
        row.GetString(10),
        row.GetBoolean(11),
        row.GetFieldValue<DateTimeOffset>(12),
        row.Maybe<DateTimeOffset?>(13),
        row.Maybe<DateTimeOffset?>(14),
        row.Maybe<DateTimeOffset?>(15),
        row.Maybe<DateTimeOffset?>(16),
        row.Maybe<DateTimeOffset?>(17));
}
