using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.People;

namespace Relevo.Data;

/// <summary>What became of an attempt to keep a shared mailbox.</summary>
public enum MailboxOutcome
{
    /// <summary>Kept.</summary>
    Saved,

    /// <summary>There is no such mailbox.</summary>
    NotFound,

    /// <summary>Somebody else saved in between.</summary>
    Conflict,

    /// <summary>A person or another mailbox has the address.</summary>
    AddressTaken,

    /// <summary>Somebody named as a sender is not there.</summary>
    SenderUnknown,
}

/// <summary>A shared mailbox with the people who send from it now, by hand or by group.</summary>
public sealed record StoredMailbox(Mailbox Mailbox, ImmutableArray<Guid> People);

/// <summary>Shared mailboxes. An account of each sender follows from them, here and whenever people or their groups change.</summary>
public sealed class MailboxStore(NpgsqlDataSource database)
{
    private const string Columns =
        "id, address, facts::text, groups, array(select person_id from mailbox_sender where mailbox_id = mailbox.id order by person_id), revision";

    /// <summary>Every mailbox in use, by address.</summary>
    public async Task<List<StoredMailbox>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            $"select {Columns}, array(select person_id from account where mailbox_id = mailbox.id and account.retired_at is null) from mailbox where retired_at is null order by lower(address)",
            [],
            row => new StoredMailbox(Read(row), [.. row.GetFieldValue<Guid[]>(6)]),
            cancellationToken);
    }

    /// <summary>Adds a mailbox.</summary>
    public Task<MailboxOutcome> AddAsync(Mailbox mailbox, Actor actor, CancellationToken cancellationToken) => KeepAsync(mailbox, isNew: true, actor, cancellationToken);

    /// <summary>Keeps a mailbox if the revision is still the one seen.</summary>
    public Task<MailboxOutcome> SaveAsync(Mailbox mailbox, Actor actor, CancellationToken cancellationToken) => KeepAsync(mailbox, isNew: false, actor, cancellationToken);

    /// <summary>Retires a mailbox and its senders' accounts.</summary>
    public async Task<MailboxOutcome> RetireAsync(Guid id, int seenRevision, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = await FindAsync(connection, id, cancellationToken);
        if (before is null) return MailboxOutcome.NotFound;
        if (before.Revision != seenRevision) return MailboxOutcome.Conflict;
        await connection.ExecuteAsync("update mailbox set retired_at = now(), revision = revision + 1 where id = $1", [id], cancellationToken);
        await AlignAsync(connection, id, null, cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("shared mailbox retired", "mailbox", id.ToString(), Describe(before), null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return MailboxOutcome.Saved;
    }

    /// <summary>Brings senders' accounts in line for everybody a run touched.</summary>
    internal static async Task AlignRunAsync(NpgsqlConnection connection, Guid run, CancellationToken cancellationToken)
    {
        // Most companies' first import finds no mailbox at all.
        if (!await connection.ReadFirstAsync("select exists (select from mailbox)", [], row => row.GetBoolean(0), cancellationToken)) return;
        var people = await connection.ReadFirstAsync("select array(select distinct person_id from run_step where run_id = $1)", [run], row => row.GetFieldValue<Guid[]>(0), cancellationToken);
        await AlignAsync(connection, null, people, cancellationToken);
    }

    /// <summary>
    /// Brings senders' accounts in line, in the caller's transaction: of one mailbox or all (null), for some people or everybody (null). An
    /// account that comes back is the one that was there, with its overrides. Everybody touched is marked as changed.
    /// </summary>
    internal static async Task AlignAsync(NpgsqlConnection connection, Guid? mailbox, Guid[]? people, CancellationToken cancellationToken)
    {
        await connection.ExecuteAsync(
            """
            with wanted as (
                select mailbox.id as mailbox_id, mailbox.address, sender.person_id
                from mailbox join mailbox_sender sender on sender.mailbox_id = mailbox.id
                where mailbox.retired_at is null and ($1::uuid is null or mailbox.id = $1) and ($2::uuid[] is null or sender.person_id = any($2))
                union
                select mailbox.id, mailbox.address, entry.person_id
                from source_entry entry join run_step step on step.number = entry.step
                cross join unnest(string_to_array(step.after_facts::json->>'groups', $3)) as member(name)
                join (select id, address, unnest(groups) as name from mailbox where retired_at is null and ($1::uuid is null or id = $1)) mailbox on lower(mailbox.name) = lower(member.name)
                where entry.is_listed and step.after_facts::json->>'groups' is not null and ($2::uuid[] is null or entry.person_id = any($2))),
            there as (select wanted.* from wanted join person on person.id = wanted.person_id where person.retired_at is null),
            gone as (
                update account set retired_at = now()
                where mailbox_id is not null and retired_at is null and ($1::uuid is null or mailbox_id = $1) and ($2::uuid[] is null or person_id = any($2))
                    and not exists (select from there where there.mailbox_id = account.mailbox_id and there.person_id = account.person_id)
                returning person_id),
            latest as (
                select distinct on (account.mailbox_id, account.person_id) account.id, account.mailbox_id, account.person_id, account.retired_at is null as is_active, there.address
                from account join there using (mailbox_id, person_id)
                order by account.mailbox_id, account.person_id, account.retired_at desc nulls first),
            back as (
                update account set retired_at = null, address = latest.address from latest where account.id = latest.id and (not latest.is_active or account.address <> latest.address)
                returning account.person_id),
            added as (
                insert into account (person_id, address, kind, position, mailbox_id)
                select person_id, address, 'shared', 0, mailbox_id from there
                where not exists (select from latest where latest.mailbox_id = there.mailbox_id and latest.person_id = there.person_id)
                on conflict (mailbox_id, person_id) where retired_at is null and mailbox_id is not null do nothing
                returning person_id)
            update person set changed = pg_current_xact_id(), revision = revision + 1, updated_at = now()
            where id in (select person_id from gone union select person_id from back union select person_id from added)
            """,
            [Sql.Id(mailbox), new NpgsqlParameter { Value = (object?)people ?? DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Uuid }, GroupNames.Parting],
            cancellationToken);
    }

    private async Task<MailboxOutcome> KeepAsync(Mailbox mailbox, bool isNew, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = isNew ? null : await FindAsync(connection, mailbox.Id, cancellationToken);
        if (!isNew && before is null) return MailboxOutcome.NotFound;
        if (before is not null && before.Revision != mailbox.Revision) return MailboxOutcome.Conflict;
        if (await connection.ReadFirstAsync(
            "select exists (select from account where lower(address) = lower($1) and retired_at is null and mailbox_id is null)", [mailbox.Address], row => row.GetBoolean(0), cancellationToken))
            return MailboxOutcome.AddressTaken;
        try
        {
            await connection.ExecuteAsync(
                """
                insert into mailbox (id, address, facts, groups) values ($1, $2, $3, $4)
                on conflict (id) do update set address = excluded.address, facts = excluded.facts, groups = excluded.groups, revision = mailbox.revision + 1
                """,
                [mailbox.Id, mailbox.Address, Sql.Json(FactsJson.Write(mailbox.Facts)), mailbox.Groups.ToArray()],
                cancellationToken);
            await connection.ExecuteAsync("delete from mailbox_sender where mailbox_id = $1", [mailbox.Id], cancellationToken);
            await connection.ExecuteAsync("insert into mailbox_sender (mailbox_id, person_id) select $1, unnest($2::uuid[])", [mailbox.Id, mailbox.Senders.ToArray()], cancellationToken);
        }
        catch (PostgresException refused) when (refused.SqlState is PostgresErrorCodes.UniqueViolation or PostgresErrorCodes.ForeignKeyViolation)
        {
            return refused.SqlState == PostgresErrorCodes.UniqueViolation ? MailboxOutcome.AddressTaken : MailboxOutcome.SenderUnknown;
        }

        // What it says is read with its senders' accounts.
        if (before is not null && !before.Facts.Equals(mailbox.Facts))
            await connection.ExecuteAsync("update person set changed = pg_current_xact_id() where id in (select person_id from account where mailbox_id = $1 and retired_at is null)", [mailbox.Id], cancellationToken);
        await AlignAsync(connection, mailbox.Id, null, cancellationToken);
        await AuditLog.AppendAsync(
            connection, actor, new AuditLine(isNew ? "shared mailbox added" : "shared mailbox changed", "mailbox", mailbox.Id.ToString(), before is null ? null : Describe(before), Describe(mailbox)), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return MailboxOutcome.Saved;
    }

    private static Task<Mailbox?> FindAsync(NpgsqlConnection connection, Guid id, CancellationToken cancellationToken) =>
        connection.ReadFirstAsync($"select {Columns} from mailbox where id = $1 and retired_at is null for update", [id], Read, cancellationToken);

    private static Mailbox Read(NpgsqlDataReader row) => new(
        row.GetGuid(0), row.GetString(1), FactsJson.ReadOne(row.GetString(2)), [.. row.GetFieldValue<string[]>(3)], [.. row.GetFieldValue<Guid[]>(4)], row.GetInt32(5));

    private static string Describe(Mailbox mailbox) => JsonSerializer.Serialize(
        new { mailbox.Address, mailbox.Groups, mailbox.Senders, Facts = mailbox.Facts.Pairs.ToArray().ToDictionary(pair => pair.Key, pair => pair.Value) }, RelevoJson.Options);
}
