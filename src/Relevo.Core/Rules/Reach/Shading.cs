using System.Collections.Immutable;
using System.Numerics;

namespace Relevo.Core.Rules.Reach;

/// <summary>A rule that never wins, and the fewest earlier rules that together take everything it matches.</summary>
/// <param name="Rule">Its number on the track, from 0.</param>
/// <param name="Shaders">Numbers of those rules, in order.</param>
/// <param name="IsSmallest">False when the search was broken off: the rules named do cover it, and fewer might.</param>
public sealed record DeadRule(int Rule, ImmutableArray<int> Shaders, bool IsSmallest);

/// <summary>
/// Finds rules that never win. Which rules shade one is a smallest set cover, solved exactly: a smallest set that hits a growing list of witnesses (an account in a square, with
/// the earlier rules that match it there) is smallest for all once it covers everything.
/// </summary>
public static class Shading
{
    private const int MostSteps = 200_000; // of one search; rule sets people write take a few dozen

    /// <summary>Every dead rule of a track. A rule that matches nobody anywhere is not dead but pointless: see <see cref="MatchesNobody"/>.</summary>
    public static ImmutableArray<DeadRule> Find(ReachMap map, Track track)
    {
        var rules = map.Rules.On(track);
        var dead = ImmutableArray.CreateBuilder<DeadRule>();
        for (var rule = 0; rule < rules.Length; rule++)
        {
            if (!rules[rule].IsOn || Enumerable.Range(0, map.Cells.Length).Any(square => map.Won(track, rule, square) > 0) || MatchesNobody(map, track, rule)) continue;
            dead.Add(Cover(map, track, rule));
        }

        return dead.ToImmutable();
    }

    /// <summary>True when a rule's conditions hold for no account in any square.</summary>
    public static bool MatchesNobody(ReachMap map, Track track, int rule) =>
        Enumerable.Range(0, map.Cells.Length).All(square => map.Match(track, rule, square) is var match && (match.IsAll ? map.Accounts.Count == 0 : match.Some is not { IsEmpty: false } some || AccountSet.And(some, map.Accounts.Alive).IsEmpty));

    private static DeadRule Cover(ReachMap map, Track track, int rule)
    {
        var rules = map.Rules.On(track);
        int[] earlier = [.. Enumerable.Range(0, rule).Where(other => rules[other].IsOn && Decision.Ends(rules[other], track))];
        var squares = Enumerable.Range(0, map.Cells.Length).Select(square => (square, set: map.Match(track, rule, square).Among(map.Accounts))).Where(pair => !pair.set.IsEmpty).ToArray();
        var witnesses = new List<BigInteger>();
        while (true)
        {
            var (chosen, isSmallest) = Hit(witnesses, earlier.Length);
            var before = witnesses.Count;
            foreach (var (square, set) in squares)
            {
                var left = set;
                for (var index = 0; index < earlier.Length && !left.IsEmpty; index++)
                {
                    if ((chosen >> index & 1) == 1) left = AccountSet.Except(left, map.Match(track, earlier[index], square).Among(map.Accounts));
                }

                if (left.IsEmpty) continue;
                var place = left.Places().First();
                var witness = BigInteger.Zero;
                for (var index = 0; index < earlier.Length; index++)
                {
                    if (map.Match(track, earlier[index], square).Holds(place)) witness |= BigInteger.One << index;
                }

                witnesses.Add(witness);
            }

            if (witnesses.Count == before) return new DeadRule(rule, [.. earlier.Where((_, index) => (chosen >> index & 1) == 1)], isSmallest);
            witnesses = Least(witnesses);
        }
    }

    /// <summary>Without those that another one implies.</summary>
    private static List<BigInteger> Least(List<BigInteger> witnesses)
    {
        var distinct = witnesses.Distinct().ToArray();
        return [.. distinct.Where(one => !distinct.Any(other => other != one && (other & one) == other))];
    }

    /// <summary>A smallest set of candidates that hits every witness; of several, the one with the earliest rules.</summary>
    private static (BigInteger Chosen, bool IsSmallest) Hit(List<BigInteger> witnesses, int candidates)
    {
        var best = Greedy(witnesses, candidates);
        var (most, steps) = (Count(best), 0);
        Branch(BigInteger.Zero, 0, witnesses);
        return (best, steps < MostSteps);

        void Branch(BigInteger chosen, int count, List<BigInteger> open)
        {
            if (++steps >= MostSteps) return;
            if (open.Count == 0)
            {
                if (count < most) (best, most) = (chosen, count);
                return;
            }

            if (count + Disjoint(open) >= most) return;
            var hardest = open.MinBy(Count);
            for (var index = 0; index < candidates; index++)
            {
                if ((hardest >> index & 1) == 0) continue;
                var bit = BigInteger.One << index;
                Branch(chosen | bit, count + 1, [.. open.Where(witness => (witness & bit).IsZero)]);
            }
        }
    }

    private static BigInteger Greedy(List<BigInteger> witnesses, int candidates)
    {
        var chosen = BigInteger.Zero;
        for (var open = witnesses; open.Count > 0;)
        {
            var next = BigInteger.One << Enumerable.Range(0, candidates).MaxBy(index => open.Count(witness => (witness >> index & 1) == 1));
            chosen |= next;
            open = [.. open.Where(witness => (witness & next).IsZero)];
        }

        return chosen;
    }

    /// <summary>Witnesses that share no candidate: each needs one of its own.</summary>
    private static int Disjoint(List<BigInteger> open)
    {
        var (used, count) = (BigInteger.Zero, 0);
        foreach (var witness in open.OrderBy(Count))
        {
            if (!(witness & used).IsZero) continue;
            used |= witness;
            count++;
        }

        return count;
    }

    private static int Count(BigInteger set)
    {
        var count = 0;
        foreach (var one in set.ToByteArray(isUnsigned: true)) count += BitOperations.PopCount(one);
        return count;
    }
}
