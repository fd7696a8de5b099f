using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>A client's token without the token: what it is called, and whether it is used.</summary>
public sealed record ScimToken(Guid Id, Guid SourceId, string Name, string CreatedBy, DateTimeOffset CreatedAt, DateTimeOffset? LastUsedAt, DateTimeOffset? RevokedAt);

/// <summary>What a push needs to know, read with its token in one round trip: the mapping (null: the usual one), by what people of other sources are known again, the fields, and whether shared mailboxes follow from groups.</summary>
public sealed record ScimCaller(ScimToken Token, Mapping? Mapping, ImmutableArray<string> JoinBy, FieldSet Fields, bool HasMailboxes);

/// <summary>Tokens of clients that push, kept as SHA-256 hashes.</summary>
public sealed class ScimTokenStore(NpgsqlDataSource database)
{
    /// <summary>Every token of a source, newest first, revoked ones too.</summary>
    public async Task<List<ScimToken>> ListAsync(Guid source, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select id, source_id, name, created_by_name, created_at, last_used_at, revoked_at from scim_token where source_id = $1 order by created_at desc, id",
            [source],
            Read,
            cancellationToken);
    }

    /// <summary>Adds a token. tokenHash: SHA-256 of it.</summary>
    public async Task AddAsync(Guid id, Guid source, string name, byte[] tokenHash, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into scim_token (id, source_id, name, token_hash, created_by_name) values ($1, $2, $3, $4, $5)", [id, source, name, tokenHash, actor.Name], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("token made", "scimToken", id.ToString(), null, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Revokes a token; false when there is none in use of that id.</summary>
    public async Task<bool> RevokeAsync(Guid id, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (await connection.ExecuteAsync("update scim_token set revoked_at = now() where id = $1 and revoked_at is null", [id], cancellationToken) == 0) return false;
        await AuditLog.AppendAsync(connection, actor, new AuditLine("token revoked", "scimToken", id.ToString(), null, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return true;
    }

    /// <summary>Who has the token of this hash, if it is in use, or null. Notes its use, at most once a minute.</summary>
    public async Task<ScimCaller?> FindAsync(byte[] tokenHash, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var caller = await connection.ReadFirstAsync(
            """
            select token.id, token.source_id, token.name, token.created_by_name, token.created_at, token.last_used_at, token.revoked_at,
                source.mapping::text, source.join_by, (select document::text from field_set), exists (select from mailbox)
            from scim_token token join source on source.id = token.source_id
            where token.token_hash = $1 and token.revoked_at is null and source.retired_at is null
            """,
            [tokenHash],
            row => new ScimCaller(
                Read(row),
                row.Maybe<string>(7) is { } mapping ? JsonSerializer.Deserialize<Mapping>(mapping, RelevoJson.Options) : null,
                [.. row.GetFieldValue<string[]>(8)],
                JsonSerializer.Deserialize<FieldSet>(row.GetString(9), RelevoJson.Options)!,
                row.GetBoolean(10)),
            cancellationToken);
        if (caller is not null && !(caller.Token.LastUsedAt > DateTimeOffset.UtcNow.AddMinutes(-1)))
            await connection.ExecuteAsync("update scim_token set last_used_at = now() where id = $1", [caller.Token.Id], cancellationToken);
        return caller;
    }

    private static ScimToken Read(NpgsqlDataReader row) => new(
        row.GetGuid(0), row.GetGuid(1), row.GetString(2), row.GetString(3), row.GetFieldValue<DateTimeOffset>(4), row.Maybe<DateTimeOffset?>(5), row.Maybe<DateTimeOffset?>(6));
}
