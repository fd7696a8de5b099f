using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Roster;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>A person in a list. Cells: resolved values of the columns asked for, in their order.</summary>
public sealed record PersonRow(Guid Id, string Name, string Title, string Department, ImmutableArray<string> Addresses, bool IsRetired, ImmutableArray<string> Cells);

/// <summary>A page of people. Forgiven: names a misspelt word was taken for. Facets: with the first page only.</summary>
public sealed record PeopleAnswer(ImmutableArray<PersonRow> People, int Total, ImmutableArray<string> Forgiven, ImmutableSortedDictionary<string, ImmutableArray<FacetCount>>? Facets);

/// <summary>What is asked of the list of people; every part may be left out.</summary>
public sealed record PeopleQuery
{
    [FromQuery(Name = "search")]
    public string? Search { get; init; }

    [FromQuery(Name = "entity")]
    public Guid? Entity { get; init; }

    [FromQuery(Name = "office")]
    public Guid? Office { get; init; }

    [FromQuery(Name = "team")]
    public Guid? Team { get; init; }

    [FromQuery(Name = "source")]
    public Guid? Source { get; init; }

    [FromQuery(Name = "missing")]
    public string? Missing { get; init; }

    [FromQuery(Name = "state")]
    public string? State { get; init; }

    /// <summary>Everybody who is not retired.</summary>
    public static PeopleQuery Everybody { get; } = new();

    /// <summary>The query as the core takes it; null when it asks for a state there is not.</summary>
    public RosterQuery? ToRoster()
    {
        var state = RosterState.Active;
        if (!string.IsNullOrEmpty(State) && (!Enum.TryParse(State, ignoreCase: true, out state) || !Enum.IsDefined(state))) return null;
        return new RosterQuery(Search?.Trim() ?? "", Entity, Office, Team, Source, string.IsNullOrEmpty(Missing) ? null : Missing, state);
    }
}

/// <summary>People by id, or everybody a query finds.</summary>
public sealed record PeopleSelection(ImmutableArray<Guid>? Ids, PeopleQuery? Query);

/// <summary>Sets one override for many people. Value null takes it out; an empty one is an explicit blank.</summary>
public sealed record SetManyRequest(PeopleSelection People, string Field, string? Value);

/// <summary>Retires people by hand, or takes that back.</summary>
public sealed record RetireRequest(PeopleSelection People, bool IsRetired);

/// <summary>Opens a field to people, so that they set it themselves, or closes it again.</summary>
public sealed record OpenFieldRequest(PeopleSelection People, string Field, bool IsOpen);

/// <summary>How many people were touched.</summary>
public sealed record CountAnswer(int Count);

/// <summary>A file of people. Format: csv or vcard.</summary>
public sealed record ExportRequest(PeopleSelection People, string Format);

/// <summary>The People leg: the list, many at once, files out.</summary>
public static class PeopleEndpoints
{
    private const int MaxPage = 500; // rows of one page; the screen asks for as many as it shows
    private static readonly ImmutableArray<string> UsualColumns = ["title", "department"];

    /// <summary>Maps the endpoints.</summary>
    public static void MapPeople(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/people", SearchAsync).WithName("SearchPeople");
        routes.MapPost("/api/people/overrides", SetManyAsync).WithName("SetOverrides");
        routes.MapPost("/api/people/retire", RetireAsync).WithName("RetirePeople");
        routes.MapPost("/api/people/opened", OpenAsync).WithName("OpenField");
        routes.MapPost("/api/people/export", ExportAsync).Produces<string>(contentType: "text/csv").WithName("ExportPeople");
        routes.MapPerson();
    }

    private static async Task<Results<Ok<PeopleAnswer>, ProblemHttpResult>> SearchAsync(
        [AsParameters] PeopleQuery query, CurrentRoster rosters, Drafts drafts, CancellationToken cancellationToken, int offset = 0, int limit = 200, string columns = "", bool facets = false)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var wanted = columns.Length == 0 ? UsualColumns : [.. columns.Split(',').Take(20)];
        if (wanted.FirstOrDefault(column => roster.Records.Fields.Find(column) is null) is { } unknown)
            return Problems.Of(StatusCodes.Status400BadRequest, "column-unknown", $"There is no field \"{unknown}\".", "Take columns from the list of fields.");
        if (query.ToRoster() is not { } asked) return StateUnknown(query);
        var needed = facets ? FieldUse.InUse(await drafts.ReadAsync(cancellationToken)) : [];
        var answer = RosterSearch.Answer(roster, asked, needed);
        var rows = answer.Rows.Skip(Math.Max(0, offset)).Take(Math.Clamp(limit, 1, MaxPage)).Select(row => Row(roster.Records, row, wanted));
        return TypedResults.Ok(new PeopleAnswer([.. rows], answer.Rows.Length, answer.Forgiven, facets ? answer.Facets : null));
    }

    private static PersonRow Row(CompanyRecords records, RosterRow row, ImmutableArray<string> columns)
    {
        string Cell(string name) => records.Fields.TryFind(name, out var index) ? row.Stored(index) ?? "" : "";
        return new PersonRow(row.Person.Id, row.Name, Cell("title"), Cell("department"), [.. row.Person.Accounts.Select(account => account.Address)], row.Person.IsRetired, [.. columns.Select(Cell)]);
    }

    private static async Task<Results<Ok<CountAnswer>, ProblemHttpResult>> SetManyAsync(SetManyRequest request, CurrentRoster rosters, PersonStore people, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        if (PersonEndpoints.Refuse(roster.Records.Fields, request.Field, request.Value) is { } refusal) return refusal;
        if (Choose(roster, request.People) is not { } rows) return StateUnknown(request.People.Query!);
        var chosen = rows.Select(row => row.Person.Id).ToArray();
        await people.SetManyAsync(chosen, request.Field, request.Value is { } text ? FieldValue.OneLine(text) : null, user.Actor(), cancellationToken);
        return TypedResults.Ok(new CountAnswer(chosen.Length));
    }

    private static async Task<Results<Ok<CountAnswer>, ProblemHttpResult>> RetireAsync(RetireRequest request, CurrentRoster rosters, PersonStore people, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (Choose(await rosters.GetAsync(cancellationToken), request.People) is not { } rows) return StateUnknown(request.People.Query!);
        Guid[] chosen = [.. rows.Select(row => row.Person.Id)];
        return TypedResults.Ok(new CountAnswer(request.IsRetired ? await people.RetireAsync(chosen, user.Actor(), cancellationToken) : await people.BringBackAsync(chosen, user.Actor(), cancellationToken)));
    }

    private static async Task<Results<Ok<CountAnswer>, ProblemHttpResult>> OpenAsync(OpenFieldRequest request, CurrentRoster rosters, PersonStore people, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        if (PersonEndpoints.Refuse(roster.Records.Fields, request.Field, null) is { } refusal) return refusal;
        if (Choose(roster, request.People) is not { } rows) return StateUnknown(request.People.Query!);
        return TypedResults.Ok(new CountAnswer(await people.OpenFieldAsync([.. rows.Select(row => row.Person.Id)], request.Field, request.IsOpen, user.Actor(), cancellationToken)));
    }

    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> ExportAsync(ExportRequest request, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        if (Choose(roster, request.People) is not { } chosen) return StateUnknown(request.People.Query!);
        return request.Format switch
        {
            "csv" => TypedResults.File(PeopleTable.Write(roster.Records, chosen.Select(row => row.Person)), "text/csv; charset=utf-8", "people.csv"),
            "vcard" => TypedResults.File(VCard.Write(roster.Records, chosen.Select(row => row.Person)), "text/vcard; charset=utf-8", "people.vcf"),
            _ => Problems.Of(StatusCodes.Status400BadRequest, "format-unknown", $"\"{request.Format}\" is not a format.", "Use csv or vcard."),
        };
    }

    /// <summary>The people of a selection, or null when its query asks for a state there is not.</summary>
    internal static ImmutableArray<RosterRow>? Choose(PeopleRoster roster, PeopleSelection selection)
    {
        if (selection.Ids is { } ids) return [.. ids.Distinct().Select(roster.Find).OfType<RosterRow>()];
        return (selection.Query ?? PeopleQuery.Everybody).ToRoster() is { } query ? RosterSearch.Answer(roster, query, []).Rows : null;
    }

    /// <summary>The answer to such a query.</summary>
    internal static ProblemHttpResult StateUnknown(PeopleQuery query) =>
        Problems.Of(StatusCodes.Status400BadRequest, "state-unknown", $"\"{query.State}\" is not a state.", "Use active, doubtful, overridden or retired.");
}
