using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People;

namespace Relevo.Data;

/// <summary>What became of an attempt to keep a unit.</summary>
public enum UnitOutcome
{
    /// <summary>Kept.</summary>
    Saved,

    /// <summary>There is no such unit.</summary>
    NotFound,

    /// <summary>Somebody else saved in between.</summary>
    Conflict,

    /// <summary>Another unit of its kind has the name.</summary>
    NameTaken,
}

/// <summary>The company, its entities, offices and teams.</summary>
public sealed class UnitStore(NpgsqlDataSource database)
{
    internal const string Columns = "id, kind, name, parent_id, facts::text, revision";

    /// <summary>Every unit in use.</summary>
    public async Task<ImmutableArray<Unit>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return [.. await connection.ReadAllAsync($"select {Columns} from unit where retired_at is null order by kind, name, id", [], Read, cancellationToken)];
    }

    /// <summary>Adds a unit.</summary>
    public async Task<UnitOutcome> AddAsync(Unit unit, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var added = await connection.ExecuteAsync(
            "insert into unit (id, kind, name, parent_id, facts) values ($1, $2, $3, $4, $5) on conflict do nothing",
            [unit.Id, Text(unit.Kind), unit.Name, Sql.Id(unit.Parent), Sql.Json(FactsJson.Write(unit.Facts))],
            cancellationToken);
        if (added == 0) return UnitOutcome.NameTaken;
        await AuditLog.AppendAsync(connection, actor, new AuditLine("unit added", "unit", unit.Id.ToString(), null, Describe(unit)), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return UnitOutcome.Saved;
    }

    /// <summary>Keeps a unit's name, parent and facts if the revision is still the one seen.</summary>
    public async Task<UnitOutcome> SaveAsync(Unit unit, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = await connection.ReadFirstAsync($"select {Columns} from unit where id = $1 and retired_at is null for update", [unit.Id], Read, cancellationToken);
        if (before is null) return UnitOutcome.NotFound;
        if (before.Revision != unit.Revision) return UnitOutcome.Conflict;
        try
        {
            await connection.ExecuteAsync(
                "update unit set name = $2, parent_id = $3, facts = $4, revision = revision + 1, changed = pg_current_xact_id() where id = $1",
                [unit.Id, unit.Name, Sql.Id(unit.Parent), Sql.Json(FactsJson.Write(unit.Facts))],
                cancellationToken);
        }
        catch (PostgresException taken) when (taken is { SqlState: PostgresErrorCodes.UniqueViolation, ConstraintName: "unit_name_key" })
        {
            return UnitOutcome.NameTaken;
        }

        await AuditLog.AppendAsync(connection, actor, new AuditLine("unit changed", "unit", unit.Id.ToString(), Describe(before), Describe(unit)), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return UnitOutcome.Saved;
    }

    internal static Unit Read(NpgsqlDataReader row) => new(
        row.GetGuid(0), Enum.Parse<UnitKind>(row.GetString(1), ignoreCase: true), row.GetString(2), row.Maybe<Guid?>(3), FactsJson.ReadOne(row.GetString(4)), row.GetInt32(5));

    /// <summary>A kind as it is kept.</summary>
    internal static string Text(UnitKind kind) => kind.ToString().ToLowerInvariant();

    private static string Describe(Unit unit) =>
        JsonSerializer.Serialize(new { unit.Name, unit.Parent, Facts = unit.Facts.Pairs.ToArray().ToDictionary(pair => pair.Key, pair => pair.Value) }, RelevoJson.Options);
}
