using System.Collections.Immutable;
using System.Security.Claims;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Relevo.Data;
using Relevo.Imaging;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Designs;

/// <summary>A design that a file brings. Becomes and BecomesSet: the name and the set it gets here, where its own are taken.</summary>
public sealed record ArrivingDesign(string Name, string Becomes, string Set, string BecomesSet, int Blocks);

/// <summary>A theme that a file brings.</summary>
public sealed record ArrivingTheme(string Name, string Becomes);

/// <summary>A picture that a file brings. IsNew: the library does not have it.</summary>
public sealed record ArrivingPicture(string Name, int Width, int Height, bool IsNew);

/// <summary>What a file would add, or has added. Nothing that is there is ever changed by it.</summary>
public sealed record Arrival(ImmutableArray<ArrivingDesign> Designs, ImmutableArray<ArrivingTheme> Themes, ImmutableArray<ArrivingPicture> Pictures);

/// <summary>Designs, sets and themes as files that another Relevo takes in, after a look at what they would add.</summary>
public static class DesignFileEndpoints
{
    private const int MaxFileBytes = 40 << 20; // pictures in base64

    /// <summary>Maps the endpoints.</summary>
    public static void MapDesignFiles(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/design-files/schema", () => TypedResults.Text(DesignFile.Schema(), "application/schema+json")).WithName("ReadDesignFileSchema");
        routes.MapGet("/api/design-files", WriteAsync).WithName("WriteDesignFile");
        routes.MapPost("/api/design-files", TakeInAsync).Accepts<IFormFile>("application/octet-stream").WithName("TakeInDesignFile");
    }

    /// <summary>What is asked for: one design, a whole set, or a theme.</summary>
    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> WriteAsync(DesignStore designs, ThemeStore themes, PictureStore pictures, CancellationToken cancellationToken, Guid? design = null, string set = "", Guid? theme = null)
    {
        var chosen = (await designs.ListAsync(cancellationToken)).Select(stored => (stored.Id, Design: Drafts.ReadDesign(stored)))
            .Where(pair => pair.Id == design || (set.Length > 0 && pair.Design.Set == set)).Select(pair => pair.Design).ToImmutableArray();
        var kept = (await themes.ListAsync(cancellationToken)).Where(one => one.Id == theme).Select(one => new NamedTheme(one.Name, JsonSerializer.Deserialize<Theme>(one.Content, RelevoJson.Options)!)).ToImmutableArray();
        if (chosen.IsEmpty && kept.IsEmpty) return Problems.NotFound("design, set or theme");
        var library = (await pictures.ListAsync(cancellationToken)).ToDictionary(picture => picture.Sha256, picture => picture.Name);
        var used = ImmutableArray.CreateBuilder<FilePicture>();
        foreach (var sha256 in chosen.SelectMany(one => one.Blocks.Values).SelectMany(block => block.LibraryPictures).Where(library.ContainsKey).Distinct().Order(StringComparer.Ordinal))
            used.Add(new FilePicture(sha256, library[sha256], (await pictures.ReadAsync(sha256, cancellationToken))!));
        var file = new DesignFile(DesignFile.CurrentFormat, chosen, kept, used.ToImmutable());
        var name = FileName.Encode(set.Length > 0 ? set : chosen.IsEmpty ? kept[0].Name : chosen[0].Name);
        return TypedResults.File(Encoding.UTF8.GetBytes(file.ToJson()), "application/json", $"{name}.json");
    }

    /// <summary>look: true to hear what the file would add without adding it.</summary>
    private static async Task<Results<Ok<Arrival>, ProblemHttpResult>> TakeInAsync(
        HttpContext context, DesignStore designStore, ThemeStore themeStore, PictureStore pictureStore, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken, bool look = false)
    {
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size) size.MaxRequestBodySize = 2L * MaxFileBytes;
        var bytes = await DirectoryFiles.ReadWholeAsync(context.Request.Body, MaxFileBytes, cancellationToken);
        await DirectoryFiles.DrainAsync(context.Request.Body, cancellationToken);
        if (bytes.Length > MaxFileBytes) return Problems.Of(StatusCodes.Status413PayloadTooLarge, "too-large", $"A file of designs has at most {MaxFileBytes >> 20} MB.", "Export fewer designs, or smaller pictures.");
        var (file, problems) = DesignFile.Restore(Encoding.UTF8.GetString(bytes.Span).TrimStart('\uFEFF'));
        var library = (await pictureStore.ListAsync(cancellationToken)).Select(picture => picture.Sha256).ToHashSet();
        if (file is not null) problems = file.Check((await rosters.GetAsync(cancellationToken)).Records.Fields, library);
        var (pictures, unreadable) = Read(problems.IsEmpty ? file : null, library);
        if (file is null || !problems.IsEmpty || !unreadable.IsEmpty)
            return Problems.Invalid("The file cannot be taken in, and nothing was changed.", problems.Concat(unreadable).Select(problem => new Fault(problem.Pointer, 0, problem.Code, problem.Message)));
        var present = (await designStore.ListAsync(cancellationToken)).Select(Drafts.ReadDesign).ToArray();
        var designs = file.Arrive(present.Select(design => design.Name), [.. present.Select(design => design.Set).Distinct()], pictures.ToDictionary(picture => picture.Old, picture => picture.Head.Sha256));
        var themes = file.ArriveThemes((await themeStore.ListAsync(cancellationToken)).Select(theme => theme.Name));
        if (!look)
        {
            foreach (var (_, head, png) in pictures.Where(picture => !library.Contains(picture.Head.Sha256))) await pictureStore.KeepAsync(head, png, isInLibrary: true, cancellationToken);
            foreach (var theme in themes) await themeStore.KeepAsync(new StoredTheme(Guid.CreateVersion7(), theme.Name, JsonSerializer.Serialize(theme.Theme, RelevoJson.Options)), user.Actor(), cancellationToken);
            await designStore.AddAllAsync([.. designs.Select(design => (Guid.NewGuid(), design.ToJson()))], user.Actor(), cancellationToken);
        }

        return TypedResults.Ok(new Arrival(
            [.. file.Designs.Zip(designs, (own, here) => new ArrivingDesign(own.Name, here.Name, own.Set, here.Set, own.Blocks.Count))],
            [.. file.Themes.Zip(themes, (own, here) => new ArrivingTheme(own.Name, here.Name))],
            [.. pictures.Select(picture => new ArrivingPicture(picture.Head.Name, picture.Head.Width, picture.Head.Height, !library.Contains(picture.Head.Sha256)))]));
    }

    /// <summary>The pictures made anew like any that is handed in, each under its old hash and its new one. What the library has is left alone.</summary>
    private static (ImmutableArray<(string Old, PictureHead Head, byte[] Png)> Pictures, ImmutableArray<DesignProblem> Problems) Read(DesignFile? file, HashSet<string> library)
    {
        var (pictures, problems) = (ImmutableArray.CreateBuilder<(string, PictureHead, byte[])>(), ImmutableArray.CreateBuilder<DesignProblem>());
        foreach (var (picture, index) in (file?.Pictures ?? []).Select((picture, index) => (picture, index)))
        {
            var (read, reason) = PictureReading.Read(picture.Png);
            var isThere = library.Contains(picture.Sha256) && RenderedSignature.Sha256(picture.Png) == picture.Sha256;
            if (read is null) problems.Add(new DesignProblem($"/pictures/{index}/png", "picture-refused", reason!));
            else pictures.Add((picture.Sha256, new PictureHead(isThere ? picture.Sha256 : RenderedSignature.Sha256(read.Png), Core.People.FieldValue.OneLine(picture.Name) is { Length: > 0 and <= 200 } name ? name : "Picture", read.Width, read.Height), read.Png));
        }

        return (pictures.ToImmutable(), problems.ToImmutable());
    }
}
