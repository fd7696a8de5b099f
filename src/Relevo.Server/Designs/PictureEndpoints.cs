using System.Security.Claims;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Data;
using Relevo.Imaging;
using Relevo.Server.Http;
using Relevo.Server.People;

namespace Relevo.Server.Designs;

/// <summary>A picture that was handed in, as it is kept. Sizes in pixels.</summary>
public sealed record KeptPicture(string Sha256, int Width, int Height);

/// <summary>
/// Pictures by their hash, public: they stand in mail that leaves the company, and their address cannot be guessed. A sandboxed preview has no
/// cookies, so it needs them public too. Handed in by administrators, for the library or a field, and by employees for fields opened to them.
/// </summary>
public static class PictureEndpoints
{
    /// <summary>Maps the public side.</summary>
    public static void MapPictures(this IEndpointRouteBuilder routes) =>
        routes.MapGet("/pictures/{name}", ReadAsync).AllowAnonymous().ExcludeFromDescription();

    /// <summary>Maps the door for pictures, open to everybody who is signed in.</summary>
    public static void MapPictureUpload(this IEndpointRouteBuilder routes) =>
        routes.MapPost("/api/pictures", KeepAsync).Accepts<IFormFile>("application/octet-stream").WithName("AddPicture");

    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> ReadAsync(string name, HttpContext context, PictureStore pictures, CancellationToken cancellationToken)
    {
        if (Path.GetExtension(name) != ".png" || await pictures.ReadAnyAsync(Path.GetFileNameWithoutExtension(name), cancellationToken) is not { } bytes) return Problems.NotFound("picture");
        context.Response.Headers.CacheControl = "public, max-age=31536000, immutable";
        return TypedResults.File(bytes, "image/png");
    }

    private static async Task<Results<Created<KeptPicture>, ProblemHttpResult>> KeepAsync(HttpContext context, PictureStore pictures, ClaimsPrincipal user, CancellationToken cancellationToken, string name = "Picture", bool library = false)
    {
        if (library && !user.IsInRole(nameof(UserRole.Administrator))) return Problems.Of(StatusCodes.Status403Forbidden, "not-allowed", "Only administrators add to the library.", "Ask an administrator.");
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size) size.MaxRequestBodySize = 2L * PictureReading.MaxFileBytes;
        var file = await DirectoryFiles.ReadWholeAsync(context.Request.Body, PictureReading.MaxFileBytes, cancellationToken);
        await DirectoryFiles.DrainAsync(context.Request.Body, cancellationToken);
        var (picture, reason) = PictureReading.Read(file.ToArray());
        if (picture is null) return Problems.Of(StatusCodes.Status422UnprocessableEntity, "picture-refused", "This picture was not taken.", reason!);
        var sha256 = RenderedSignature.Sha256(picture.Png);
        var shown = FieldValue.OneLine(name) is { Length: > 0 and <= 200 } given ? given : "Picture";
        await pictures.KeepAsync(new PictureHead(sha256, shown, picture.Width, picture.Height), picture.Png, library, cancellationToken);
        return TypedResults.Created($"/pictures/{sha256}.png", new KeptPicture(sha256, picture.Width, picture.Height));
    }
}
