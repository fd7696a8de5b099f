using System.Buffers.Binary;
using System.Runtime.CompilerServices;
using Npgsql;

namespace Relevo.Data;

/// <summary>
/// Rows as COPY gives them, in the database's own form, to be gone through more than once and to be handed back by <see cref="CopyRows"/> without being taken apart.
/// Source: the PostgreSQL 15 manual, COPY, "Binary Format".
/// </summary>
internal sealed class CopiedRows
{
    private const int HeadBytes = 19; // the signature, no flags, nothing further
    private readonly ReadOnlyMemory<byte> bytes;
    private int place = HeadBytes;

    private CopiedRows(ReadOnlyMemory<byte> bytes) => this.bytes = bytes;

    /// <summary>Reads all rows of a question, in the connection's transaction. COPY takes no parameters: what the question says is ours, ids and words.</summary>
    public static async Task<CopiedRows> ReadAsync(NpgsqlConnection connection, string question, CancellationToken cancellationToken)
    {
        await using var copy = await connection.BeginRawBinaryCopyAsync($"copy ({question}) to stdout (format binary)", cancellationToken);
        var read = new MemoryStream(1 << 20);
        await copy.CopyToAsync(read, 1 << 16, cancellationToken);
        return Of(read);
    }

    /// <summary>Rows that a stream holds.</summary>
    public static CopiedRows Of(MemoryStream rows) => new(rows.GetBuffer().AsMemory(0, (int)rows.Length));

    /// <summary>Goes back before the first row.</summary>
    public void Restart() => place = HeadBytes;

    /// <summary>Goes to the next row, once all values of the one before were taken. False when there is none.</summary>
    public bool Next()
    {
        var values = BinaryPrimitives.ReadInt16BigEndian(bytes.Span[place..]);
        place += sizeof(short);
        return values >= 0;
    }

    /// <summary>Takes the row's next value, which is not null, as it stands there.</summary>
    public ReadOnlySpan<byte> Take() => Take(bytes.Span, ref place);

    /// <summary>The same for a text that is kept.</summary>
    public ReadOnlyMemory<byte> TakeText()
    {
        var length = Take().Length;
        return bytes.Slice(place - length, length);
    }

    /// <summary>Takes a uuid.</summary>
    public Guid TakeId() => new(Take(), bigEndian: true);

    /// <summary>Takes a boolean.</summary>
    public bool TakeBoolean() => Take()[0] != 0;

    /// <summary>Takes the texts of a text[] without nulls one after the other.</summary>
    public ref struct Texts(ReadOnlySpan<byte> list)
    {
        private const int HeadBytes = 12; // how many dimensions, whether there are nulls, which type
        private const int DimensionBytes = 8; // length and first number of the one dimension there is, if there is any
        private readonly ReadOnlySpan<byte> list = list;
        private int left = list.Length <= HeadBytes ? 0 : BinaryPrimitives.ReadInt32BigEndian(list[HeadBytes..]);
        private int place = HeadBytes + DimensionBytes;

        /// <summary>Takes the next one. False when there is none.</summary>
        public bool TryTake(out ReadOnlySpan<byte> text)
        {
            text = left == 0 ? [] : CopiedRows.Take(list, ref place);
            return left-- > 0;
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static ReadOnlySpan<byte> Take(ReadOnlySpan<byte> from, scoped ref int place)
    {
        var value = from.Slice(place + sizeof(int), BinaryPrimitives.ReadInt32BigEndian(from[place..]));
        place += sizeof(int) + value.Length;
        return value;
    }
}
