using System.Text.Json;
using Npgsql;

namespace Relevo.Data;

/// <summary>What an employee asks for. Value null: their own value should go.</summary>
public sealed record OwnRequest(Guid PersonId, string Field, string? Value, DateTimeOffset RequestedAt);

/// <summary>Wishes of employees in fields that need a yes.</summary>
public sealed class OwnRequestStore(NpgsqlDataSource database)
{
    /// <summary>Every wish that waits, oldest first; of one person only when one is given.</summary>
    public async Task<List<OwnRequest>> ListAsync(Guid? person, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select person_id, field, value, requested_at from own_request where $1::uuid is null or person_id = $1 order by requested_at, person_id, field",
            [Sql.Id(person)],
            row => new OwnRequest(row.GetGuid(0), row.GetString(1), row.Maybe<string>(2), row.GetFieldValue<DateTimeOffset>(3)),
            cancellationToken);
    }

    /// <summary>Keeps a wish, in place of an earlier one for the same field.</summary>
    public async Task AskAsync(Guid person, string field, string? value, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "insert into own_request (person_id, field, value) values ($1, $2, $3) on conflict (person_id, field) do update set value = excluded.value, requested_at = now()",
            [person, field, Sql.Text(value)],
            cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("own value asked for", "person", person.ToString(), null, JsonSerializer.Serialize(new Dictionary<string, string?> { [field] = value })), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Answers a wish: it goes, and with a yes its value is set, in one transaction. False when there is none any more.</summary>
    public async Task<bool> AnswerAsync(Guid person, string field, bool isGranted, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var wish = await connection.ReadFirstAsync(
            "delete from own_request where person_id = $1 and field = $2 returning value", [person, field], row => new { Value = row.Maybe<string>(0) }, cancellationToken);
        if (wish is null) return false;
        if (isGranted) await PersonStore.SetAsync(connection, person, null, isOwn: true, field, wish.Value, actor, cancellationToken);
        else await AuditLog.AppendAsync(connection, actor, new AuditLine("own value refused", "person", person.ToString(), null, JsonSerializer.Serialize(new Dictionary<string, string?> { [field] = wish.Value })), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return true;
    }
}
