using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;

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

    private static async Task<Ok<List<AnswerRow>>> ListAsync(Documents documents, EditionStore editions, CancellationToken cancellationToken)
    {
        var latest = await editions.LatestAsync(cancellationToken) is { } head ? await editions.FindAsync(head.Number, cancellationToken) : null;
        return TypedResults.Ok((await documents.ListAsync<ReadyAnswer>(DocumentKind.Answer, cancellationToken)).Select(answer =>
            new AnswerRow(answer.Id, answer.Revision, latest?.Answers.FirstOrDefault(published => published.Id == answer.Id)?.Document != answer.Document, answer.Document)).ToList());
    }

    private static async Task<Results<Ok<AnswerRow>, ProblemHttpResult>> FindAsync(Guid id, Documents documents, HttpContext context, CancellationToken cancellationToken) =>
        await documents.FindAsync<ReadyAnswer>(DocumentKind.Answer, id, context, cancellationToken) is { } answer ? TypedResults.Ok(new AnswerRow(id, answer.Revision, true, answer.Document)) : Problems.NotFound("ready answer");

    private static async Task<Results<Created<AnswerRow>, ProblemHttpResult>> AddAsync(ReadyAnswer document, Documents documents, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(document, rosters, cancellationToken) is { } refusal) return refusal;
        var id = await documents.AddAsync(DocumentKind.Answer, document, user, cancellationToken);
        return TypedResults.Created($"/api/answers/{id}", new AnswerRow(id, 1, true, document));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(Guid id, ReadyAnswer document, HttpContext context, Documents documents, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(document, rosters, cancellationToken) is { } refusal) return refusal;
        return await documents.SaveAsync(DocumentKind.Answer, id, document, context, user, cancellationToken);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(Guid id, HttpContext context, Documents documents, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        await documents.SaveAsync<ReadyAnswer>(DocumentKind.Answer, id, null, context, user, cancellationToken);

    /// <summary>The answer as one person would send it from one account.</summary>
    private static async Task<Results<Ok<WrittenAnswer>, ProblemHttpResult>> WriteAsync(Guid id, Documents documents, HttpContext context, CurrentRoster rosters, CancellationToken cancellationToken, Guid? person = null, string? address = null)
    {
        if (await documents.FindAsync<ReadyAnswer>(DocumentKind.Answer, id, context, cancellationToken) is not { } answer) return Problems.NotFound("ready answer");
        var roster = await rosters.GetAsync(cancellationToken);
        if ((person is { } asked ? roster.Find(asked) : roster.First()) is not { } row) return Problems.NotFound("person");
        var values = FieldResolution.Resolve(roster.Records, row.Person, row.Person.FindAccount(address), "");
        return TypedResults.Ok(answer.Document.Write(roster.Records.Fields, values));
    }

    private static async Task<ProblemHttpResult?> RefuseAsync(ReadyAnswer document, CurrentRoster rosters, CancellationToken cancellationToken) =>
        Documents.Refuse("ready answer", document.Check((await rosters.GetAsync(cancellationToken)).Records.Fields));
}
