using System.Collections.Immutable;
using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>A source with its newest run.</summary>
public sealed record SourceAnswer(
    Guid Id, SourceKind Kind, string Name, int Revision, Mapping Mapping, bool HasOwnMapping, BrakeSettings Brake, ImmutableArray<string> JoinBy, int? EveryMinutes, bool HasSecret, int People, SourceRun? LastRun);

/// <summary>What every kind of source has.</summary>
public sealed record SourceRequest(string Name, Mapping? Mapping, BrakeSettings Brake, ImmutableArray<string> JoinBy, int? EveryMinutes);

/// <summary>The order in which sources are believed.</summary>
public sealed record SourceOrderRequest(ImmutableArray<Guid> Sources);

/// <summary>A table's beginning, what its columns are taken for, and what its first rows become.</summary>
public sealed record TableAnswer(TableSample Sample, Mapping Mapping, bool IsKeptMapping, ImmutableArray<PreviewPerson> People);

/// <summary>A person as a mapping makes them.</summary>
public sealed record PreviewPerson(string Name, ImmutableArray<string> Addresses, ImmutableSortedDictionary<string, string> Facts)
{
    /// <summary>A listed person without what only a sync needs.</summary>
    public static PreviewPerson Of(ListedPerson person) => new(person.Name, person.Addresses, person.Facts.Pairs.ToArray().ToImmutableSortedDictionary(StringComparer.Ordinal));
}

/// <summary>Tries a mapping on a table's beginning.</summary>
public sealed record TryMappingRequest(TableSample Sample, Mapping Mapping);

/// <summary>Keeps what a table's columns are for the files to come.</summary>
public sealed record KeepMappingRequest(TableForm Form, Mapping Mapping);

/// <summary>Sources: their order, brake, mapping; tables and what their columns are.</summary>
public static class SourceEndpoints
{
    private const int MaxHeadBytes = 256 * 1024; // of a table to look at

    /// <summary>Maps the endpoints.</summary>
    public static void MapSources(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/sources", ListAsync).WithName("ListSources");
        routes.MapPut("/api/sources/{id:guid}", SaveAsync).WithName("SaveSource");
        routes.MapPut("/api/sources/order", OrderAsync).WithName("OrderSources");
        routes.MapPost("/api/tables/look", LookAsync).Accepts<IFormFile>("application/octet-stream").WithName("LookAtTable");
        routes.MapPost("/api/tables/try", TryAsync).WithName("TryMapping");
        routes.MapPut("/api/tables/mapping", KeepAsync).WithName("KeepMapping");
    }

    private static async Task<Ok<List<SourceAnswer>>> ListAsync(SourceStore sources, RunStore runs, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var counts = new Dictionary<Guid, int>();
        foreach (var row in (await rosters.GetAsync(cancellationToken)).Rows.ToArray())
        {
            if (row.Person.IsRetired) continue;
            foreach (var entry in row.Person.Entries) counts[entry.Source] = counts.GetValueOrDefault(entry.Source) + 1;
        }

        var answers = new List<SourceAnswer>();
        foreach (var source in await sources.ListAsync(cancellationToken))
            answers.Add(Answer(source, counts.GetValueOrDefault(source.Id), (await runs.ListAsync(source.Id, 1, cancellationToken)).FirstOrDefault()));
        return TypedResults.Ok(answers);
    }

    private static SourceAnswer Answer(Source source, int people, SourceRun? last) => new(
        source.Id, source.Kind, source.Name, source.Revision, source.Mapping ?? UsualMapping(source.Kind), source.Mapping is not null, source.Brake, source.JoinBy, source.EveryMinutes, source.HasSecret, people, last);

    private static Mapping UsualMapping(SourceKind kind) => kind == SourceKind.Scim ? ScimRecord.Mapping : Mapping.Standard;

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(
        Guid id, SourceRequest request, HttpContext context, SourceStore sources, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        if (await sources.FindAsync(id, cancellationToken) is not { } source) return Problems.NotFound("source");
        if (Check(request, (await rosters.GetAsync(cancellationToken)).Records.Fields) is { Count: > 0 } faults) return Problems.Invalid("The source was not saved.", faults);
        var changed = source with { Name = FieldValue.OneLine(request.Name), Mapping = request.Mapping, Brake = request.Brake, JoinBy = request.JoinBy, EveryMinutes = request.EveryMinutes, Revision = seen };
        return await SavedAsync(context, sources, changed, user, cancellationToken);
    }

    /// <summary>What is wrong with what every source has.</summary>
    public static List<Fault> Check(SourceRequest request, FieldCatalogue fields)
    {
        var faults = new List<Fault>();
        if (FieldValue.OneLine(request.Name).Length is 0 or > 200) faults.Add(new Fault("/name", 0, "source-name", "A name has 1 to 200 characters."));
        if (request.Brake.Refuse() is { } brake) faults.Add(new Fault("/brake", 0, "source-brake", brake));
        if (request.JoinBy.Any(by => by is not ("mail" or "employeeNumber"))) faults.Add(new Fault("/joinBy", 0, "source-join", "People are known again by mail or employeeNumber."));
        if (request.EveryMinutes is < 5 or > 10_080) faults.Add(new Fault("/everyMinutes", 0, "source-schedule", "A source is asked every 5 minutes at most, and once a week at least."));
        if (request.Mapping is { } mapping) faults.AddRange(mapping.Check(fields).Select(problem => new Fault($"/mapping{problem.Pointer}", 0, "mapping", problem.Message)));
        return faults;
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SavedAsync(HttpContext context, SourceStore sources, Source changed, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        switch (await sources.SaveAsync(changed, null, user.Actor(), cancellationToken))
        {
            case SaveOutcome.Saved:
                Revision.Show(context, changed.Revision + 1);
                return TypedResults.NoContent();
            case SaveOutcome.NotFound:
                return Problems.NotFound("source");
            default:
                return Problems.LostUpdate("source");
        }
    }

    private static async Task<NoContent> OrderAsync(SourceOrderRequest request, SourceStore sources, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        await sources.OrderAsync([.. request.Sources], user.Actor(), cancellationToken);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<TableAnswer>, ProblemHttpResult>> LookAsync(HttpContext context, SourceStore sources, CurrentRoster rosters, CancellationToken cancellationToken, bool isWhole = false)
    {
        var head = await DirectoryFiles.ReadWholeAsync(context.Request.Body, MaxHeadBytes - 1, cancellationToken);
        await DirectoryFiles.DrainAsync(context.Request.Body, cancellationToken);
        if (TableDetection.Look(head, isWhole) is not { } sample)
            return Problems.Of(StatusCodes.Status422UnprocessableEntity, "table-empty", "There is no row in this table.", "Save it as CSV with a row of column names and drop it again.");
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        var kept = (await sources.FirstAsync(SourceKind.Csv, cancellationToken))?.Mapping;
        var fits = kept is not null && kept.Columns.All(column => sample.Columns.Contains(column, StringComparer.OrdinalIgnoreCase));
        var mapping = fits ? kept! : MappingProposal.Propose(sample, fields);
        return TypedResults.Ok(new TableAnswer(sample, mapping, fits, Preview(sample, mapping, fields)));
    }

    private static async Task<Results<Ok<ImmutableArray<PreviewPerson>>, ProblemHttpResult>> TryAsync(TryMappingRequest request, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        return Faults(request.Mapping, fields) is { Length: > 0 } faults ? Problems.Invalid("The mapping cannot be used like this.", faults) : TypedResults.Ok(Preview(request.Sample, request.Mapping, fields));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> KeepAsync(KeepMappingRequest request, SourceStore sources, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (Faults(request.Mapping, (await rosters.GetAsync(cancellationToken)).Records.Fields) is { Length: > 0 } faults) return Problems.Invalid("The mapping cannot be used like this.", faults);
        if (request.Form.Delimiter.Length != 1) return Problems.Invalid("The mapping cannot be used like this.", [new Fault("/form/delimiter", 0, "delimiter", "A delimiter is one character.")]);
        var id = await DirectoryFiles.EnsureSourceAsync(sources, SourceKind.Csv, user.Actor(), cancellationToken);
        var source = (await sources.FindAsync(id, cancellationToken))!;
        // Encoding is found anew in each file, because a table without accents does not tell it.
        var settings = JsonSerializer.Serialize(new TableSettings(request.Form.Delimiter, null, request.Form.HasHeader), RelevoJson.Options);
        return await sources.SaveAsync(source with { Mapping = request.Mapping, Settings = settings }, null, user.Actor(), cancellationToken) == SaveOutcome.Saved ? TypedResults.NoContent() : Problems.LostUpdate("source");
    }

    private static Fault[] Faults(Mapping mapping, FieldCatalogue fields) => [.. mapping.Check(fields).Select(problem => new Fault(problem.Pointer, 0, "mapping", problem.Message))];

    private static ImmutableArray<PreviewPerson> Preview(TableSample sample, Mapping mapping, FieldCatalogue fields) =>
        [.. TableListing.Preview(sample, mapping, fields).Select(PreviewPerson.Of)];
}
