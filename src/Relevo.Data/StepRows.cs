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
        await using var rows = await CopyRows.BeginAsync(
            connection,
            "run_step (run_id, key, action, person_id, is_new, line, before_name, before_facts, before_addresses, before_hash, after_name, after_facts, after_addresses, after_hash)",
            cancellationToken);
        using var target = new StepRows(rows, run);
        for (var index = 0; index < steps.Count; index++)
        {
            target.Write(steps[index]);
            await rows.EndRowAsync(cancellationToken);
        }

        await rows.EndAsync(cancellationToken);
    }

    /// <inheritdoc />
    public void Dispose() => writer.Dispose();

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Write(in PlannedStep planned)
    {
        var (step, before, beforeHash) = planned;
        rows.BeginRow(14);
        rows.Write(run);
        if (step.After is { } listed) rows.Write(listed.Utf8Key.Span);
        else rows.Write(step.LeftKey);
        rows.Write(RunStore.Text(step.Action));
        rows.Write(step.PersonId);
        rows.Write(step.IsNew);
        rows.Write(step.After?.Line ?? 0);
        if (before is null) WriteNothing();
        else
        {
            rows.Write(before.DistinguishedName);
            rows.Write(before.Facts.Write(buffer, writer).Span);
            rows.Write(before.Addresses.AsSpan());
            rows.Write(beforeHash);
        }

        if (step.After is not { } after) WriteNothing();
        else
        {
            rows.Write(after.Utf8DistinguishedName.Span);
            rows.Write(after.Utf8Facts.Span);
            rows.WriteEnded(after.EndedAddresses);
            rows.Write(step.ContentHash);
        }
    }

    private void WriteNothing()
    {
        for (var column = 0; column < 4; column++) rows.WriteNull();
    }
}
