using System.Numerics;
using System.Runtime.Intrinsics;

namespace Relevo.Core.Rules.Reach;

/// <summary>A set of places of an <see cref="AccountTable"/>: one bit each. Never changed once it is handed out.</summary>
public sealed class AccountSet
{
    private readonly ulong[] words;

    internal AccountSet(ulong[] words) => this.words = words;

    /// <summary>The bits, 64 places a word.</summary>
    internal ReadOnlySpan<ulong> Words => words;

    /// <summary>How many words hold so many places.</summary>
    internal static int WordsFor(int places) => (places + 63) >> 6;

    /// <summary>Members.</summary>
    public int Count
    {
        get
        {
            var count = 0;
            foreach (var word in words) count += BitOperations.PopCount(word);
            return count;
        }
    }

    /// <summary>True when nothing is in it.</summary>
    public bool IsEmpty => words.AsSpan().IndexOfAnyExcept(0UL) < 0;

    /// <summary>True when the place is in it.</summary>
    public bool Contains(int place) => (words[place >> 6] >> (place & 63) & 1) != 0;

    /// <summary>The members in order.</summary>
    public IEnumerable<int> Places()
    {
        for (var index = 0; index < words.Length; index++)
        {
            for (var word = words[index]; word != 0; word &= word - 1) yield return (index << 6) + BitOperations.TrailingZeroCount(word);
        }
    }

    /// <summary>Members of both.</summary>
    internal static AccountSet And(AccountSet left, AccountSet right) => Combine(left, right, (a, b) => a & b);

    /// <summary>Members of either.</summary>
    internal static AccountSet Or(AccountSet left, AccountSet right) => Combine(left, right, (a, b) => a | b);

    /// <summary>Members of the first that are not in the second.</summary>
    internal static AccountSet Except(AccountSet left, AccountSet right) => Combine(left, right, (a, b) => a & ~b);

    /// <summary>The places for which the question is answered with yes.</summary>
    internal static AccountSet Where(int places, Func<int, bool> isIn)
    {
        var words = new ulong[WordsFor(places)];
        for (var place = 0; place < places; place++)
        {
            if (isIn(place)) words[place >> 6] |= 1UL << (place & 63);
        }

        return new AccountSet(words);
    }

    /// <summary>The same set over a table of another size, with some places decided anew.</summary>
    internal AccountSet With(int places, IReadOnlyList<int> changed, Func<int, bool> isIn)
    {
        var fresh = new ulong[WordsFor(places)];
        words.CopyTo(fresh.AsSpan());
        foreach (var place in changed)
        {
            var bit = 1UL << (place & 63);
            fresh[place >> 6] = isIn(place) ? fresh[place >> 6] | bit : fresh[place >> 6] & ~bit;
        }

        return new AccountSet(fresh);
    }

    private static AccountSet Combine(AccountSet left, AccountSet right, Func<Vector256<ulong>, Vector256<ulong>, Vector256<ulong>> with)
    {
        var words = new ulong[left.words.Length];
        var index = 0;
        for (; index <= words.Length - 4; index += 4) with(Vector256.Create(left.words, index), Vector256.Create(right.words, index)).CopyTo(words, index);
        for (; index < words.Length; index++) words[index] = with(Vector256.Create(left.words[index]), Vector256.Create(right.words[index])).ToScalar();
        return new AccountSet(words);
    }
}
