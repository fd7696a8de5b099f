using System.Buffers.Binary;
using System.Runtime.CompilerServices;
using System.Text;
using Npgsql;

namespace Relevo.Data;

/// <summary>
/// Rows in the database's own form for COPY, put together here and sent in large pieces: asking the driver value by value took longer than the database needs for the rows.
/// What was not ended leaves nothing. Source: the PostgreSQL 15 manual, COPY, "Binary Format"; forms of values as its types send them.
/// </summary>
internal sealed class CopyRows : IAsyncDisposable
{
    private const int PieceBytes = 1 << 16; // sent at once
    private const int TextType = 25; // pg_type's number for text
    private const byte End = 0xFF; // after each text of a list
    private static readonly byte[] Head = [.. "PGCOPY\n"u8, 0xFF, (byte)'\r', (byte)'\n', 0, 0, 0, 0, 0, 0, 0, 0, 0]; // the signature, no flags, nothing further
    private readonly Stream target;
    private byte[] room = new byte[PieceBytes * 2];
    private int length;
    private bool isEnded;

    private CopyRows(Stream target)
    {
        this.target = target;
        Head.CopyTo(Take(Head.Length));
    }

    /// <summary>Begins to write rows in the connection's transaction. columns: the table with the columns in brackets.</summary>
    public static async Task<CopyRows> BeginAsync(NpgsqlConnection connection, string columns, CancellationToken cancellationToken) =>
        new(await connection.BeginRawBinaryCopyAsync($"copy {columns} from stdin (format binary)", cancellationToken));

    /// <summary>Begins to put rows together in memory, for <see cref="EndKeptAsync"/>. bytes: about how many there will be.</summary>
    public static CopyRows BeginKept(int bytes) => new(new MemoryStream(bytes));

    /// <summary>Begins a row of so many values.</summary>
    public void BeginRow(short values) => BinaryPrimitives.WriteInt16BigEndian(Take(sizeof(short)), values);

    /// <summary>Ends a row. Sends what was written once it is a piece.</summary>
    public ValueTask EndRowAsync(CancellationToken cancellationToken) => length < PieceBytes ? ValueTask.CompletedTask : SendPieceAsync(cancellationToken);

    /// <summary>No value.</summary>
    public void WriteNull() => WriteLength(-1);

    /// <summary>A uuid.</summary>
    public void Write(Guid value)
    {
        WriteLength(16);
        value.TryWriteBytes(Take(16), bigEndian: true, out _);
    }

    /// <summary>A boolean.</summary>
    public void Write(bool value)
    {
        WriteLength(1);
        Take(1)[0] = value ? (byte)1 : (byte)0;
    }

    /// <summary>An integer.</summary>
    public void Write(int value)
    {
        WriteLength(sizeof(int));
        BinaryPrimitives.WriteInt32BigEndian(Take(sizeof(int)), value);
    }

    /// <summary>A bigint.</summary>
    public void Write(long value)
    {
        WriteLength(sizeof(long));
        BinaryPrimitives.WriteInt64BigEndian(Take(sizeof(long)), value);
    }

    /// <summary>A text that is UTF-8 already, or any value that is in the database's form already.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Write(ReadOnlySpan<byte> value)
    {
        WriteLength(value.Length);
        value.CopyTo(Take(value.Length));
    }

    /// <summary>A text.</summary>
    public void Write(string text)
    {
        var bytes = Encoding.UTF8.GetByteCount(text);
        WriteLength(bytes);
        Encoding.UTF8.GetBytes(text, Take(bytes));
    }

    /// <summary>A text[] of texts that are UTF-8 already, each ended by a byte 0xFF.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void WriteEnded(ReadOnlySpan<byte> ended)
    {
        var count = ended.Count(End);
        WriteLength(ListBytes(count) + ended.Length - count);
        WriteListHead(count);
        for (; count > 0; count--)
        {
            var end = ended.IndexOf(End);
            Write(ended[..end]);
            ended = ended[(end + 1)..];
        }
    }

    /// <summary>A text[].</summary>
    public void Write(ReadOnlySpan<string> texts)
    {
        var bytes = ListBytes(texts.Length);
        foreach (var text in texts) bytes += Encoding.UTF8.GetByteCount(text);
        WriteLength(bytes);
        WriteListHead(texts.Length);
        foreach (var text in texts) Write(text);
    }

    /// <summary>Sends what is left, and that this is all.</summary>
    public async Task EndAsync(CancellationToken cancellationToken)
    {
        BinaryPrimitives.WriteInt16BigEndian(Take(sizeof(short)), -1);
        await SendPieceAsync(cancellationToken);
        isEnded = true;
    }

    /// <summary>Ends rows that were kept in memory, to be read as if COPY had given them.</summary>
    public async Task<CopiedRows> EndKeptAsync(CancellationToken cancellationToken)
    {
        await EndAsync(cancellationToken);
        return CopiedRows.Of((MemoryStream)target);
    }

    /// <inheritdoc />
    public async ValueTask DisposeAsync()
    {
        if (!isEnded && target is NpgsqlRawCopyStream copy) await copy.CancelAsync();
        await target.DisposeAsync();
    }

    /// <summary>Bytes of a list beside its texts: how many dimensions, whether there are nulls, of which type, how many from which number on; each text has its length.</summary>
    private static int ListBytes(int count) => (count == 0 ? 3 : 5 + count) * sizeof(int);

    private void WriteListHead(int count)
    {
        WriteLength(count == 0 ? 0 : 1);
        WriteLength(0);
        WriteLength(TextType);
        if (count == 0) return;
        WriteLength(count);
        WriteLength(1);
    }

    private void WriteLength(int value) => BinaryPrimitives.WriteInt32BigEndian(Take(sizeof(int)), value);

    private Span<byte> Take(int bytes)
    {
        if (room.Length - length < bytes) Array.Resize(ref room, Math.Max(room.Length * 2, length + bytes));
        length += bytes;
        return room.AsSpan(length - bytes, bytes);
    }

    private async ValueTask SendPieceAsync(CancellationToken cancellationToken)
    {
        await target.WriteAsync(room.AsMemory(0, length), cancellationToken);
        length = 0;
    }
}
