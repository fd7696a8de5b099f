using System.Buffers;
using System.Runtime.CompilerServices;
using System.Text.Json;
using Npgsql;
using Relevo.Core.People;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>Writes steps of a run into the database. What was not ended leaves nothing.</summary>
internal sealed class StepRows : IAsyncDisposable
{
    private readonly NpgsqlRawCopyStream copy;
    private readonly Guid run;
    private readonly CopyRows rows;
    private readonly ArrayBufferWriter<byte> buffer = new(1024);
    private readonly Utf8JsonWriter writer;
    private bool isEnded;

    private StepRows(NpgsqlRawCopyStream copy, Guid run)
    {
        (this.copy, this.run, rows) = (copy, run, new CopyRows(copy));
        writer = new Utf8JsonWriter(buffer, Facts.WriterOptions);
    }

    /// <summary>Begins to write steps of a run, in the connection's transaction.</summary>
    public static async Task<StepRows> BeginAsync(NpgsqlConnection connection, Guid run, CancellationToken cancellationToken) => new(
        await connection.BeginRawBinaryCopyAsync(
            """
            copy run_step (run_id, key, action, person_id, is_new, line, before_name, before_facts, before_addresses, before_hash, after_name, after_facts, after_addresses, after_hash)
            from stdin (format binary)
            """,
            cancellationToken),
        run);

    /// <summary>Writes a step.</summary>
    public ValueTask WriteAsync(in PlannedStep step, CancellationToken cancellationToken)
    {
        Write(step);
        return rows.EndRowAsync(cancellationToken);
    }

    /// <summary>Says that these were all.</summary>
    public async Task EndAsync(CancellationToken cancellationToken)
    {
        await rows.EndAsync(cancellationToken);
        isEnded = true;
    }

    /// <inheritdoc />
    public async ValueTask DisposeAsync()
    {
        if (!isEnded) await copy.CancelAsync();
        await copy.DisposeAsync();
        await writer.DisposeAsync();
    }

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
            rows.Write(after.Facts.Write(buffer, writer).Span);
            rows.WriteEnded(after.EndedAddresses);
            rows.Write(step.ContentHash);
        }
    }

    private void WriteNothing()
    {
        for (var column = 0; column < 4; column++) rows.WriteNull();
    }
}
