using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>How a run came about.</summary>
public enum RunKind
{
    /// <summary>Somebody dropped a file.</summary>
    File,

    /// <summary>Somebody asked the source now.</summary>
    ByHand,

    /// <summary>The schedule asked it.</summary>
    Schedule,

    /// <summary>A client pushed; one run holds an hour of it.</summary>
    Push,

    /// <summary>It takes another run back.</summary>
    Undo,
}

/// <summary>Where a run stands.</summary>
public enum RunState
{
    /// <summary>The source is being read; a run whose process died stays here and has changed nothing.</summary>
    Reading,

    /// <summary>It was read and waits to be applied.</summary>
    Planned,

    /// <summary>The brake holds it.</summary>
    Held,

    /// <summary>It has places that cannot be read; nothing of it is ever applied.</summary>
    Refused,

    /// <summary>The source could not be read.</summary>
    Failed,

    /// <summary>It is applied.</summary>
    Applied,

    /// <summary>Somebody put it away.</summary>
    PutAway,
}

/// <summary>An address of one person that belongs to another already. The other keeps it.</summary>
public sealed record Collision(string Key, string Person, string Address, Guid OtherPersonId, string OtherPerson);

/// <summary>How many entries a run touches in each way. Known: of those joining, people whom another source has already.</summary>
public sealed record RunCounts(int Joining, int Changing, int Leaving, int Returning, int Known = 0);

/// <summary>A run without its steps. IsStale: people of the source changed after it was planned. MayUndo: it is the source's last applied one.</summary>
public sealed record SourceRun(
    Guid Id,
    Guid SourceId,
    string SourceName,
    RunKind Kind,
    string Name,
    RunState State,
    int Listed,
    int Unchanged,
    int OtherEntries,
    RunCounts Counts,
    ImmutableArray<LdifProblem> Problems,
    ImmutableArray<RefusedValue> Refused,
    int RefusedCount,
    ImmutableArray<string> Brake,
    ImmutableArray<Collision> Collisions,
    bool IsStale,
    bool MayUndo,
    string StartedBy,
    DateTimeOffset StartedAt,
    string? AppliedBy,
    DateTimeOffset? AppliedAt);

/// <summary>One step of a run as it was kept.</summary>
public sealed record RunStep(StepAction Action, string Key, Guid PersonId, long Line, EntryState? Before, EntryState? After, bool IsNew)
{
    /// <summary>What the person is called.</summary>
    public string Name => (After ?? Before)?.Facts["displayName"] ?? Key;
}

/// <summary>A reading to be planned.</summary>
public sealed record NewRun(Guid Id, Guid SourceId, RunKind Kind, string Name);

/// <summary>What became of an attempt to apply a run, or to take one back.</summary>
public enum ApplyOutcome
{
    /// <summary>The people are as the source has them.</summary>
    Applied,

    /// <summary>There is no such run.</summary>
    NotFound,

    /// <summary>It was applied, put away or failed before.</summary>
    NotWaiting,

    /// <summary>It has places that cannot be read.</summary>
    HasProblems,

    /// <summary>People changed since it was planned.</summary>
    Stale,

    /// <summary>The brake holds it, and nobody said yes.</summary>
    Held,
}

/// <summary>Runs of sources: planned, kept with every step, applied in one transaction, taken back.</summary>
public sealed class RunStore(NpgsqlDataSource database)
{
    private const string Columns =
        """
        run.id, run.source_id, source.name, run.kind, run.name, run.state, run.listed, run.unchanged, run.other_entries,
        steps.joining, steps.changing, steps.leaving, steps.coming_back, steps.known,
        run.problems::text, run.refused_values::text, run.refused_count, run.brake, run.collisions::text,
        run.source_version <> source.version,
        run.state = 'applied' and run.kind <> 'push' and run.id = (select id from run last where last.source_id = run.source_id and last.state = 'applied' order by last.applied_at desc limit 1),
        run.started_by_name, run.started_at, run.applied_by_name, run.applied_at
        """;

    private const string Tables = $"run join source on source.id = run.source_id {Counted}";

    /// <summary>A run's steps by kind: as they were counted when it was planned; of one that grows with every push they are counted when somebody asks.</summary>
    private const string Counted =
        """
        cross join lateral (
            select run.join_count, run.change_count, run.leave_count, run.return_count, run.known_count where run.join_count is not null
            union all
            select count(*) filter (where action = 'join')::int, count(*) filter (where action = 'change')::int, count(*) filter (where action = 'leave')::int,
                count(*) filter (where action = 'return')::int, count(*) filter (where action = 'join' and not is_new)::int
            from run_step where run.join_count is null and run_step.run_id = run.id having run.join_count is null) steps (joining, changing, leaving, coming_back, known)
        """;

    private FirstPlan? firstPlan;

    /// <summary>Plans what a source's content would do, and keeps the plan. Nothing else changes.</summary>
    public async Task PlanAsync(NewRun run, DirectoryContent content, FieldCatalogue fields, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var planning = await RunPlanning.PlanAsync(connection, run.SourceId, content, fields, cancellationToken);
        var units = Task.FromResult(RunPlanning.UnitsOf([]));
        CopiedRows? first = null;
        await BulkLoad.FillAsync(connection, ["run_step"], planning.Steps.Count, WriteStepsAsync, cancellationToken);
        var counts = planning.Counts;
        var state = !content.Problems.IsEmpty ? RunState.Refused : planning.Brake.IsEmpty ? RunState.Planned : RunState.Held;
        await connection.ExecuteAsync(
            """
            insert into run (id, source_id, source_version, kind, name, state, other_entries, unchanged, listed, problems, refused_values, refused_count, brake, collisions, started_by, started_by_name, units, has_plain_addresses, join_count, change_count, leave_count, return_count, known_count)
            values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19, $20, $21, $22, $23)
            on conflict (id) do update set state = excluded.state, source_version = excluded.source_version, other_entries = excluded.other_entries, unchanged = excluded.unchanged,
                listed = excluded.listed, problems = excluded.problems, refused_values = excluded.refused_values, refused_count = excluded.refused_count,
                brake = excluded.brake, collisions = excluded.collisions, units = excluded.units, has_plain_addresses = excluded.has_plain_addresses,
                join_count = excluded.join_count, change_count = excluded.change_count, leave_count = excluded.leave_count, return_count = excluded.return_count, known_count = excluded.known_count
            """,
            [
                run.Id, run.SourceId, planning.SourceVersion, Text(run.Kind), run.Name, Text(state), content.OtherEntries, planning.Unchanged, content.People.Length, Json(content.Problems), Json(content.Refused), content.RefusedCount,
                planning.Brake.ToArray(), Json(planning.Collisions), Sql.Id(actor.Id), actor.Name, Json(await units), planning.HasPlainAddresses, counts.Joining, counts.Changing, counts.Leaving, counts.Returning, counts.Known,
            ],
            cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        if (first is not null) firstPlan = new FirstPlan(run.Id, first);

        async Task WriteStepsAsync(bool isBare)
        {
            units = Task.Run(() => RunPlanning.UnitsOf(planning.Said), cancellationToken); // while the database takes the steps
            if (isBare) first = await StepRows.WriteFirstAsync(connection, run.Id, planning.Steps, cancellationToken);
            else await StepRows.WriteAsync(connection, run.Id, planning.Steps, cancellationToken);
        }
    }

    /// <summary>Everybody a source lists now, as it said last.</summary>
    public async Task<List<ListedPerson>> ListedAsync(Guid source, CancellationToken cancellationToken)
    {
        var facts = new FactsJson();
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            """
            select entry.key, step.after_name, step.after_facts, step.after_addresses
            from source_entry entry join run_step step on step.number = entry.step where entry.source_id = $1 and entry.is_listed order by entry.step
            """,
            [source],
            row => new ListedPerson(row.GetString(0), row.GetString(1), facts.Read(row.GetString(2)), [.. row.GetFieldValue<string[]>(3)], 0),
            cancellationToken);
    }

    /// <summary>Notes that a source is about to be read, so that a reading that is cut off leaves its record.</summary>
    public async Task BeginAsync(NewRun run, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "insert into run (id, source_id, source_version, kind, name, state, started_by, started_by_name) select $1, id, version, $3, $4, 'reading', $5, $6 from source where id = $2",
            [run.Id, run.SourceId, Text(run.Kind), run.Name, Sql.Id(actor.Id), actor.Name],
            cancellationToken);
    }

    /// <summary>Notes that a source could not be read. message: a sentence.</summary>
    public async Task FailAsync(Guid id, string message, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "update run set state = 'failed', problems = $2 where id = $1 and state = 'reading'", [id, Json(ImmutableArray.Create(new LdifProblem(0, message)))], cancellationToken);
    }

    /// <summary>A run, or null.</summary>
    public async Task<SourceRun?> FindAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from {Tables} where run.id = $1", [id], Read, cancellationToken);
    }

    /// <summary>The newest runs, of one source or of all.</summary>
    public async Task<List<SourceRun>> ListAsync(Guid? source, int limit, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            $"select {Columns} from {Tables} where $1::uuid is null or run.source_id = $1 order by run.started_at desc limit $2", [Sql.Id(source), limit], Read, cancellationToken);
    }

    /// <summary>The first steps of one kind.</summary>
    public async Task<List<RunStep>> StepsAsync(Guid run, StepAction action, int limit, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync($"select {StepColumns} from run_step where run_id = $1 and action = $2 order by number limit $3", [run, Text(action), limit], ReadStep, cancellationToken);
    }

    /// <summary>Applies a run in one transaction. isAccepted: a person looked at what the brake says and said yes.</summary>
    public async Task<ApplyOutcome> ApplyAsync(Guid id, bool isAccepted, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var found = await connection.ReadFirstAsync(
            "select run.state, run.source_version <> source.version, run.source_id from run join source on source.id = run.source_id where run.id = $1 for update",
            [id],
            row => new { State = State(row.GetString(0)), IsStale = row.GetBoolean(1), Source = row.GetGuid(2) },
            cancellationToken);
        ApplyOutcome? refusal = found switch
        {
            null => ApplyOutcome.NotFound,
            { State: RunState.Refused } => ApplyOutcome.HasProblems,
            { State: not (RunState.Planned or RunState.Held) } => ApplyOutcome.NotWaiting,
            { IsStale: true } => ApplyOutcome.Stale,
            { State: RunState.Held } when !isAccepted => ApplyOutcome.Held,
            _ => null,
        };
        if (refusal is { } outcome) return outcome;
        var planned = Interlocked.Exchange(ref firstPlan, null);
        await RunApplication.ApplyAsync(connection, id, found!.Source, planned?.Run == id ? planned.Joiners : null, cancellationToken);
        await FinishAsync(connection, id, found.Source, actor, "run applied", cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return ApplyOutcome.Applied;
    }

    /// <summary>Takes the source's last applied run back, as a run of its own.</summary>
    public async Task<ApplyOutcome> UndoAsync(Guid id, Guid undo, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("select from source where id = (select source_id from run where id = $1) for update", [id], cancellationToken);
        var run = await connection.ReadFirstAsync($"select {Columns} from {Tables} where run.id = $1", [id], Read, cancellationToken);
        if (run is null) return ApplyOutcome.NotFound;
        if (!run.MayUndo) return ApplyOutcome.NotWaiting;
        await connection.ExecuteAsync(
            """
            insert into run (id, source_id, source_version, kind, name, state, undoes, started_by, started_by_name)
            select $2, source.id, source.version, 'undo', left('Taken back: ' || run.name, 260), 'planned', run.id, $3, $4 from run join source on source.id = run.source_id where run.id = $1
            """,
            [id, undo, Sql.Id(actor.Id), actor.Name],
            cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into run_step (run_id, key, action, person_id, line, before_name, before_facts, before_addresses, before_hash, after_name, after_facts, after_addresses, after_hash)
            select $2, key, case action when 'join' then 'leave' when 'leave' then 'return' when 'return' then 'leave' else 'change' end, person_id, 0,
                after_name, after_facts, after_addresses, after_hash, before_name, before_facts, before_addresses, before_hash
            from run_step where run_id = $1 order by number
            """,
            [id, undo],
            cancellationToken);
        var reader = new FactsJson();
        var said = await connection.ReadAllAsync("select after_facts from run_step where run_id = $1 and after_facts is not null", [undo], row => reader.Read(row.GetString(0)), cancellationToken);
        await connection.ExecuteAsync(
            "update run set units = $2, join_count = 0, change_count = $3, leave_count = $4, return_count = $5, known_count = 0 where id = $1",
            [undo, Json(RunPlanning.UnitsOf(said)), run.Counts.Changing, run.Counts.Joining + run.Counts.Returning, run.Counts.Leaving],
            cancellationToken);
        await RunApplication.ApplyAsync(connection, undo, run.SourceId, joiners: null, cancellationToken);
        await FinishAsync(connection, undo, run.SourceId, actor, "run taken back", cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return ApplyOutcome.Applied;
    }

    /// <summary>Puts a waiting run away. False when it was not waiting.</summary>
    public async Task<bool> PutAwayAsync(Guid id, CancellationToken cancellationToken)
    {
        if (firstPlan?.Run == id) firstPlan = null;
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ExecuteAsync("update run set state = 'putAway' where id = $1 and state in ('planned', 'held', 'refused', 'reading')", [id], cancellationToken) == 1;
    }

    /// <summary>What runs did to a person, newest first.</summary>
    public async Task<List<(DateTimeOffset At, string By, string Source, RunStep Step)>> HistoryAsync(Guid person, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            $"""
            select {StepColumns}, run.applied_at, run.applied_by_name, source.name
            from run_step join run on run.id = run_step.run_id join source on source.id = run.source_id
            where run_step.person_id = $1 and run.state = 'applied' order by run_step.number desc limit 100
            """,
            [person],
            row => (row.GetFieldValue<DateTimeOffset>(11), row.GetString(12), row.GetString(13), ReadStep(row)),
            cancellationToken);
    }

    internal const string StepColumns =
        "run_step.action, run_step.key, run_step.person_id, run_step.line, before_name, before_facts, before_addresses, after_name, after_facts, after_addresses, run_step.is_new";

    internal static string Text(StepAction action) => action switch { StepAction.Join => "join", StepAction.Change => "change", StepAction.Leave => "leave", _ => "return" };

    /// <summary>How many steps a run has of each kind.</summary>
    internal static async Task<RunCounts> CountsAsync(NpgsqlConnection connection, Guid run, CancellationToken cancellationToken) =>
        (await connection.ReadFirstAsync(
            $"select steps.joining, steps.changing, steps.leaving, steps.coming_back, steps.known from run {Counted} where run.id = $1",
            [run],
            row => new RunCounts(row.GetInt32(0), row.GetInt32(1), row.GetInt32(2), row.GetInt32(3), row.GetInt32(4)),
            cancellationToken))!;

    private static async Task FinishAsync(NpgsqlConnection connection, Guid run, Guid source, Actor actor, string action, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync("update source set version = version + 1 where id = $1", [source], cancellationToken);
        await connection.ExecuteAsync("update run set state = 'applied', applied_at = clock_timestamp(), applied_by_name = $2 where id = $1", [run, actor.Name], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine(action, "run", run.ToString(), null, null), cancellationToken);
    }

    private static NpgsqlParameter Json<T>(T document) => Sql.Json(JsonSerializer.Serialize(document, RelevoJson.Options));

    private static string Text(RunKind kind) => kind == RunKind.ByHand ? "byHand" : kind.ToString().ToLowerInvariant();

    private static string Text(RunState state) => state == RunState.PutAway ? "putAway" : state.ToString().ToLowerInvariant();

    private static RunState State(string text) => Enum.Parse<RunState>(text, ignoreCase: true);

    private static RunStep ReadStep(NpgsqlDataReader row) => new(
        Enum.Parse<StepAction>(row.GetString(0), ignoreCase: true), row.GetString(1), row.GetGuid(2), row.GetInt64(3), ReadEntryState(row, 4), ReadEntryState(row, 7), row.GetBoolean(10));

    private static EntryState? ReadEntryState(NpgsqlDataReader row, int column) =>
        row.IsDBNull(column + 1) ? null : new EntryState(row.GetString(column), FactsJson.ReadOne(row.GetString(column + 1)), [.. row.GetFieldValue<string[]>(column + 2)]);

    private static SourceRun Read(NpgsqlDataReader row) => new(
        row.GetGuid(0),
        row.GetGuid(1),
        row.GetString(2),
        Enum.Parse<RunKind>(row.GetString(3), ignoreCase: true),
        row.GetString(4),
        State(row.GetString(5)),
        row.GetInt32(6),
        row.GetInt32(7),
        row.GetInt32(8),
        new RunCounts(row.GetInt32(9), row.GetInt32(10), row.GetInt32(11), row.GetInt32(12), row.GetInt32(13)),
        ReadList<LdifProblem>(row, 14),
        ReadList<RefusedValue>(row, 15),
        row.GetInt32(16),
        [.. row.GetFieldValue<string[]>(17)],
        ReadList<Collision>(row, 18),
        row.GetBoolean(19),
        row.GetBoolean(20),
        row.GetString(21),
        row.GetFieldValue<DateTimeOffset>(22),
        row.Maybe<string>(23),
        row.Maybe<DateTimeOffset?>(24));

    private static ImmutableArray<T> ReadList<T>(NpgsqlDataReader row, int column)
    {
        // Problems of files that were kept before runs existed have capital names.
        var json = row.GetString(column);
        return JsonSerializer.Deserialize<ImmutableArray<T>>(json, LenientJson);
    }

    private static readonly JsonSerializerOptions LenientJson = new(RelevoJson.Options) { PropertyNameCaseInsensitive = true };

    /// <summary>The plan of the very first people with what <see cref="FirstPeople"/> asks of them, so that it need not be read again. It goes when any run is applied.</summary>
    private sealed record FirstPlan(Guid Run, CopiedRows Joiners);
}
