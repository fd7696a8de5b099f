using Npgsql;
using Relevo.Data;

namespace Relevo.Server.Tests;

public sealed class DatabaseTests
{
    [Fact]
    public async Task Several_processes_may_migrate_at_once()
    {
        await using var database = await TestDatabase.CreateEmptyAsync();
        await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => Database.MigrateAsync(database.ConnectionString, CancellationToken.None)));
        Assert.Equal(7L, await database.AskAsync<long>("select count(*) from schema_migration"));
    }

    [Fact]
    public async Task Every_table_has_a_primary_key()
    {
        await using var database = await TestDatabase.CreateAsync();
        var without = await database.AskAsync<string>(
            "select coalesce(string_agg(relname, ', '), '') from pg_class where relkind = 'r' and relnamespace = 'public'::regnamespace and not exists (select from pg_index where indrelid = pg_class.oid and indisprimary)");
        Assert.Equal("", without);
    }

    [Theory]
    [InlineData("update audit_line set action = 'x'")]
    [InlineData("delete from audit_line")]
    [InlineData("truncate audit_line")]
    [InlineData("update edition set content = ''")]
    [InlineData("delete from edition")]
    [InlineData("delete from delivery_event")]
    [InlineData("update run_step set key = 'x'")]
    public async Task What_was_said_stays_said(string sql)
    {
        await using var database = await TestDatabase.CreateAsync();
        var refused = await Assert.ThrowsAsync<PostgresException>(() => database.DoAsync(sql));
        Assert.Equal(PostgresErrorCodes.RestrictViolation, refused.SqlState);
    }

    [Fact]
    public async Task Nobody_who_was_published_or_delivered_to_can_be_deleted()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        await browser.AddComputerAsync((await browser.FindAsync("mia")).Id);
        await browser.PublishAndRollOutAsync();
        foreach (var table in new[] { "person", "computer", "app_user", "rollout" })
        {
            var refused = await Assert.ThrowsAsync<PostgresException>(() => server.Database.DoAsync($"delete from {table}"));
            Assert.Equal(PostgresErrorCodes.ForeignKeyViolation, refused.SqlState);
        }
    }
}
