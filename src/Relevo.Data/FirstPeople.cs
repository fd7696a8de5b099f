using System.Runtime.CompilerServices;
using Npgsql;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>
/// Makes the first people, their entries and accounts of a run's joiners, in tables that are bare, and where no two addresses are the same one.
/// A COPY puts many rows into a page at once, an INSERT one after the other, which takes twice as long. Source: the PostgreSQL 15 manual, section 14.4.2, "Use COPY".
/// </summary>
internal sealed class FirstPeople
{
    private const string Asked = "person_id, key, number, after_hash, after_addresses"; // of each joiner
    private static readonly byte[] Own = [.. "own"u8], Alias = [.. "alias"u8];
    private readonly NpgsqlConnection connection;
    private readonly Guid source;
    private readonly CopiedRows joiners;
    private readonly RisingIds ids = new();

    private FirstPeople(NpgsqlConnection connection, Guid source, CopiedRows joiners) => (this.connection, this.source, this.joiners) = (connection, source, joiners);

    /// <summary>Reads what is asked of a run's joiners.</summary>
    public static Task<CopiedRows> ReadJoinersAsync(NpgsqlConnection connection, Guid run, CancellationToken cancellationToken) =>
        CopiedRows.ReadAsync(connection, $"select {Asked} from run_step where run_id = '{run}' and action = 'join'", cancellationToken);

    /// <summary>Writes what is asked of a joiner, as reading would give it.</summary>
    public static void WriteJoiner(CopyRows rows, Guid person, ListedPerson said, long step, Guid hash)
    {
        rows.BeginRow(5);
        rows.Write(person);
        rows.Write(said.Utf8Key.Span);
        rows.Write(step);
        rows.Write(hash);
        rows.WriteEnded(said.EndedAddresses);
    }

    /// <summary>Makes them, in the connection's transaction. joiners: of a run whose joiners are all new.</summary>
    public static async Task MakeAsync(NpgsqlConnection connection, CopiedRows joiners, Guid source, CancellationToken cancellationToken)
    {
        var people = new FirstPeople(connection, source, joiners);
        await people.CopyAsync("person (id)", people.WritePerson, cancellationToken);
        await people.CopyAsync("source_entry (source_id, person_id, key, step, content_hash)", people.WriteEntry, cancellationToken);
        await people.CopyAsync("account (id, person_id, address, kind, position)", people.WriteAccounts, cancellationToken);
    }

    private async Task CopyAsync(string columns, Action<CopyRows> writeNext, CancellationToken cancellationToken)
    {
        await using var rows = await CopyRows.BeginAsync(connection, columns, cancellationToken);
        joiners.Restart();
        while (joiners.Next())
        {
            writeNext(rows);
            await rows.EndRowAsync(cancellationToken);
        }

        await rows.EndAsync(cancellationToken);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void WritePerson(CopyRows rows)
    {
        rows.BeginRow(1);
        rows.Write(joiners.Take());
        for (var others = 0; others < 4; others++) joiners.Take();
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void WriteEntry(CopyRows rows)
    {
        rows.BeginRow(5);
        rows.Write(source);
        for (var column = 0; column < 4; column++) rows.Write(joiners.Take());
        joiners.Take();
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void WriteAccounts(CopyRows rows)
    {
        var person = joiners.Take();
        for (var others = 0; others < 3; others++) joiners.Take();
        var addresses = new CopiedRows.Texts(joiners.Take());
        for (var position = 0; addresses.TryTake(out var address); position++)
        {
            rows.BeginRow(5);
            if (position == 0) rows.Write(person); // see RunApplication: the first account has the person's id
            else rows.Write(ids.Next());
            rows.Write(person);
            rows.Write(address);
            rows.Write(position == 0 ? Own : Alias);
            rows.Write(position);
        }
    }
}
