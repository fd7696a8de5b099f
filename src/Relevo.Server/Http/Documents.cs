using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core;
using Relevo.Core.Designs;
using Relevo.Data;
using Relevo.Server.Lens;
using Relevo.Server.SignIn;

namespace Relevo.Server.Http;

/// <summary>Reads and keeps documents of one kind, the same way for each: found, added, changed on the revision that was seen, taken out.</summary>
public sealed class Documents(DocumentStore store)
{
    /// <summary>The documents of a kind, with their revisions, oldest first.</summary>
    public async Task<List<(Guid Id, int Revision, T Document)>> ListAsync<T>(DocumentKind kind, CancellationToken cancellationToken) =>
        [.. (await store.ListAsync(cancellationToken)).Where(stored => stored.Kind == kind).Select(stored => (stored.Id, stored.Revision, (T)Drafts.ReadDocument(stored)))];

    /// <summary>A document, its revision shown; null when there is none.</summary>
    public async Task<(int Revision, T Document)?> FindAsync<T>(DocumentKind kind, Guid id, HttpContext context, CancellationToken cancellationToken)
    {
        if (await store.FindAsync(kind, id, cancellationToken) is not { } stored) return null;
        Revision.Show(context, stored.Revision);
        return (stored.Revision, (T)Drafts.ReadDocument(stored));
    }

    /// <summary>Adds a checked document and gives its id.</summary>
    public async Task<Guid> AddAsync<T>(DocumentKind kind, T document, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var id = Guid.CreateVersion7();
        await store.AddAsync(kind, id, Json(document), user.Actor(), cancellationToken);
        return id;
    }

    /// <summary>Keeps a checked document, or takes it out when it is null, on the revision that the request names.</summary>
    public async Task<Results<NoContent, ProblemHttpResult>> SaveAsync<T>(DocumentKind kind, Guid id, T? document, HttpContext context, ClaimsPrincipal user, CancellationToken cancellationToken)
        where T : class
    {
        var what = kind == DocumentKind.Answer ? "ready answer" : kind.ToString().ToLowerInvariant();
        if (!Revision.TryReadSeen(context, out var seen, out var missing)) return missing!;
        var outcome = await store.SaveAsync(kind, id, seen, document is null ? null : Json(document), user.Actor(), cancellationToken);
        if (outcome == SaveOutcome.NotFound) return Problems.NotFound(what);
        if (outcome == SaveOutcome.Conflict) return Problems.LostUpdate(what);
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }

    /// <summary>The problem of a document with faults; null for one without.</summary>
    public static ProblemHttpResult? Refuse(string what, IReadOnlyCollection<DesignProblem> problems) =>
        problems.Count == 0 ? null : Problems.Invalid($"The {what} has faults and was not saved.", problems.Select(problem => new Fault(problem.Pointer, 0, problem.Code, problem.Message)));

    /// <summary>The problem of taking out what rules name.</summary>
    public static ProblemHttpResult InUse(string what, IEnumerable<int> rules) =>
        Problems.Of(StatusCodes.Status409Conflict, "in-use", $"Rules name this {what}.", $"Change or take out rule {string.Join(", ", rules)} of its track first.");

    /// <summary>True for documents that say the same.</summary>
    public static bool IsSame<T>(T? left, T? right) => Json(left) == Json(right);

    private static string Json<T>(T document) => JsonSerializer.Serialize(document, RelevoJson.Options);
}
