using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>What a source is reached by.</summary>
public enum SourceKind
{
    /// <summary>LDIF files that somebody drops.</summary>
    Ldif,

    /// <summary>Tables that somebody drops.</summary>
    Csv,

    /// <summary>A directory server that is asked.</summary>
    Ldap,

    /// <summary>A client that pushes.</summary>
    Scim,
}

/// <summary>A source. Mapping null means the standard one; Settings is the kind's own document; the secret is not part of this.</summary>
public sealed record Source(
    Guid Id, SourceKind Kind, string Name, int Position, string Settings, Mapping? Mapping, BrakeSettings Brake, ImmutableArray<string> JoinBy, bool HasSecret, int? EveryMinutes, int Revision);

/// <summary>Sources in the order in which they are believed.</summary>
public sealed class SourceStore(NpgsqlDataSource database)
{
    private const string Columns = "id, kind, name, position, settings::text, mapping::text, brake::text, join_by, secret <> '', every_minutes, revision";

    /// <summary>Every source in use, the most believed first.</summary>
    public async Task<List<Source>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync($"select {Columns} from source where retired_at is null order by position, created_at, id", [], Read, cancellationToken);
    }

    /// <summary>Finds a source in use.</summary>
    public async Task<Source?> FindAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from source where id = $1 and retired_at is null", [id], Read, cancellationToken);
    }

    /// <summary>The first source of a kind, or null.</summary>
    public async Task<Source?> FirstAsync(SourceKind kind, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from source where kind = $1 and retired_at is null order by position, created_at limit 1", [Text(kind)], Read, cancellationToken);
    }

    /// <summary>The source's secret as it is kept (encrypted), or empty.</summary>
    public async Task<string> ReadSecretAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select secret from source where id = $1", [id], row => row.GetString(0), cancellationToken) ?? "";
    }

    /// <summary>Takes the source that has been due longest and sets its next time; null when none is due. Of several processes one gets it.</summary>
    public async Task<Source?> ClaimDueAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            $"""
            update source set next_at = now() + make_interval(mins => every_minutes)
            where id = (
                select id from source where retired_at is null and every_minutes is not null and coalesce(next_at, now()) <= now()
                order by next_at nulls first limit 1 for update skip locked)
            returning {Columns}
            """,
            [],
            Read,
            cancellationToken);
    }

    /// <summary>Adds a source after all others.</summary>
    public async Task AddAsync(Source source, string encryptedSecret, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into source (id, kind, name, position, settings, mapping, brake, join_by, secret, every_minutes)
            values ($1, $2, $3, coalesce((select max(position) + 1 from source where retired_at is null), 0), $4, $5, $6, $7, $8, $9)
            """,
            [source.Id, Text(source.Kind), source.Name, Sql.Json(source.Settings), Sql.Json(Json(source.Mapping)), Sql.Json(Json(source.Brake)), source.JoinBy.ToArray(), encryptedSecret, Sql.Integer(source.EveryMinutes)],
            cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("source added", "source", source.Id.ToString(), null, Describe(source)), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Keeps a source's settings if the revision is still the one seen. encryptedSecret: null leaves the secret as it is.</summary>
    public async Task<SaveOutcome> SaveAsync(Source source, string? encryptedSecret, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = await connection.ReadFirstAsync($"select {Columns} from source where id = $1 and retired_at is null for update", [source.Id], Read, cancellationToken);
        if (before is null) return SaveOutcome.NotFound;
        if (before.Revision != source.Revision) return SaveOutcome.Conflict;
        await connection.ExecuteAsync(
            """
            update source set name = $2, settings = $3, mapping = $4, brake = $5, join_by = $6, secret = coalesce($7, secret), every_minutes = $8,
                revision = revision + 1, changed = pg_current_xact_id()
            where id = $1
            """,
            [source.Id, source.Name, Sql.Json(source.Settings), Sql.Json(Json(source.Mapping)), Sql.Json(Json(source.Brake)), source.JoinBy.ToArray(), Sql.Text(encryptedSecret), Sql.Integer(source.EveryMinutes)],
            cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("source changed", "source", source.Id.ToString(), Describe(before), Describe(source)), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return SaveOutcome.Saved;
    }

    /// <summary>Sets the order in which sources are believed. Sources that are not named come after those that are.</summary>
    public async Task OrderAsync(IReadOnlyList<Guid> order, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync(
            """
            update source set position = coalesce(array_position($1, id), cardinality($1) + 1), revision = revision + 1, changed = pg_current_xact_id()
            where retired_at is null
            """,
            [order.ToArray()],
            cancellationToken);
        // Whoever stands in several sources may now have another own address, and other facts.
        await connection.ExecuteAsync(
            "create temporary table affected on commit drop as select person_id from source_entry where is_listed group by person_id having count(*) > 1", [], cancellationToken);
        await RunApplication.FollowAsync(connection, cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("sources ordered", "source", "all", null, JsonSerializer.Serialize(order)), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    internal static string Text(SourceKind kind) => kind.ToString().ToLowerInvariant();

    private static string? Json<T>(T? document) where T : class => document is null ? null : JsonSerializer.Serialize(document, RelevoJson.Options);

    private static string Describe(Source source) => JsonSerializer.Serialize(source with { Settings = "{}" }, RelevoJson.Options);

    private static Source Read(NpgsqlDataReader row) => new(
        row.GetGuid(0),
        Enum.Parse<SourceKind>(row.GetString(1), ignoreCase: true),
        row.GetString(2),
        row.GetInt32(3),
        row.GetString(4),
        row.Maybe<string>(5) is { } mapping ? JsonSerializer.Deserialize<Mapping>(mapping, RelevoJson.Options) : null,
        row.Maybe<string>(6) is { } brake ? JsonSerializer.Deserialize<BrakeSettings>(brake, RelevoJson.Options)! : BrakeSettings.Default,
        [.. row.GetFieldValue<string[]>(7)],
        row.GetBoolean(8),
        row.Maybe<int?>(9),
        row.GetInt32(10));
}
