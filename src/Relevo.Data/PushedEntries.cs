using System.Globalization;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>
/// Brings one entry of a source that pushes in line with what was pushed, in the caller's transaction. Every step is kept in the run of its
/// hour; leavers past the brake wait in a run of their own for a person's yes.
/// </summary>
internal static class PushedEntries
{

    /// <summary>listed: what the source says of the person now; null when it says that they left.</summary>
    public static async Task ApplyAsync(NpgsqlConnection connection, ScimCaller caller, string key, ListedPerson? listed, CancellationToken cancellationToken)
    {
        var source = caller.Token.SourceId;
        var asked = listed is not null && caller.JoinBy.Contains("mail") ? listed.Addresses : [];
        var (known, openRun, sameByMail) = await FindAsync(connection, source, key, asked, cancellationToken);
        var hash = listed is null ? Guid.Empty : EntryContent.Hash(listed);
        StepAction? action = (known, listed) switch
        {
            (null, null) => null,
            (null, _) => StepAction.Join,
            ({ IsListed: true }, null) => StepAction.Leave,
            (_, null) => null,
            ({ IsListed: false }, _) => StepAction.Return,
            _ => known.Hash == hash || FieldChange.Compare(known.State, RunPlanning.State(listed)).IsEmpty ? null : StepAction.Change,
        };
        if (action is not { } step) return;
        var isHeld = step == StepAction.Leave && await IsHeldAsync(connection, source, cancellationToken);
        var run = isHeld || openRun is null ? await OpenRunAsync(connection, source, isHeld, caller.Token.Name, cancellationToken) : openRun.Value;
        var matched = step == StepAction.Join && caller.JoinBy.Contains("employeeNumber") ? await MatchByNumberAsync(connection, source, listed!, cancellationToken) : null;
        if (step == StepAction.Join) matched ??= sameByMail;
        var person = known?.Person ?? matched ?? Guid.CreateVersion7();
        var isNewPerson = step == StepAction.Join && matched is null;
        await KeepAsync(connection, source, run, key, step, person, isNewPerson, known, listed, hash, isHeld, cancellationToken);
        if (isHeld) return;
        if (!isNewPerson && (listed is null || known is null || !known.IsListed || !known.State.Addresses.SequenceEqual(listed.Addresses))) await AlignAsync(connection, person, cancellationToken);
        if (listed is not null && Named(listed.Facts).Except(known is null ? [] : Named(known.State.Facts)).Any()) await AddUnitsAsync(connection, listed.Facts, cancellationToken);
        // Who sends from a shared mailbox changes with groups, and with people who leave or come back.
        var isSenderTouched = step is StepAction.Leave or StepAction.Return || known?.State.Facts[GroupNames.Field] != listed?.Facts[GroupNames.Field];
        if (caller.HasMailboxes && isSenderTouched) await MailboxStore.AlignAsync(connection, null, [person], cancellationToken);
    }

    private sealed record KnownState(Guid Person, Guid Hash, bool IsListed, EntryState State);

    private static async Task KeepAsync(
        NpgsqlConnection connection, Guid source, Guid run, string key, StepAction action, Guid person, bool isNew, KnownState? known, ListedPerson? listed, Guid hash, bool isHeld, CancellationToken cancellationToken)
    {
        const string step =
            """
            insert into run_step (run_id, key, action, person_id, is_new, before_name, before_facts, before_addresses, before_hash, after_name, after_facts, after_addresses, after_hash)
            values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) returning number
            """;
        var before = known?.State;
        object?[] values =
        [
            run, key, RunStore.Text(action), person, isNew,
            Sql.Text(before?.DistinguishedName), Sql.Text(before is null ? null : FactsJson.Write(before.Facts)), Sql.Texts(before?.Addresses.ToArray()), Sql.Id(known?.Hash),
            Sql.Text(listed?.DistinguishedName), Sql.Text(listed is null ? null : FactsJson.Write(listed.Facts)), Sql.Texts(listed?.Addresses.ToArray()), Sql.Id(listed is null ? null : hash),
        ];
        if (listed is null)
        {
            await connection.ExecuteAsync(step, values, cancellationToken);
            if (!isHeld) await LeaveAsync(connection, source, key, person, cancellationToken);
            return;
        }

        // One statement, one way to the database and back: eight clients push at once.
        await connection.ExecuteAsync(
            $"""
            with joined as (insert into person (id) select $4 where $5),
                followed as (update person set changed = pg_current_xact_id(), updated_at = now(), revision = revision + 1, retired_at = case when retired_by_hand then retired_at end where id = $4 and not $5),
                step as ({step}),
                addressed as (
                    insert into account (person_id, address, kind, position)
                    select $4, wanted.address, case when wanted.place = 1 then 'own' else 'alias' end, wanted.place - 1 from unnest($12::text[]) with ordinality as wanted(address, place) where $5
                    on conflict (lower(address)) where retired_at is null and mailbox_id is null do nothing)
            insert into source_entry (source_id, key, person_id, step, content_hash) select $14, $2, $4, number, $13 from step
            on conflict (source_id, key) do update set step = excluded.step, content_hash = excluded.content_hash, is_listed = true
            """,
            [.. values, source],
            cancellationToken);
    }

    private static async Task LeaveAsync(NpgsqlConnection connection, Guid source, string key, Guid person, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync("update source_entry set is_listed = false where source_id = $1 and key = $2", [source, key], cancellationToken);
        await connection.ExecuteAsync(
            """
            update person set changed = pg_current_xact_id(), updated_at = now(), revision = revision + 1,
                retired_at = case when not retired_by_hand and exists (select from source_entry where person_id = $1 and is_listed) then null else coalesce(retired_at, now()) end
            where id = $1
            """,
            [person],
            cancellationToken);
    }

    /// <summary>True when one more leaver in this hour would be too many.</summary>
    private static async Task<bool> IsHeldAsync(NpgsqlConnection connection, Guid source, CancellationToken cancellationToken)
    {
        var (listed, gone, brake) = await connection.ReadFirstAsync(
            """
            select (select count(*)::int from source_entry where source_id = $1 and is_listed),
                (select count(*)::int from run_step step join run on run.id = step.run_id where run.source_id = $1 and run.kind = 'push' and run.name = $2 and step.action = 'leave'),
                brake::text from source where id = $1
            """,
            [source, HourName(DateTimeOffset.UtcNow)],
            row => (row.GetInt32(0), row.GetInt32(1), row.Maybe<string>(2)),
            cancellationToken);
        var settings = brake is null ? BrakeSettings.Default : JsonSerializer.Deserialize<BrakeSettings>(brake, RelevoJson.Options)!;
        return !Brake.Reasons(settings, listed + gone, Math.Max(1, listed - 1), gone + 1, [], name => name).IsEmpty;
    }

    /// <summary>What is known of the entry, this hour's run that takes steps, and who has one of the addresses already: asked together, because eight clients push at once.</summary>
    private static async Task<(KnownState? Known, Guid? Run, Guid? SameByMail)> FindAsync(NpgsqlConnection connection, Guid source, string key, IReadOnlyCollection<string> addresses, CancellationToken cancellationToken) =>
        await connection.ReadFirstAsync(
            $"""
            with known as (
                select entry.person_id, entry.content_hash, entry.is_listed, step.after_name, step.after_facts as facts, step.after_addresses
                from source_entry entry join run_step step on step.number = entry.step where entry.source_id = $1 and entry.key = $2 for update of entry)
            select person_id, content_hash, is_listed, after_name, facts, after_addresses, ({OpenRun}),
                (select person_id from account where retired_at is null and mailbox_id is null and lower(address) = any($5) limit 1)
            from (select) as always left join known on true
            """,
            [source, key, HourName(DateTimeOffset.UtcNow), "applied", addresses.Select(address => address.ToLowerInvariant()).ToArray()],
            row => (
                row.IsDBNull(0) ? null : new KnownState(row.GetGuid(0), row.GetGuid(1), row.GetBoolean(2), new EntryState(row.GetString(3), FactsJson.ReadOne(row.GetString(4)), [.. row.GetFieldValue<string[]>(5)])),
                row.Maybe<Guid?>(6),
                row.Maybe<Guid?>(7)),
            cancellationToken);

    // $1 source, $3 name of the hour, $4 state. A run that was held and then accepted is applied too, and takes no more.
    private const string OpenRun = "select id from run where source_id = $1 and name = $3 and state = $4 and kind = 'push' and (state = 'held' or brake = '{}')";

    /// <summary>The run of this hour, made when there is none.</summary>
    private static async Task<Guid> OpenRunAsync(NpgsqlConnection connection, Guid source, bool isHeld, string client, CancellationToken cancellationToken)
    {
        object[] values = [source, Guid.CreateVersion7(), HourName(DateTimeOffset.UtcNow), isHeld ? "held" : "applied"];
        await connection.ExecuteAsync(
            """
            insert into run (id, source_id, source_version, kind, name, state, brake, started_by_name, applied_by_name, applied_at)
            select $2, id, version, 'push', $3, $4, case when $4 = 'held' then array['More people would leave within an hour than the brake lets pass.'] else '{}' end,
                $5, case when $4 = 'applied' then $5 end, case when $4 = 'applied' then now() end
            from source where id = $1
            on conflict do nothing
            """,
            [.. values, client],
            cancellationToken);
        return await connection.ReadFirstAsync($"{OpenRun} and $2::uuid is not null", values, row => row.GetGuid(0), cancellationToken);
    }

    private static string HourName(DateTimeOffset now) => now.ToString("'Pushed' d MMM yyyy, HH:00 'UTC'", CultureInfo.InvariantCulture);

    /// <summary>The person of another source who has the same employee number.</summary>
    private static async Task<Guid?> MatchByNumberAsync(NpgsqlConnection connection, Guid source, ListedPerson listed, CancellationToken cancellationToken) =>
        listed.Facts["employeeNumber"] is not { Length: > 0 } number ? null : await connection.ReadFirstAsync(
            """
            select entry.person_id from source_entry entry join run_step step on step.number = entry.step
            where entry.source_id <> $1 and entry.is_listed and step.after_facts::json->>'employeeNumber' = $2 limit 1
            """,
            [source, number],
            row => (Guid?)row.GetGuid(0),
            cancellationToken);

    private static async Task AlignAsync(NpgsqlConnection connection, Guid person, CancellationToken cancellationToken)
    {
        var listed = await connection.ReadAllAsync(
            """
            select step.after_addresses from source_entry entry join run_step step on step.number = entry.step join source on source.id = entry.source_id
            join person on person.id = entry.person_id
            where entry.person_id = $1 and entry.is_listed and person.retired_at is null order by source.position, source.created_at, entry.key
            """,
            [person],
            row => row.GetFieldValue<string[]>(0),
            cancellationToken);
        var wanted = listed.SelectMany(addresses => addresses).Distinct(StringComparer.OrdinalIgnoreCase).ToArray();
        await connection.ExecuteAsync(
            "update account set retired_at = now() where person_id = $1 and retired_at is null and (cardinality($2::text[]) = 0 or mailbox_id is null and not address = any($2))", [person, wanted], cancellationToken);
        await connection.ExecuteAsync(
            """
            update account set position = wanted.place - 1, kind = case when wanted.place = 1 then 'own' else 'alias' end
            from unnest($2::text[]) with ordinality as wanted(address, place)
            where account.person_id = $1 and account.retired_at is null and account.mailbox_id is null and account.address = wanted.address and account.position <> wanted.place - 1
            """,
            [person, wanted],
            cancellationToken);
        await AddAccountsAsync(connection, person, wanted, cancellationToken);
    }

    private static Task AddAccountsAsync(NpgsqlConnection connection, Guid person, string[] wanted, CancellationToken cancellationToken) => connection.ExecuteAsync(
        """
        insert into account (person_id, address, kind, position)
        select $1, wanted.address, case when wanted.place = 1 then 'own' else 'alias' end, wanted.place - 1 from unnest($2::text[]) with ordinality as wanted(address, place)
        where not exists (select from account where account.person_id = $1 and account.address = wanted.address and account.retired_at is null and account.mailbox_id is null)
        on conflict (lower(address)) where retired_at is null and mailbox_id is null do nothing
        """,
        [person, wanted],
        cancellationToken);

    /// <summary>Names of units in somebody's facts.</summary>
    private static IEnumerable<string> Named(Facts facts) => Unit.Named.Select(kind => $"{kind}={facts[Unit.FieldNaming(kind)]}").Where(name => !name.EndsWith('='));

    private static Task AddUnitsAsync(NpgsqlConnection connection, Facts facts, CancellationToken cancellationToken) => connection.ExecuteAsync(
        """
        insert into unit (kind, name)
        select kind, left(name, 200) from unnest($1::text[], $2::text[]) as part(kind, name)
        where name <> '' and not exists (select from unit where unit.kind = part.kind and lower(unit.name) = lower(left(part.name, 200)) and retired_at is null)
        on conflict do nothing
        """,
        [Unit.Named.Select(UnitStore.Text).ToArray(), Unit.Named.Select(kind => facts[Unit.FieldNaming(kind)] ?? "").ToArray()],
        cancellationToken);
}
