using Npgsql;

namespace Relevo.Data;

/// <summary>Turns the steps of a run into people, entries, accounts and units, set by set, in the caller's transaction.</summary>
internal static class RunApplication
{
    /// <summary>Applies all steps of a run. joiners: what <see cref="FirstPeople"/> asks of them, if it is known already.</summary>
    public static async Task ApplyAsync(NpgsqlConnection connection, Guid run, Guid source, CopiedRows? joiners, CancellationToken cancellationToken)
    {
        var counts = await RunStore.CountsAsync(connection, run, cancellationToken);
        var joining = counts.Joining - counts.Known;
        await BulkLoad.FillAsync(connection, ["person", "source_entry", "account"], joining, isBare => JoinAsync(connection, run, source, isBare, joiners, cancellationToken), cancellationToken);
        if (counts.Changing + counts.Returning > 0)
        {
            await connection.ExecuteAsync(
                """
                update source_entry set step = step.number, content_hash = step.after_hash, is_listed = true
                from run_step step where step.run_id = $1 and step.action in ('change', 'return') and source_entry.source_id = $2 and source_entry.key = step.key
                """,
                [run, source],
                cancellationToken);
        }

        if (counts.Leaving > 0)
        {
            await connection.ExecuteAsync(
                """
                update source_entry set is_listed = false
                from run_step step where step.run_id = $1 and step.action = 'leave' and source_entry.source_id = $2 and source_entry.key = step.key
                    -- Whoever a client made active again while the brake held the run stays.
                    and not exists (select from scim_resource resource where resource.source_id = $2 and resource.id::text = step.key and resource.is_active)
                """,
                [run, source],
                cancellationToken);
        }

        await AddUnitsAsync(connection, run, cancellationToken);
        if (counts.Known + counts.Changing + counts.Leaving + counts.Returning > 0)
        {
            await connection.ExecuteAsync(
                "create temporary table affected on commit drop as select distinct person_id from run_step where run_id = $1 and not is_new", [run], cancellationToken);
            await FollowAsync(connection, cancellationToken);
        }

        await MailboxStore.AlignRunAsync(connection, run, cancellationToken);
    }

    /// <summary>Makes people, entries and accounts of joiners. isBare: there are none yet, and no index either.</summary>
    private static async Task JoinAsync(NpgsqlConnection connection, Guid run, Guid source, bool isBare, CopiedRows? joiners, CancellationToken cancellationToken)
    {
        if (isBare && await connection.ReadFirstAsync("select has_plain_addresses from run where id = $1", [run], row => row.GetBoolean(0), cancellationToken))
        {
            await FirstPeople.MakeAsync(connection, joiners ?? await FirstPeople.ReadJoinersAsync(connection, run, cancellationToken), source, cancellationToken);
            return;
        }

        await connection.ExecuteAsync("insert into person (id) select person_id from run_step where run_id = $1 and is_new", [run], cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into source_entry (source_id, key, person_id, step, content_hash)
            select $2, key, person_id, number, after_hash from run_step where run_id = $1 and action = 'join'
            """,
            [run, source],
            cancellationToken);
        // New people have no accounts and no other source: theirs are as the step says. The first account of a person has the person's id, because
        // a hundred thousand random ids take as long as the rows themselves.
        var isOnce = isBare ? "" : "on conflict (lower(address)) where retired_at is null and mailbox_id is null do nothing";
        await connection.ExecuteAsync(
            $"""
            insert into account (id, person_id, address, kind, position)
            select distinct on (lower(address.value)) case when address.place = 1 then person_id else gen_random_uuid() end,
                person_id, address.value, case when address.place = 1 then 'own' else 'alias' end, (address.place - 1)::int
            from run_step cross join unnest(after_addresses) with ordinality as address(value, place)
            where run_id = $1 and is_new
            order by lower(address.value), number, address.place
            {isOnce}
            """,
            [run],
            cancellationToken);
    }

    /// <summary>Brings people and their accounts in line with the entries of everybody in the temporary table "affected".</summary>
    public static async Task FollowAsync(NpgsqlConnection connection, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync("analyze affected", [], cancellationToken);
        await connection.ExecuteAsync(
            """
            update person set changed = pg_current_xact_id(), updated_at = now(), revision = revision + 1,
                retired_at = case when not retired_by_hand and exists (select from source_entry where person_id = person.id and is_listed) then null else coalesce(retired_at, now()) end
            from affected where person.id = affected.person_id
            """,
            [],
            cancellationToken);
        await AlignAccountsAsync(connection, cancellationToken);
    }

    /// <summary>Makes the legal entities, offices and teams that are named for the first time.</summary>
    private static Task AddUnitsAsync(NpgsqlConnection connection, Guid run, CancellationToken cancellationToken) => connection.ExecuteAsync(
        """
        insert into unit (kind, name)
        select distinct on (kind, lower(name)) kind, name
        from (select part.kind, left(said.name, 200) as name from run, jsonb_each(run.units) as part(kind, names), jsonb_array_elements_text(part.names) as said(name) where run.id = $1) named
        where not exists (select from unit where unit.kind = named.kind and lower(unit.name) = lower(named.name) and retired_at is null)
        on conflict do nothing
        """,
        [run],
        cancellationToken);

    /// <summary>Retires first, so that an address may pass from one person to another; an address somebody else keeps is left to them.</summary>
    private static async Task AlignAccountsAsync(NpgsqlConnection connection, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync(
            """
            create temporary table wanted on commit drop as
            select person_id, address, (row_number() over (partition by person_id order by position, created_at, place) - 1)::int as position from (
                select distinct on (entry.person_id, lower(address.value)) entry.person_id, address.value as address, source.position, source.created_at, address.place
                from affected join source_entry entry using (person_id) join run_step step on step.number = entry.step join source on source.id = entry.source_id
                join person on person.id = entry.person_id
                cross join unnest(step.after_addresses) with ordinality as address(value, place)
                where entry.is_listed and person.retired_at is null
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
        // An account that comes back is the one that was there, with what was set for it.
        await connection.ExecuteAsync(
            """
            update account set retired_at = null from (
                select distinct on (account.person_id, account.address) account.id from wanted join account using (person_id, address)
                where account.mailbox_id is null and account.retired_at is not null
                    and not exists (select from account other where lower(other.address) = lower(account.address) and other.retired_at is null and other.mailbox_id is null)
                order by account.person_id, account.address, account.retired_at desc) latest
            where account.id = latest.id
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
