using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>A person in a list.</summary>
public sealed record PersonRow(Guid Id, string Name, string Title, string Department, string Organisation, ImmutableArray<string> Addresses);

/// <summary>A page of people.</summary>
public sealed record PeopleAnswer(List<PersonRow> People, int Total);

/// <summary>A person with every resolved value and its origin.</summary>
public sealed record PersonAnswer(Guid Id, string Name, string DistinguishedName, bool IsRetired, ImmutableArray<string> Addresses, ImmutableArray<PersonField> Fields);

/// <summary>One resolved field.</summary>
public sealed record PersonField(string Name, string Label, string Text, Layer Origin);

/// <summary>A field designs may use.</summary>
public sealed record FieldAnswer(string Name, string Label, FieldKind Kind);

/// <summary>Someone in a plan, with what would change.</summary>
public sealed record PlannedPerson(string Name, string Address, long Line, ImmutableArray<FieldChange> Changes);

/// <summary>What applying a file would do. Lists hold the first 500 of each; the counts are whole.</summary>
public sealed record ImportAnswer(
    Guid Id,
    string FileName,
    bool IsApplied,
    bool IsStale,
    bool MayApply,
    ImmutableArray<LdifProblem> Problems,
    int OtherEntries,
    int Unchanged,
    int JoiningCount,
    int ChangedCount,
    int LeavingCount,
    ImmutableArray<PlannedPerson> Joining,
    ImmutableArray<PlannedPerson> Changed,
    ImmutableArray<PlannedPerson> Leaving);

/// <summary>The People leg.</summary>
public static class PeopleEndpoints
{
    private const int MaxPage = 500; // rows of one page; the screen asks for as many as it shows
    private const int MaxListed = 500; // people listed by name in a plan; the counts are whole
    private const long MaxDrainedBytes = 1L << 30; // a longer upload is cut off without an answer

    /// <summary>Maps the endpoints.</summary>
    public static void MapPeople(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/people", SearchAsync).WithName("SearchPeople");
        routes.MapGet("/api/people/{id:guid}", FindAsync).WithName("ReadPerson");
        routes.MapGet("/api/fields", () => TypedResults.Ok(FieldCatalogue.Standard.Fields.Select(field => new FieldAnswer(field.Name, field.Label, field.Kind)).ToArray())).WithName("ListFields");
        routes.MapPost("/api/people/imports", ReadFileAsync).Accepts<IFormFile>("application/octet-stream").WithName("ReadDirectoryFile");
        routes.MapGet("/api/people/imports/{id:guid}", FindImportAsync).WithName("ReadImport");
        routes.MapPost("/api/people/imports/{id:guid}/apply", ApplyAsync).WithName("ApplyImport");
    }

    private static async Task<Ok<PeopleAnswer>> SearchAsync(PersonStore people, CancellationToken cancellationToken, string search = "", int offset = 0, int limit = 200)
    {
        var page = await people.SearchAsync(search.Trim(), Math.Max(0, offset), Math.Clamp(limit, 1, MaxPage), cancellationToken);
        return TypedResults.Ok(new PeopleAnswer([.. page.People.Select(Row)], page.Total));
    }

    private static PersonRow Row(Person person) => new(
        person.Id, person.DisplayName, person.Facts["title"] ?? "", person.Facts["department"] ?? "", person.Facts["organisation"] ?? "", person.Addresses);

    private static async Task<Results<Ok<PersonAnswer>, ProblemHttpResult>> FindAsync(Guid id, PersonStore people, CancellationToken cancellationToken)
    {
        if (await people.FindAsync(id, cancellationToken) is not { } person) return Problems.NotFound("person");
        var labels = FieldCatalogue.Standard.Fields.ToDictionary(field => field.Name, field => field.Label);
        var fields = FieldResolution.Explain(FieldCatalogue.Standard, person.Facts, person.Addresses.FirstOrDefault() ?? "");
        return TypedResults.Ok(new PersonAnswer(
            person.Id, person.DisplayName, person.DistinguishedName, person.IsRetired, person.Addresses,
            [.. fields.Select(field => new PersonField(field.Name, labels[field.Name], field.Value.Text, field.Origin))]));
    }

    /// <summary>The body is the file itself and is read as it arrives; its size is limited by the reader, which names the line.</summary>
    private static async Task<Results<Created<ImportAnswer>, ProblemHttpResult>> ReadFileAsync(
        HttpContext context, ImportStore imports, ClaimsPrincipal user, CancellationToken cancellationToken, string fileName = "directory.ldif")
    {
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size) size.MaxRequestBodySize = MaxDrainedBytes;
        var shownName = FieldValue.OneLine(fileName) is { Length: > 0 and <= 260 } name ? name : "directory.ldif";
        var content = await DirectoryReader.ReadAsync(context.Request.Body, FieldCatalogue.Standard, LdifLimits.Default, cancellationToken);
        await DrainAsync(context.Request.Body, cancellationToken);
        var id = await imports.KeepAsync(Guid.NewGuid(), shownName, content, user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/people/imports/{id}", Answer((await imports.FindAsync(id, cancellationToken))!));
    }

    /// <summary>A browser shows an answer only after it has sent everything, so what is not kept is still taken in.</summary>
    private static async Task DrainAsync(Stream body, CancellationToken cancellationToken)
    {
        var buffer = new byte[64 * 1024];
        while (await body.ReadAsync(buffer, cancellationToken) > 0)
        {
        }
    }

    private static async Task<Results<Ok<ImportAnswer>, ProblemHttpResult>> FindImportAsync(Guid id, ImportStore imports, CancellationToken cancellationToken) =>
        await imports.FindAsync(id, cancellationToken) is { } plan ? TypedResults.Ok(Answer(plan)) : Problems.NotFound("file");

    private static async Task<Results<NoContent, ProblemHttpResult>> ApplyAsync(Guid id, ImportStore imports, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        await imports.ApplyAsync(id, user.Actor(), cancellationToken) switch
        {
            ApplyOutcome.Applied => TypedResults.NoContent(),
            ApplyOutcome.NotFound => Problems.NotFound("file"),
            ApplyOutcome.AlreadyApplied => Problems.Of(StatusCodes.Status409Conflict, "already-applied", "This file has been applied already.", "Drop the file again to see what it would do now."),
            ApplyOutcome.HasProblems => Problems.Of(StatusCodes.Status409Conflict, "has-problems", "The file has lines that cannot be read, so none of it is applied.", "Mend the lines named and drop the file again."),
            _ => Problems.Of(StatusCodes.Status409Conflict, "stale", "People have changed since this file was read.", "Drop the file again to see what it would do now."),
        };

    private static ImportAnswer Answer(ImportPlan plan)
    {
        var sync = plan.Sync;
        var joining = sync.Joining.Select(person => Planned(person, [])).Concat(sync.Returning.Select(change => Planned(change.After, change.Fields)));
        return new ImportAnswer(
            plan.Id, plan.FileName, plan.IsApplied, plan.IsStale,
            plan is { IsApplied: false, IsStale: false, Problems.IsEmpty: true },
            plan.Problems, plan.OtherEntries, sync.Unchanged,
            sync.Joining.Length + sync.Returning.Length, sync.Changed.Length, sync.Leaving.Length,
            [.. joining.Take(MaxListed)],
            [.. sync.Changed.Take(MaxListed).Select(change => Planned(change.After, Labelled(change.Fields)))],
            [.. sync.Leaving.Take(MaxListed).Select(person => new PlannedPerson(person.DisplayName, person.Addresses.FirstOrDefault() ?? "", 0, []))]);
    }

    private static PlannedPerson Planned(ListedPerson person, ImmutableArray<FieldChange> changes) =>
        new(person.Facts["displayName"] ?? person.SourceKey, person.Addresses.FirstOrDefault() ?? "", person.Line, changes);

    private static ImmutableArray<FieldChange> Labelled(ImmutableArray<FieldChange> changes) =>
        [.. changes.Select(change => FieldCatalogue.Standard.TryFind(change.Field, out var index)
            ? change with { Field = FieldCatalogue.Standard.Fields[index].Label }
            : change with { Field = change.Field == "addresses" ? "Addresses" : "Directory name" })];
}
