using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using NpgsqlTypes;
using Relevo.Core.People;
using Relevo.Core.People.Formats;

namespace Relevo.Data;

/// <summary>A file that was read and waits to be applied, or was.</summary>
public sealed record ImportPlan(Guid Id, string FileName, int OtherEntries, ImmutableArray<LdifProblem> Problems, bool IsApplied, bool IsStale, SyncPlan Sync);

/// <summary>What became of an attempt to apply a plan.</summary>
public enum ApplyOutcome
{
    /// <summary>The people are as the file has them.</summary>
    Applied,

    /// <summary>There is no such plan.</summary>
    NotFound,

    /// <summary>It was applied before.</summary>
    AlreadyApplied,

    /// <summary>The file has lines that cannot be read; nothing may be applied.</summary>
    HasProblems,

    /// <summary>People changed since the plan was made.</summary>
    Stale,
}

/// <summary>Files on their way to becoming people: kept as read, compared, then applied all or nothing.</summary>
public sealed class ImportStore(NpgsqlDataSource database)
{
    private static readonly Guid FileSource = Guid.Parse("5f1d0c5e-0000-4000-8000-000000000001");

    /// <summary>Keeps what a file lists. Returns the plan's id.</summary>
    public async Task<Guid> KeepAsync(Guid id, string fileName, DirectoryContent content, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into source (id, kind, name) values ($1, 'ldif', 'Directory file') on conflict do nothing", [FileSource], cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into import_plan (id, source_id, source_version, file_name, other_entries, problems, created_by)
            select $1, id, version, $3, $4, $5, $6 from source where id = $2
            """,
            [id, FileSource, fileName, content.OtherEntries, Sql.Json(JsonSerializer.Serialize(content.Problems)), actor.Id],
            cancellationToken);
        await CopyAsync(connection, id, content.People, cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return id;
    }

    /// <summary>A plan with what it would do to the people as they are now, or null.</summary>
    public async Task<ImportPlan?> FindAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var head = await connection.ReadFirstAsync(
            """
            select plan.file_name, plan.other_entries, plan.problems::text, plan.applied_at is not null, plan.source_version <> source.version
            from import_plan plan join source on source.id = plan.source_id where plan.id = $1
            """,
            [id],
            row => new ImportPlan(id, row.GetString(0), row.GetInt32(1), JsonSerializer.Deserialize<ImmutableArray<LdifProblem>>(row.GetString(2)), row.GetBoolean(3), row.GetBoolean(4), null!),
            cancellationToken);
        if (head is null) return null;
        var listed = await connection.ReadAllAsync(
            "select source_key, distinguished_name, facts::text, addresses, line from import_person where plan_id = $1 order by line",
            [id],
            row => new ListedPerson(row.GetString(0), row.GetString(1), PersonStore.ReadFacts(row.GetString(2)), [.. row.GetFieldValue<string[]>(3)], row.GetInt64(4)),
            cancellationToken);
        var current = await connection.ReadAllAsync($"select {PersonStore.Columns} from person where source_id = $1", [FileSource], PersonStore.Read, cancellationToken);
        return head with { Sync = SyncPlan.Plan(current, listed) };
    }

    /// <summary>Applies a plan in one transaction, with an audit line for every person it touches.</summary>
    public async Task<ApplyOutcome> ApplyAsync(Guid id, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var outcome = await connection.ReadFirstAsync(
            """
            select plan.applied_at is not null, jsonb_array_length(plan.problems) > 0, plan.source_version <> source.version
            from import_plan plan join source on source.id = plan.source_id where plan.id = $1 for update
            """,
            [id],
            row => (ApplyOutcome?)(row.GetBoolean(0) ? ApplyOutcome.AlreadyApplied : row.GetBoolean(1) ? ApplyOutcome.HasProblems : row.GetBoolean(2) ? ApplyOutcome.Stale : ApplyOutcome.Applied),
            cancellationToken) ?? ApplyOutcome.NotFound;
        if (outcome != ApplyOutcome.Applied) return outcome;
        await RetireAsync(connection, id, actor, cancellationToken);
        await ChangeAsync(connection, id, actor, cancellationToken);
        await JoinAsync(connection, id, actor, cancellationToken);
        await AlignAccountsAsync(connection, id, cancellationToken);
        await connection.ExecuteAsync("update source set version = version + 1 where id = $1", [FileSource], cancellationToken);
        await connection.ExecuteAsync("update import_plan set applied_at = now() where id = $1", [id], cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return ApplyOutcome.Applied;
    }

    private static async Task CopyAsync(NpgsqlConnection connection, Guid id, ImmutableArray<ListedPerson> people, CancellationToken cancellationToken)
    {
        await using var copy = await connection.BeginBinaryImportAsync(
            "copy import_person (plan_id, source_key, distinguished_name, facts, addresses, line) from stdin (format binary)", cancellationToken);
        foreach (var person in people)
        {
            await copy.StartRowAsync(cancellationToken);
            await copy.WriteAsync(id, NpgsqlDbType.Uuid, cancellationToken);
            await copy.WriteAsync(person.SourceKey, NpgsqlDbType.Text, cancellationToken);
            await copy.WriteAsync(person.DistinguishedName, NpgsqlDbType.Text, cancellationToken);
            await copy.WriteAsync(PersonStore.WriteFacts(person.Facts), NpgsqlDbType.Jsonb, cancellationToken);
            await copy.WriteAsync(person.Addresses.ToArray(), NpgsqlDbType.Array | NpgsqlDbType.Text, cancellationToken);
            await copy.WriteAsync(person.Line, NpgsqlDbType.Bigint, cancellationToken);
        }

        await copy.CompleteAsync(cancellationToken);
    }

    private static Task RetireAsync(NpgsqlConnection connection, Guid plan, Actor actor, CancellationToken cancellationToken) => connection.ExecuteAsync(
        """
        with gone as (
            update person set retired_at = now(), updated_at = now()
            where source_id = $2 and retired_at is null
                and not exists (select from import_person listed where listed.plan_id = $1 and lower(listed.source_key) = lower(person.source_key))
            returning id, facts)
        insert into audit_line (actor_id, actor_name, action, record_kind, record_id, before, after)
        select $3, $4, 'person retired', 'person', id::text, facts, null from gone
        """,
        [plan, FileSource, actor.Id, actor.Name],
        cancellationToken);

    private static Task ChangeAsync(NpgsqlConnection connection, Guid plan, Actor actor, CancellationToken cancellationToken) => connection.ExecuteAsync(
        """
        with before as (
            select person.id, person.facts, person.retired_at is not null as was_retired, listed.facts as new_facts, listed.distinguished_name
            from person join import_person listed on listed.plan_id = $1 and lower(listed.source_key) = lower(person.source_key)
            where person.source_id = $2
                and (person.facts <> listed.facts or person.distinguished_name <> listed.distinguished_name or person.retired_at is not null)),
        changed as (
            update person set facts = before.new_facts, distinguished_name = before.distinguished_name,
                display_name = before.new_facts->>'displayName', retired_at = null, updated_at = now()
            from before where before.id = person.id returning person.id)
        insert into audit_line (actor_id, actor_name, action, record_kind, record_id, before, after)
        select $3, $4, case when before.was_retired then 'person returned' else 'person changed' end, 'person', before.id::text, before.facts, before.new_facts
        from before join changed on changed.id = before.id
        """,
        [plan, FileSource, actor.Id, actor.Name],
        cancellationToken);

    private static Task JoinAsync(NpgsqlConnection connection, Guid plan, Actor actor, CancellationToken cancellationToken) => connection.ExecuteAsync(
        """
        with joined as (
            insert into person (id, source_id, source_key, distinguished_name, display_name, facts)
            select gen_random_uuid(), $2, listed.source_key, listed.distinguished_name, listed.facts->>'displayName', listed.facts
            from import_person listed
            where listed.plan_id = $1
                and not exists (select from person where person.source_id = $2 and lower(person.source_key) = lower(listed.source_key))
            returning id, facts)
        insert into audit_line (actor_id, actor_name, action, record_kind, record_id, before, after)
        select $3, $4, 'person joined', 'person', id::text, null, facts from joined
        """,
        [plan, FileSource, actor.Id, actor.Name],
        cancellationToken);

    /// <summary>Retires first, so that an address may pass from one person to another in the same file.</summary>
    private static async Task AlignAccountsAsync(NpgsqlConnection connection, Guid plan, CancellationToken cancellationToken)
    {
        const string wanted =
            """
            with wanted as (
                select person.id as person_id, address.value as address, (address.place - 1)::int as position
                from person
                join import_person listed on listed.plan_id = $1 and lower(listed.source_key) = lower(person.source_key)
                cross join unnest(listed.addresses) with ordinality as address(value, place)
                where person.source_id = $2)
            """;
        await connection.ExecuteAsync(
            wanted + """
            update account set retired_at = now() from person
            where person.id = account.person_id and person.source_id = $2 and account.retired_at is null
                and not exists (select from wanted where wanted.person_id = account.person_id and wanted.address = account.address)
            """,
            [plan, FileSource],
            cancellationToken);
        await connection.ExecuteAsync(
            wanted + """
            update account set position = wanted.position, kind = case when wanted.position = 0 then 'own' else 'alias' end
            from wanted
            where account.person_id = wanted.person_id and account.address = wanted.address and account.retired_at is null and account.position <> wanted.position
            """,
            [plan, FileSource],
            cancellationToken);
        await connection.ExecuteAsync(
            wanted + """
            insert into account (person_id, address, kind, position)
            select person_id, address, case when position = 0 then 'own' else 'alias' end, position from wanted
            where not exists (select from account where account.person_id = wanted.person_id and account.address = wanted.address and account.retired_at is null)
            """,
            [plan, FileSource],
            cancellationToken);
    }
}
