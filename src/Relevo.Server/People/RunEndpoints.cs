using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Connectors;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>Someone in a run, with what changes.</summary>
/// <param name="IsKnown">True for a joiner whom another source has already.</param>
public sealed record PlannedPerson(Guid PersonId, string Name, string Address, long Line, bool IsReturning, bool IsKnown, ImmutableArray<FieldChange> Changes);

/// <summary>What a run would do or did. Lists hold the first 500 of each; the counts are whole. IsRenamed counts people with the same id and another name or address.</summary>
public sealed record RunAnswer(
    SourceRun Run,
    bool MayApply,
    int Renamed,
    ImmutableArray<PlannedPerson> Joining,
    ImmutableArray<PlannedPerson> Changing,
    ImmutableArray<PlannedPerson> Leaving);

/// <summary>Applies a run. IsAccepted: the brake's reasons were read and the run is meant.</summary>
public sealed record ApplyRequest(bool IsAccepted);

/// <summary>Files to drop, and the runs that come of them and of all other readings.</summary>
public static class RunEndpoints
{
    private const int MaxListed = 500; // people listed by name; the counts are whole
    private const int MaxRuns = 100; // in the list of runs
    private const long MaxDrainedBytes = 1L << 30; // a longer upload is cut off without an answer

    /// <summary>Maps the endpoints.</summary>
    public static void MapRuns(this IEndpointRouteBuilder routes)
    {
        routes.MapPost("/api/people/imports", ReadFileAsync).Accepts<IFormFile>("application/octet-stream").WithName("ReadDirectoryFile");
        routes.MapGet("/api/runs", async (RunStore runs, CancellationToken cancellationToken, Guid? source = null) =>
            TypedResults.Ok(await runs.ListAsync(source, MaxRuns, cancellationToken))).WithName("ListRuns");
        routes.MapGet("/api/runs/{id:guid}", FindAsync).WithName("ReadRun");
        routes.MapPost("/api/runs/{id:guid}/apply", ApplyAsync).WithName("ApplyRun");
        routes.MapPost("/api/runs/{id:guid}/undo", UndoAsync).WithName("UndoRun");
        routes.MapPost("/api/runs/{id:guid}/put-away", PutAwayAsync).WithName("PutRunAway");
    }

    /// <summary>A run with its first steps, or null.</summary>
    public static async Task<RunAnswer?> ReadAsync(RunStore runs, Guid id, FieldCatalogue fields, CancellationToken cancellationToken)
    {
        if (await runs.FindAsync(id, cancellationToken) is not { } run) return null;
        var joining = await runs.StepsAsync(id, StepAction.Join, MaxListed, cancellationToken);
        var returning = await runs.StepsAsync(id, StepAction.Return, MaxListed, cancellationToken);
        var changing = await runs.StepsAsync(id, StepAction.Change, MaxListed, cancellationToken);
        var leaving = await runs.StepsAsync(id, StepAction.Leave, MaxListed, cancellationToken);
        var mayApply = run is { State: RunState.Planned or RunState.Held, IsStale: false } && run.Counts != new RunCounts(0, 0, 0, 0);
        return new RunAnswer(
            run,
            mayApply,
            changing.Count(step => step.Before!.Facts["displayName"] != step.After!.Facts["displayName"] || step.Before.Addresses.FirstOrDefault() != step.After.Addresses.FirstOrDefault()),
            [.. joining.Concat(returning).Select(step => Planned(step, fields))],
            [.. changing.Select(step => Planned(step, fields))],
            [.. leaving.Select(step => Planned(step, fields))]);
    }

    /// <summary>Changes with the fields' labels.</summary>
    public static ImmutableArray<FieldChange> Labelled(RunStep step, FieldCatalogue fields) => step is { Before: { } before, After: { } after }
        ? [.. FieldChange.Compare(before, after).Select(change => change with
        {
            Field = change.Field switch { FieldChange.Addresses => "Addresses", FieldChange.DistinguishedName => "Directory name", _ => fields.Label(change.Field) },
        })]
        : [];

    /// <summary>The body is the file itself and is read as it arrives; its size is limited by the reader, which names the line.</summary>
    private static async Task<Results<Created<RunAnswer>, ProblemHttpResult>> ReadFileAsync(
        HttpContext context, SourceStore sources, RunStore runs, CurrentRoster rosters, PictureIntake pictures, ClaimsPrincipal user, CancellationToken cancellationToken, string fileName = "directory.ldif", Guid? source = null)
    {
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size) size.MaxRequestBodySize = MaxDrainedBytes;
        var shownName = FieldValue.OneLine(fileName) is { Length: > 0 and <= 260 } name ? name : "directory.ldif";
        var actor = user.Actor();
        var chosen = source ?? await DirectoryFiles.EnsureSourceAsync(sources, DirectoryFiles.IsTable(shownName) ? SourceKind.Csv : SourceKind.Ldif, actor, cancellationToken);
        if (await sources.FindAsync(chosen, cancellationToken) is not { Kind: SourceKind.Ldif or SourceKind.Csv } found) return Problems.NotFound("source of files");
        if (found is { Kind: SourceKind.Csv, Mapping: null })
            return Problems.Of(StatusCodes.Status409Conflict, "mapping-needed", "The table's columns are not mapped to fields yet.", "Map them first; the choice is kept for next time.");
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        var content = await DirectoryFiles.ReadAsync(context.Request.Body, found, fields, pictures.TakeAsync, cancellationToken);
        await DirectoryFiles.DrainAsync(context.Request.Body, cancellationToken);
        if (content is { Changes.IsEmpty: false, Problems.IsEmpty: true })
            content = LdifChanges.Apply(content, await runs.ListedAsync(found.Id, cancellationToken), found.Mapping ?? Mapping.Standard, fields, LdifLimits.Default.MaxProblems);
        var run = new NewRun(Guid.CreateVersion7(), found.Id, RunKind.File, shownName);
        await runs.PlanAsync(run, content, fields, actor, cancellationToken);
        return TypedResults.Created($"/api/runs/{run.Id}", (await ReadAsync(runs, run.Id, fields, cancellationToken))!);
    }

    private static async Task<Results<Ok<RunAnswer>, ProblemHttpResult>> FindAsync(Guid id, RunStore runs, CurrentRoster rosters, CancellationToken cancellationToken) =>
        await ReadAsync(runs, id, (await rosters.GetAsync(cancellationToken)).Records.Fields, cancellationToken) is { } answer ? TypedResults.Ok(answer) : Problems.NotFound("run");

    private static async Task<Results<NoContent, ProblemHttpResult>> ApplyAsync(Guid id, ApplyRequest request, RunStore runs, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        Outcome(await runs.ApplyAsync(id, request.IsAccepted, user.Actor(), cancellationToken));

    private static async Task<Results<NoContent, ProblemHttpResult>> UndoAsync(Guid id, RunStore runs, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        await runs.UndoAsync(id, Guid.CreateVersion7(), user.Actor(), cancellationToken) switch
        {
            ApplyOutcome.NotWaiting => Problems.Of(StatusCodes.Status409Conflict, "not-last", "Only the last run of a source can be taken back.", "Take the later runs back first, or let the source say it anew."),
            var outcome => Outcome(outcome),
        };

    private static async Task<Results<NoContent, ProblemHttpResult>> PutAwayAsync(Guid id, RunStore runs, CancellationToken cancellationToken) =>
        await runs.PutAwayAsync(id, cancellationToken) ? TypedResults.NoContent() : Outcome(ApplyOutcome.NotWaiting);

    private static Results<NoContent, ProblemHttpResult> Outcome(ApplyOutcome outcome) => outcome switch
    {
        ApplyOutcome.Applied => TypedResults.NoContent(),
        ApplyOutcome.NotFound => Problems.NotFound("run"),
        ApplyOutcome.NotWaiting => Problems.Of(StatusCodes.Status409Conflict, "not-waiting", "This run waits no more.", "Read the source again to see what it would do now."),
        ApplyOutcome.HasProblems => Problems.Of(StatusCodes.Status409Conflict, "has-problems", "There are places that cannot be read, so none of it is applied.", "Mend the places named and read it again."),
        ApplyOutcome.Held => Problems.Of(StatusCodes.Status409Conflict, "held", "The brake holds this run.", "Read why it is held; if it is meant, accept it."),
        _ => Problems.Of(StatusCodes.Status409Conflict, "stale", "People have changed since this was read.", "Read the source again to see what it would do now."),
    };

    private static PlannedPerson Planned(RunStep step, FieldCatalogue fields) => new(
        step.PersonId, step.Name, (step.After ?? step.Before)?.Addresses.FirstOrDefault() ?? "", step.Line, step.Action == StepAction.Return, step.Action == StepAction.Join && !step.IsNew, Labelled(step, fields));
}
