using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Editions;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.SignIn;

namespace Relevo.Server.Proof;

/// <summary>What would go into the next edition. Latest is 0 before the first; MayPublish is false when nothing changed or there is nothing to publish.</summary>
public sealed record ProofAnswer(int Latest, ImmutableArray<EditionChange> Changes, bool MayPublish, List<EditionHead> Editions);

/// <summary>Publishes the drafts. Latest: the newest edition the publisher saw.</summary>
public sealed record PublishRequest(int Latest);

/// <summary>A published edition.</summary>
public sealed record PublishAnswer(int Number);

/// <summary>The Proof leg.</summary>
public static class ProofEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapProof(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/proof", ReadAsync).WithName("ReadProof");
        routes.MapPost("/api/editions", PublishAsync).WithName("PublishEdition");
    }

    private static async Task<Ok<ProofAnswer>> ReadAsync(Drafts drafts, EditionStore editions, CancellationToken cancellationToken)
    {
        var all = await editions.ListAsync(cancellationToken);
        var latest = all.FirstOrDefault()?.Number ?? 0;
        var before = await editions.FindAsync(latest, cancellationToken) ?? EditionContent.Empty;
        var changes = EditionDifference.Compare(before, await drafts.ReadAsync(cancellationToken));
        return TypedResults.Ok(new ProofAnswer(latest, changes, !changes.IsEmpty, all));
    }

    private static async Task<Results<Created<PublishAnswer>, ProblemHttpResult>> PublishAsync(
        PublishRequest request, Drafts drafts, EditionStore editions, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var content = await drafts.ReadAsync(cancellationToken);
        var before = await editions.FindAsync(request.Latest, cancellationToken) ?? EditionContent.Empty;
        if (EditionDifference.Compare(before, content).IsEmpty)
            return Problems.Of(StatusCodes.Status409Conflict, "nothing-changed", "Nothing has changed since the last edition.", "Change a design or a rule first.");
        if (await editions.PublishAsync(content, request.Latest, user.Actor(), cancellationToken) is not { } number)
            return Problems.Of(StatusCodes.Status409Conflict, "published-meanwhile", "Somebody else published an edition in the meantime.", "Look at what still differs from it, then publish.");
        return TypedResults.Created($"/api/editions/{number}", new PublishAnswer(number));
    }
}
