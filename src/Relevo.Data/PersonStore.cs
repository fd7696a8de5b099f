using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using NpgsqlTypes;
using Relevo.Core;
using Relevo.Core.People;

namespace Relevo.Data;

/// <summary>What changed since a marker. Records is null when they are as they were. Pass Marker to the next reading.</summary>
public sealed record RosterChanges(ulong Marker, CompanyRecords? Records, List<Person> People);

/// <summary>People with their entries and accounts, read for the roster; and what is set on them by hand.</summary>
public sealed class PersonStore(NpgsqlDataSource database)
{
    /// <summary>
    /// Everything that changed since a marker (null: everything). A row that a transaction still running may yet change is read again next
    /// time; none is missed, because the marker is the oldest transaction that was running.
    /// </summary>
    public async Task<RosterChanges> ReadChangesAsync(ulong? marker, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var since = marker ?? 0;
        var (next, hasPeople, hasRecords) = await connection.ReadFirstAsync(
            """
            select pg_snapshot_xmin(pg_current_snapshot()), coalesce((select changed from person order by changed desc limit 1) >= $1, false),
                exists (select from unit where changed >= $1) or exists (select from field_set where changed >= $1) or exists (select from source where changed >= $1)
            """,
            [Xid(since)],
            row => (row.GetFieldValue<ulong>(0), row.GetBoolean(1), row.GetBoolean(2)),
            cancellationToken);
        var records = hasRecords || marker is null ? await ReadRecordsAsync(connection, cancellationToken) : null;
        return new RosterChanges(next, records, hasPeople ? await ReadPeopleAsync(connection, since, cancellationToken) : []);
    }

    /// <summary>
    /// Sets or takes out one value on a person's own layer, the override layer, or an account's override layer. value: null takes it out, an
    /// empty text is an explicit blank. Returns false when there is no such person or account.
    /// </summary>
    public async Task<bool> SetAsync(Guid person, Guid? account, bool isOwn, string field, string? value, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (!await SetAsync(connection, person, account, isOwn, field, value, actor, cancellationToken)) return false;
        await transaction.CommitAsync(cancellationToken);
        return true;
    }

    /// <summary>The same in the caller's transaction.</summary>
    internal static async Task<bool> SetAsync(NpgsqlConnection connection, Guid person, Guid? account, bool isOwn, string field, string? value, Actor actor, CancellationToken cancellationToken)
    {
        var (table, column, id) = account is { } one ? ("account", "override", one) : ("person", isOwn ? "own" : "override", person);
        var before = await connection.ReadFirstAsync(
            $"select {column}->>$2 from {table} where id = $1 and {(account is null ? "id" : "person_id")} = $3 for update", [id, field, person], row => new { Value = row.Maybe<string>(0) }, cancellationToken);
        if (before is null) return false;
        await connection.ExecuteAsync(
            $"update {table} set {column} = case when $3::text is null then {column} - $2 else {column} || jsonb_build_object($2, $3::text) end where id = $1", [id, field, Sql.Text(value)], cancellationToken);
        await TouchAsync(connection, [person], cancellationToken);
        await AuditLog.AppendAsync(
            connection,
            actor,
            new AuditLine(isOwn ? "own value set" : "override set", "person", person.ToString(), Json(field, before.Value, account), Json(field, value, account)),
            cancellationToken);
        return true;
    }

    /// <summary>Sets one override on many people at once.</summary>
    public async Task SetManyAsync(IReadOnlyCollection<Guid> people, string field, string? value, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync(
            """
            with before as (select id, override->>$2 as value from person where id = any($1) for update),
            changed as (
                update person set override = case when $3::text is null then override - $2 else override || jsonb_build_object($2, $3::text) end,
                    revision = revision + 1, updated_at = now(), changed = pg_current_xact_id()
                from before where person.id = before.id returning person.id, before.value)
            insert into audit_line (actor_id, actor_name, action, record_kind, record_id, before, after)
            select $4, $5, 'override set', 'person', id::text, jsonb_build_object($2, value), jsonb_build_object($2, $3::text) from changed
            """,
            [people.ToArray(), field, Sql.Text(value), Sql.Id(actor.Id), actor.Name],
            cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Retires people whatever sources list, with their accounts. Returns how many were not retired before.</summary>
    public async Task<int> RetireAsync(Guid[] people, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var retired = await connection.ReadAllAsync(
            """
            update person set retired_by_hand = true, retired_at = now(), revision = revision + 1, updated_at = now(), changed = pg_current_xact_id()
            where id = any($1) and retired_at is null returning id
            """,
            [people],
            row => row.GetGuid(0),
            cancellationToken);
        await connection.ExecuteAsync("update account set retired_at = now() where person_id = any($1) and retired_at is null", [retired.ToArray()], cancellationToken);
        await AuditAsync(connection, retired, "retired by hand", actor, cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return retired.Count;
    }

    /// <summary>Takes back that people were retired by hand; those whom a source lists are there again, with their accounts. Returns how many were retired by hand.</summary>
    public async Task<int> BringBackAsync(Guid[] people, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var back = await connection.ReadAllAsync("update person set retired_by_hand = false where id = any($1) and retired_by_hand returning id", [people], row => row.GetGuid(0), cancellationToken);
        await connection.ExecuteAsync("create temporary table affected on commit drop as select unnest($1::uuid[]) as person_id", [back.ToArray()], cancellationToken);
        await RunApplication.FollowAsync(connection, cancellationToken);
        await MailboxStore.AlignAsync(connection, null, [.. back], cancellationToken);
        await AuditAsync(connection, back, "brought back", actor, cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return back.Count;
    }

    /// <summary>Opens a field to people, or closes it to them again. A field that is open to everybody stays open. Returns how many it changed something for.</summary>
    public async Task<int> OpenFieldAsync(Guid[] people, string field, bool isOpen, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var changed = await connection.ReadAllAsync(
            """
            update person set opened = case when $3 then opened || $2::text else array_remove(opened, $2) end, revision = revision + 1, updated_at = now(), changed = pg_current_xact_id()
            where id = any($1) and ($2 = any(opened)) <> $3 returning id
            """,
            [people, field, isOpen],
            row => row.GetGuid(0),
            cancellationToken);
        await AuditAsync(connection, changed, $"{(isOpen ? "opened to the employee" : "closed to the employee")}: {field}", actor, cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return changed.Count;
    }

    private static Task AuditAsync(NpgsqlConnection connection, List<Guid> people, string action, Actor actor, CancellationToken cancellationToken) => connection.ExecuteAsync(
        "insert into audit_line (actor_id, actor_name, action, record_kind, record_id) select $1, $2, $3, 'person', id::text from unnest($4::uuid[]) id",
        [Sql.Id(actor.Id), actor.Name, action, people.ToArray()],
        cancellationToken);

    /// <summary>Marks people as changed, so that every process reads them again.</summary>
    internal static Task TouchAsync(NpgsqlConnection connection, Guid[] people, CancellationToken cancellationToken) => connection.ExecuteAsync(
        "update person set changed = pg_current_xact_id(), revision = revision + 1, updated_at = now() where id = any($1)", [people], cancellationToken);

    private static string Json(string field, string? value, Guid? account)
    {
        var line = new Dictionary<string, string?> { [field] = value };
        if (account is { } id) line["account"] = id.ToString();
        return JsonSerializer.Serialize(line);
    }

    /// <summary>Changed since $1. With an upper end, because for a range with two the planner expects few rows when it does not know the first, and takes the index.</summary>
    private const string Since = "person.changed between $1 and '18446744073709551615'";

    private static NpgsqlParameter Xid(ulong value) => new() { Value = value, NpgsqlDbType = NpgsqlDbType.Xid8 };

    private static async Task<CompanyRecords> ReadRecordsAsync(NpgsqlConnection connection, CancellationToken cancellationToken)
    {
        var fields = await connection.ReadFirstAsync("select document::text from field_set", [], row => JsonSerializer.Deserialize<FieldSet>(row.GetString(0), RelevoJson.Options)!, cancellationToken);
        var units = await connection.ReadAllAsync($"select {UnitStore.Columns} from unit where retired_at is null order by kind, name, id", [], UnitStore.Read, cancellationToken);
        var sources = await connection.ReadAllAsync("select id, name from source", [], row => KeyValuePair.Create(row.GetGuid(0), row.GetString(1)), cancellationToken);
        return new CompanyRecords(fields!.ToCatalogue(), new UnitChart([.. units]), sources.ToImmutableDictionary());
    }

    private static async Task<List<Person>> ReadPeopleAsync(NpgsqlConnection connection, ulong since, CancellationToken cancellationToken)
    {
        var facts = new FactsJson();
        var entries = (await connection.ReadAllAsync(
            $"""
            select entry.person_id, entry.source_id, entry.key, step.after_name, step.after_facts
            from source_entry entry join run_step step on step.number = entry.step
            join person on person.id = entry.person_id join source on source.id = entry.source_id
            where {Since} and (entry.is_listed or person.retired_at is not null)
            order by source.position, source.created_at, entry.key
            """,
            [Xid(since)],
            row => (Person: row.GetGuid(0), Entry: new Entry(row.GetGuid(1), row.GetString(2), row.GetString(3), facts.Read(row.GetString(4)))),
            cancellationToken)).ToLookup(pair => pair.Person, pair => pair.Entry);
        var accounts = (await connection.ReadAllAsync(
            $"""
            select account.person_id, account.id, account.address, account.kind, account.override::text, coalesce(mailbox.facts, jsonb_build_object())::text
            from account join person on person.id = account.person_id left join mailbox on mailbox.id = account.mailbox_id
            where {Since} and account.retired_at is null
            order by account.mailbox_id is not null, account.position, lower(account.address)
            """,
            [Xid(since)],
            row => (Person: row.GetGuid(0), Account: new Account(row.GetGuid(1), row.GetString(2), Enum.Parse<AccountKind>(row.GetString(3), ignoreCase: true), facts.Read(row.GetString(4)), facts.Read(row.GetString(5)))),
            cancellationToken)).ToLookup(pair => pair.Person, pair => pair.Account);
        return await connection.ReadAllAsync(
            $"select id, own::text, override::text, retired_at is not null, opened, retired_by_hand from person where {Since}",
            [Xid(since)],
            row => new Person(row.GetGuid(0), [.. entries[row.GetGuid(0)]], facts.Read(row.GetString(1)), facts.Read(row.GetString(2)), [.. accounts[row.GetGuid(0)]], row.GetBoolean(3))
            {
                Opened = row.GetFieldValue<string[]>(4) is { Length: > 0 } opened ? [.. opened] : [],
                IsRetiredByHand = row.GetBoolean(5),
            },
            cancellationToken);
    }
}
