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

    /// <summary>Adds several designs, all or none.</summary>
    public async Task AddAllAsync(IReadOnlyList<(Guid Id, string Draft)> designs, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        foreach (var (id, draft) in designs)
        {
            // The clock stands still in a transaction; the list keeps the order they came in.
            await connection.ExecuteAsync("insert into design (id, draft, created_at) values ($1, $2, clock_timestamp())", [id, Sql.Json(draft)], cancellationToken);
            await AuditLog.AppendAsync(connection, actor, new AuditLine("design added", "design", id.ToString(), null, draft), cancellationToken);
        }

        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Keeps a draft if the revision is still the one the editor saw. follow: the new draft of another design that goes with it, or null for one that stays as it is.</summary>
    public async Task<SaveOutcome> SaveAsync(Guid id, int seenRevision, string draft, Func<string, string?> follow, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        // All of them, always in one order: two who save at once wait for each other and never forever.
        var designs = await connection.ReadAllAsync("select id, draft::text, revision from design where retired_at is null order by id for update", [], Read, cancellationToken);
        if (designs.Find(design => design.Id == id) is not { } before) return SaveOutcome.NotFound;
        if (before.Revision != seenRevision) return SaveOutcome.Conflict;
        await ChangeAsync(before, draft, "design changed");
        foreach (var other in designs.Where(design => design.Id != id))
        {
            if (follow(other.Draft) is { } followed) await ChangeAsync(other, followed, "design followed its set");
        }

        await transaction.CommitAsync(cancellationToken);
        return SaveOutcome.Saved;

        async Task ChangeAsync(StoredDesign design, string next, string action)
        {
            await connection.ExecuteAsync("update design set draft = $2, revision = revision + 1 where id = $1", [design.Id, Sql.Json(next)], cancellationToken);
            await AuditLog.AppendAsync(connection, actor, new AuditLine(action, "design", design.Id.ToString(), design.Draft, next), cancellationToken);
        }
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
