using System.Collections.Immutable;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.Particulars;
using Relevo.Core.People;

namespace Relevo.Core.Rules.Reach;

/// <summary>How much a finding matters.</summary>
public enum FindingWeight
{
    /// <summary>Nothing is published before it is mended: rules do not do what they say.</summary>
    Stops,

    /// <summary>Somebody may be left out or get something that was not meant.</summary>
    Look,

    /// <summary>Good to know.</summary>
    Note,
}

/// <summary>Something about a rule set as a whole.</summary>
/// <param name="Code">A stable name for the kind of finding.</param>
/// <param name="Weight">How much it matters.</param>
/// <param name="Message">A sentence: what and why.</param>
/// <param name="Track">The track it is about.</param>
/// <param name="Rule">The rule it is about, or null.</param>
/// <param name="Others">Other rules it speaks of: those that shade it.</param>
/// <param name="Accounts">Accounts concerned, 0 when it concerns no account.</param>
/// <param name="Squares">For a hole: the squares it lies in.</param>
public sealed record ReachFinding(string Code, FindingWeight Weight, string Message, Track Track, Guid? Rule, ImmutableArray<Guid> Others, int Accounts, ImmutableArray<Cell> Squares);

/// <summary>Looks a rule set over: holes, dead rules, names of what is gone, and whatever else complaints would be about.</summary>
public static class ReachFindings
{
    /// <summary>Every finding, the weightiest first.</summary>
    public static ImmutableArray<ReachFinding> Of(ReachMap map, EditionContent content, RuleNames names) =>
    [
        .. Holes(map, names)
            .Concat(Enum.GetValues<Track>().SelectMany(track => Dead(map, track)))
            .Concat(Enum.GetValues<Track>().SelectMany(track => map.Rules.On(track).SelectMany((rule, index) => OfRule(map, content, names, track, rule, index))))
            .Concat(Unused(map, content)).Concat(Alike(content)).Concat(Empty(map, content)).Concat(Particulars(map, content))
            .OrderBy(finding => finding.Weight),
    ];

    /// <summary>Holes there are: sets of accounts that have no signature in the same squares are one.</summary>
    public static int CountHoles(ReachMap map) => HolesOf(map).Count();

    private static IEnumerable<ReachFinding> Holes(ReachMap map, RuleNames names)
    {
        foreach (var (set, cells) in HolesOf(map))
        {
            var count = set.Count;
            var who = count == map.Accounts.Count ? "Nobody has" : count == 1 ? $"{map.Accounts[set.Places().First()].Address} has" : $"{count} accounts have";
            yield return new("hole", FindingWeight.Look, $"{who} {(count == map.Accounts.Count ? "a" : "no")} signature in {Describe(cells, map, names)}: no rule matches.", Track.Signature, null, [], count, cells);
        }
    }

    /// <summary>The accounts without a signature, each set of them with the squares it lies in.</summary>
    private static IEnumerable<(AccountSet Accounts, ImmutableArray<Cell> Squares)> HolesOf(ReachMap map)
    {
        var open = Enumerable.Range(0, map.Cells.Length).Where(square => map.Holes(square) > 0).Select(square => (square, set: map.WonBy(-1, square))).ToList();
        while (open.Count > 0)
        {
            var set = open[0].set;
            var same = open.Where(one => one.set.Words.SequenceEqual(set.Words)).ToArray();
            open.RemoveAll(one => same.Contains(one));
            yield return (set, [.. same.Select(one => map.Cells[one.square])]);
        }
    }

    /// <summary>Squares in words: the audiences, occasions and client kinds they span when they are all of those together, else how many there are.</summary>
    private static string Describe(ImmutableArray<Cell> cells, ReachMap map, RuleNames names)
    {
        string[] audiences = [.. cells.Select(cell => cell.Audience).Distinct()], clients = [.. cells.Select(cell => cell.Client).Distinct()];
        Occasion[] occasions = [.. cells.Select(cell => cell.Occasion).Distinct()];
        if (audiences.Length * clients.Length * occasions.Length != cells.Length) return $"{cells.Length} of the map's {map.Cells.Length} squares, such as {One(cells[0], names)}";
        string[] otherClients = [.. map.Cells.Select(cell => cell.Client).Distinct().Except(clients)];
        var on = otherClients.Length == 0 ? "" : otherClients.Length == 1 && clients.Length > 1 ? $" on all but the {Words.OfClient(otherClients[0])}" : $" on the {string.Join(" or ", clients.Select(Words.OfClient))}";
        var allAudiences = map.Cells.Select(cell => cell.Audience).Distinct().Count() == audiences.Length;
        var messages = occasions.Length == 3 ? "any message" : occasions.Length == 1 ? $"a {Words.Of(occasions[0])}" : $"a {string.Join(" or ", occasions.Select(Words.Of))}";
        return messages + (allAudiences ? "" : $" to {string.Join(" or ", audiences.Select(key => names.Audience(key) ?? key))}") + on;
    }

    private static string One(Cell cell, RuleNames names) => $"a {Words.Of(cell.Occasion)} to {names.Audience(cell.Audience) ?? cell.Audience} on the {Words.OfClient(cell.Client)}";

    private static IEnumerable<ReachFinding> Dead(ReachMap map, Track track)
    {
        var rules = map.Rules.On(track);
        foreach (var (rule, shaders, isSmallest) in map.DeadRules(track))
        {
            var numbers = shaders.Select(shader => (shader + 1).ToString(System.Globalization.CultureInfo.InvariantCulture)).ToArray();
            var which = numbers.Length == 1 ? $"rule {numbers[0]} comes first in all its cases" : $"rules {string.Join(", ", numbers[..^1])} and {numbers[^1]} together come first in all its cases";
            yield return new("dead", FindingWeight.Look, $"Rule {rule + 1} never wins: {which}{(isSmallest ? "" : " (fewer might do)")}.", track, rules[rule].Id, [.. shaders.Select(shader => rules[shader].Id)], 0, []);
        }
    }

    private static IEnumerable<ReachFinding> OfRule(ReachMap map, EditionContent content, RuleNames names, Track track, Rule rule, int index)
    {
        ReachFinding Finding(string code, FindingWeight weight, string message) => new(code, weight, $"Rule {index + 1} {message}", track, rule.Id, [], 0, []);
        foreach (var gone in Gone(rule, content, map, names).Distinct()) yield return Finding(gone.Code, rule.IsOn ? gone.Weight : FindingWeight.Note, gone.Message);
        if (!rule.IsOn) yield break;
        foreach (var id in rule.Then is AddDisclaimers add ? add.Disclaimers : [])
        {
            if (content.FindDisclaimer(id) is { Valid: { } valid } disclaimer && !(TimeWindow.TryRead(valid, out var its, out _) && its.Holds(map.Moment))) yield return Finding("not-valid", FindingWeight.Note, $"adds \"{disclaimer.Name}\", which is not valid at this moment.");
        }

        foreach (var time in rule.AllConditions.OfType<TimeCondition>())
        {
            if (!TimeWindow.TryRead(time, out var window, out var trouble)) yield return Finding("time-unreadable", FindingWeight.Stops, $"can never match: {trouble}.");
            else if (window.IsOver(map.Moment)) yield return Finding("over", FindingWeight.Note, "is over: its time has passed.");
            else if (window.IsAhead(map.Moment)) yield return Finding("ahead", FindingWeight.Note, "has not begun yet.");
        }

        if (Shading.MatchesNobody(map, track, index) && WouldMatchNobody(map, rule)) yield return Finding("nobody", FindingWeight.Look, "is meant for nobody: no account meets its conditions.");
    }

    /// <summary>Whether it is the accounts, and not the moment, for which a rule matches nobody.</summary>
    private static bool WouldMatchNobody(ReachMap map, Rule rule)
    {
        var asked = rule.Conditions.Where(condition => !condition.Whole.Any(Conditions.IsOfCell)).ToImmutableArray();
        return !asked.IsEmpty && new RuleMatcher(map.Accounts, asked).In(default, map.Moment).Among(map.Accounts).IsEmpty;
    }

    /// <summary>What a rule names and is not there.</summary>
    private static IEnumerable<(string Code, FindingWeight Weight, string Message)> Gone(Rule rule, EditionContent content, ReachMap map, RuleNames names)
    {
        var records = map.Accounts.Records;
        if (rule.Then.AllDesigns.Any(id => content.Find(id) is null)) yield return ("design-gone", FindingWeight.Stops, "names a design that is gone: whoever it decides for would have no signature.");
        if (rule.Then is AddDisclaimers add && add.Disclaimers.Any(id => content.FindDisclaimer(id) is null)) yield return ("disclaimer-gone", FindingWeight.Stops, "adds a disclaimer that is gone.");
        if (rule.Then is ShowBanner show && content.FindBanner(show.Banner) is null) yield return ("banner-gone", FindingWeight.Stops, "shows a banner that is gone.");
        foreach (var condition in rule.AllConditions)
        {
            switch (condition)
            {
                case AudienceCondition audience:
                    foreach (var key in audience.Audiences.Where(key => names.Audience(key) is null)) yield return ("audience-gone", FindingWeight.Stops, $"asks for the audience \"{key}\", which is gone, and so never matches for it.");
                    break;
                case ValueCondition value when !records.Fields.TryFind(value.Field, out _):
                    yield return ("field-gone", FindingWeight.Stops, $"asks for the field \"{value.Field}\", which is gone, and so never matches.");
                    break;
                case GroupCondition group:
                    var groups = map.Accounts.ValuesOf(Conditions.FieldOf(GroupNames.Field, records)).SelectMany(one => GroupNames.Split(one.Value)).ToHashSet(StringComparer.OrdinalIgnoreCase);
                    foreach (var name in group.Groups.Where(name => !groups.Contains(name))) yield return ("group-empty", FindingWeight.Look, $"asks for the group \"{name}\", which nobody is in.");
                    break;
                case UnitCondition unit:
                    var units = map.Accounts.ValuesOf(Conditions.FieldOf(unit.Unit, records)).Select(one => one.Value).ToHashSet(StringComparer.OrdinalIgnoreCase);
                    foreach (var name in unit.Names.Where(name => !units.Contains(name) && records.Units.Find(unit.Unit, name) is null)) yield return ("unit-gone", FindingWeight.Look, $"asks for \"{name}\", where nobody is.");
                    break;
                case PersonCondition person when person.People.Any(id => map.Accounts.PlacesOf(id).IsEmpty):
                    yield return ("person-gone", FindingWeight.Look, "names somebody who has left or has no address.");
                    break;
                case AddressCondition address when map.Accounts.At(address.Addresses) is var at && at.IsEmpty:
                    yield return ("address-gone", FindingWeight.Look, $"asks for {Words.Of(address, names)}, from which nobody sends.");
                    break;
            }
        }
    }

    private static IEnumerable<ReachFinding> Unused(ReachMap map, EditionContent content)
    {
        var used = map.Rules.Signature.SelectMany(rule => rule.Then.AllDesigns).ToHashSet();
        foreach (var design in content.Designs.Where(design => !used.Contains(design.Id))) yield return Note("design-unused", $"No rule uses the design \"{design.Document.Name}\".", Track.Signature);
        var added = map.Rules.Disclaimer.SelectMany(rule => rule.Then is AddDisclaimers add ? add.Disclaimers : []).ToHashSet();
        foreach (var disclaimer in content.Disclaimers.Where(disclaimer => !added.Contains(disclaimer.Id))) yield return Note("disclaimer-unused", $"No rule adds the disclaimer \"{disclaimer.Document.Name}\".", Track.Disclaimer);
        var shown = map.Rules.Banner.Select(rule => rule.Then).OfType<ShowBanner>().Select(show => show.Banner).ToHashSet();
        foreach (var banner in content.Banners.Where(banner => !shown.Contains(banner.Id))) yield return Note("banner-unused", $"No rule shows the banner \"{banner.Document.Name}\".", Track.Banner);
    }

    private static IEnumerable<ReachFinding> Alike(EditionContent content) =>
        content.Disclaimers.GroupBy(disclaimer => disclaimer.Document.Said).Where(group => group.Count() > 1)
            .Select(group => new ReachFinding("disclaimers-alike", FindingWeight.Look, $"The disclaimers {string.Join(" and ", group.Select(one => $"\"{one.Document.Name}\""))} say the same.", Track.Disclaimer, null, [], 0, []));

    /// <summary>Designs that show somebody's name or ways to reach them, and reach accounts that have nothing to show there.</summary>
    private static IEnumerable<ReachFinding> Empty(ReachMap map, EditionContent content)
    {
        foreach (var (design, reached) in ReachedBy(map))
        {
            if (content.Find(design) is not { } document) continue;
            foreach (var block in document.Blocks.Values.Where(block => block.When.IsEmpty && block is ContactList or TextLine { Role: TextRole.Name }))
            {
                int[] fields = [.. DesignCheck.FieldsOf(block).Distinct().Select(field => Conditions.FieldOf(field, map.Accounts.Records)).Where(field => field >= 0)];
                if (fields.Length == 0 || DesignCheck.FieldsOf(block).Contains("mail")) continue;
                var empty = fields.Aggregate(reached, (left, field) => AccountSet.And(left, map.Accounts.Where(field, text => text.Length == 0)));
                if (!empty.IsEmpty) yield return new("empty", FindingWeight.Look, $"\"{document.Name}\" reaches {(empty.Count == 1 ? $"{map.Accounts[empty.Places().First()].Address}, which has" : $"{empty.Count} accounts that have")} nothing for its {(block is ContactList ? "ways to be reached" : "name")}.", Track.Signature, null, [], empty.Count, []);
            }
        }
    }

    /// <summary>Every account that a design reaches in some square, by design.</summary>
    public static Dictionary<Guid, AccountSet> ReachedBy(ReachMap map)
    {
        var reached = new Dictionary<Guid, AccountSet>();
        var byRule = map.ReachedBy(Track.Signature);
        foreach (var rule in map.Rules.Signature.Where(rule => byRule.ContainsKey(rule.Id)))
        {
            foreach (var design in rule.Then.AllDesigns) reached[design] = reached.TryGetValue(design, out var before) ? AccountSet.Or(before, byRule[rule.Id]) : byRule[rule.Id];
        }

        return reached;
    }

    /// <summary>Entities whose particulars lack something, where a rule adds them.</summary>
    private static IEnumerable<ReachFinding> Particulars(ReachMap map, EditionContent content)
    {
        if (!map.Rules.Disclaimer.Any(rule => rule.IsOn && rule.Then is AddDisclaimers add && add.Disclaimers.Any(id => content.FindDisclaimer(id) is { HasParticulars: true }))) yield break;
        foreach (var (name, accounts) in map.Accounts.ValuesOf(Conditions.FieldOf("organisation", map.Accounts.Records)))
        {
            var facts = EntityFacts.Of(map.Accounts.Records, name);
            var scheme = ParticularsScheme.For(facts("country"));
            if (scheme.Missing(facts) is not { IsEmpty: false } missing) continue;
            yield return new("particulars-missing", FindingWeight.Look, $"The particulars of {(name.Length > 0 ? name : "accounts without a legal entity")} lack: {string.Join("; ", missing.Select(item => $"{item.Label} ({item.Source}{(item.IsFromMemory ? ", from memory" : "")})"))}.", Track.Disclaimer, null, [], accounts, []);
        }
    }

    private static ReachFinding Note(string code, string message, Track track) => new(code, FindingWeight.Note, message, track, null, [], 0, []);
}
