using Npgsql;
using Relevo.Data;

namespace Relevo.Server.Tests;

/// <summary>A database of its own for each test that needs one, copied from a template that is migrated once for the whole run.</summary>
public sealed class TestDatabase : IAsyncDisposable
{
    private static readonly SemaphoreSlim OneAtATime = new(1);
    private static string? template;

    private TestDatabase(string name) => ConnectionString = For(name);

    public string ConnectionString { get; }

    private static string Root => Environment.GetEnvironmentVariable("RELEVO_TEST_DATABASE") ?? throw new InvalidOperationException("RELEVO_TEST_DATABASE is not set; run the tests with ./relevo test.");

    public static async Task<TestDatabase> CreateAsync()
    {
        var name = $"test_{Guid.NewGuid():N}";
        await OneAtATime.WaitAsync();
        try
        {
            if (template is null)
            {
                var fresh = $"template_{Guid.NewGuid():N}";
                await RunAsync($"create database {fresh}");
                await Database.MigrateAsync(For(fresh), CancellationToken.None);
                NpgsqlConnection.ClearAllPools();
                template = fresh;
            }

            // Copying files takes a third of writing every page to the log.
            await RunAsync($"create database {name} template {template} strategy file_copy");
        }
        finally
        {
            OneAtATime.Release();
        }

        return new TestDatabase(name);
    }

    /// <summary>A database without any tables.</summary>
    public static async Task<TestDatabase> CreateEmptyAsync()
    {
        var name = $"test_{Guid.NewGuid():N}";
        await RunAsync($"create database {name}");
        return new TestDatabase(name);
    }

    public async Task<T> AskAsync<T>(string sql)
    {
        await using var connection = new NpgsqlConnection(ConnectionString);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return (T)(await command.ExecuteScalarAsync())!;
    }

    public async Task<int> DoAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(ConnectionString);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return await command.ExecuteNonQueryAsync();
    }

    public async ValueTask DisposeAsync()
    {
        var name = new NpgsqlConnectionStringBuilder(ConnectionString).Database;
        await RunAsync($"drop database if exists {name} with (force)");
    }

    private static string For(string name) => new NpgsqlConnectionStringBuilder(Root) { Database = name, Pooling = true, MaxPoolSize = 20 }.ConnectionString;

    private static async Task RunAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Root);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }
}
