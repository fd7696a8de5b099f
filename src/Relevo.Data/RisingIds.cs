using System.Buffers.Binary;

namespace Relevo.Data;

/// <summary>
/// Makes ids that rise one after the other, for many rows at once: an index of them needs no sorting, and none of them asks the system for chance of its own.
/// Source: RFC 9562, section 6.2, method 2, "Monotonic Random", in a UUID of version 7. Not for secrets: one id tells roughly which come next.
/// </summary>
internal sealed class RisingIds
{
    private const ulong Variant = 0b11UL << 62; // RFC 9562, section 4.1; the bits below it are chance
    private ulong upper; // time and version, and chance that stays
    private ulong lower;

    /// <summary>The next id, higher than the one before unless the clock was set back or 62 bits were used up.</summary>
    public Guid Next()
    {
        var next = lower + (ulong)Random.Shared.NextInt64(1, 1L << 32);
        if (lower == 0 || (next & Variant) != (lower & Variant)) Begin();
        else lower = next;
        Span<byte> bytes = stackalloc byte[16];
        BinaryPrimitives.WriteUInt64BigEndian(bytes, upper);
        BinaryPrimitives.WriteUInt64BigEndian(bytes[8..], lower);
        return new Guid(bytes, bigEndian: true);
    }

    private void Begin()
    {
        Span<byte> bytes = stackalloc byte[16];
        Guid.CreateVersion7().TryWriteBytes(bytes, bigEndian: true, out _);
        (upper, lower) = (BinaryPrimitives.ReadUInt64BigEndian(bytes), BinaryPrimitives.ReadUInt64BigEndian(bytes[8..]));
    }
}
