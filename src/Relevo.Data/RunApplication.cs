using Npgsql;

namespace Relevo.Data;

/// <summary>Turns the steps of a run into people, entries, accounts and units, set by set, in the caller's transaction.</summary>
internal static class RunApplication
{
    public static async Task ApplyAsync(NpgsqlConnection connection, Guid run, Guid source, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync(
            "insert into person (id) select distinct person_id from run_step where run_id = $1 and action = 'join' on conflict do nothing", [run], cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into source_entry (source_id, key, person_id, distinguished_name, facts, addresses, content_hash)
            select $2, key, person_id, after_name, after_facts, after_addresses, after_hash from run_step where run_id = $1 and action = 'join'
            """,
            [run, source],
            cancellationToken);
        await connection.ExecuteAsync(
            """
            update source_entry set distinguished_name = after_name, facts = after_facts, addresses = after_addresses, content_hash = after_hash, is_listed = true
            from run_step step where step.run_id = $1 and step.action in ('change', 'return') and source_entry.source_id = $2 and source_entry.key = step.key
            """,
            [run, source],
            cancellationToken);
        await connection.ExecuteAsync(
            """
            update source_entry set is_listed = false
            from run_step step where step.run_id = $1 and step.action = 'leave' and source_entry.source_id = $2 and source_entry.key = step.key
            """,
            [run, source],
            cancellationToken);
        await connection.ExecuteAsync(
            "create temporary table affected on commit drop as select distinct person_id from run_step where run_id = $1", [run], cancellationToken);
        await FollowAsync(connection, cancellationToken);
    }

    /// <summary>Brings people and their accounts in line with the entries of everybody in the temporary table "affected", and makes units that are named for the first time.</summary>
    public static async Task FollowAsync(NpgsqlConnection connection, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync("analyze affected", [], cancellationToken);
        // Rows of this very transaction are new people: they are as they should be.
        await connection.ExecuteAsync(
            """
            update person set changed = pg_current_xact_id(), updated_at = now(), revision = revision + 1,
                retired_at = case when exists (select from source_entry where person_id = person.id and is_listed) then null else coalesce(retired_at, now()) end
            from affected where person.id = affected.person_id and person.changed <> pg_current_xact_id()
            """,
            [],
            cancellationToken);
        await AlignAccountsAsync(connection, cancellationToken);
        foreach (var (kind, field) in new[] { ("entity", "organisation"), ("office", "location"), ("team", "department") })
        {
            await connection.ExecuteAsync(
                $"""
                insert into unit (kind, name)
                select distinct on (lower(name)) '{kind}', name from (
                    select left(source_entry.facts->>'{field}', 200) as name from source_entry join affected using (person_id) where is_listed group by 1) named
                where name <> '' and not exists (select from unit where kind = '{kind}' and lower(unit.name) = lower(named.name) and retired_at is null)
                on conflict do nothing
                """,
                [],
                cancellationToken);
        }
    }

    /// <summary>Retires first, so that an address may pass from one person to another; an address somebody else keeps is left to them.</summary>
    private static async Task AlignAccountsAsync(NpgsqlConnection connection, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync(
            """
            create temporary table wanted on commit drop as
            select person_id, address, (row_number() over (partition by person_id order by position, created_at, place) - 1)::int as position from (
                select distinct on (entry.person_id, lower(address.value)) entry.person_id, address.value as address, source.position, source.created_at, address.place
                from affected join source_entry entry using (person_id) join source on source.id = entry.source_id
                cross join unnest(entry.addresses) with ordinality as address(value, place)
                where entry.is_listed
                order by entry.person_id, lower(address.value), source.position, source.created_at, address.place) once
            """,
            [],
            cancellationToken);
        await connection.ExecuteAsync("analyze wanted", [], cancellationToken);
        await connection.ExecuteAsync(
            """
            update account set retired_at = now() from affected, person
            where account.person_id = affected.person_id and person.id = affected.person_id and account.retired_at is null
                and (person.retired_at is not null or account.mailbox_id is null and not exists (select from wanted where wanted.person_id = account.person_id and wanted.address = account.address))
            """,
            [],
            cancellationToken);
        await connection.ExecuteAsync(
            """
            update account set position = wanted.position, kind = case when wanted.position = 0 then 'own' else 'alias' end
            from wanted
            where account.person_id = wanted.person_id and account.address = wanted.address and account.retired_at is null and account.mailbox_id is null and account.position <> wanted.position
            """,
            [],
            cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into account (person_id, address, kind, position)
            select person_id, address, case when position = 0 then 'own' else 'alias' end, position from wanted
            where not exists (select from account where account.person_id = wanted.person_id and account.address = wanted.address and account.retired_at is null and mailbox_id is null)
            on conflict (lower(address)) where retired_at is null and mailbox_id is null do nothing
            """,
            [],
            cancellationToken);
        await connection.ExecuteAsync("drop table wanted", [], cancellationToken);
    }
}
