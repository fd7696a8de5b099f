using Npgsql;

namespace Relevo.Data;

/// <summary>A theme that was kept, as JSON.</summary>
public sealed record StoredTheme(Guid Id, string Name, string Content);

/// <summary>Themes kept to be used again.</summary>
public sealed class ThemeStore(NpgsqlDataSource database)
{
    /// <summary>Every theme, by name.</summary>
    public async Task<List<StoredTheme>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync("select id, name, content::text from theme order by lower(name)", [], row => new StoredTheme(row.GetGuid(0), row.GetString(1), row.GetString(2)), cancellationToken);
    }

    /// <summary>Keeps a theme under its name; one of that name becomes this one.</summary>
    public async Task KeepAsync(StoredTheme theme, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "insert into theme (id, name, content) values ($1, $2, $3) on conflict (lower(name)) do update set name = excluded.name, content = excluded.content", [theme.Id, theme.Name, Sql.Json(theme.Content)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("theme kept", "theme", theme.Name, null, theme.Content), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Throws a theme away; false when it is not there. Designs keep the copies they have.</summary>
    public async Task<bool> RemoveAsync(Guid id, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (await connection.ReadFirstAsync("delete from theme where id = $1 returning name, content::text", [id], row => new StoredTheme(id, row.GetString(0), row.GetString(1)), cancellationToken) is not { } gone) return false;
        await AuditLog.AppendAsync(connection, actor, new AuditLine("theme thrown away", "theme", gone.Name, gone.Content, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return true;
    }
}
