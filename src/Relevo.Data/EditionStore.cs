using Npgsql;
using Relevo.Core.Editions;

namespace Relevo.Data;

/// <summary>A published edition without its content.</summary>
public sealed record EditionHead(int Number, string Sha256, string PublishedBy, DateTimeOffset PublishedAt);

/// <summary>Published editions: numbered, immutable.</summary>
public sealed class EditionStore(NpgsqlDataSource database)
{
    private const string HeadColumns = "edition.number, edition.sha256, app_user.display_name, edition.published_at";

    /// <summary>Every edition, newest first.</summary>
    public async Task<List<EditionHead>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            $"select {HeadColumns} from edition join app_user on app_user.id = edition.published_by order by edition.number desc", [], ReadHead, cancellationToken);
    }

    /// <summary>The newest edition, or null before the first.</summary>
    public async Task<EditionHead?> LatestAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            $"select {HeadColumns} from edition join app_user on app_user.id = edition.published_by order by edition.number desc limit 1", [], ReadHead, cancellationToken);
    }

    /// <summary>An edition's content, or null.</summary>
    public async Task<EditionContent?> FindAsync(int number, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select content from edition where number = $1", [number], row => EditionContent.FromJson(row.GetString(0)), cancellationToken);
    }

    /// <summary>
    /// Publishes under the next number, if the latest is still the one the publisher saw (0 before the first). Returns the number, or null when
    /// somebody published in between.
    /// </summary>
    public async Task<int?> PublishAsync(EditionContent content, int seenLatest, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        try
        {
            var number = await connection.ReadFirstAsync(
                """
                insert into edition (number, content, sha256, published_by)
                select $1::int + 1, $2, $3, $4 where coalesce((select max(number) from edition), 0) = $1::int
                returning number
                """,
                [seenLatest, content.ToJson(), content.Sha256(), actor.Id],
                row => (int?)row.GetInt32(0),
                cancellationToken);
            if (number is null) return null;
            await AuditLog.AppendAsync(connection, actor, new AuditLine("edition published", "edition", number.Value.ToString(), null, $$"""{"sha256":"{{content.Sha256()}}"}"""), cancellationToken);
            await transaction.CommitAsync(cancellationToken);
            return number;
        }
        catch (PostgresException taken) when (taken.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            return null;
        }
    }

    private static EditionHead ReadHead(NpgsqlDataReader row) => new(row.GetInt32(0), row.GetString(1), row.GetString(2), row.GetFieldValue<DateTimeOffset>(3));
}
