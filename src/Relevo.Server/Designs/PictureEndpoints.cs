using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Data;
using Relevo.Server.Http;

namespace Relevo.Server.Designs;

/// <summary>
/// Pictures by their hash, public: they stand in mail that leaves the company, and their address cannot be guessed. A sandboxed preview has no
/// cookies, so it needs them public too.
/// </summary>
public static class PictureEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapPictures(this IEndpointRouteBuilder routes) =>
        routes.MapGet("/pictures/{name}", ReadAsync).AllowAnonymous().ExcludeFromDescription();

    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> ReadAsync(string name, HttpContext context, PictureStore pictures, CancellationToken cancellationToken)
    {
        var sha256 = Path.GetFileNameWithoutExtension(name);
        if (Path.GetExtension(name) != ".png" || await pictures.ReadAsync(sha256, cancellationToken) is not { } bytes) return Problems.NotFound("picture");
        context.Response.Headers.CacheControl = "public, max-age=31536000, immutable";
        return TypedResults.File(bytes, "image/png");
    }
}
