using System.Buffers;

namespace Relevo.Core;

/// <summary>
/// Room for many small pieces of bytes that are kept: they lie side by side in large arrays, which a collection of garbage leaves where they are. As long as one piece is
/// kept, so is its array. For one writer at a time.
/// </summary>
internal sealed class SharedPieces : IBufferWriter<byte>
{
    private const int FirstBytes = 1024; // for whoever writes one piece
    private const int MostBytes = 1 << 20;
    private byte[] room = [];
    private int begin;
    private int end;

    /// <summary>What was written since the last piece was taken or dropped, as a piece of its own.</summary>
    public ReadOnlyMemory<byte> Take()
    {
        var piece = room.AsMemory(begin, end - begin);
        begin = end;
        return piece;
    }

    /// <summary>Forgets what was written since.</summary>
    public void Drop() => end = begin;

    /// <inheritdoc />
    public void Advance(int count) => end += count;

    /// <inheritdoc />
    public Memory<byte> GetMemory(int sizeHint = 0)
    {
        if (room.Length - end < Math.Max(sizeHint, 1)) Grow(sizeHint);
        return room.AsMemory(end);
    }

    /// <inheritdoc />
    public Span<byte> GetSpan(int sizeHint = 0) => GetMemory(sizeHint).Span;

    /// <summary>Goes on in a new array, with the piece that is being written.</summary>
    private void Grow(int sizeHint)
    {
        var unfinished = room.AsSpan(begin, end - begin);
        var larger = GC.AllocateUninitializedArray<byte>(Math.Max(Math.Clamp(room.Length * 2, FirstBytes, MostBytes), (unfinished.Length + sizeHint) * 2));
        unfinished.CopyTo(larger);
        (room, begin, end) = (larger, 0, unfinished.Length);
    }
}
