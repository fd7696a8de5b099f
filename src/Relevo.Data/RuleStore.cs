using Npgsql;

namespace Relevo.Data;

/// <summary>The draft of the rules as JSON with its revision.</summary>
public sealed record StoredRules(string Draft, int Revision);

/// <summary>The draft of the rules: one document, because the order of rules is part of what they mean.</summary>
public sealed class RuleStore(NpgsqlDataSource database)
{
    /// <summary>The draft as it is now.</summary>
    public async Task<StoredRules> ReadAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return (await connection.ReadFirstAsync("select draft::text, revision from rule_set", [], Read, cancellationToken))!;
    }

    /// <summary>Keeps a draft if the revision is still the one the editor saw. audiences: an audience book that is kept with it, or neither is.</summary>
    public async Task<SaveOutcome> SaveAsync(int seenRevision, string draft, Actor actor, CancellationToken cancellationToken, string? audiences = null)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = (await connection.ReadFirstAsync("select draft::text, revision from rule_set for update", [], Read, cancellationToken))!;
        if (before.Revision != seenRevision) return SaveOutcome.Conflict;
        await connection.ExecuteAsync("update rule_set set draft = $1, revision = revision + 1", [Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("rules changed", "rules", "signature", before.Draft, draft), cancellationToken);
        if (audiences is not null) await DocumentStore.ReplaceAudiencesAsync(connection, audiences, actor, cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return SaveOutcome.Saved;
    }

    private static StoredRules Read(NpgsqlDataReader row) => new(row.GetString(0), row.GetInt32(1));
}
