using System.Collections.Immutable;

namespace Relevo.Core.Rules.Reach;

/// <summary>Accounts for which one rule decides instead of another on the signature track. Null: no rule.</summary>
/// <param name="From">The rule that decided before.</param>
/// <param name="To">The rule that decides after.</param>
/// <param name="Accounts">Accounts concerned in at least one square.</param>
/// <param name="Squares">Squares concerned.</param>
/// <param name="First">The first few of the accounts.</param>
public sealed record ReachShift(Guid? From, Guid? To, int Accounts, ImmutableArray<Cell> Squares, ImmutableArray<int> First);

/// <summary>Accounts that a rule adds to and did not before, and that it did and does no more, each in at least one square.</summary>
public sealed record ReachGain(Track Track, Guid Rule, int Gained, int Lost);

/// <summary>What an edit of the rules changes, over everybody.</summary>
public static class ReachDifference
{
    private const int Shown = 5; // accounts named with a shift

    /// <summary>Every shift between two maps of the same accounts and squares, the one with the most accounts first. A rule that stays and carries something else is no shift.</summary>
    public static ImmutableArray<ReachShift> Compare(ReachMap before, ReachMap after)
    {
        var (old, now) = (before.Rules.Signature.Select(rule => (Guid?)rule.Id).ToArray(), after.Rules.Signature.Select(rule => (Guid?)rule.Id).ToArray());
        var isSame = old.SequenceEqual(now);
        var words = AccountSet.WordsFor(after.Accounts.Places);
        // By the numbers of the two rules, the first place standing for none.
        var found = new Shift?[(old.Length + 1) * (now.Length + 1)];
        for (var square = 0; square < after.Cells.Length; square++)
        {
            if (isSame && before.SharesSquare(after, square)) continue;
            var were = before.WinnersIn(square);
            var are = after.WinnersIn(square);
            for (var place = 0; place < are.Length; place++)
            {
                if (isSame && (place & 63) == 0)
                {
                    // Most accounts stay where they are.
                    var length = Math.Min(64, are.Length - place);
                    while (length > 0 && were.Slice(place, length).SequenceEqual(are.Slice(place, length)))
                    {
                        place += length;
                        length = Math.Min(64, are.Length - place);
                    }

                    if (length <= 0) break;
                }

                var (from, to) = (were[place], are[place]);
                if ((isSame && from == to) || !after.Accounts.Alive.Contains(place)) continue;
                ref var shift = ref found[(from == ushort.MaxValue ? 0 : from + 1) * (now.Length + 1) + (to == ushort.MaxValue ? 0 : to + 1)];
                if (shift is null)
                {
                    var (was, isNow) = (from == ushort.MaxValue ? null : old[from], to == ushort.MaxValue ? null : now[to]);
                    shift = new Shift(was, isNow, was == isNow ? [] : new ulong[words], []);
                }

                if (shift.From == shift.To) continue; // the same rule at another number
                shift.Accounts[place >> 6] |= 1UL << (place & 63);
                if (shift.Squares.Count == 0 || shift.Squares[^1] != square) shift.Squares.Add(square);
            }
        }

        return
        [
            .. from shift in found.OfType<Shift>()
               where shift.From != shift.To
               let accounts = new AccountSet(shift.Accounts)
               let count = accounts.Count
               orderby count descending, shift.From, shift.To
               select new ReachShift(shift.From, shift.To, count, [.. shift.Squares.Select(square => after.Cells[square])], [.. accounts.Places().Take(Shown)]),
        ];
    }

    /// <summary>What each rule of the disclaimer and banner tracks gains and loses between two maps of the same accounts and squares; rules that do neither are left out.</summary>
    public static ImmutableArray<ReachGain> CompareAdding(ReachMap before, ReachMap after) =>
    [
        .. from track in new[] { Track.Disclaimer, Track.Banner }
           from rule in before.Rules.On(track).Concat(after.Rules.On(track)).Select(rule => rule.Id).Distinct()
           let gain = Gain(before, after, track, rule)
           where gain.Gained > 0 || gain.Lost > 0
           select gain,
    ];

    private static ReachGain Gain(ReachMap before, ReachMap after, Track track, Guid rule)
    {
        var nobody = new AccountSet(new ulong[AccountSet.WordsFor(after.Accounts.Places)]);
        AccountSet Won(ReachMap map, int square) => map.NumberOf(track, rule) is >= 0 and var number && map.Rules.On(track)[number].IsOn ? map.WonBy(track, number, square) : nobody;
        var (gained, lost) = (nobody, nobody);
        for (var square = 0; square < after.Cells.Length; square++)
        {
            var (was, isNow) = (Won(before, square), Won(after, square));
            gained = AccountSet.Or(gained, AccountSet.Except(isNow, was));
            lost = AccountSet.Or(lost, AccountSet.Except(was, isNow));
        }

        return new ReachGain(track, rule, gained.Count, lost.Count);
    }

    /// <summary>A shift that is being counted. Squares: by their places.</summary>
    private sealed record Shift(Guid? From, Guid? To, ulong[] Accounts, List<int> Squares);
}
