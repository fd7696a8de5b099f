using Npgsql;

namespace Relevo.Data;

/// <summary>A design's draft as JSON with its revision.</summary>
public sealed record StoredDesign(Guid Id, string Draft, int Revision);

/// <summary>What became of an attempt to change a draft.</summary>
public enum SaveOutcome
{
    /// <summary>Kept; the revision went up by one.</summary>
    Saved,

    /// <summary>There is no such record.</summary>
    NotFound,

    /// <summary>Somebody else saved in between; nothing was changed.</summary>
    Conflict,
}

/// <summary>Drafts of designs. An edition holds its own copies.</summary>
public sealed class DesignStore(NpgsqlDataSource database)
{
    /// <summary>Every design in use, oldest first.</summary>
    public async Task<List<StoredDesign>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync("select id, draft::text, revision from design where retired_at is null order by created_at, id", [], Read, cancellationToken);
    }

    /// <summary>Finds a design in use.</summary>
    public async Task<StoredDesign?> FindAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select id, draft::text, revision from design where id = $1 and retired_at is null", [id], Read, cancellationToken);
    }

    /// <summary>Adds a design.</summary>
    public async Task AddAsync(Guid id, string draft, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into design (id, draft) values ($1, $2)", [id, Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("design added", "design", id.ToString(), null, draft), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Keeps a draft if the revision is still the one the editor saw.</summary>
    public async Task<SaveOutcome> SaveAsync(Guid id, int seenRevision, string draft, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = await connection.ReadFirstAsync("select id, draft::text, revision from design where id = $1 and retired_at is null for update", [id], Read, cancellationToken);
        if (before is null) return SaveOutcome.NotFound;
        if (before.Revision != seenRevision) return SaveOutcome.Conflict;
        await connection.ExecuteAsync("update design set draft = $2, revision = revision + 1 where id = $1", [id, Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("design changed", "design", id.ToString(), before.Draft, draft), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return SaveOutcome.Saved;
    }

    /// <summary>Notes that somebody has the design open, and gives the names of others who said so within the time. Null when there is no such design.</summary>
    public async Task<List<string>?> MeetEditorsAsync(Guid id, Guid user, string name, TimeSpan within, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var noted = await connection.ExecuteAsync(
            """
            insert into design_editor (design_id, user_id, name) select id, $2, $3 from design where id = $1 and retired_at is null
            on conflict (design_id, user_id) do update set seen_at = now(), name = excluded.name
            """,
            [id, user, name],
            cancellationToken);
        if (noted == 0) return null;
        return await connection.ReadAllAsync(
            "select name from design_editor where design_id = $1 and user_id <> $2 and seen_at > now() - $3 order by name", [id, user, within], row => row.GetString(0), cancellationToken);
    }

    private static StoredDesign Read(NpgsqlDataReader row) => new(row.GetGuid(0), row.GetString(1), row.GetInt32(2));
}
