using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People;

namespace Relevo.Data;

/// <summary>The field set with its revision.</summary>
public sealed record StoredFieldSet(FieldSet Fields, int Revision);

/// <summary>The company's own fields and its settings for standard ones.</summary>
public sealed class FieldSetStore(NpgsqlDataSource database)
{
    /// <summary>The field set as it is now.</summary>
    public async Task<StoredFieldSet> ReadAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return (await connection.ReadFirstAsync("select document::text, revision from field_set", [], Read, cancellationToken))!;
    }

    /// <summary>Keeps a field set if the revision is still the one seen.</summary>
    public async Task<SaveOutcome> SaveAsync(int seenRevision, FieldSet fields, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = (await connection.ReadFirstAsync("select document::text, revision from field_set for update", [], row => (Document: row.GetString(0), Revision: row.GetInt32(1)), cancellationToken))!;
        if (before.Revision != seenRevision) return SaveOutcome.Conflict;
        var after = JsonSerializer.Serialize(fields, RelevoJson.Options);
        await connection.ExecuteAsync("update field_set set document = $1, revision = revision + 1, changed = pg_current_xact_id()", [Sql.Json(after)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("fields changed", "fields", "all", before.Document, after), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return SaveOutcome.Saved;
    }

    private static StoredFieldSet Read(NpgsqlDataReader row) => new(JsonSerializer.Deserialize<FieldSet>(row.GetString(0), RelevoJson.Options)!, row.GetInt32(1));
}
