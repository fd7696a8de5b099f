using Npgsql;

namespace Relevo.Data;

/// <summary>A ready answer's draft as JSON with its revision.</summary>
public sealed record StoredAnswer(Guid Id, string Draft, int Revision);

/// <summary>Drafts of ready answers.</summary>
public sealed class ReadyAnswerStore(NpgsqlDataSource database)
{
    /// <summary>Every ready answer in use, oldest first.</summary>
    public async Task<List<StoredAnswer>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync("select id, draft::text, revision from ready_answer where retired_at is null order by created_at, id", [], Read, cancellationToken);
    }

    /// <summary>Finds a ready answer in use.</summary>
    public async Task<StoredAnswer?> FindAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select id, draft::text, revision from ready_answer where id = $1 and retired_at is null", [id], Read, cancellationToken);
    }

    /// <summary>Adds a ready answer.</summary>
    public async Task AddAsync(Guid id, string draft, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into ready_answer (id, draft) values ($1, $2)", [id, Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("ready answer added", "ready answer", id.ToString(), null, draft), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Keeps a draft, or retires it when there is none, if the revision is still the one the editor saw.</summary>
    public async Task<SaveOutcome> SaveAsync(Guid id, int seenRevision, string? draft, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = await connection.ReadFirstAsync("select id, draft::text, revision from ready_answer where id = $1 and retired_at is null for update", [id], Read, cancellationToken);
        if (before is null) return SaveOutcome.NotFound;
        if (before.Revision != seenRevision) return SaveOutcome.Conflict;
        if (draft is null) await connection.ExecuteAsync("update ready_answer set retired_at = now(), revision = revision + 1 where id = $1", [id], cancellationToken);
        else await connection.ExecuteAsync("update ready_answer set draft = $2, revision = revision + 1 where id = $1", [id, Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine(draft is null ? "ready answer taken out" : "ready answer changed", "ready answer", id.ToString(), before.Draft, draft), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return SaveOutcome.Saved;
    }

    private static StoredAnswer Read(NpgsqlDataReader row) => new(row.GetGuid(0), row.GetString(1), row.GetInt32(2));
}
