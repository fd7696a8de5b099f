using Npgsql;
using NpgsqlTypes;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;

namespace Relevo.Data;

/// <summary>What a client is to hold from now on. IsFixed: false where the person may choose otherwise in every slot. IsServed: true for a client that keeps nothing and asks for each message.</summary>
public sealed record WantedHolding(Client Client, int Edition, Guid Recipe, bool IsFixed, bool IsServed)
{
    /// <summary>The tag of what that comes to, where it was looked at; otherwise empty.</summary>
    public string Tag { get; init; } = "";

    /// <summary>The delivery as it was read when this was found out; null where that is long ago.</summary>
    public ClientDelivery? Before { get; init; }

    /// <summary>
    /// True when what is put in by hand may be what is wanted, although it was made from something else: nobody looked, for the delivery was another when this was found out.
    /// </summary>
    internal bool IsUnsure => Client.IsByHand && !IsServed && Tag.Length == 0 && Before!.Standing is { HeldTag.Length: > 0 } held && held.Recipe != Recipe;
}

/// <summary>What clients are to hold: who is to be planned for, and what comes of it. For one planner at a time, beside all who ask meanwhile.</summary>
public sealed class PlanStore(NpgsqlDataSource database)
{
    /// <summary>The editions that clients are to hold.</summary>
    public async Task<List<int>> EditionsAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync("select distinct edition from delivery where edition is not null", [], row => row.GetInt32(0), cancellationToken);
    }

    /// <summary>Every client that is to hold an edition, person by person. people: only theirs, or null for everybody's. Streamed: nothing is kept.</summary>
    public IAsyncEnumerable<ClientDelivery> PlannedAsync(Guid[]? people, CancellationToken cancellationToken) =>
        StreamAsync(people is null ? "" : "and client.person_id = any($1)", people is null ? [] : [people], cancellationToken);

    /// <summary>Every client that is to hold another edition than was planned for it, person by person. Streamed, as it stood when the stream began.</summary>
    public IAsyncEnumerable<ClientDelivery> UnplannedAsync(CancellationToken cancellationToken) => StreamAsync($"and not {DeliveryRows.IsPlanned}", [], cancellationToken);

    /// <summary>Clients that are new or for other addresses than before, and so are to be planned by themselves.</summary>
    public IAsyncEnumerable<ClientDelivery> NewAsync(CancellationToken cancellationToken) => StreamAsync("and client.id in (select client_id from unplanned_client)", [], cancellationToken);

    private async IAsyncEnumerable<ClientDelivery> StreamAsync(string those, object[] values, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var command = connection.Command(
            $"""
            select {DeliveryRows.Columns} {DeliveryRows.FromDeliveries}
            where {DeliveryRows.Edition} is not null and client.retired_at is null {those}
            order by client.person_id
            """,
            values);
        await using var reader = await command.ExecuteReaderAsync(cancellationToken);
        while (await reader.ReadAsync(cancellationToken)) yield return DeliveryRows.ReadDelivery(reader);
    }

    /// <summary>
    /// Says what clients are to hold: each standing takes the core's step. A row is written once and not locked before; one that was changed since it was read is read
    /// and taken again. A client that is for other addresses by now is left to the next planning.
    /// </summary>
    public async Task WantAsync(IReadOnlyCollection<WantedHolding> wanted, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        for (var left = wanted.ToDictionary(one => one.Client.Id); left.Count > 0;)
        {
            Guid[] unread = [.. left.Values.Where(one => one.Before is null).Select(one => one.Client.Id)];
            if (unread.Length > 0)
            {
                var read = (await connection.ReadAllAsync($"select {DeliveryRows.Columns} {DeliveryRows.FromDeliveries} where client.id = any($1) and client.retired_at is null", [unread], DeliveryRows.ReadDelivery, cancellationToken)).ToDictionary(one => one.Client.Id);
                foreach (var client in unread)
                {
                    if (read.TryGetValue(client, out var before) && before.Client.Addresses.SequenceEqual(left[client].Client.Addresses)) left[client] = left[client] with { Before = before };
                    else left.Remove(client);
                }
            }

            try
            {
                // In the order in which others lock rows as well.
                foreach (var client in await WriteAsync(connection, left.Values.OrderBy(one => one.Client.Id), cancellationToken)) left.Remove(client);
            }
            catch (PostgresException crossed) when (crossed.SqlState == PostgresErrorCodes.DeadlockDetected)
            {
                // The other goes on, and these are read and taken again.
            }

            foreach (var client in left.Keys.ToArray()) left[client] = left[client] with { Before = null };
        }
    }

    /// <summary>Writes what is wanted where the row is still what it was when it was read. Returns whose was.</summary>
    private static async Task<List<Guid>> WriteAsync(NpgsqlConnection connection, IEnumerable<WantedHolding> wanted, CancellationToken cancellationToken)
    {
        var same = new List<WantedHolding>();
        var moved = new List<(WantedHolding Wanted, DeliveryStanding After)>();
        var unsure = new List<Guid>(); // to be looked at again: people must not be asked for nothing
        foreach (var one in wanted)
        {
            if (one.IsUnsure)
            {
                unsure.Add(one.Client.Id);
                continue;
            }

            var before = one.Before!.Standing;
            var after = one.IsServed ? DeliveryStanding.Served(one.Recipe) : before.Wanted(one.Recipe);
            if (after.State == DeliveryState.Waits && one.Tag.Length > 0 && one.Tag == after.HeldTag) after = after.Has(new WantedTag(one.Recipe, one.Tag));
            if (DeliveryRows.Same(before, after)) same.Add(one);
            else moved.Add((one, after));
        }

        var written = new List<Guid>(same.Count + moved.Count);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (same.Count > 0)
        {
            written.AddRange(await connection.ReadAllAsync(
                "update delivery set edition = plan.edition, is_fixed = plan.is_fixed from unnest($1::uuid[], $2::xid[], $3::int[], $4::boolean[]) plan (id, version, edition, is_fixed) where client_id = plan.id and delivery.xmin = plan.version returning client_id",
                [same.Select(one => one.Client.Id).ToArray(), Versions(same), same.Select(one => one.Edition).ToArray(), same.Select(one => one.IsFixed).ToArray()],
                row => row.GetGuid(0),
                cancellationToken));
        }

        if (moved.Count > 0)
        {
            var those = moved.Select(one => one.Wanted).ToList();
            written.AddRange(await connection.ReadAllAsync(
                """
                update delivery set edition = plan.edition, is_fixed = plan.is_fixed, recipe = plan.recipe, held_recipe = plan.held_recipe, state = plan.state, wanted_tag = plan.wanted_tag, told_tag = plan.told_tag, held_tag = plan.held_tag,
                    differing = case when plan.state = 'drifted' then differing else '{}' end, trouble = plan.trouble, failures = plan.failures, next_attempt_at = null, is_set_aside = plan.is_set_aside, changed_at = now()
                from unnest($1::uuid[], $2::xid[], $3::int[], $4::boolean[], $5::uuid[], $6::uuid[], $7::text[], $8::text[], $9::text[], $10::text[], $11::text[], $12::int[], $13::boolean[])
                    plan (id, version, edition, is_fixed, recipe, held_recipe, state, wanted_tag, told_tag, held_tag, trouble, failures, is_set_aside)
                where client_id = plan.id and delivery.xmin = plan.version
                returning client_id
                """,
                [
                    those.Select(one => one.Client.Id).ToArray(), Versions(those), those.Select(one => one.Edition).ToArray(), those.Select(one => one.IsFixed).ToArray(), those.Select(one => one.Recipe).ToArray(), moved.Select(one => one.After.HeldRecipe).ToArray(),
                    moved.Select(one => DeliveryStore.Text(one.After.State)).ToArray(), moved.Select(one => one.After.WantedTag).ToArray(), moved.Select(one => one.After.ToldTag).ToArray(), moved.Select(one => one.After.HeldTag).ToArray(),
                    moved.Select(one => one.After.Trouble).ToArray(), moved.Select(one => one.After.Failures).ToArray(), moved.Select(one => one.After.IsSetAside).ToArray(),
                ],
                row => row.GetGuid(0),
                cancellationToken));
            await TellByHandAsync(connection, moved, written, cancellationToken);
        }

        await connection.ExecuteAsync("delete from unplanned_client where client_id = any($1)", [written.ToArray()], cancellationToken);
        if (unsure.Count > 0) await connection.ExecuteAsync("insert into unplanned_client (client_id) select * from unnest($1::uuid[]) on conflict do nothing", [unsure.ToArray()], cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return [.. written, .. unsure];
    }

    /// <summary>Whoever puts signatures in by hand cannot know by themselves that they are others now.</summary>
    private static async Task TellByHandAsync(NpgsqlConnection connection, List<(WantedHolding Wanted, DeliveryStanding After)> moved, List<Guid> written, CancellationToken cancellationToken)
    {
        Guid[] people = [.. moved.Where(one => one.Wanted.Client.IsByHand && one.After.State == DeliveryState.Waits && one.Wanted.Before!.Standing.HeldTag.Length > 0 && written.Contains(one.Wanted.Client.Id)).Select(one => one.Wanted.Client.PersonId)];
        if (people.Length == 0) return;
        await connection.ExecuteAsync(
            "insert into notice (kind, text, person_id) select 'put in again', 'Your email signature has changed. Please put it in once more; your own page in Relevo says how.', person from unnest($1::uuid[]) person", [people], cancellationToken);
    }

    private static NpgsqlParameter Versions(IEnumerable<WantedHolding> wanted) => new() { Value = wanted.Select(one => one.Before!.Version).ToArray(), NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Xid };
}
