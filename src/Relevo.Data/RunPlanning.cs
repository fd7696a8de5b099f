using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>A step with what the entry said before.</summary>
internal readonly record struct PlannedStep(SyncStep Step, EntryState? Before, Guid BeforeHash);

/// <summary>The steps of a plan beside what entries said before. What only seemed to change is no step.</summary>
internal sealed class PlannedSteps
{
    /// <summary>Goes through the plan once, which may have a hundred thousand steps.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public PlannedSteps(SyncPlan plan, Dictionary<string, (EntryState State, Guid Hash)> before)
    {
        var (joining, changing, leaving, returning, known) = (0, 0, 0, 0, 0);
        All.Capacity = Said.Capacity = plan.Steps.Length;
        for (var index = 0; index < plan.Steps.Length; index++)
        {
            ref readonly var step = ref plan.Steps.ItemRef(index);
            var (state, hash) = step.Action == StepAction.Join ? default : before.GetValueOrDefault(step.Key);
            if (step.Action == StepAction.Change && FieldChange.Compare(state!, RunPlanning.State(step.After!)).IsEmpty)
            {
                Same.Add(step);
                continue;
            }

            All.Add(new PlannedStep(step, state, hash));
            if (step.After is { } after) Said.Add(after.Facts);
            if (step.Action == StepAction.Join) joining++;
            else if (step.Action == StepAction.Change) changing++;
            else if (step.Action == StepAction.Leave) leaving++;
            else returning++;
            if (step.Action == StepAction.Join && !step.IsNew) known++;
        }

        Counts = new RunCounts(joining, changing, leaving, returning, known);
    }

    /// <summary>Steps in the plan's order.</summary>
    public List<PlannedStep> All { get; } = [];

    /// <summary>What they say.</summary>
    public List<Facts> Said { get; } = [];

    /// <summary>Changes of which nothing is left when the facts themselves are compared.</summary>
    public List<SyncStep> Same { get; } = [];

    /// <summary>How many steps there are of each kind.</summary>
    public RunCounts Counts { get; }
}

/// <summary>What a content would do to the people as they are in the caller's transaction. SourceVersion: read before them, so that whoever changes them meanwhile makes the plan stale.</summary>
internal sealed record RunPlanning(long SourceVersion, IReadOnlyList<PlannedStep> Steps, RunCounts Counts, int Unchanged, ImmutableArray<string> Brake, ImmutableArray<Collision> Collisions)
{
    /// <summary>What steps say, for the units they name.</summary>
    public IReadOnlyList<Facts> Said { get; init; } = [];

    /// <summary>See <see cref="SyncPlan.HasPlainAddresses"/>.</summary>
    public bool HasPlainAddresses { get; init; }

    /// <summary>Plans a content.</summary>
    public static async Task<RunPlanning> PlanAsync(NpgsqlConnection connection, Guid source, DirectoryContent content, FieldCatalogue fields, CancellationToken cancellationToken)
    {
        var settings = await connection.ReadFirstAsync(
            "select brake::text, join_by, version, exists (select from source_entry where source_id = source.id) from source where id = $1",
            [source],
            row => new { Brake = row.Maybe<string>(0) is { } brake ? JsonSerializer.Deserialize<BrakeSettings>(brake, RelevoJson.Options)! : BrakeSettings.Default, JoinBy = row.GetFieldValue<string[]>(1), Version = row.GetInt64(2), HasEntries = row.GetBoolean(3) },
            cancellationToken) ?? throw new InvalidOperationException($"The source {source} is not there.");
        if (!content.Problems.IsEmpty) return new RunPlanning(settings.Version, [], new RunCounts(0, 0, 0, 0), 0, [], []);
        // While the database tells what it knows, the other core looks at what is said now. There is nothing to compare a first content with.
        var hashing = settings.HasEntries ? Task.Run(() => EntryContent.HashAll(content.People), cancellationToken) : null;
        var known = KnownEntries(await CopiedRows.ReadAsync(connection, $"select key, person_id, content_hash, is_listed from source_entry where source_id = '{source}'", cancellationToken));
        var match = await MatchAsync(connection, source, settings.JoinBy, cancellationToken);
        var hashes = known.Count == 0 ? [] : hashing is null ? EntryContent.HashAll(content.People) : await hashing; // somebody may have been first
        var plan = SyncPlan.Plan(known, content.People, hashes, match, new RisingIds().Next);
        var steps = new PlannedSteps(plan, known.Count == 0 ? [] : await ReadBeforeAsync(connection, source, plan, cancellationToken));
        await RehashAsync(connection, source, steps.Same, cancellationToken);
        var emptied = await EmptiedAsync(connection, source, steps, settings.Brake, cancellationToken);
        var brake = Core.People.Sources.Brake.Reasons(settings.Brake, known.Count(entry => entry.IsListed), content.People.Length, steps.Counts.Leaving, emptied, fields.Label);
        return new RunPlanning(settings.Version, steps.All, steps.Counts, plan.Unchanged + steps.Same.Count, brake, await CollideAsync(connection, steps.All, cancellationToken)) { Said = steps.Said, HasPlainAddresses = plan.HasPlainAddresses };
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static List<KnownEntry> KnownEntries(CopiedRows rows)
    {
        var known = new List<KnownEntry>();
        while (rows.Next()) known.Add(new KnownEntry(rows.TakeText(), rows.TakeId(), rows.TakeId(), rows.TakeBoolean()));
        return known;
    }

    /// <summary>Notes the hash of entries that are as they were and were hashed in another way, by a Relevo of before: once, not at every sync.</summary>
    private static async Task RehashAsync(NpgsqlConnection connection, Guid source, List<SyncStep> same, CancellationToken cancellationToken)
    {
        if (same.Count == 0) return;
        await connection.ExecuteAsync(
            "update source_entry set content_hash = said.hash from unnest($2::text[], $3::uuid[]) said (key, hash) where source_id = $1 and source_entry.key = said.key",
            [source, same.Select(step => step.Key).ToArray(), same.Select(step => step.ContentHash).ToArray()],
            cancellationToken);
    }

    public static EntryState State(ListedPerson person) => new(person.DistinguishedName, person.Facts, person.Addresses);

    /// <summary>Kinds of units with the names that these facts have for them.</summary>
    public static IReadOnlyDictionary<string, string[]> UnitsOf(IReadOnlyList<Facts> said)
    {
        var kinds = Unit.Named;
        var names = new string[kinds.Length][];
        Parallel.For(0, kinds.Length, index => names[index] = Facts.ValuesOf(said, Unit.FieldNaming(kinds[index]))); // these may be the facts of a hundred thousand people
        var units = new Dictionary<string, string[]>();
        for (var index = 0; index < kinds.Length; index++) units.Add(UnitStore.Text(kinds[index]), names[index]);
        return units;
    }

    /// <summary>Addresses that somebody gets, in small letters, and by which step.</summary>
    private static Dictionary<string, SyncStep> WantedAddresses(List<PlannedStep> steps)
    {
        var wanted = new Dictionary<string, SyncStep>(steps.Count, StringComparer.Ordinal);
        foreach (var (step, before, _) in steps)
        {
            foreach (var address in step.After?.Addresses ?? [])
            {
                if (before is not null && step.Action == StepAction.Change && before.Addresses.Contains(address, StringComparer.OrdinalIgnoreCase)) continue;
                wanted.TryAdd(address.ToLowerInvariant(), step);
            }
        }

        return wanted;
    }

    /// <summary>Finds the person of another source who is the same, by what the administrator said tells it. Two who could be meant are nobody.</summary>
    private static async Task<Func<ListedPerson, Guid?>> MatchAsync(NpgsqlConnection connection, Guid source, string[] joinBy, CancellationToken cancellationToken)
    {
        if (joinBy.Length == 0) return _ => null;
        var byAddress = new Dictionary<string, Guid>(StringComparer.OrdinalIgnoreCase);
        var byNumber = new Dictionary<string, Guid>(StringComparer.OrdinalIgnoreCase);
        var others = await connection.ReadAllAsync(
            """
            select entry.person_id, step.after_addresses, step.after_facts::json->>'employeeNumber'
            from source_entry entry join run_step step on step.number = entry.step where entry.source_id <> $1 and entry.is_listed
            """,
            [source],
            row => (Person: row.GetGuid(0), Addresses: row.GetFieldValue<string[]>(1), Number: row.Maybe<string>(2)),
            cancellationToken);
        foreach (var (person, addresses, number) in others)
        {
            foreach (var address in addresses) byAddress[address] = byAddress.TryGetValue(address, out var other) && other != person ? Guid.Empty : person;
            if (number is { Length: > 0 }) byNumber[number] = byNumber.TryGetValue(number, out var same) && same != person ? Guid.Empty : person;
        }

        return person =>
        {
            var found = Guid.Empty;
            if (joinBy.Contains("employeeNumber") && person.Facts["employeeNumber"] is { Length: > 0 } number) byNumber.TryGetValue(number, out found);
            if (found == Guid.Empty && joinBy.Contains("mail")) found = person.Addresses.Select(address => byAddress.GetValueOrDefault(address)).FirstOrDefault(id => id != Guid.Empty);
            return found == Guid.Empty ? null : found;
        };
    }

    private static async Task<Dictionary<string, (EntryState State, Guid Hash)>> ReadBeforeAsync(NpgsqlConnection connection, Guid source, SyncPlan plan, CancellationToken cancellationToken)
    {
        var keys = plan.Steps.Where(step => step.Action != StepAction.Join).Select(step => step.Key).ToArray();
        if (keys.Length == 0) return [];
        var facts = new FactsJson();
        var rows = await connection.ReadAllAsync(
            """
            select entry.key, step.after_name, step.after_facts, step.after_addresses, entry.content_hash
            from source_entry entry join run_step step on step.number = entry.step where entry.source_id = $1 and entry.key = any($2)
            """,
            [source, keys],
            row => (Key: row.GetString(0), State: new EntryState(row.GetString(1), facts.Read(row.GetString(2)), [.. row.GetFieldValue<string[]>(3)]), Hash: row.GetGuid(4)),
            cancellationToken);
        return rows.ToDictionary(row => row.Key, row => (row.State, row.Hash), StringComparer.Ordinal);
    }

    /// <summary>Fields that enough people lose for the brake to look at them, with how many have them now.</summary>
    private static async Task<List<EmptiedField>> EmptiedAsync(NpgsqlConnection connection, Guid source, PlannedSteps steps, BrakeSettings brake, CancellationToken cancellationToken)
    {
        if (steps.Counts.Changing < brake.AtLeast) return [];
        var lost = steps.All.Where(step => step.Step.Action == StepAction.Change)
            .SelectMany(step => step.Before!.Facts.Names.Where(name => step.Before.Facts[name]!.Length > 0 && string.IsNullOrEmpty(step.Step.After!.Facts[name])))
            .CountBy(name => name)
            .Where(pair => pair.Value >= brake.AtLeast)
            .ToDictionary(StringComparer.Ordinal);
        if (lost.Count == 0) return [];
        return await connection.ReadAllAsync(
            """
            select field, count(*)::int
            from source_entry entry join run_step step on step.number = entry.step cross join unnest($2::text[]) field
            where entry.source_id = $1 and entry.is_listed and coalesce(step.after_facts::json->>field, '') <> '' group by field
            """,
            [source, lost.Keys.ToArray()],
            row => new EmptiedField(row.GetString(0), row.GetInt32(1), lost[row.GetString(0)]),
            cancellationToken);
    }

    /// <summary>Addresses that somebody else has and keeps: the other is of another source, or does not give it up in this run.</summary>
    private static async Task<ImmutableArray<Collision>> CollideAsync(NpgsqlConnection connection, List<PlannedStep> steps, CancellationToken cancellationToken)
    {
        const int maxCollisions = 500; // named; more are one mistake
        if (steps.Count == 0 || !await connection.ReadFirstAsync("select exists (select from account)", [], row => row.GetBoolean(0), cancellationToken)) return [];
        var wanted = WantedAddresses(steps);
        if (wanted.Count == 0) return [];
        var released = steps.SelectMany(step => (step.Before?.Addresses ?? []).Where(address => step.Step.After?.Addresses.Contains(address, StringComparer.OrdinalIgnoreCase) != true).Select(address => (step.Step.PersonId, address.ToLowerInvariant()))).ToHashSet();
        var owners = await connection.ReadAllAsync(
            """
            select lower(account.address), account.person_id, coalesce(
                (select step.after_facts::json->>'displayName' from source_entry entry join run_step step on step.number = entry.step where entry.person_id = account.person_id limit 1), account.address)
            from account where retired_at is null and mailbox_id is null and lower(address) = any($1)
            """,
            [wanted.Keys.ToArray()],
            row => (Address: row.GetString(0), Person: row.GetGuid(1), Name: row.GetString(2)),
            cancellationToken);
        return
        [
            .. owners.Where(owner => owner.Person != wanted[owner.Address].PersonId && !released.Contains((owner.Person, owner.Address)))
                .Select(owner => new Collision(wanted[owner.Address].Key, wanted[owner.Address].After!.Name, owner.Address, owner.Person, owner.Name))
                .OrderBy(collision => collision.Person, StringComparer.Ordinal)
                .Take(maxCollisions),
        ];
    }
}
