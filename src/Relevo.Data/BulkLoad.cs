using Npgsql;

namespace Relevo.Data;

/// <summary>
/// Fills empty tables without their indexes and keys, which are made again from what was filled in, and so check it. All of it belongs to the
/// caller's transaction, and whoever wants to read the tables meanwhile waits. Source: the PostgreSQL 15 manual, section 14.4, "Populating a Database".
/// </summary>
internal static class BulkLoad
{
    private const int WorthIt = 10_000; // rows; below, taking off and making again costs more than it saves

    /// <summary>Runs the filling, and tells it whether the tables are bare. rows: about how many there will be.</summary>
    public static async Task FillAsync(NpgsqlConnection connection, string[] tables, int rows, Func<bool, Task> fill, CancellationToken cancellationToken)
    {
        if (rows < WorthIt || !await AreEmptyAsync(connection, tables, cancellationToken))
        {
            await fill(false);
            return;
        }

        await connection.ExecuteAsync($"lock table {string.Join(", ", tables)} in access exclusive mode", [], cancellationToken);
        // Somebody may have been first.
        var isBare = await AreEmptyAsync(connection, tables, cancellationToken);
        var parts = isBare ? await PartsAsync(connection, tables, cancellationToken) : [];
        foreach (var (take, _) in parts) await connection.ExecuteAsync(take, [], cancellationToken);
        await fill(isBare);
        if (isBare) await connection.ExecuteAsync("set local min_parallel_table_scan_size = 0", [], cancellationToken); // on two cores, small as the tables are
        foreach (var (_, make) in Enumerable.Reverse(parts)) await connection.ExecuteAsync(make, [], cancellationToken);
        // Until the server looks by itself, a minute later, it would plan by guesses: a push that met addresses of others read a whole index.
        // A fiftieth of the usual sample does for that minute.
        if (isBare) await connection.ExecuteAsync($"set local default_statistics_target = 2; analyze {string.Join(", ", tables)}; set local default_statistics_target = default; set local min_parallel_table_scan_size = default", [], cancellationToken);
    }

    private static async Task<bool> AreEmptyAsync(NpgsqlConnection connection, string[] tables, CancellationToken cancellationToken)
    {
        var any = string.Join(" or ", tables.Select(table => $"exists (select from {table})"));
        return !await connection.ReadFirstAsync($"select {any}", [], row => row.GetBoolean(0), cancellationToken);
    }

    /// <summary>How to take each index and key off and how to make it again: foreign keys first, those of other tables that point here too.</summary>
    private static Task<List<(string Take, string Make)>> PartsAsync(NpgsqlConnection connection, string[] tables, CancellationToken cancellationToken) => connection.ReadAllAsync(
        """
        select format('alter table %s drop constraint %I', conrelid::regclass, conname), format('alter table %s add constraint %I %s', conrelid::regclass, conname, pg_get_constraintdef(oid)), contype <> 'f' as is_later
        from pg_constraint
        where contype in ('f', 'p', 'u') and (conrelid = any($1::text[]::regclass[]) or contype = 'f' and confrelid = any($1::text[]::regclass[]))
        union all
        select format('drop index %s', indexrelid::regclass), pg_get_indexdef(indexrelid), true
        from pg_index where indrelid = any($1::text[]::regclass[]) and not exists (select from pg_constraint where conindid = indexrelid and contype in ('p', 'u'))
        order by is_later, 1
        """,
        [tables],
        row => (row.GetString(0), row.GetString(1)),
        cancellationToken);
}
