using System.Collections.Immutable;
using Npgsql;
using NpgsqlTypes;

namespace Relevo.Data;

/// <summary>An installed client: whose it is, and what kind.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind">The client kind's name.</param>
/// <param name="Name">What people call it.</param>
/// <param name="PersonId">Whose it is.</param>
/// <param name="OutsideId">What the other side calls it, for a mailbox; empty for clients that ask.</param>
/// <param name="IsForAll">For a kind that may have it either way: one signature stands for every account.</param>
public sealed record Client(Guid Id, string Kind, string Name, Guid PersonId, string OutsideId = "", bool IsForAll = false)
{
    /// <summary>The person's addresses that it has a place for, where it does not have one for every account; none for all of them.</summary>
    public ImmutableArray<string> Addresses { get; init; } = [];

    /// <summary>True when a person puts signatures in by hand and says so.</summary>
    public bool IsByHand { get; init; }
}

/// <summary>What a new client is to hold from the start: the edition that others like it hold, or null for none yet, and its person's wave while a rollout goes on.</summary>
public sealed record Placement(int? Edition, long? Rollout, int? Wave)
{
    /// <summary>Nothing yet.</summary>
    public static Placement None { get; } = new(null, null, null);
}

/// <summary>Installed clients, the tokens of those that ask (kept as SHA-256 hashes) and the codes that make them.</summary>
public sealed class ClientStore(NpgsqlDataSource database)
{
    internal const string Columns = "client.id, client.kind, client.name, client.person_id, client.outside_id, client.is_for_all, client.addresses, client.is_by_hand";

    /// <summary>Adds a client. tokenHash: SHA-256 of its token, or null for one that does not ask. code: SHA-256 of a code with which it may fetch a token of its own, and until when; or null.</summary>
    public async Task AddAsync(Client client, byte[]? tokenHash, (byte[] Hash, DateTimeOffset Until)? code, Placement placement, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await InsertAsync(connection, client, tokenHash, placement, cancellationToken);
        if (code is { } given) await connection.ExecuteAsync("insert into enrolment (code_hash, client_id, expires_at) values ($1, $2, $3)", [given.Hash, client.Id, given.Until], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("client added", "client", client.Id.ToString(), null, $$"""{"kind":"{{client.Kind}}","personId":"{{client.PersonId}}"}"""), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Uses a code: its client gets this token. Null when there is no such code, it was used, or its time is over.</summary>
    public async Task<Client?> EnrolAsync(byte[] codeHash, byte[] tokenHash, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            $"""
            with used as (update enrolment set used_at = now() where code_hash = $1 and used_at is null and expires_at > now() returning client_id)
            update client set token_hash = $2, next_token_hash = null from used where client.id = used.client_id and client.retired_at is null returning {Columns}
            """,
            [codeHash, tokenHash],
            row => ReadClient(row, 0),
            cancellationToken);
    }

    /// <summary>Gives a client a further token. The one it has is good until the new one is used for the first time, so that an answer that is lost locks nobody out.</summary>
    public async Task RotateAsync(Guid client, byte[] nextTokenHash, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("update client set next_token_hash = $2 where id = $1", [client, nextTokenHash], cancellationToken);
    }

    /// <summary>The new token was used: the old one is good no longer.</summary>
    public async Task PromoteAsync(Guid client, byte[] tokenHash, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("update client set token_hash = next_token_hash, next_token_hash = null where id = $1 and next_token_hash = $2", [client, tokenHash], cancellationToken);
    }

    /// <summary>Takes a client out: its token is good no longer. False when there is none.</summary>
    public async Task<bool> RetireAsync(Guid client, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (await connection.ExecuteAsync("update client set retired_at = now(), token_hash = null, next_token_hash = null where id = $1 and retired_at is null", [client], cancellationToken) == 0) return false;
        await AuditLog.AppendAsync(connection, actor, new AuditLine("client retired", "client", client.ToString(), null, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return true;
    }

    /// <summary>The client of a person who puts signatures in by hand, or null.</summary>
    public async Task<Client?> FindByHandAsync(Guid person, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from client where person_id = $1 and is_by_hand and retired_at is null", [person], row => ReadClient(row, 0), cancellationToken);
    }

    /// <summary>The mailboxes of a kind that are known.</summary>
    public async Task<List<Client>> MailboxesAsync(string kind, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync($"select {Columns} from client where kind = $1 and outside_id <> '' and retired_at is null", [kind], row => ReadClient(row, 0), cancellationToken);
    }

    /// <summary>How many mailboxes are known.</summary>
    public async Task<int> CountMailboxesAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select count(*)::int from client where outside_id <> '' and retired_at is null", [], row => row.GetInt32(0), cancellationToken);
    }

    /// <summary>Brings the mailboxes there are in line with those a mailbox server has: new ones are added, those that are gone are retired. place: what a person's new client is to hold.</summary>
    public async Task<(int Added, int Retired)> KeepMailboxesAsync(string kind, IReadOnlyList<Client> there, Func<Guid, Placement> place, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("select pg_advisory_xact_lock(hashtext('relevo mailboxes'))", [], cancellationToken);
        var known = (await connection.ReadAllAsync($"select {Columns} from client where kind = $1 and outside_id <> '' and retired_at is null", [kind], row => ReadClient(row, 0), cancellationToken)).ToDictionary(client => client.OutsideId);
        var added = 0;
        foreach (var client in there)
        {
            if (known.Remove(client.OutsideId, out var before) && before.PersonId == client.PersonId)
            {
                if (before.Addresses.SequenceEqual(client.Addresses)) continue;
                await connection.ExecuteAsync("update client set addresses = $2 where id = $1", [before.Id, client.Addresses.ToArray()], cancellationToken);
                await connection.ExecuteAsync("update delivery set recipe = null where client_id = $1", [before.Id], cancellationToken);
                await connection.ExecuteAsync("insert into unplanned_client (client_id) values ($1) on conflict do nothing", [before.Id], cancellationToken);
                continue;
            }

            if (before is not null) await connection.ExecuteAsync("update client set retired_at = now() where id = $1", [before.Id], cancellationToken);
            await InsertAsync(connection, client, null, place(client.PersonId), cancellationToken);
            added++;
        }

        await connection.ExecuteAsync("update client set retired_at = now() where id = any($1)", [known.Values.Select(client => client.Id).ToArray()], cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return (added, known.Count);
    }

    /// <summary>Notes when clients were heard of; many in one statement, so that polls stay reads.</summary>
    public async Task SeenAsync(IReadOnlyCollection<KeyValuePair<Guid, DateTimeOffset>> seen, CancellationToken cancellationToken)
    {
        if (seen.Count == 0) return;
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "update client set last_seen_at = greatest(client.last_seen_at, seen.at) from unnest($1::uuid[], $2::timestamptz[]) seen (id, at) where client.id = seen.id",
            [seen.Select(pair => pair.Key).ToArray(), seen.Select(pair => pair.Value).ToArray()],
            cancellationToken);
    }

    internal static Client ReadClient(NpgsqlDataReader row, int column) =>
        new(row.GetGuid(column), row.GetString(column + 1), row.GetString(column + 2), row.GetGuid(column + 3), row.GetString(column + 4), row.GetBoolean(column + 5)) { Addresses = [.. row.GetFieldValue<string[]>(column + 6)], IsByHand = row.GetBoolean(column + 7) };

    private static async Task InsertAsync(NpgsqlConnection connection, Client client, byte[]? tokenHash, Placement placement, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync(
            "insert into client (id, kind, name, person_id, outside_id, is_for_all, addresses, is_by_hand, token_hash) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)",
            [client.Id, client.Kind, client.Name, client.PersonId, client.OutsideId, client.IsForAll, client.Addresses.ToArray(), client.IsByHand, new NpgsqlParameter { Value = (object?)tokenHash ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.Bytea }],
            cancellationToken);
        await connection.ExecuteAsync(
            "insert into delivery (client_id, kind, edition) values ($1, $2, $3)", [client.Id, client.Kind, Sql.Integer(placement.Edition)], cancellationToken);
        if (placement is { Rollout: { } rollout, Wave: { } wave })
        {
            await connection.ExecuteAsync( // unless another rollout was started meanwhile, which did not know of the person
                "insert into rollout_member (person_id, rollout_id, wave) select $1, $2, $3 where $2 = (select max(id) from rollout) on conflict do nothing", [client.PersonId, rollout, wave], cancellationToken);
        }

        if (placement.Edition is null) return;
        // All clients of the person: those they had may belong to the wave from now on as well.
        await connection.ExecuteAsync("insert into unplanned_client (client_id) select id from client where person_id = $1 and retired_at is null on conflict do nothing", [client.PersonId], cancellationToken);
    }
}
