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
        var scripts = typeof(Database).Assembly.GetManifestResourceNames().Count(name => name.EndsWith(".sql", StringComparison.Ordinal));
        Assert.Equal(scripts, await database.AskAsync<long>("select count(*) from schema_migration"));
    }

    /// <summary>People, their accounts and what was said of them survive the step to several sources.</summary>
    [Fact]
    public async Task A_database_of_the_first_cut_keeps_its_people()
    {
        await using var database = await OfVersionAsync(4);
        await database.DoAsync("""
            insert into app_user (id, sign_in_name, display_name, password_hash, role) values ('00000000-0000-0000-0000-000000000001', 'ines', 'Ines', 'x', 'administrator');
            insert into source (id, kind, name, version) values ('00000000-0000-0000-0000-0000000000aa', 'ldif', 'Directory file', 2);
            insert into person (id, source_id, source_key, distinguished_name, display_name, facts, retired_at) values
                ('00000000-0000-0000-0000-0000000000b1', '00000000-0000-0000-0000-0000000000aa', 'Mia', 'uid=mia', 'Mia', '{"displayName": "Mia", "mail": "mia@x.example", "title": "Vet"}', null),
                ('00000000-0000-0000-0000-0000000000b2', '00000000-0000-0000-0000-0000000000aa', 'joel', 'uid=joel', 'Joel', '{"displayName": "Joel"}', now());
            insert into account (person_id, address, kind, position) values ('00000000-0000-0000-0000-0000000000b1', 'mia@x.example', 'own', 0), ('00000000-0000-0000-0000-0000000000b1', 'm@x.example', 'alias', 1);
            insert into import_plan (id, source_id, source_version, file_name, other_entries, problems, created_by, applied_at)
                values (gen_random_uuid(), '00000000-0000-0000-0000-0000000000aa', 1, 'people.ldif', 0, '[]', '00000000-0000-0000-0000-000000000001', now());
            """);
        await Database.MigrateAsync(database.ConnectionString, CancellationToken.None);
        await using var source = Database.Open(database.ConnectionString);
        var people = (await new PersonStore(source).ReadChangesAsync(null, CancellationToken.None)).People.ToDictionary(person => person.Entries[0].Key);
        Assert.Equal(("Vet", false), (people["mia"].Entries[0].Facts["title"], people["mia"].IsRetired));
        Assert.Equal(["mia@x.example", "m@x.example"], people["mia"].Accounts.Select(account => account.Address));
        Assert.True(people["joel"].IsRetired);
        var runs = await new RunStore(source).ListAsync(null, 10, CancellationToken.None);
        Assert.Contains(runs, run => run is { Name: "people.ldif", State: RunState.Applied });

        // The same people again are nobody's change, although SQL could not know the hash of what was there.
        var content = await Core.People.Sources.LdifListing.ReadAsync(
            new MemoryStream("dn: uid=mia\nobjectClass: person\nuid: Mia\ndisplayName: Mia\ntitle: Vet\nmail: mia@x.example\nmail: m@x.example\n"u8.ToArray()),
            Core.People.Sources.Mapping.Standard, Core.People.FieldCatalogue.Standard, Core.People.Formats.LdifLimits.Default, null, CancellationToken.None);
        var again = new NewRun(Guid.NewGuid(), Guid.Parse("00000000-0000-0000-0000-0000000000aa"), RunKind.File, "again.ldif");
        await new RunStore(source).PlanAsync(again, content, Core.People.FieldCatalogue.Standard, new Actor(null, "test"), CancellationToken.None);
        var planned = (await new RunStore(source).FindAsync(again.Id, CancellationToken.None))!;
        Assert.Equal((new RunCounts(0, 0, 0, 0), 1), (planned.Counts, planned.Unchanged));
        // And from now on the hash is known, so that the next sync need not look at them again.
        Assert.Equal(0L, await database.AskAsync<long>("select count(*) from source_entry where key = 'mia' and content_hash = '00000000-0000-0000-0000-000000000000'"));
    }

    [Fact]
    public async Task A_run_that_waited_while_Relevo_was_upgraded_is_applied_with_the_units_it_names()
    {
        await using var database = await OfVersionAsync(18);
        await database.DoAsync("""
            insert into source (id, kind, name, version) values ('00000000-0000-0000-0000-0000000000aa', 'csv', 'Staff', 1);
            insert into run (id, source_id, source_version, kind, name, state, started_by_name) values ('00000000-0000-0000-0000-0000000000cc', '00000000-0000-0000-0000-0000000000aa', 1, 'file', 'staff.csv', 'planned', 'Ines');
            insert into run_step (run_id, key, action, person_id, is_new, after_name, after_facts, after_addresses, after_hash) values
                ('00000000-0000-0000-0000-0000000000cc', 'mia', 'join', gen_random_uuid(), true, 'uid=mia', '{"displayName": "Mia", "location": "Köln", "organisation": "Brackenfold Limited"}', '{mia@x.example}', gen_random_uuid()),
                ('00000000-0000-0000-0000-0000000000cc', 'jon', 'join', gen_random_uuid(), true, 'uid=jon', '{"displayName": "Jon", "location": "KÖLN", "department": ""}', '{jon@x.example}', gen_random_uuid());
            """);
        await Database.MigrateAsync(database.ConnectionString, CancellationToken.None);
        await using var source = Database.Open(database.ConnectionString);
        Assert.Equal(new RunCounts(2, 0, 0, 0), (await new RunStore(source).FindAsync(Guid.Parse("00000000-0000-0000-0000-0000000000cc"), CancellationToken.None))!.Counts);
        Assert.Equal(ApplyOutcome.Applied, await new RunStore(source).ApplyAsync(Guid.Parse("00000000-0000-0000-0000-0000000000cc"), isAccepted: false, new Actor(null, "test"), CancellationToken.None));
        Assert.Equal("entity Brackenfold Limited, office köln", await database.AskAsync<string>("select string_agg(kind || ' ' || case kind when 'office' then lower(name) else name end, ', ' order by kind) from unit where kind in ('entity', 'office', 'team')"));
        Assert.Equal(["Jon", "Mia"], (await new PersonStore(source).ReadChangesAsync(null, CancellationToken.None)).People.Select(person => person.Entries[0].Facts["displayName"]).Order(StringComparer.Ordinal));
    }

    [Fact]
    public async Task Of_several_signing_keys_the_one_stays_that_profiles_were_signed_with()
    {
        await using var database = await OfVersionAsync(18);
        await database.DoAsync("insert into signing_key (id, secret, created_at) values ('old', 'x', now() - interval '1 second'), ('young', 'y', now())");
        await Database.MigrateAsync(database.ConnectionString, CancellationToken.None);
        Assert.Equal("young", await database.AskAsync<string>("select string_agg(id, ' ') from signing_key"));
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
        foreach (var table in new[] { "person", "client", "app_user", "rollout" })
        {
            var refused = await Assert.ThrowsAsync<PostgresException>(() => server.Database.DoAsync($"delete from {table}"));
            Assert.Equal(PostgresErrorCodes.ForeignKeyViolation, refused.SqlState);
        }
    }

    /// <summary>A database as a Relevo of before left it, after so many migrations.</summary>
    private static async Task<TestDatabase> OfVersionAsync(int migrations)
    {
        var database = await TestDatabase.CreateEmptyAsync();
        await database.DoAsync("create table schema_migration (schemaversionsid serial primary key, scriptname varchar(255) not null, applied timestamp not null)");
        foreach (var file in Directory.EnumerateFiles(Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "src/Relevo.Data/Migrations")).Order().Take(migrations))
        {
            await database.DoAsync(await File.ReadAllTextAsync(file));
            await database.DoAsync($"insert into schema_migration (scriptname, applied) values ('Relevo.Data.Migrations.{Path.GetFileName(file)}', now())");
        }

        return database;
    }
}
