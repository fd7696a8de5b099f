using Relevo.Core.People;
using Relevo.Core.People.Sources;
using Relevo.Data;

namespace Relevo.Server.Tests;

/// <summary>Steps are written in the database's own form for COPY; what is read again is what was planned, and it is counted once.</summary>
public sealed class RunStepTests
{
    private static readonly Actor Actor = new(null, "test");

    [Fact]
    public async Task Steps_are_read_as_they_were_planned_whatever_stands_in_them()
    {
        await using var world = await World.CreateAsync();
        ListedPerson[] first =
        [
            Person("mia", "uid=Mía,dc=x", "Łuk \"die\" \\ 汉\U0001F431", "mia@brackenfold.example", "m.luk@brackenfold.example", "mía@brackenfold.example"),
            Person("nobody", "", "Ann"),
            Person(new string('k', 1000), "uid=long", new string('ü', 1000), "long@brackenfold.example"),
            Person("jon", "uid=jon", "Jon", "jon@brackenfold.example"),
        ];
        await world.PlanAsync(first);
        AssertSame(first, (await world.StepsAsync(StepAction.Join)).Select(step => step.After!));
        Assert.Equal(first.Select(person => person.Key), (await world.StepsAsync(StepAction.Join)).Select(step => step.Key));
        await world.ApplyAsync();
        ListedPerson[] second = [first[0] with { Facts = first[0].Facts.With("title", "Ägyptologin") }, first[1], Person("new", "uid=new", "New", "new@brackenfold.example")];
        await world.PlanAsync(second);
        var change = Assert.Single(await world.StepsAsync(StepAction.Change));
        AssertSame([first[0], second[0]], [change.Before!, change.After!]);
        var leavers = await world.StepsAsync(StepAction.Leave);
        Assert.Equal(first[2..].Select(person => person.Key), leavers.Select(step => step.Key));
        AssertSame(first[2..], leavers.Select(step => step.Before!));
        Assert.All(leavers, step => Assert.Null(step.After));
    }

    [Fact]
    public async Task More_steps_than_one_piece_holds_arrive_whole_and_in_their_order()
    {
        await using var world = await World.CreateAsync();
        var people = Enumerable.Range(0, 900).Select(number => Person($"p{number}", $"uid=p{number}", new string('n', 1 + (number * 37 % 990)), $"p{number}@brackenfold.example")).ToArray();
        await world.PlanAsync(people);
        AssertSame(people, (await world.StepsAsync(StepAction.Join)).Select(step => step.After!));
    }

    [Fact]
    public async Task A_run_says_how_many_steps_it_has_of_each_kind_and_so_does_the_one_that_takes_it_back()
    {
        await using var world = await World.CreateAsync();
        await world.PlanAsync(Person("mia", "", "Mia"), Person("jon", "", "Jon"), Person("ann", "", "Ann"));
        Assert.Equal(new RunCounts(3, 0, 0, 0), await world.CountsAsync());
        await world.ApplyAsync();
        await world.PlanAsync(Person("mia", "", "Mia L"), Person("ann", "", "Ann"));
        Assert.Equal(new RunCounts(0, 1, 1, 0), await world.CountsAsync());
        await world.ApplyAsync();
        await world.PlanAsync(Person("mia", "", "Mia L"), Person("jon", "", "Jon"), Person("ann", "", "Ann"), Person("new", "", "New"));
        Assert.Equal(new RunCounts(1, 0, 0, 1), await world.CountsAsync());
        await world.ApplyAsync();
        await world.UndoAsync();
        Assert.Equal(new RunCounts(0, 0, 2, 0), await world.CountsAsync());
        Assert.Equal(0, await world.Database.AskAsync<long>("select count(*) from person where retired_at is null and id in (select person_id from source_entry where key in ('jon', 'new'))"));
    }

    [Fact]
    public async Task Those_whom_another_source_has_are_counted_as_known()
    {
        await using var world = await World.CreateAsync();
        await world.PlanAsync(Person("mia", "", "Mia", "mia@brackenfold.example"));
        await world.ApplyAsync();
        await world.OtherSourceAsync("mail");
        await world.PlanAsync(Person("7", "", "Mia", "mia@brackenfold.example"), Person("8", "", "Jon", "jon@brackenfold.example"));
        Assert.Equal(new RunCounts(2, 0, 0, 0, Known: 1), await world.CountsAsync());
        await world.ApplyAsync();
        Assert.Equal(2, await world.Database.AskAsync<long>("select count(*) from person"));
    }

    [Fact]
    public async Task Several_addresses_become_the_first_persons_own_and_aliases_in_their_order()
    {
        await using var world = await World.CreateAsync();
        await world.PlanAsync(Person("mia", "", "Mia", "mia@brackenfold.example", "m@brackenfold.example", "luk@brackenfold.example"), Person("jon", "", "Jon"), Person("ann", "", "Ann", "ann@brackenfold.example"));
        await world.ApplyAsync();
        Assert.Equal(
            "own 0 ann@brackenfold.example, alias 2 luk@brackenfold.example, alias 1 m@brackenfold.example, own 0 mia@brackenfold.example",
            await world.Database.AskAsync<string>("select string_agg(kind || ' ' || position || ' ' || address, ', ' order by address) from account"));
        // A person's own account has the person's id.
        Assert.Equal(2, await world.Database.AskAsync<long>("select count(*) from account where id = person_id and position = 0"));
    }

    [Fact]
    public async Task A_plan_that_was_made_while_another_run_was_applied_is_stale()
    {
        await using var world = await World.CreateAsync();
        await world.PlanAsync(Person("mia", "", "Mia"));
        var first = world.Run;
        await using var holder = await world.HoldStepsAsync();
        var planning = world.PlanAsync(Person("mia", "", "Mia"), Person("jon", "", "Jon"));
        await world.AwaitStepsWaitingAsync();
        Assert.Equal(ApplyOutcome.Applied, await world.ApplyAsync(first));
        await holder.DisposeAsync();
        await planning;
        Assert.Equal(ApplyOutcome.Stale, await world.ApplyAsync(world.Run));
        Assert.Equal(1, await world.Database.AskAsync<long>("select count(*) from person"));
    }

    private static ListedPerson Person(string key, string name, string displayName, params string[] addresses) =>
        new(key, name, new Facts([KeyValuePair.Create("displayName", displayName), KeyValuePair.Create("title", "")]), [.. addresses], 7);

    private static void AssertSame(IEnumerable<ListedPerson> planned, IEnumerable<EntryState> read) => Assert.Equal(
        planned.Select(person => (person.DistinguishedName, string.Join(',', person.Addresses), person.Facts)), read.Select(state => (state.DistinguishedName, string.Join(',', state.Addresses), state.Facts)));

    /// <summary>One source after the other in a database of their own, each with its last run.</summary>
    private sealed class World : IAsyncDisposable
    {
        private readonly Npgsql.NpgsqlDataSource data;
        private Guid source;

        private World(TestDatabase database, Npgsql.NpgsqlDataSource data) => (Database, this.data) = (database, data);

        public TestDatabase Database { get; }

        /// <summary>The run that was planned last.</summary>
        public Guid Run { get; private set; }

        private RunStore Runs => new(data);

        public static async Task<World> CreateAsync()
        {
            var database = await TestDatabase.CreateAsync();
            var world = new World(database, Relevo.Data.Database.Open(database.ConnectionString));
            await world.OtherSourceAsync();
            return world;
        }

        public async Task OtherSourceAsync(params string[] joinBy)
        {
            source = Guid.CreateVersion7();
            await new SourceStore(data).AddAsync(new Source(source, SourceKind.Csv, $"Source {source}", 0, "{}", null, BrakeSettings.Default, [.. joinBy], false, null, 1), "", Actor, CancellationToken.None);
        }

        public async Task PlanAsync(params ListedPerson[] people)
        {
            Run = Guid.CreateVersion7();
            await Runs.PlanAsync(new NewRun(Run, source, RunKind.File, "people.csv"), new DirectoryContent([.. people], 0, [], [], 0), FieldCatalogue.Standard, Actor, CancellationToken.None);
        }

        public async Task ApplyAsync() => Assert.Equal(ApplyOutcome.Applied, await ApplyAsync(Run));

        public Task<ApplyOutcome> ApplyAsync(Guid run) => Runs.ApplyAsync(run, isAccepted: true, Actor, CancellationToken.None);

        /// <summary>Lets nobody write steps until it is disposed.</summary>
        public async Task<Npgsql.NpgsqlConnection> HoldStepsAsync()
        {
            var connection = await data.OpenConnectionAsync();
            await using var hold = new Npgsql.NpgsqlCommand("begin; lock table run_step in share mode", connection);
            await hold.ExecuteNonQueryAsync();
            return connection;
        }

        /// <summary>Waits until somebody waits to write steps.</summary>
        public async Task AwaitStepsWaitingAsync()
        {
            while (await Database.AskAsync<long>("select count(*) from pg_locks where relation = 'run_step'::regclass and not granted") == 0) await Task.Delay(10);
        }

        public async Task UndoAsync()
        {
            var undo = Guid.CreateVersion7();
            Assert.Equal(ApplyOutcome.Applied, await Runs.UndoAsync(Run, undo, Actor, CancellationToken.None));
            Run = undo;
        }

        public Task<List<RunStep>> StepsAsync(StepAction action) => Runs.StepsAsync(Run, action, 2000, CancellationToken.None);

        public async Task<RunCounts> CountsAsync() => (await Runs.FindAsync(Run, CancellationToken.None))!.Counts;

        public async ValueTask DisposeAsync()
        {
            await data.DisposeAsync();
            await Database.DisposeAsync();
        }
    }
}
