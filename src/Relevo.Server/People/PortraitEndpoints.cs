using System.Collections.Immutable;
using System.IO.Compression;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People.Roster;
using Relevo.Core.Rendering;
using Relevo.Data;
using Relevo.Imaging;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>A file of an archive that became nobody's portrait, and why.</summary>
public sealed record RefusedPortrait(string File, string Reason);

/// <summary>What an archive of portraits came to.</summary>
public sealed record PortraitsAnswer(int Taken, ImmutableArray<RefusedPortrait> Refused);

/// <summary>Portraits for many people at once: a ZIP archive whose files are named by mail address.</summary>
public static class PortraitEndpoints
{
    private const long MaxArchiveBytes = 200L << 20;
    private const int MaxFiles = 20_000;
    private const string Field = "portrait";

    /// <summary>Maps the endpoint.</summary>
    public static void MapPortraits(this IEndpointRouteBuilder routes) =>
        routes.MapPost("/api/portraits", TakeAsync).Accepts<IFormFile>("application/octet-stream").WithName("AddPortraits");

    /// <summary>Takes each file by itself: one that cannot be read keeps no other from being taken.</summary>
    public static async Task<PortraitsAnswer> TakeAllAsync(ZipArchive archive, PeopleRoster roster, PictureStore pictures, PersonStore people, Actor actor, CancellationToken cancellationToken)
    {
        var taken = 0;
        var refused = ImmutableArray.CreateBuilder<RefusedPortrait>();
        foreach (var file in archive.Entries.Where(entry => entry.Name.Length > 0))
        {
            cancellationToken.ThrowIfCancellationRequested();
            if (roster.FindByAddress(Path.GetFileNameWithoutExtension(file.Name)) is not { } row)
            {
                refused.Add(new RefusedPortrait(file.Name, "Nobody has this address."));
                continue;
            }

            await using var stream = file.Open();
            var bytes = await DirectoryFiles.ReadWholeAsync(stream, PictureReading.MaxFileBytes, cancellationToken);
            var (picture, reason) = PictureReading.Read(bytes.ToArray());
            if (picture is null)
            {
                refused.Add(new RefusedPortrait(file.Name, reason!));
                continue;
            }

            var sha256 = RenderedSignature.Sha256(picture.Png);
            await pictures.KeepAsync(new PictureHead(sha256, file.Name, picture.Width, picture.Height), picture.Png, isInLibrary: false, cancellationToken);
            await people.SetAsync(row.Person.Id, null, isOwn: false, Field, sha256, actor, cancellationToken);
            taken++;
        }

        return new PortraitsAnswer(taken, refused.ToImmutable());
    }

    private static async Task<Results<Ok<PortraitsAnswer>, ProblemHttpResult>> TakeAsync(
        HttpContext context, CurrentRoster rosters, PictureStore pictures, PersonStore people, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size) size.MaxRequestBodySize = 2 * MaxArchiveBytes;
        var path = Path.Combine(Path.GetTempPath(), Path.GetRandomFileName());
        await using var kept = new FileStream(path, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 81920, FileOptions.DeleteOnClose | FileOptions.Asynchronous);
        var bytes = 0L;
        var buffer = new byte[81920];
        for (int read; (read = await context.Request.Body.ReadAsync(buffer, cancellationToken)) > 0; bytes += read)
        {
            if (bytes <= MaxArchiveBytes) await kept.WriteAsync(buffer.AsMemory(0, read), cancellationToken);
        }

        if (bytes > MaxArchiveBytes) return Refuse($"The archive has more than {MaxArchiveBytes >> 20} MB.", "Cut it into several.");
        try
        {
            kept.Position = 0;
            using var archive = new ZipArchive(kept, ZipArchiveMode.Read);
            if (archive.Entries.Count > MaxFiles) return Refuse($"The archive has {archive.Entries.Count} files; at most {MaxFiles} are taken.", "Cut it into several.");
            return TypedResults.Ok(await TakeAllAsync(archive, await rosters.GetAsync(cancellationToken), pictures, people, user.Actor(), cancellationToken));
        }
        catch (InvalidDataException)
        {
            return Refuse("This is not a ZIP archive that can be read.", "Pack the portraits anew, each named by its person's mail address. What was taken before the damage stays.");
        }
    }

    private static ProblemHttpResult Refuse(string title, string detail) => Problems.Of(StatusCodes.Status422UnprocessableEntity, "archive-refused", title, detail);
}
