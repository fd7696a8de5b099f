using System.Collections.Immutable;
using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Text.Json;
using NodaTime;

namespace Relevo.Core.Rules.Reach;

/// <summary>
/// What wins where: every account in every square at a moment, on all three tracks. The set evaluation: first match wins is a difference of sets, so everybody is
/// decided at once. Immutable; an edit gives a new map that shares what stayed.
/// </summary>
public sealed class ReachMap
{
    /// <summary>Stands in <see cref="Winner"/> for no rule at all.</summary>
    private const ushort None = ushort.MaxValue;

    private readonly RuleMatcher[][] matchers; // by track, then rule
    private readonly Square[] squares;
    private readonly ImmutableDictionary<Cell, int> places;
    private readonly Notes notes; // what follows from the squares, found when it is first asked for

    private ReachMap(AccountTable accounts, RuleSet rules, ImmutableArray<Cell> cells, Instant moment, RuleMatcher[][] matchers, Square[] squares, ImmutableDictionary<Cell, int> places, Notes notes)
    {
        (Accounts, Rules, Cells, Moment) = (accounts, rules, cells, moment);
        (this.matchers, this.squares, this.places, this.notes) = (matchers, squares, places, notes);
    }

    /// <summary>Everybody.</summary>
    public AccountTable Accounts { get; }

    /// <summary>The rules.</summary>
    public RuleSet Rules { get; }

    /// <summary>The squares.</summary>
    public ImmutableArray<Cell> Cells { get; }

    /// <summary>The moment.</summary>
    public Instant Moment { get; }

    /// <summary>Computes the map.</summary>
    public static ReachMap Of(AccountTable accounts, RuleSet rules, ImmutableArray<Cell> cells, Instant moment)
    {
        var matchers = Enum.GetValues<Track>().Select(track => ParallelMap(rules.On(track), rule => new RuleMatcher(accounts, rule.Conditions))).ToArray();
        return Fill(accounts, rules, cells, moment, matchers, null);
    }

    /// <summary>The map for other rules: conditions that are the same are not looked at again, nor squares in which nothing is other than before.</summary>
    public ReachMap With(RuleSet rules)
    {
        var next = Enum.GetValues<Track>().Select(track => rules.On(track).Select(rule => Known(track, rule) ?? new RuleMatcher(Accounts, rule.Conditions)).ToArray()).ToArray();
        return Fill(Accounts, rules, Cells, Moment, next, this);
    }

    /// <summary>The map when some people's accounts are others: only their places are looked at again.</summary>
    public ReachMap With(AccountTable accounts, ImmutableArray<int> changed)
    {
        var next = matchers.Select(track => track.Select(matcher => matcher.Over(accounts, changed)).ToArray()).ToArray();
        return Fill(accounts, Rules, Cells, Moment, next, null);
    }

    /// <summary>The map at another moment.</summary>
    public ReachMap At(Instant moment) => matchers.All(track => track.All(matcher => matcher.IsSameAt(Moment, moment)))
        ? new ReachMap(Accounts, Rules, Cells, moment, matchers, squares, places, notes)
        : Fill(Accounts, Rules, Cells, moment, matchers, null);

    /// <summary>A rule's number on its track, from 0, or -1.</summary>
    internal int NumberOf(Track track, Guid rule)
    {
        var rules = Rules.On(track);
        for (var number = 0; number < rules.Length; number++)
        {
            if (rules[number].Id == rule) return number;
        }

        return -1;
    }

    /// <summary>A square's place, or -1 for one that is not in the map.</summary>
    public int PlaceOf(Cell cell) => places.GetValueOrDefault(cell, -1);

    /// <summary>Accounts that a rule wins in a square: on the signature track those it decides for, on the others those it adds to.</summary>
    public int Won(Track track, int rule, int square) => squares[square].Won[(int)track][rule];

    /// <summary>Accounts without a rule on the signature track in a square.</summary>
    public int Holes(int square) => squares[square].Holes;

    /// <summary>The number of the rule that decides on the signature track, from 0, or -1. place: an account's.</summary>
    public int Winner(int place, int square) => squares[square].Winners[place] is var winner and not None ? winner : -1;

    /// <summary>The accounts that a rule decides for on the signature track, or, with -1, those without a rule.</summary>
    public AccountSet WonBy(int rule, int square)
    {
        ReadOnlySpan<ushort> winners = squares[square].Winners;
        var asked = rule < 0 ? None : (ushort)rule;
        var words = new ulong[AccountSet.WordsFor(winners.Length)];
        for (var place = 0; place < winners.Length; place++)
        {
            if (winners[place] == asked) words[place >> 6] |= 1UL << (place & 63);
        }

        return rule < 0 ? AccountSet.And(new AccountSet(words), Accounts.Alive) : new AccountSet(words);
    }

    /// <summary>For each place the number of the rule that decides, or <see cref="ushort.MaxValue"/> for none.</summary>
    internal ReadOnlySpan<ushort> WinnersIn(int square) => squares[square].Winners;

    /// <summary>The accounts that a rule wins in a square, on any track.</summary>
    public AccountSet WonBy(Track track, int rule, int square)
    {
        if (track == Track.Signature) return WonBy(rule, square);
        var won = Match(track, rule, square).Among(Accounts);
        for (var earlier = 0; earlier < rule; earlier++)
        {
            if (Rules.On(track)[earlier] is { IsOn: true } stop && Decision.Ends(stop, track)) won = AccountSet.Except(won, Match(track, earlier, square).Among(Accounts));
        }

        return won;
    }

    /// <summary>For each rule of a track that wins anything: the accounts it wins in at least one square.</summary>
    public IReadOnlyDictionary<Guid, AccountSet> ReachedBy(Track track)
    {
        lock (notes) return notes.Reached.TryGetValue(track, out var known) ? known : notes.Reached[track] = FindReached(track);
    }

    /// <summary>The rules of a track that never win: see <see cref="Shading"/>.</summary>
    public ImmutableArray<DeadRule> DeadRules(Track track)
    {
        lock (notes) return notes.Dead.TryGetValue(track, out var known) ? known : notes.Dead[track] = Shading.Find(this, track);
    }

    private Dictionary<Guid, AccountSet> FindReached(Track track)
    {
        var rules = Rules.On(track);
        var reached = new Dictionary<Guid, AccountSet>();
        if (track == Track.Signature)
        {
            var wins = Enumerable.Range(0, rules.Length).Where(rule => squares.Any(square => square.Won[(int)track][rule] > 0)).ToArray();
            var bits = new ulong[rules.Length][];
            foreach (var rule in wins) bits[rule] = new ulong[AccountSet.WordsFor(Accounts.Places)];
            // Each core has words of its own, so that none waits for another.
            Parallel.For(0, AccountSet.WordsFor(Accounts.Places), word =>
            {
                foreach (var square in squares)
                {
                    var winners = square.Winners.AsSpan(word << 6, Math.Min(64, Accounts.Places - (word << 6)));
                    for (var at = 0; at < winners.Length; at++)
                    {
                        if (winners[at] != None) bits[winners[at]][word] |= 1UL << at;
                    }
                }
            });
            foreach (var rule in wins) reached[rules[rule].Id] = new AccountSet(bits[rule]);
            return reached;
        }

        for (var rule = 0; rule < rules.Length; rule++)
        {
            foreach (var square in Enumerable.Range(0, squares.Length).Where(square => Won(track, rule, square) > 0))
            {
                var won = WonBy(track, rule, square);
                reached[rules[rule].Id] = reached.TryGetValue(rules[rule].Id, out var before) ? AccountSet.Or(before, won) : won;
            }
        }

        return reached;
    }

    /// <summary>
    /// Decides for one account of the table in one square, without going through conditions. place: the account's; message: see <see cref="Situation.Message"/>.
    /// </summary>
    public Decision Decide(int place, int square, long message = 0)
    {
        var winner = Winner(place, square) is >= 0 and var number ? Rules.Signature[number] : null;
        return new Decision(winner, winner?.DesignFor(Moment, message), Rules.Disclaimer.IsEmpty ? [] : Disclaimers(place, square), Rules.Banner.IsEmpty ? [] : Banners(place, square), []);
    }

    /// <summary>True when nothing of the signature track is other in a square of another map.</summary>
    internal bool SharesSquare(ReachMap other, int square) => ReferenceEquals(squares[square].Winners, other.squares[square].Winners);

    /// <summary>Where a rule's conditions hold; nowhere while it is off.</summary>
    internal Match Match(Track track, int rule, int square) => squares[square].Matches[(int)track][rule];

    private ImmutableArray<Guid> Disclaimers(int place, int square)
    {
        ImmutableArray<Guid> added = [];
        var matches = squares[square].Matches[(int)Track.Disclaimer];
        for (var rule = 0; rule < matches.Length; rule++)
        {
            if (!matches[rule].Holds(place)) continue;
            if (Rules.Disclaimer[rule].Then is not AddDisclaimers add) break;
            added = added.IsEmpty && add.Disclaimers.Length == 1 ? add.Disclaimers : [.. added.AsEnumerable().Concat(add.Disclaimers).Distinct()];
        }

        return added;
    }

    private ImmutableArray<ShowBanner> Banners(int place, int square)
    {
        ImmutableArray<ShowBanner> shown = [];
        var matches = squares[square].Matches[(int)Track.Banner];
        for (var rule = 0; rule < matches.Length; rule++)
        {
            if (matches[rule].Holds(place) && Rules.Banner[rule].Then is ShowBanner show) shown = shown.Add(show);
        }

        return shown;
    }

    /// <summary>The matcher of a rule that is as it was, or has the conditions it had.</summary>
    private RuleMatcher? Known(Track track, Rule rule)
    {
        var rules = Rules.On(track);
        for (var index = 0; index < rules.Length; index++)
        {
            if (rules[index].Id == rule.Id) return ReferenceEquals(rules[index], rule) || Key(rules[index]) == Key(rule) ? matchers[(int)track][index] : null;
        }

        return null;
    }

    private static string Key(Rule rule) => JsonSerializer.Serialize(rule.Conditions, RelevoJson.Options);

    private static ReachMap Fill(AccountTable accounts, RuleSet rules, ImmutableArray<Cell> cells, Instant moment, RuleMatcher[][] matchers, ReachMap? before)
    {
        var places = before?.places ?? cells.Select((cell, place) => (cell, place)).ToImmutableDictionary(pair => pair.cell, pair => pair.place);
        var isOn = Enum.GetValues<Track>().Select(track => rules.On(track).Select(rule => rule.IsOn).ToArray()).ToArray();
        var ends = Enum.GetValues<Track>().Select(track => rules.On(track).Select(rule => Decision.Ends(rule, track)).ToArray()).ToArray();
        var wasSame = Enum.GetValues<Track>().Select(track => before is null ? null : Unchanged(before, track, rules.On(track), matchers[(int)track])).ToArray();
        var squares = ParallelMap(cells, cell =>
        {
            var old = before?.squares[places[cell]];
            var square = new Square();
            for (var track = 0; track < matchers.Length; track++)
            {
                var same = wasSame[track];
                square.Matches[track] = [.. matchers[track].Select((matcher, rule) => same is not null && same[rule] ? old!.Matches[track][rule] : isOn[track][rule] ? matcher.In(cell, moment) : Reach.Match.Nobody)];
                if (old is null || same is null) square.Run(track, accounts, ends[track]);
                else square.Follow(track, accounts, ends[track], old);
            }

            return square;
        });
        return new ReachMap(accounts, rules, cells, moment, matchers, squares, places, new Notes());
    }

    /// <summary>Which rules of a track are as they were and where they were; null when there are others, or one of them ends the track where it did not.</summary>
    private static bool[]? Unchanged(ReachMap before, Track track, ImmutableArray<Rule> now, RuleMatcher[] next)
    {
        var old = before.Rules.On(track);
        if (old.Length != now.Length) return null;
        var same = new bool[now.Length];
        for (var rule = 0; rule < now.Length; rule++)
        {
            if (Decision.Ends(old[rule], track) != Decision.Ends(now[rule], track)) return null;
            same[rule] = ReferenceEquals(before.matchers[(int)track][rule], next[rule]) && old[rule].IsOn == now[rule].IsOn;
        }

        return same;
    }

    private static TTo[] ParallelMap<TFrom, TTo>(ImmutableArray<TFrom> items, Func<TFrom, TTo> make)
    {
        var made = new TTo[items.Length];
        Parallel.For(0, items.Length, index => made[index] = make(items[index]));
        return made;
    }

    /// <summary>What follows from the squares.</summary>
    private sealed class Notes
    {
        public Dictionary<Track, Dictionary<Guid, AccountSet>> Reached { get; } = [];

        public Dictionary<Track, ImmutableArray<DeadRule>> Dead { get; } = [];
    }

    /// <summary>One square: what each rule matches and wins in it.</summary>
    private sealed class Square
    {
        public Match[][] Matches { get; } = new Match[3][];

        public int[][] Won { get; } = new int[3][];

        public ushort[] Winners { get; set; } = [];

        public int Holes { get; set; }

        /// <summary>Takes over what an older state of the square had, and looks again only at the accounts of rules that match others than before.</summary>
        public void Follow(int track, AccountTable accounts, bool[] ends, Square old)
        {
            var changed = Enumerable.Range(0, ends.Length).Where(rule => !IsSame(Matches[track][rule], old.Matches[track][rule])).Take(2).ToArray();
            if (changed.Length == 0)
            {
                Won[track] = old.Won[track];
                if (track == (int)Track.Signature) (Winners, Holes) = (old.Winners, old.Holes);
            }
            else if (changed.Length == 1 && track == (int)Track.Signature) Edit(accounts, changed[0], old);
            else Run(track, accounts, ends);
        }

        /// <summary>One rule of the signature track matches others: it takes what it gained from later rules, and what it lost goes to the next one that matches.</summary>
        private void Edit(AccountTable accounts, int rule, Square old)
        {
            var matches = Matches[(int)Track.Signature];
            var (was, isNow) = (old.Matches[(int)Track.Signature][rule].Among(accounts), matches[rule].Among(accounts));
            var won = (int[])old.Won[(int)Track.Signature].Clone();
            var winners = (ushort[])old.Winners.Clone();
            var holes = old.Holes;
            var (gained, lost) = (AccountSet.Except(isNow, was), AccountSet.Except(was, isNow));
            for (var place = 0; place < winners.Length; place++)
            {
                if (winners[place] <= rule || !gained.Contains(place)) continue;
                if (winners[place] == None) holes--;
                else won[winners[place]]--;
                winners[place] = (ushort)rule;
                won[rule]++;
            }

            var left = new ulong[AccountSet.WordsFor(accounts.Places)];
            var open = 0;
            for (var place = 0; place < winners.Length; place++)
            {
                if (winners[place] != rule || !lost.Contains(place)) continue;
                winners[place] = None;
                left[place >> 6] |= 1UL << (place & 63);
                open++;
            }

            won[rule] -= open;
            for (var later = rule + 1; later < matches.Length && open > 0; later++)
            {
                if (matches[later] is { IsAll: false, Some: null }) continue;
                var taken = matches[later].Some is { } some ? Take(left, some.Words, ends: true, winners, (ushort)later) : Take(left, left, ends: true, winners, (ushort)later);
                won[later] += taken;
                open -= taken;
            }

            Won[(int)Track.Signature] = won;
            (Winners, Holes) = (winners, holes + open);
        }

        private static bool IsSame(Match left, Match right) => left.IsAll == right.IsAll && (ReferenceEquals(left.Some, right.Some) || (left.Some is not null && right.Some is not null && left.Some.Words.SequenceEqual(right.Some.Words)));

        /// <summary>Goes through a track once for everybody. ends: which rules are the last of their track where they match.</summary>
        public void Run(int track, AccountTable accounts, bool[] ends)
        {
            var won = new int[ends.Length];
            var left = accounts.Alive.Words.ToArray();
            var winners = track == (int)Track.Signature ? new ushort[accounts.Places] : null;
            winners?.AsSpan().Fill(None);
            var open = accounts.Count;
            for (var rule = 0; rule < ends.Length && open > 0; rule++)
            {
                var match = Matches[track][rule];
                if (match is { IsAll: false, Some: null }) continue;
                won[rule] = match.Some is null ? Take(left, left, ends[rule], winners, (ushort)rule) : Take(left, match.Some.Words, ends[rule], winners, (ushort)rule);
                if (ends[rule]) open -= won[rule];
            }

            Won[track] = won;
            if (winners is not null) (Winners, Holes) = (winners, open);
        }

        /// <summary>Counts those left that a rule matches, writes them down, and takes them out if it is the last one for them.</summary>
        private static int Take(ulong[] left, ReadOnlySpan<ulong> match, bool ends, ushort[]? winners, ushort rule)
        {
            var count = 0;
            ref var open = ref MemoryMarshal.GetArrayDataReference(left);
            ref var asked = ref MemoryMarshal.GetReference(match);
            var index = 0;
            for (; index <= left.Length - 4; index += 4)
            {
                var taken = Vector256.LoadUnsafe(ref open, (nuint)index) & Vector256.LoadUnsafe(ref asked, (nuint)index);
                if (taken == Vector256<ulong>.Zero) continue;
                for (var lane = 0; lane < 4; lane++) count += Take(ref Unsafe.Add(ref open, index + lane), taken.GetElement(lane), index + lane, ends, winners, rule);
            }

            for (; index < left.Length; index++) count += Take(ref left[index], left[index] & match[index], index, ends, winners, rule);
            return count;
        }

        private static int Take(ref ulong open, ulong taken, int word, bool ends, ushort[]? winners, ushort rule)
        {
            if (taken == 0) return 0;
            if (ends) open &= ~taken;
            if (winners is null) return BitOperations.PopCount(taken);
            if (taken == ulong.MaxValue) winners.AsSpan(word << 6, 64).Fill(rule);
            else
            {
                for (var rest = taken; rest != 0; rest &= rest - 1) winners[(word << 6) + BitOperations.TrailingZeroCount(rest)] = rule;
            }

            return BitOperations.PopCount(taken);
        }
    }
}
