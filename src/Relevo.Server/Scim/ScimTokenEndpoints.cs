using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;
using Relevo.Server.Rollout;
using Relevo.Server.SignIn;

namespace Relevo.Server.Scim;

/// <summary>Makes a token. Source: for a client that is there; null makes a new source that pushes.</summary>
public sealed record MakeTokenRequest(string Name, Guid? Source);

/// <summary>A new token, shown this once and kept as a hash.</summary>
public sealed record MadeToken(Guid Id, Guid Source, string Token);

/// <summary>Tokens of clients that push.</summary>
public static class ScimTokenEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapScimTokens(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/sources/{id:guid}/tokens", async (Guid id, ScimTokenStore tokens, CancellationToken cancellationToken) => TypedResults.Ok(await tokens.ListAsync(id, cancellationToken))).WithName("ListTokens");
        routes.MapPost("/api/tokens", MakeAsync).WithName("MakeToken");
        routes.MapDelete("/api/tokens/{id:guid}", async Task<Results<NoContent, ProblemHttpResult>> (Guid id, ScimTokenStore tokens, ClaimsPrincipal user, CancellationToken cancellationToken) =>
            await tokens.RevokeAsync(id, user.Actor(), cancellationToken) ? TypedResults.NoContent() : Problems.NotFound("token in use")).WithName("RevokeToken");
    }

    private static async Task<Results<Created<MadeToken>, ProblemHttpResult>> MakeAsync(MakeTokenRequest request, SourceStore sources, ScimTokenStore tokens, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var name = FieldValue.OneLine(request.Name);
        if (name.Length is 0 or > 200) return Problems.Invalid("The token cannot be made like this.", [new Fault("/name", 0, "token-name", "Say in 1 to 200 characters who pushes with it.")]);
        var source = request.Source;
        if (source is { } asked && await sources.FindAsync(asked, cancellationToken) is not { Kind: SourceKind.Scim }) return Problems.NotFound("source that pushes");
        if (source is null)
        {
            source = Guid.CreateVersion7();
            await sources.AddAsync(new Source(source.Value, SourceKind.Scim, name, 0, "{}", null, BrakeSettings.Default, ["mail"], false, null, 1), "", user.Actor(), cancellationToken);
        }

        var (token, hash) = Tokens.New();
        var id = Guid.CreateVersion7();
        await tokens.AddAsync(id, source.Value, name, hash, user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/tokens/{id}", new MadeToken(id, source.Value, token));
    }
}
