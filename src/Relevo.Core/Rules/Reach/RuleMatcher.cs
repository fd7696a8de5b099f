using System.Collections.Concurrent;
using System.Collections.Immutable;
using NodaTime;
using Relevo.Core.People;

namespace Relevo.Core.Rules.Reach;

/// <summary>Where a rule's conditions hold: for everybody, or for a set of accounts.</summary>
internal readonly record struct Match(bool IsAll, AccountSet? Some)
{
    public static Match All { get; } = new(true, null);

    public static Match Nobody { get; } = new(false, null);

    public static Match Of(AccountSet set) => new(false, set);

    public bool Holds(int place) => IsAll || (Some is not null && Some.Contains(place));

    /// <summary>The accounts, those there are. </summary>
    public AccountSet Among(AccountTable table) => IsAll ? table.Alive : Some is null ? new AccountSet(new ulong[AccountSet.WordsFor(table.Places)]) : AccountSet.And(Some, table.Alive);
}

/// <summary>
/// A rule's conditions over a table of accounts. Questions about accounts are answered once, as sets; the message, its readers, the client kind and the moment are
/// constants of a square, and squares that give them the same answers share one result.
/// </summary>
internal sealed class RuleMatcher
{
    private readonly AccountTable table;
    private readonly ImmutableArray<Condition> conditions;
    private readonly ImmutableArray<(Condition Condition, TimeWindow? Window)> ofCell;
    private readonly Dictionary<Condition, Match> sets = new(ReferenceEqualityComparer.Instance);
    private readonly ConcurrentDictionary<string, Match> matches = new(StringComparer.Ordinal);

    public RuleMatcher(AccountTable table, ImmutableArray<Condition> conditions)
    {
        this.table = table;
        this.conditions = conditions;
        var whole = conditions.SelectMany(condition => condition.Whole).Distinct<Condition>(ReferenceEqualityComparer.Instance).ToArray();
        ofCell = [.. whole.Where(Conditions.IsOfCell).Select(condition => (condition, condition is TimeCondition time && TimeWindow.TryRead(time, out var window, out _) ? window : null))];
        foreach (var condition in whole.Where(condition => condition.Within.IsEmpty && condition is not (AllOf or AnyOf or NoneOf) && !Conditions.IsOfCell(condition))) sets[condition] = Find(condition);
    }

    /// <summary>Where the conditions hold in a square at a moment.</summary>
    public Match In(Cell cell, Instant moment)
    {
        var answers = string.Create(ofCell.Length, (Own: this, Cell: cell, Moment: moment), static (text, asked) =>
        {
            for (var index = 0; index < text.Length; index++) text[index] = asked.Own.Holds(index, asked.Cell, asked.Moment) ? '1' : '0';
        });
        return matches.GetOrAdd(answers, All);
    }

    /// <summary>True when the conditions on the time hold at both moments or at neither.</summary>
    public bool IsSameAt(Instant one, Instant other) => ofCell.All(asked => asked.Window is null || asked.Window.Holds(one) == asked.Window.Holds(other));

    /// <summary>The same conditions over a table in which some places are other than before.</summary>
    public RuleMatcher Over(AccountTable next, ImmutableArray<int> changed) => new(this, next, changed);

    private RuleMatcher(RuleMatcher before, AccountTable next, ImmutableArray<int> changed)
    {
        (table, conditions, ofCell) = (next, before.conditions, before.ofCell);
        foreach (var (condition, match) in before.sets)
        {
            sets[condition] = match.Some is null ? match : Match.Of(match.Some.With(next.Places, changed, place => next.Alive.Contains(place) && Conditions.Holds(condition, new Situation(next[place], "", Occasion.New, "", default), next.Records)));
        }
    }

    private bool Holds(int index, Cell cell, Instant moment) => ofCell[index] is (TimeCondition, var window) ? window is not null && window.Holds(moment) : Conditions.HoldsIn(ofCell[index].Condition, cell, moment);

    private Match All(string answers)
    {
        var constant = new Dictionary<Condition, bool>(ReferenceEqualityComparer.Instance);
        for (var index = 0; index < answers.Length; index++) constant[ofCell[index].Condition] = answers[index] == '1';
        return Meet(conditions, constant);
    }

    private Match Evaluate(Condition condition, Dictionary<Condition, bool> constant) => condition switch
    {
        AllOf all => Meet(all.Conditions, constant),
        AnyOf any => Join(any.Conditions, constant),
        NoneOf none => Join(none.Conditions, constant) switch
        {
            { IsAll: true } => Match.Nobody,
            { Some: { } some } => Match.Of(AccountSet.Except(table.Alive, some)),
            _ => Match.All,
        },
        _ when constant.TryGetValue(condition, out var holds) => holds ? Match.All : Match.Nobody,
        _ => sets[condition],
    };

    private Match Meet(ImmutableArray<Condition> all, Dictionary<Condition, bool> constant)
    {
        AccountSet? met = null;
        foreach (var condition in all)
        {
            var match = Evaluate(condition, constant);
            if (match.IsAll) continue;
            if (match.Some is null) return Match.Nobody;
            met = met is null ? match.Some : AccountSet.And(met, match.Some);
        }

        return met is null ? Match.All : Match.Of(met);
    }

    private Match Join(ImmutableArray<Condition> any, Dictionary<Condition, bool> constant)
    {
        AccountSet? joined = null;
        foreach (var condition in any)
        {
            var match = Evaluate(condition, constant);
            if (match.IsAll) return Match.All;
            if (match.Some is not null) joined = joined is null ? match.Some : AccountSet.Or(joined, match.Some);
        }

        return joined is null ? Match.Nobody : Match.Of(joined);
    }

    /// <summary>The accounts of which a condition on accounts holds.</summary>
    private Match Find(Condition condition)
    {
        var records = table.Records;
        AccountSet? set = condition switch
        {
            ValueCondition value => records.Fields.TryFind(value.Field, out var field) ? table.Where(field, Conditions.TestOf(value)) : null,
            UnitCondition unit => table.Where(Conditions.FieldOf(unit.Unit, records), Conditions.TestOf(unit, records)),
            GroupCondition group => table.Where(Conditions.FieldOf(GroupNames.Field, records), Conditions.TestOf(group)),
            PersonCondition person => table.Of(person.People),
            AccountCondition account => table.Where(AccountTable.KindColumn, kind => account.Kinds.Any(asked => asked.ToString() == kind)),
            AddressCondition address => table.At(address.Addresses),
            DomainCondition domain => table.Where(AccountTable.DomainColumn, Conditions.TestOf(domain)),
            _ => null,
        };
        return set is null ? Match.Nobody : Match.Of(AccountSet.And(set, table.Alive));
    }
}
