using System.Buffers;
using System.Runtime.CompilerServices;
using System.Text.Json;
using Npgsql;
using Relevo.Core.People;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>Writes steps of a run into the database.</summary>
internal sealed class StepRows : IDisposable
{
    private const string Told = "run_id, key, action, person_id, is_new, line";
    private const string Before = "before_name, before_facts, before_addresses, before_hash";
    private const string After = "after_name, after_facts, after_addresses, after_hash";
    private readonly CopyRows rows;
    private readonly Guid run;
    private readonly ArrayBufferWriter<byte> buffer = new(1024);
    private readonly Utf8JsonWriter writer;

    private StepRows(CopyRows rows, Guid run)
    {
        (this.rows, this.run) = (rows, run);
        writer = new Utf8JsonWriter(buffer, Facts.WriterOptions);
    }

    /// <summary>Writes all of them, in the connection's transaction.</summary>
    public static async Task WriteAsync(NpgsqlConnection connection, Guid run, IReadOnlyList<PlannedStep> steps, CancellationToken cancellationToken)
    {
        await using var rows = await CopyRows.BeginAsync(connection, $"run_step ({Told}, {Before}, {After})", cancellationToken);
        using var target = new StepRows(rows, run);
        for (var index = 0; index < steps.Count; index++)
        {
            target.Write(steps[index]);
            await rows.EndRowAsync(cancellationToken);
        }

        await rows.EndAsync(cancellationToken);
    }

    /// <summary>
    /// Writes the first there are, all of which are joins of new people, because a table without steps knows of no entry. They are given their numbers here: nobody else writes
    /// any, as long as the tables are bare. Returns what <see cref="FirstPeople"/> asks of them.
    /// </summary>
    public static async Task<CopiedRows> WriteFirstAsync(NpgsqlConnection connection, Guid run, IReadOnlyList<PlannedStep> steps, CancellationToken cancellationToken)
    {
        const int joinerBytes = 150; // about
        var number = await connection.ReadFirstAsync("select nextval(pg_get_serial_sequence('run_step', 'number'))", [], row => row.GetInt64(0), cancellationToken);
        await connection.ExecuteAsync("select setval(pg_get_serial_sequence('run_step', 'number'), $1)", [number + steps.Count - 1], cancellationToken);
        await using var joiners = CopyRows.BeginKept(joinerBytes * steps.Count);
        // COPY takes numbers that are given, "generated always" or not. Source: the PostgreSQL 15 manual, CREATE TABLE, "GENERATED AS IDENTITY".
        await using var rows = await CopyRows.BeginAsync(connection, $"run_step (number, {Told}, {After})", cancellationToken);
        using var target = new StepRows(rows, run);
        for (var index = 0; index < steps.Count; index++)
        {
            target.WriteFirst(steps[index].Step, number + index, joiners);
            await rows.EndRowAsync(cancellationToken);
            await joiners.EndRowAsync(cancellationToken);
        }

        await rows.EndAsync(cancellationToken);
        return await joiners.EndKeptAsync(cancellationToken);
    }

    /// <inheritdoc />
    public void Dispose() => writer.Dispose();

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void WriteFirst(in SyncStep step, long number, CopyRows joiners)
    {
        var (said, hash) = (step.After!, step.ContentHash);
        rows.BeginRow(11);
        rows.Write(number);
        WriteTold(step);
        WriteAfter(said, hash);
        FirstPeople.WriteJoiner(joiners, step.PersonId, said, number, hash);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Write(in PlannedStep planned)
    {
        var (step, before, beforeHash) = planned;
        rows.BeginRow(14);
        WriteTold(step);
        if (before is null) WriteNothing();
        else
        {
            rows.Write(before.DistinguishedName);
            rows.Write(before.Facts.Write(buffer, writer).Span);
            rows.Write(before.Addresses.AsSpan());
            rows.Write(beforeHash);
        }

        if (step.After is not { } after) WriteNothing();
        else WriteAfter(after, step.ContentHash);
    }

    private void WriteTold(in SyncStep step)
    {
        rows.Write(run);
        if (step.After is { } listed) rows.Write(listed.Utf8Key.Span);
        else rows.Write(step.LeftKey);
        rows.Write(RunStore.Text(step.Action));
        rows.Write(step.PersonId);
        rows.Write(step.IsNew);
        rows.Write(step.After?.Line ?? 0);
    }

    private void WriteAfter(ListedPerson after, Guid hash)
    {
        rows.Write(after.Utf8DistinguishedName.Span);
        rows.Write(after.Utf8Facts.Span);
        rows.WriteEnded(after.EndedAddresses);
        rows.Write(hash);
    }

    private void WriteNothing()
    {
        for (var column = 0; column < 4; column++) rows.WriteNull();
    }
}
