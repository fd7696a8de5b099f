using System.Reflection;
using DbUp;
using DbUp.Engine;
using Npgsql;

namespace Relevo.Data;

/// <summary>Opens the database and brings its schema up to date.</summary>
public static class Database
{
    /// <summary>Key of the advisory lock that lets one process migrate while the others wait; the letters of "relevo" as a number.</summary>
    private const long MigrationLock = 0x72656C65766F;

    /// <summary>Statements each connection keeps prepared, those it runs again and again: planning a join costs more than running it for one person.</summary>
    private const int PreparedStatements = 200;

    /// <summary>A pool of connections for the whole process. Compiling a statement takes longer than the largest of them gains by it.</summary>
    public static NpgsqlDataSource Open(string connectionString) =>
        new NpgsqlDataSourceBuilder(connectionString) { ConnectionStringBuilder = { MaxAutoPrepare = PreparedStatements, AutoPrepareMinUsages = 2, NoResetOnClose = true, Options = "-c jit=off" } }.Build();

    /// <summary>
    /// Runs the numbered SQL scripts that have not run yet, each in a transaction, while holding a lock so that several processes may start at
    /// once. Throws what PostgreSQL says when a script fails; earlier scripts stay.
    /// </summary>
    public static async Task MigrateAsync(string connectionString, CancellationToken cancellationToken)
    {
        await using var connection = new NpgsqlConnection(connectionString);
        await connection.OpenAsync(cancellationToken);
        await using (var take = new NpgsqlCommand("select pg_advisory_lock($1)", connection) { Parameters = { new() { Value = MigrationLock } } })
            await take.ExecuteNonQueryAsync(cancellationToken);
        try
        {
            var upgrade = DeployChanges.To
                .PostgresqlDatabase(connectionString)
                .WithScriptsEmbeddedInAssembly(Assembly.GetExecutingAssembly(), name => name.EndsWith(".sql", StringComparison.Ordinal))
                .WithTransactionPerScript()
                .JournalToPostgresqlTable("public", "schema_migration")
                .LogToNowhere()
                .Build();
            DatabaseUpgradeResult result = upgrade.PerformUpgrade();
            if (!result.Successful) throw result.Error;
        }
        finally
        {
            await using var release = new NpgsqlCommand("select pg_advisory_unlock($1)", connection) { Parameters = { new() { Value = MigrationLock } } };
            await release.ExecuteNonQueryAsync(CancellationToken.None);
        }
    }
}
