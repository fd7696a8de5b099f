using Npgsql;

namespace Relevo.Data;

/// <summary>Who acts: a signed-in user, or (without an id) a part of the program or a client that pushes.</summary>
public sealed record Actor(Guid? Id, string Name)
{
    /// <summary>The program itself, acting on its schedule.</summary>
    public static Actor Schedule { get; } = new(null, "the schedule");
}

/// <summary>One thing done to one record. Before and After are JSON or null.</summary>
public sealed record AuditLine(string Action, string RecordKind, string RecordId, string? Before, string? After);

/// <summary>One line as it was kept.</summary>
public sealed record KeptAuditLine(long Id, DateTimeOffset At, string Actor, AuditLine Line);

/// <summary>The append-only audit log. Lines are written in the transaction of the change they tell of; the database refuses to change or delete them.</summary>
public sealed class AuditLog(NpgsqlDataSource database)
{
    /// <summary>Lines about one record, oldest first.</summary>
    public async Task<List<KeptAuditLine>> ReadAsync(string recordKind, string recordId, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select id, at, actor_name, action, record_kind, record_id, before::text, after::text from audit_line where record_kind = $1 and record_id = $2 order by id",
            [recordKind, recordId],
            row => new KeptAuditLine(row.GetInt64(0), row.GetFieldValue<DateTimeOffset>(1), row.GetString(2), new AuditLine(row.GetString(3), row.GetString(4), row.GetString(5), row.Maybe<string>(6), row.Maybe<string>(7))),
            cancellationToken);
    }

    /// <summary>Writes a line inside the caller's transaction.</summary>
    internal static Task AppendAsync(NpgsqlConnection connection, Actor actor, AuditLine line, CancellationToken cancellationToken) => connection.ExecuteAsync(
        "insert into audit_line (actor_id, actor_name, action, record_kind, record_id, before, after) values ($1, $2, $3, $4, $5, $6, $7)",
        [Sql.Id(actor.Id), actor.Name, line.Action, line.RecordKind, line.RecordId, Sql.Json(line.Before), Sql.Json(line.After)],
        cancellationToken);
}
