using System.Collections.Immutable;
using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core;
using Relevo.Core.Designs;
using Relevo.Data;
using Relevo.Imaging;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.Designs;

/// <summary>A theme that was kept.</summary>
public sealed record ThemeAnswer(Guid Id, string Name, Theme Theme);

/// <summary>A theme to keep under a name.</summary>
public sealed record KeepThemeRequest(string Name, Theme Theme);

/// <summary>A picture of the library.</summary>
public sealed record LibraryPicture(string Sha256, string Name, int Width, int Height);

/// <summary>Themes to use again, the picture library, and what a picture's colours make of a theme.</summary>
public static class ThemeEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapThemes(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/themes", ListAsync).WithName("ListThemes");
        routes.MapPost("/api/themes", KeepAsync).WithName("KeepTheme");
        routes.MapDelete("/api/themes/{id:guid}", RemoveAsync).WithName("RemoveTheme");
        routes.MapGet("/api/pictures", ListPicturesAsync).WithName("ListPictures");
        routes.MapGet("/api/pictures/{sha256}/colours", ProposeAsync).WithName("ProposeColours");
    }

    private static async Task<Ok<ImmutableArray<ThemeAnswer>>> ListAsync(ThemeStore themes, CancellationToken cancellationToken) =>
        TypedResults.Ok((await themes.ListAsync(cancellationToken)).Select(theme => new ThemeAnswer(theme.Id, theme.Name, JsonSerializer.Deserialize<Theme>(theme.Content, RelevoJson.Options)!)).ToImmutableArray());

    private static async Task<Results<NoContent, ProblemHttpResult>> KeepAsync(KeepThemeRequest request, ThemeStore themes, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var name = request.Name.Trim();
        if (DesignCheck.CheckTheme(name, request.Theme) is { IsEmpty: false } problems)
            return Problems.Invalid("The theme cannot be kept like this.", problems.Select(problem => new Fault(problem.Pointer, 0, problem.Code, problem.Message)));
        await themes.KeepAsync(new StoredTheme(Guid.CreateVersion7(), name, JsonSerializer.Serialize(request.Theme, RelevoJson.Options)), user.Actor(), cancellationToken);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(Guid id, ThemeStore themes, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        await themes.RemoveAsync(id, user.Actor(), cancellationToken) ? TypedResults.NoContent() : Problems.NotFound("theme");

    private static async Task<Ok<ImmutableArray<LibraryPicture>>> ListPicturesAsync(PictureStore pictures, CancellationToken cancellationToken) =>
        TypedResults.Ok((await pictures.ListAsync(cancellationToken)).Select(picture => new LibraryPicture(picture.Sha256, picture.Name, picture.Width, picture.Height)).ToImmutableArray());

    private static async Task<Results<Ok<ThemeProposal>, ProblemHttpResult>> ProposeAsync(string sha256, PictureStore pictures, CancellationToken cancellationToken) =>
        await pictures.ReadAsync(sha256, cancellationToken) is { } bytes ? TypedResults.Ok(ThemeProposal.From(PictureColours.Count(bytes))) : Problems.NotFound("picture");
}
