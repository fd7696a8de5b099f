using System.Buffers.Binary;
using System.Security.Cryptography;

namespace Relevo.Core.Rules;

/// <summary>Orders that look shuffled and are the same for everybody who computes them.</summary>
internal static class Turns
{
    /// <summary>A permutation of 0 to count - 1 for one round of a rule: places in the order of a hash (SHA-256, FIPS 180-4) of rule, round and place.</summary>
    public static int[] Shuffle(Guid rule, long round, int count)
    {
        var keys = new ulong[count];
        var places = new int[count];
        Span<byte> hashed = stackalloc byte[28], hash = stackalloc byte[32];
        rule.TryWriteBytes(hashed);
        BinaryPrimitives.WriteInt64BigEndian(hashed[16..], round);
        for (var place = 0; place < count; place++)
        {
            BinaryPrimitives.WriteInt32BigEndian(hashed[24..], place);
            SHA256.HashData(hashed, hash);
            keys[place] = BinaryPrimitives.ReadUInt64BigEndian(hash);
            places[place] = place;
        }

        Array.Sort(keys, places);
        return places;
    }
}
