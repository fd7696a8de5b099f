using System.Globalization;
using System.Net;
using System.Text;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.People;

namespace Relevo.Server.Tests;

public sealed class BulkLoadTests
{
    private const int Many = 10_500; // enough for tables to be filled without their indexes
    private static readonly Actor Actor = new(null, "test");

    [Fact]
    public async Task A_first_import_of_many_people_leaves_every_index_and_key_as_it_was()
    {
        await using var database = await TestDatabase.CreateAsync();
        var before = await ShapeAsync(database);
        Assert.Contains("account_person_id_fkey", before, StringComparison.Ordinal);
        Assert.Contains("source_entry_person_idx", before, StringComparison.Ordinal);
        var made = await IndexesAsync(database);
        await ImportAsync(database, "first", Many);
        Assert.Equal(before, await ShapeAsync(database));
        Assert.Equal(made.Length, (await IndexesAsync(database)).Length);
        Assert.Empty(made.Intersect(await IndexesAsync(database))); // each was made anew, so the tables were bare
        Assert.Equal(Many, await database.AskAsync<long>("select count(*) from account join person on person.id = account.person_id join source_entry on source_entry.person_id = person.id"));
    }

    [Fact]
    public async Task Addresses_that_only_the_database_takes_for_the_same_go_to_the_first_who_has_them()
    {
        await using var database = await TestDatabase.CreateAsync();
        // The sign for kelvin (U+212A) becomes a plain k in small letters, but is no other case of it in ordinal comparison.
        await ImportAsync(database, "first", Many, "k@brackenfold.example", "\u212a@brackenfold.example");
        Assert.Equal("k@brackenfold.example", await database.AskAsync<string>("select string_agg(address, ' ') from account where lower(address) = 'k@brackenfold.example'"));
        Assert.Equal(Many + 2, await database.AskAsync<long>("select count(*) from person"));
    }

    [Theory]
    [InlineData(true)] // what was planned is still at hand
    [InlineData(false)] // it is read again, as after a start
    public async Task First_people_have_their_own_account_and_aliases_however_many_addresses_they_have(bool isAtHand)
    {
        await using var database = await TestDatabase.CreateAsync();
        await ImportAsync(database, "first", Many, isAtHand, "m@brackenfold.example; mia@brackenfold.example; luk@brackenfold.example", "", "jon@brackenfold.example");
        Assert.Equal(
            "own 0 m@brackenfold.example true, alias 1 mia@brackenfold.example false, alias 2 luk@brackenfold.example false, own 0 jon@brackenfold.example true",
            await database.AskAsync<string>(
                """
                select string_agg(kind || ' ' || position || ' ' || address || ' ' || (account.id = account.person_id), ', ' order by key, position)
                from account join source_entry using (person_id) where key like 'extra%'
                """));
        Assert.Equal(Many + 4, await database.AskAsync<long>("select count(*) from account"));
        // Each entry points at the step that made it.
        Assert.Equal(Many + 3, await database.AskAsync<long>("select count(*) from source_entry entry join run_step step on step.number = entry.step and step.key = entry.key and step.after_hash = entry.content_hash and step.person_id = entry.person_id"));
    }

    [Fact]
    public async Task Many_people_of_a_second_source_join_those_who_are_there()
    {
        await using var database = await TestDatabase.CreateAsync();
        await ImportAsync(database, "first", 20);
        var made = await IndexesAsync(database);
        await ImportAsync(database, "second", Many);
        Assert.Equal(made, await IndexesAsync(database)); // nobody's reading was held up
        Assert.Equal(Many + 20, await database.AskAsync<long>("select count(*) from person"));
        Assert.Equal(Many, await database.AskAsync<long>("select count(*) from account")); // the second source lists the first one's addresses too
    }

    [Fact]
    public async Task Steps_of_later_runs_are_numbered_after_the_first_ones()
    {
        await using var database = await TestDatabase.CreateAsync();
        await ImportAsync(database, "first", Many);
        Assert.Equal(Many - 1, await database.AskAsync<long>("select max(number) - min(number) from run_step"));
        Assert.Equal(Many, await database.AskAsync<long>("select count(*) from run_step step join source_entry entry on entry.step = step.number and entry.key = step.key"));
        await ImportAsync(database, "second", 3);
        Assert.Equal(3, await database.AskAsync<long>("select count(*) from run_step where number > (select max(step) from source_entry join source on source.id = source_id where name = 'first')"));
    }

    [Fact]
    public async Task What_is_kept_of_first_people_is_what_the_database_says_of_them()
    {
        await using var database = await TestDatabase.CreateAsync();
        await using var data = Database.Open(database.ConnectionString);
        var source = await AddSourceAsync(data, "first");
        await using var connection = await data.OpenConnectionAsync();
        var run = Guid.CreateVersion7();
        await database.DoAsync($"insert into run (id, source_id, source_version, kind, name, state, started_by_name) values ('{run}', '{source}', 0, 'file', 'first', 'reading', 'test')");
        PlannedStep[] steps =
        [
            .. new string[][] { [], ["mia@brackenfold.example"], ["mía@brackenfold.example", "łuk@brackenfold.example", new string('a', 200)] }.Select((addresses, place) => new PlannedStep(
                new SyncStep(StepAction.Join, Guid.CreateVersion7(), new ListedPerson($"ключ{place}", "", Facts.None.With("displayName", "Mía"), [.. addresses], place), null, IsNew: true), null, default)),
        ];
        var kept = await StepRows.WriteFirstAsync(connection, run, steps, CancellationToken.None);
        var said = await FirstPeople.ReadJoinersAsync(connection, run, CancellationToken.None);
        foreach (var _ in steps)
        {
            Assert.True(kept.Next() && said.Next());
            for (var column = 0; column < 5; column++) Assert.Equal(said.Take(), kept.Take());
        }

        Assert.False(kept.Next() || said.Next());
    }

    /// <summary>Kills a server in the middle of its work, where that waits for a table that is held.</summary>
    private static async Task KillAsync(ServerProcess server, TestDatabase database, string hold, string statement, Func<Task> work)
    {
        await using var connection = new Npgsql.NpgsqlConnection(database.ConnectionString);
        await connection.OpenAsync();
        await using var held = await connection.BeginTransactionAsync();
        await using (var command = new Npgsql.NpgsqlCommand(hold, connection, held)) await command.ExecuteNonQueryAsync();
        var working = work();
        await Waiting.UntilAsync(async () => await database.AskAsync<bool>($"select exists (select from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock' and query like '%{statement}%')"));
        await server.KillAsync();
        await Assert.ThrowsAsync<HttpRequestException>(() => working);
    }

    private static Task ImportAsync(TestDatabase database, string name, int count, params string[] addresses) => ImportAsync(database, name, count, isAtHand: false, addresses);

    private static async Task<Guid> AddSourceAsync(Npgsql.NpgsqlDataSource data, string name)
    {
        var source = new Source(Guid.CreateVersion7(), SourceKind.Csv, name, 0, "{}", null, BrakeSettings.Default, [], false, null, 1);
        await new SourceStore(data).AddAsync(source, "", Actor, CancellationToken.None);
        return source.Id;
    }

    private static async Task ImportAsync(TestDatabase database, string name, int count, bool isAtHand, params string[] addresses)
    {
        await using var data = Database.Open(database.ConnectionString);
        var source = await AddSourceAsync(data, name);
        var ldif = new StringBuilder("version: 1\n\n");
        for (var number = 0; number < count; number++) Add(string.Create(CultureInfo.InvariantCulture, $"p{number}"), string.Create(CultureInfo.InvariantCulture, $"p{number}@brackenfold.example"));
        foreach (var (index, address) in addresses.Index()) Add(string.Create(CultureInfo.InvariantCulture, $"extra{index}"), address);
        var content = await LdifListing.ReadAsync(new MemoryStream(Encoding.UTF8.GetBytes(ldif.ToString())), Mapping.Standard, FieldCatalogue.Standard, LdifLimits.Default, null, CancellationToken.None);
        Assert.Empty(content.Problems);
        var run = new NewRun(Guid.CreateVersion7(), source, RunKind.File, name);
        var runs = new RunStore(data);
        await runs.PlanAsync(run, content, FieldCatalogue.Standard, Actor, CancellationToken.None);
        Assert.Equal(ApplyOutcome.Applied, await (isAtHand ? runs : new RunStore(data)).ApplyAsync(run.Id, isAccepted: true, Actor, CancellationToken.None));

        void Add(string uid, string address) => ldif.Append(CultureInfo.InvariantCulture, $"dn: uid={uid},o={name}\nobjectClass: inetOrgPerson\nuid: {uid}\ncn: {uid}\ndepartmentNumber: Night\nmail: {address}\n\n");
    }

    [Fact]
    public async Task A_server_killed_while_it_applies_leaves_nothing_but_the_plan_which_the_next_one_applies()
    {
        await using var database = await TestDatabase.CreateAsync();
        var port = ServerProcess.FreePort();
        using var killed = await ServerProcess.StartAsync(database.ConnectionString, port);
        var before = await ShapeAsync(database);
        using var browser = new Browser(killed.Address);
        await browser.SignInAsync();
        var plan = await browser.DropAsync(string.Concat(Enumerable.Range(0, Many).Select(number => Ldif.Person($"p{number}"))));
        // People, entries and accounts are in, and indexes made again, when units are.
        await KillAsync(killed, database, "lock table unit in access exclusive mode", "insert into unit ", () => browser.ApplyAsync(plan.Run.Id));
        using var server = await ServerProcess.StartAsync(database.ConnectionString, port);
        using var next = new Browser(server.Address);
        await next.SignInAsync();
        Assert.Equal(0, await database.AskAsync<long>("select (select count(*) from person) + (select count(*) from account) + (select count(*) from source_entry)"));
        Assert.Equal(before, await ShapeAsync(database));
        Assert.Equal((RunState.Planned, Many), ((await next.GetAsync<RunAnswer>($"api/runs/{plan.Run.Id}")).Run.State, plan.Run.Counts.Joining));
        using var applied = await next.ApplyAsync(plan.Run.Id);
        Assert.Equal(HttpStatusCode.NoContent, applied.StatusCode);
        Assert.Equal(Many, await database.AskAsync<long>("select count(*) from account join source_entry using (person_id) where address = key || '@brackenfold.example'"));
    }

    [Fact]
    public async Task A_server_killed_while_it_plans_leaves_no_step_and_the_same_file_can_be_dropped_again()
    {
        await using var database = await TestDatabase.CreateAsync();
        var port = ServerProcess.FreePort();
        using var killed = await ServerProcess.StartAsync(database.ConnectionString, port);
        var before = await ShapeAsync(database);
        using var browser = new Browser(killed.Address);
        await browser.SignInAsync();
        var file = string.Concat(Enumerable.Range(0, Many).Select(number => Ldif.Person($"p{number}")));
        // All steps are written when the run is.
        await KillAsync(killed, database, "lock table run in share mode", "insert into run ", () => browser.DropAsync(file));
        using var server = await ServerProcess.StartAsync(database.ConnectionString, port);
        using var next = new Browser(server.Address);
        await next.SignInAsync();
        Assert.Equal(0, await database.AskAsync<long>("select (select count(*) from run) + (select count(*) from run_step)"));
        Assert.Equal(before, await ShapeAsync(database));
        Assert.Equal(Many, (await next.DropAsync(file)).Run.Counts.Joining);
    }

    [Fact]
    public async Task An_import_that_breaks_off_leaves_indexes_and_people_as_they_were()
    {
        await using var database = await TestDatabase.CreateAsync();
        var (before, made) = (await ShapeAsync(database), await IndexesAsync(database));
        await database.DoAsync("alter table unit add constraint no_teams check (kind <> 'team')"); // breaks the applying after people are in
        await Assert.ThrowsAsync<Npgsql.PostgresException>(() => ImportAsync(database, "first", Many));
        await database.DoAsync("alter table unit drop constraint no_teams");
        Assert.Equal(before, await ShapeAsync(database));
        Assert.Equal(made, await IndexesAsync(database));
        Assert.Equal(0, await database.AskAsync<long>("select count(*) from person"));
    }

    /// <summary>Which files hold the indexes of what an import fills: made anew, an index has another.</summary>
    private static async Task<long[]> IndexesAsync(TestDatabase database) => await database.AskAsync<long[]>(
        "select array_agg(indexrelid::bigint order by indexrelid) from pg_index where indrelid in ('person'::regclass, 'account'::regclass, 'source_entry'::regclass)");

    /// <summary>Every index and every constraint of the database, each as it would be made.</summary>
    private static async Task<string> ShapeAsync(TestDatabase database) => await database.AskAsync<string>(
        """
        select string_agg(line, E'\n' order by line) from (
            select indexdef as line from pg_indexes where schemaname = 'public'
            union all
            select conrelid::regclass || ' ' || conname || ' ' || pg_get_constraintdef(oid) from pg_constraint where connamespace = 'public'::regnamespace) lines
        """);
}
