using System.Collections.Immutable;
using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using NodaTime.Text;
using Relevo.Core;
using Relevo.Core.Editions;
using Relevo.Core.People.Roster;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Rules;

/// <summary>A rule with its sentence.</summary>
public sealed record RuleRow(Rule Rule, ImmutableArray<SentencePiece> Sentence);

/// <summary>An expectation with its sentence.</summary>
public sealed record RuleTestRow(RuleTest Test, ImmutableArray<SentencePiece> Sentence);

/// <summary>The rules of every track, and what is expected of them.</summary>
public sealed record RulesAnswer(int Revision, ImmutableArray<RuleRow> Signature, ImmutableArray<RuleRow> Disclaimer, ImmutableArray<RuleRow> Banner, ImmutableArray<RuleTestRow> Tests);

/// <summary>One square of the map: accounts that each rule wins, by number from 0, on each track, and those without a signature.</summary>
public sealed record SquareAnswer(Cell Cell, ImmutableArray<int> Signature, ImmutableArray<int> Disclaimer, ImmutableArray<int> Banner, int Holes);

/// <summary>Accounts that move from one rule to another; null stands for no rule.</summary>
public sealed record ShiftAnswer(Guid? From, Guid? To, int Accounts, int Squares, ImmutableArray<string> First);

/// <summary>What became of an expectation. Trace: for a failed one, of the first situation that had something else.</summary>
public sealed record RuleTestAnswer(Guid Test, bool IsMet, long Situations, long Failed, string Address, Cell? Cell, ImmutableArray<LensTraceStep> Trace);

/// <summary>Somebody who is in a square.</summary>
public sealed record ReachedAccount(Guid Person, string Name, string Address);

/// <summary>The map of a rule set. Reached: for each rule of each track, accounts it wins in at least one square. Shifts and Gains: what is other than with the rules that are kept, on the signature track and on the others.</summary>
public sealed record ReachAnswer(
    string Moment, int Accounts, ImmutableArray<string> Audiences, ImmutableArray<string> Clients, ImmutableArray<SquareAnswer> Squares, ImmutableArray<ReachFinding> Findings, ImmutableArray<RuleTestAnswer> Tests,
    ImmutableArray<ShiftAnswer> Shifts, ImmutableArray<ReachGain> Gains, ImmutableDictionary<Guid, int> Reached);

/// <summary>Accounts of a square that a rule wins. Of: how many there are.</summary>
public sealed record SquareAccounts(int Of, ImmutableArray<ReachedAccount> Accounts);

/// <summary>The Rules leg.</summary>
public static class RuleEndpoints
{
    private const int MostListed = 500; // accounts of a square that are listed; the rest is found by searching

    /// <summary>Maps the endpoints.</summary>
    public static void MapRules(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/rules", ReadAsync).WithName("ReadRules");
        routes.MapPut("/api/rules", SaveAsync).WithName("SaveRules");
        routes.MapGet("/api/rules/file", ExportAsync).WithName("ExportRules");
        routes.MapPost("/api/rules/file", ImportAsync).WithName("ImportRules");
        routes.MapGet("/api/rules/reach", ReachAsync).WithName("ReadReach");
        routes.MapPost("/api/rules/reach", TryAsync).WithName("TryRules");
        routes.MapGet("/api/rules/accounts", AccountsAsync).WithName("ListSquare");
        routes.MapGet("/api/rules/zones", () => TypedResults.Ok(TimeWindow.Zones.Order(StringComparer.Ordinal).ToArray())).WithName("ListZones");
    }

    private static async Task<Ok<RulesAnswer>> ReadAsync(RuleStore rules, Drafts drafts, CurrentRoster rosters, HttpContext context, CancellationToken cancellationToken)
    {
        var stored = await rules.ReadAsync(cancellationToken);
        var names = Names(await drafts.ReadAsync(cancellationToken), await rosters.GetAsync(cancellationToken));
        Revision.Show(context, stored.Revision);
        var ruleSet = RuleReading.Read(stored.Draft);
        ImmutableArray<RuleRow> Rows(Track track) => [.. ruleSet.On(track).Select(rule => new RuleRow(rule, Sentence.Write(rule, names)))];
        return TypedResults.Ok(new RulesAnswer(
            stored.Revision, Rows(Track.Signature), Rows(Track.Disclaimer), Rows(Track.Banner),
            [.. ruleSet.Tests.Select(test => new RuleTestRow(test, Sentence.Write(new Rule(test.Id, true, test.Conditions, test.Designs.IsEmpty ? new CarryNothing() : new CarryDesigns(test.Designs)), names)))]));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(
        RuleSet ruleSet, RuleStore rules, DesignStore designs, CurrentRoster rosters, HttpContext context, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        if (await RefuseAsync(ruleSet, designs, rosters, cancellationToken) is { } refused) return refused;
        if (await rules.SaveAsync(seen, JsonSerializer.Serialize(ruleSet, RelevoJson.Options), user.Actor(), cancellationToken) != SaveOutcome.Saved) return Problems.LostUpdate("rules");
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }

    private static async Task<Ok<RuleFile>> ExportAsync(Drafts drafts, HttpContext context, CancellationToken cancellationToken)
    {
        context.Response.Headers.ContentDisposition = "attachment; filename=\"rules.json\"";
        return TypedResults.Ok(RuleFile.Of(await drafts.ReadAsync(cancellationToken)));
    }

    /// <summary>Takes rules and audiences in whole: they replace those there are, both or neither.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> ImportAsync(RuleFile file, Drafts drafts, RuleStore rules, DesignStore designs, CurrentRoster rosters, HttpContext context, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        var (ruleSet, problems) = file.Resolve(await drafts.ReadAsync(cancellationToken));
        problems = [.. problems, .. RuleCheck.Check(file.Audiences).Select(problem => problem with { Pointer = "/audiences" + problem.Pointer })];
        if (problems.IsEmpty) problems = await CheckAsync(ruleSet, designs, rosters, cancellationToken);
        if (!problems.IsEmpty) return Invalid("The file has faults and nothing of it was taken in.", problems);
        var saved = await rules.SaveAsync(seen, JsonSerializer.Serialize(ruleSet, RelevoJson.Options), user.Actor(), cancellationToken, JsonSerializer.Serialize(file.Audiences, RelevoJson.Options));
        if (saved != SaveOutcome.Saved) return Problems.LostUpdate("rules");
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<ReachAnswer>, ProblemHttpResult>> ReachAsync(Drafts drafts, CurrentRoster rosters, CurrentReach reach, CancellationToken cancellationToken, string moment = "")
    {
        var content = await drafts.ReadAsync(cancellationToken);
        var roster = await rosters.GetAsync(cancellationToken);
        var map = reach.Of(roster, content);
        if (moment.Length > 0)
        {
            if (!TryReadMoment(moment, out var at)) return BadMoment(moment);
            map = map.At(at);
        }

        return TypedResults.Ok(Answer(map, content, roster, null));
    }

    /// <summary>The map that other rules would have, and what would change: nothing is kept.</summary>
    private static async Task<Results<Ok<ReachAnswer>, ProblemHttpResult>> TryAsync(RuleSet ruleSet, Drafts drafts, DesignStore designs, CurrentRoster rosters, CurrentReach reach, CancellationToken cancellationToken, string moment = "")
    {
        if (await RefuseAsync(ruleSet, designs, rosters, cancellationToken) is { } refused) return refused;
        var content = await drafts.ReadAsync(cancellationToken);
        var roster = await rosters.GetAsync(cancellationToken);
        var before = reach.Of(roster, content);
        if (moment.Length > 0)
        {
            if (!TryReadMoment(moment, out var at)) return BadMoment(moment);
            before = before.At(at);
        }

        return TypedResults.Ok(Answer(before.With((content with { Rules = ruleSet }).RulesInForce()), content with { Rules = ruleSet }, roster, before));
    }

    /// <summary>The accounts of a square that a rule wins. rule: its number from 0, or -1 for those without a signature.</summary>
    private static async Task<Results<Ok<SquareAccounts>, ProblemHttpResult>> AccountsAsync(
        string audience, string occasion, string client, int rule, Drafts drafts, CurrentRoster rosters, CurrentReach reach, CancellationToken cancellationToken, string track = "signature", string moment = "", string search = "")
    {
        var content = await drafts.ReadAsync(cancellationToken);
        var map = reach.Of(await rosters.GetAsync(cancellationToken), content);
        if (moment.Length > 0)
        {
            if (!TryReadMoment(moment, out var at)) return BadMoment(moment);
            map = map.At(at);
        }

        if (!Enum.TryParse<Occasion>(occasion, ignoreCase: true, out var when) || map.PlaceOf(new Cell(audience, when, client)) is not (>= 0 and var square)) return Problems.NotFound("square");
        if (!Enum.TryParse<Track>(track, ignoreCase: true, out var on) || !Enum.IsDefined(on) || rule < -1 || rule >= map.Rules.On(on).Length || (rule < 0 && on != Track.Signature)) return Problems.NotFound("rule");
        var places = map.WonBy(on, rule, square);
        var found = places.Places().Select(place => map.Accounts[place])
            .Where(sender => search.Length == 0 || sender.Name.Contains(search, StringComparison.OrdinalIgnoreCase) || sender.Address.Contains(search, StringComparison.OrdinalIgnoreCase))
            .OrderBy(sender => sender.Name, StringComparer.OrdinalIgnoreCase).ThenBy(sender => sender.Address, StringComparer.Ordinal).Take(MostListed);
        return TypedResults.Ok(new SquareAccounts(places.Count, [.. found.Select(sender => new ReachedAccount(sender.Person, sender.Name, sender.Address))]));
    }

    /// <summary>What people read for what rules name.</summary>
    internal static RuleNames Names(EditionContent content, PeopleRoster roster) => content.Names(id => roster.Find(id)?.Name, field => roster.Records.Fields.Find(field)?.Label);

    /// <summary>A moment as RFC 3339 writes it, of the years that rules and calendars are about.</summary>
    internal static bool TryReadMoment(string text, out Instant moment)
    {
        var read = OffsetDateTimePattern.Rfc3339.Parse(text);
        moment = read.Success ? read.Value.ToInstant() : default;
        return read.Success && read.Value.Year is >= 1970 and <= 2200;
    }

    /// <summary>The problem of a moment that cannot be read.</summary>
    internal static ProblemHttpResult BadMoment(string moment) => Problems.Of(StatusCodes.Status400BadRequest, "moment-form", $"\"{moment}\" is not a moment.", "Write it as 2026-12-24T12:00:00Z (RFC 3339), in a year from 1970 to 2200.");

    private static ReachAnswer Answer(ReachMap map, EditionContent content, PeopleRoster roster, ReachMap? before)
    {
        var names = Names(content, roster);
        ImmutableArray<int> Won(Track track, int square) => [.. Enumerable.Range(0, map.Rules.On(track).Length).Select(rule => map.Won(track, rule, square))];
        var tests = RuleTesting.Check(map, names).Select(result => new RuleTestAnswer(
            result.Test, result.IsMet, result.Situations, result.Failed, result.First?.Situation.Sender.Address ?? "", result.First?.Situation.Cell, result.First is { } first ? LensEndpoints.Trace(map.Rules, first.Decision, names) : []));
        var shifts = before is null ? [] : ReachDifference.Compare(before, map).Select(shift => new ShiftAnswer(shift.From, shift.To, shift.Accounts, shift.Squares.Length, [.. shift.First.Select(place => map.Accounts[place].Address)]));
        return new ReachAnswer(
            InstantPattern.General.Format(map.Moment), map.Accounts.Count, [.. map.Cells.Select(cell => cell.Audience).Distinct()], [.. map.Cells.Select(cell => cell.Client).Distinct()],
            [.. map.Cells.Select((cell, square) => new SquareAnswer(cell, Won(Track.Signature, square), Won(Track.Disclaimer, square), Won(Track.Banner, square), map.Holes(square)))],
            ReachFindings.Of(map, content, names), [.. tests], [.. shifts], before is null ? [] : ReachDifference.CompareAdding(before, map), Reached(map));
    }

    private static ImmutableDictionary<Guid, int> Reached(ReachMap map)
    {
        var reached = ImmutableDictionary.CreateBuilder<Guid, int>();
        foreach (var track in Enum.GetValues<Track>())
        {
            foreach (var (rule, accounts) in map.ReachedBy(track)) reached[rule] = accounts.Count;
        }

        return reached.ToImmutable();
    }

    private static async Task<ProblemHttpResult?> RefuseAsync(RuleSet ruleSet, DesignStore designs, CurrentRoster rosters, CancellationToken cancellationToken) =>
        await CheckAsync(ruleSet, designs, rosters, cancellationToken) is { IsEmpty: false } problems ? Invalid("The rules have faults and were not saved.", problems) : null;

    private static async Task<ImmutableArray<RuleProblem>> CheckAsync(RuleSet ruleSet, DesignStore designs, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var known = (await designs.ListAsync(cancellationToken)).Select(design => design.Id).ToHashSet();
        return RuleCheck.Check(ruleSet, known, (await rosters.GetAsync(cancellationToken)).Records.Fields);
    }

    internal static ProblemHttpResult Invalid(string title, IEnumerable<RuleProblem> problems) => Problems.Invalid(title, problems.Select(problem => new Fault(problem.Pointer, problem.Line, problem.Code, problem.Message)));
}
