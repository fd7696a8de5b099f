using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>A unit with its facts. People: how many are in it; for a team, its sub-teams' too. Uses: for each of its facts, how many people's value comes from it. Doubts: what is doubtful about a fact.</summary>
public sealed record UnitAnswer(Guid Id, UnitKind Kind, string Name, Guid? Parent, ImmutableSortedDictionary<string, string> Facts, int Revision, int People, ImmutableSortedDictionary<string, int> Uses, ImmutableSortedDictionary<string, string> Doubts);

/// <summary>A unit as it should be.</summary>
public sealed record UnitRequest(UnitKind Kind, string Name, Guid? Parent, ImmutableSortedDictionary<string, string> Facts);

/// <summary>Company facts: the company, its entities, offices and teams.</summary>
public static class UnitEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapUnits(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/units", ListAsync).WithName("ListUnits");
        routes.MapPost("/api/units", AddAsync).WithName("AddUnit");
        routes.MapPut("/api/units/{id:guid}", SaveAsync).WithName("SaveUnit");
    }

    private static async Task<Ok<List<UnitAnswer>>> ListAsync(CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var usage = UnitUsage.Count(roster);
        return TypedResults.Ok(roster.Records.Units.Units.Select(unit =>
        {
            var (people, uses) = usage.Of(unit.Id);
            return new UnitAnswer(unit.Id, unit.Kind, unit.Name, unit.Parent, unit.Facts.Pairs.ToArray().ToImmutableSortedDictionary(StringComparer.Ordinal), unit.Revision, people, uses, Doubts(unit, roster.Records));
        }).ToList());
    }

    private static async Task<Results<Created<CountAnswer>, ProblemHttpResult>> AddAsync(UnitRequest request, CurrentRoster rosters, UnitStore units, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var records = (await rosters.GetAsync(cancellationToken)).Records;
        if (request.Kind == UnitKind.Company) return Problems.Invalid("There is one company.", [new Fault("/kind", 0, "company-once", "Change the company that is there.")]);
        var unit = new Unit(Guid.CreateVersion7(), request.Kind, FieldValue.OneLine(request.Name), request.Parent, Clean(request.Facts), 1);
        if (Check(unit, records) is { Count: > 0 } faults) return Problems.Invalid("This cannot be added.", faults);
        return Answer(await units.AddAsync(unit, user.Actor(), cancellationToken)) is { } refusal ? refusal : TypedResults.Created($"/api/units/{unit.Id}", new CountAnswer(1));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(
        Guid id, UnitRequest request, HttpContext context, CurrentRoster rosters, UnitStore units, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        var records = (await rosters.GetAsync(cancellationToken)).Records;
        if (records.Units.Find(id) is not { } known) return Problems.NotFound("unit");
        var unit = new Unit(id, known.Kind, FieldValue.OneLine(request.Name), request.Parent, Clean(request.Facts), seen);
        if (Check(unit, records) is { Count: > 0 } faults) return Problems.Invalid("This was not saved.", faults);
        if (Answer(await units.SaveAsync(unit, user.Actor(), cancellationToken)) is { } refused) return refused;
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }

    private static ImmutableSortedDictionary<string, string> Doubts(Unit unit, CompanyRecords records)
    {
        var region = unit.Facts["country"] ?? records.Units.Company?.Facts["country"] ?? "";
        var doubts = ImmutableSortedDictionary.CreateBuilder<string, string>(StringComparer.Ordinal);
        foreach (var pair in unit.Facts.Pairs)
        {
            if (records.Fields.Find(pair.Key) is { } field && FieldCheck.Doubt(field, pair.Value, region) is { } doubt) doubts.Add(pair.Key, doubt);
        }

        return doubts.ToImmutable();
    }

    private static Facts Clean(ImmutableSortedDictionary<string, string> facts) =>
        new(facts.Select(pair => KeyValuePair.Create(pair.Key, FieldValue.OneLine(pair.Value))).Where(pair => pair.Value.Length > 0));

    private static List<Fault> Check(Unit unit, CompanyRecords records)
    {
        var faults = new List<Fault>();
        if (unit.Name.Length is 0 or > 200) faults.Add(new Fault("/name", 0, "unit-name", "A name has 1 to 200 characters."));
        if (unit.Parent is { } parent && (unit.Kind != UnitKind.Team || records.Units.Find(parent) is not { Kind: UnitKind.Team })) faults.Add(new Fault("/parent", 0, "unit-parent", "Only a team is in another team."));
        else if (unit.Parent is { } above && (above == unit.Id || records.Units.WouldLoop(unit.Id, above))) faults.Add(new Fault("/parent", 0, "unit-loop", "A team cannot be inside itself."));
        var holder = Enum.Parse<FieldHolder>(unit.Kind.ToString());
        foreach (var pair in unit.Facts.Pairs)
        {
            if (records.Fields.Find(pair.Key) is not { } field || !field.Holders.Contains(holder)) faults.Add(new Fault($"/facts/{pair.Key}", 0, "field-unknown", $"\"{pair.Key}\" is no field that stands here."));
            else if (FieldCheck.Refuse(field, pair.Value) is { } reason) faults.Add(new Fault($"/facts/{pair.Key}", 0, "value-refused", reason));
        }

        return faults;
    }

    private static ProblemHttpResult? Answer(UnitOutcome outcome) => outcome switch
    {
        UnitOutcome.Saved => null,
        UnitOutcome.NotFound => Problems.NotFound("unit"),
        UnitOutcome.Conflict => Problems.LostUpdate("unit"),
        _ => Problems.Of(StatusCodes.Status409Conflict, "name-taken", "There is one of this name already.", "Choose another name, or change the one that is there."),
    };
}
