using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Designs;

/// <summary>A ready answer to edit. IsEdited: not yet published as it stands.</summary>
public sealed record AnswerRow(Guid Id, int Revision, bool IsEdited, ReadyAnswer Document);

/// <summary>Ready answers: made texts that clients will offer beside signatures, in drafts and editions like designs.</summary>
public static class AnswerEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapAnswers(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/answers", ListAsync).WithName("ListAnswers");
        routes.MapPost("/api/answers", AddAsync).WithName("AddAnswer");
        routes.MapGet("/api/answers/{id:guid}", FindAsync).WithName("ReadAnswer");
        routes.MapPut("/api/answers/{id:guid}", SaveAsync).WithName("SaveAnswer");
        routes.MapDelete("/api/answers/{id:guid}", RemoveAsync).WithName("RemoveAnswer");
        routes.MapGet("/api/answers/{id:guid}/written", WriteAsync).WithName("WriteAnswer");
    }

    private static async Task<Ok<List<AnswerRow>>> ListAsync(ReadyAnswerStore answers, EditionStore editions, CancellationToken cancellationToken)
    {
        var latest = await editions.LatestAsync(cancellationToken) is { } head ? await editions.FindAsync(head.Number, cancellationToken) : null;
        return TypedResults.Ok((await answers.ListAsync(cancellationToken)).Select(answer =>
        {
            var document = Drafts.ReadAnswer(answer);
            return new AnswerRow(answer.Id, answer.Revision, latest?.Answers.FirstOrDefault(published => published.Id == answer.Id)?.Document != document, document);
        }).ToList());
    }

    private static async Task<Results<Ok<AnswerRow>, ProblemHttpResult>> FindAsync(Guid id, ReadyAnswerStore answers, HttpContext context, CancellationToken cancellationToken)
    {
        if (await answers.FindAsync(id, cancellationToken) is not { } answer) return Problems.NotFound("ready answer");
        Revision.Show(context, answer.Revision);
        return TypedResults.Ok(new AnswerRow(id, answer.Revision, true, Drafts.ReadAnswer(answer)));
    }

    private static async Task<Results<Created<AnswerRow>, ProblemHttpResult>> AddAsync(ReadyAnswer document, ReadyAnswerStore answers, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(document, rosters, cancellationToken) is { } refusal) return refusal;
        var id = Guid.CreateVersion7();
        await answers.AddAsync(id, Json(document), user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/answers/{id}", new AnswerRow(id, 1, true, document));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(Guid id, ReadyAnswer document, HttpContext context, ReadyAnswerStore answers, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var missing)) return missing!;
        if (await RefuseAsync(document, rosters, cancellationToken) is { } refusal) return refusal;
        return Outcome(await answers.SaveAsync(id, seen, Json(document), user.Actor(), cancellationToken), context, seen);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(Guid id, HttpContext context, ReadyAnswerStore answers, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        !Revision.TryReadSeen(context, out var seen, out var missing) ? missing! : Outcome(await answers.SaveAsync(id, seen, null, user.Actor(), cancellationToken), context, seen);

    /// <summary>The answer as one person would send it from one account.</summary>
    private static async Task<Results<Ok<WrittenAnswer>, ProblemHttpResult>> WriteAsync(Guid id, ReadyAnswerStore answers, CurrentRoster rosters, CancellationToken cancellationToken, Guid? person = null, string? address = null)
    {
        if (await answers.FindAsync(id, cancellationToken) is not { } answer) return Problems.NotFound("ready answer");
        var roster = await rosters.GetAsync(cancellationToken);
        if ((person is { } asked ? roster.Find(asked) : roster.First()) is not { } row) return Problems.NotFound("person");
        var values = FieldResolution.Resolve(roster.Records, row.Person, row.Person.FindAccount(address), "");
        return TypedResults.Ok(Drafts.ReadAnswer(answer).Write(roster.Records.Fields, values));
    }

    private static async Task<ProblemHttpResult?> RefuseAsync(ReadyAnswer document, CurrentRoster rosters, CancellationToken cancellationToken) =>
        document.Check((await rosters.GetAsync(cancellationToken)).Records.Fields) is { IsEmpty: false } problems
            ? Problems.Invalid("The ready answer has faults and was not saved.", problems.Select(problem => new Fault(problem.Pointer, 0, problem.Code, problem.Message)))
            : null;

    private static Results<NoContent, ProblemHttpResult> Outcome(SaveOutcome outcome, HttpContext context, int seen)
    {
        if (outcome == SaveOutcome.NotFound) return Problems.NotFound("ready answer");
        if (outcome == SaveOutcome.Conflict) return Problems.LostUpdate("ready answer");
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }

    private static string Json(ReadyAnswer document) => JsonSerializer.Serialize(document, RelevoJson.Options);
}
