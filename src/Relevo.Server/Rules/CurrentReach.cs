using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People.Roster;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;

namespace Relevo.Server.Rules;

/// <summary>What is wrong with a rule set, in figures.</summary>
public sealed record ReachFigures(int Holes, int DeadRules, int FailedTests);

/// <summary>Keeps the newest map of the drafts' rules, and brings it up to date by what changed since it was last asked for: people, rules, audiences, the minute.</summary>
public sealed class CurrentReach(TimeProvider clock)
{
    private readonly Lock building = new();
    private PeopleRoster? roster;
    private ReachMap? newest;
    private (RuleSet Rules, Banner[] Banners, RuleSet InForce)? kept;
    private (ReachMap Map, ReachFigures Figures)? figures;

    /// <summary>The moment that maps of now are made for: the minute that has begun.</summary>
    public Instant Now => Instant.FromUnixTimeSeconds(clock.GetUtcNow().ToUnixTimeSeconds() / 60 * 60);

    /// <summary>The map of a state's rules over this roster now.</summary>
    public ReachMap Of(PeopleRoster people, EditionContent content)
    {
        lock (building)
        {
            var rules = InForce(content);
            var cells = Cell.All(content.Audiences.Keys, ClientKind.All.Select(kind => kind.Kind));
            if (newest is null || roster is null || !ReferenceEquals(roster.Records, people.Records) || !newest.Cells.SequenceEqual(cells))
                newest = ReachMap.Of(Table(people), rules, cells, Now);
            else if (!ReferenceEquals(roster, people) && Changed(roster, people) is { Count: > 0 } changed)
            {
                var (table, places) = newest.Accounts.With(changed);
                newest = newest.With(table, places);
            }

            roster = people;
            if (!ReferenceEquals(newest.Rules, rules)) newest = newest.With(rules);
            if (newest.Moment != Now) newest = newest.At(Now);
            return newest;
        }
    }

    /// <summary>The map's figures, which every screen asks for every few seconds.</summary>
    public ReachFigures FiguresOf(ReachMap map, RuleNames names)
    {
        lock (building)
        {
            if (figures is { } known && known.Map == map) return known.Figures;
            var found = new ReachFigures(ReachFindings.CountHoles(map), Enum.GetValues<Track>().Sum(track => map.DeadRules(track).Length), RuleTesting.Check(map, names).Count(result => !result.IsMet));
            figures = (map, found);
            return found;
        }
    }

    /// <summary>The rules in force; the same object as long as rules and banners are.</summary>
    private RuleSet InForce(EditionContent content)
    {
        var banners = content.Banners.Select(banner => banner.Document).ToArray();
        if (kept is { } known && ReferenceEquals(known.Rules, content.Rules) && known.Banners.SequenceEqual(banners, ReferenceEqualityComparer.Instance)) return known.InForce;
        var inForce = content.RulesInForce();
        kept = (content.Rules, banners, inForce);
        return inForce;
    }

    /// <summary>Every account of everybody who is not retired.</summary>
    private static AccountTable Table(PeopleRoster people) =>
        AccountTable.Of(people.Records, [.. people.Rows.ToArray().Where(row => !row.Person.IsRetired).SelectMany(row => Senders(people, row))]);

    private static IEnumerable<Sender> Senders(PeopleRoster people, RosterRow row) => row.Person.Accounts.Select(account => row.SenderOf(people.Records, account));

    /// <summary>The accounts of those whose rows are others than before. Rows of people who stayed as they were are shared.</summary>
    private static Dictionary<Guid, IReadOnlyList<Sender>> Changed(PeopleRoster before, PeopleRoster now)
    {
        var changed = new Dictionary<Guid, IReadOnlyList<Sender>>();
        foreach (var row in now.Rows)
        {
            if (!ReferenceEquals(before.Find(row.Person.Id), row)) changed[row.Person.Id] = row.Person.IsRetired ? [] : [.. Senders(now, row)];
        }

        return changed;
    }
}
