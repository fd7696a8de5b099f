using System.Collections.Immutable;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using MimeKit;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;

namespace Relevo.Server.Designs;

/// <summary>A file of a bundle. Bytes: how many.</summary>
public sealed record BundleFile(string Path, string Sha256, int Bytes);

/// <summary>What a bundle holds.</summary>
public sealed record BundleManifest(ImmutableArray<BundleFile> Files);

/// <summary>One signature as a file: a page with the pictures inside, plain text, rich text, a whole test message with the pictures inside, or a bundle of all with the pictures beside.</summary>
public static class ExportEndpoints
{
    private static readonly FormatOptions Wire = MakeWire();

    /// <summary>Maps the endpoint.</summary>
    public static void MapExports(this IEndpointRouteBuilder routes) => routes.MapGet("/api/designs/{id:guid}/files/{kind}", ExportAsync).WithName("ExportSignature");

    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> ExportAsync(
        Guid id, string kind, Guid person, Drafts drafts, CurrentRoster rosters, CompiledDesigns compiled, PictureCuts cuts, PictureStore pictures, TimeProvider clock, CancellationToken cancellationToken,
        string? address = null, string occasion = "new", string audience = Audiences.Outside)
    {
        if (kind is not ("html" or "txt" or "rtf" or "eml" or "zip")) return Problems.NotFound("kind of file");
        if (!Enum.TryParse<Occasion>(occasion, ignoreCase: true, out var when) || !Enum.IsDefined(when) || !Audiences.All.Contains(audience))
            return Problems.Of(StatusCodes.Status400BadRequest, "situation-unknown", "There is no such situation.", $"The occasion is new, reply or forward; the audience one of {string.Join(", ", Audiences.All)}.");
        if ((await drafts.ReadAsync(cancellationToken)).Find(id) is not { } design) return Problems.NotFound("design");
        var roster = await rosters.GetAsync(cancellationToken);
        if (roster.Find(person) is not { } row) return Problems.NotFound("person");
        if (row.Person.FindAccount(address) is not { } account) return Problems.Of(StatusCodes.Status409Conflict, "no-account", $"{row.Name} has no address to send from.", "Choose somebody who has one.");
        var form = ClientKind.DeskApp.Form with { EmbedsPictures = kind == "eml" };
        var (program, values, circumstances) = (compiled.Get(design, form, roster.Records.Fields), FieldResolution.Resolve(roster.Records, row.Person, account, ""), new Circumstances(when, audience));
        var signature = program.Render(values, circumstances);
        await cuts.EnsureAsync(signature.Pictures, cancellationToken);
        var name = string.Create(CultureInfo.InvariantCulture, $"{FileName.Encode(account.Address)}.{kind}");
        if (kind == "txt") return TypedResults.File(signature.Text.ToArray(), "text/plain; charset=utf-8", name);
        var bytes = new Dictionary<string, byte[]>();
        foreach (var picture in signature.Pictures)
        {
            if (await pictures.ReadAnyAsync(picture, cancellationToken) is { } file) bytes[picture] = file;
        }

        if (kind == "html") return TypedResults.File(Encoding.UTF8.GetBytes(WithPictures(Page(signature), form, bytes)), "text/html; charset=utf-8", name);
        if (kind is "rtf" or "zip")
        {
            var rtf = program.RenderRtf(values, circumstances, bytes).ToArray();
            return kind == "rtf" ? TypedResults.File(rtf, "application/rtf", name) : TypedResults.File(Bundle(signature, form, rtf, bytes), "application/zip", name);
        }

        using var message = TestMessage.Make(signature, row.Name, account.Address, bytes, clock.GetUtcNow());
        using var written = new MemoryStream();
        message.Prepare(EncodingConstraint.SevenBit);
        await message.WriteToAsync(Wire, written, cancellationToken);
        return TypedResults.File(written.ToArray(), "message/rfc822", name);
    }

    /// <summary>Lines end as on the wire, whatever the machine. Source: RFC 5322 section 2.1.</summary>
    private static FormatOptions MakeWire()
    {
        var options = FormatOptions.Default.Clone();
        options.NewLineFormat = NewLineFormat.Dos;
        return options;
    }

    private static string Page(RenderedSignature signature) =>
        $"<!doctype html>\n<html><head><meta charset=\"utf-8\"><title>Signature</title></head><body>{Encoding.UTF8.GetString(signature.Html.Span)}</body></html>\n";

    /// <summary>A page that needs no file beside it. Source: RFC 2397.</summary>
    private static string WithPictures(string page, RenderingForm form, Dictionary<string, byte[]> pictures) => pictures.Aggregate(
        page,
        (text, picture) => text.Replace($"src=\"{form.PictureAddress(picture.Key)}\"", $"src=\"data:image/png;base64,{Convert.ToBase64String(picture.Value)}\"", StringComparison.Ordinal));

    /// <summary>The signature's files with the pictures where the HTML looks for them, and a manifest with the SHA-256 of each.</summary>
    private static byte[] Bundle(RenderedSignature signature, RenderingForm form, byte[] rtf, Dictionary<string, byte[]> pictures)
    {
        (string Path, byte[] Bytes)[] files =
        [
            ("signature.html", Encoding.UTF8.GetBytes(Page(signature))),
            ("signature.txt", signature.Text.ToArray()),
            ("signature.rtf", rtf),
            .. pictures.Select(picture => (form.PictureAddress(picture.Key), picture.Value)),
        ];
        var manifest = new BundleManifest([.. files.Select(file => new BundleFile(file.Path, RenderedSignature.Sha256(file.Bytes), file.Bytes.Length))]);
        using var bundle = new MemoryStream();
        using (var archive = new ZipArchive(bundle, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, bytes) in files.Append(("manifest.json", JsonSerializer.SerializeToUtf8Bytes(manifest, RelevoJson.Options))))
            {
                using var entry = archive.CreateEntry(path).Open();
                entry.Write(bytes);
            }
        }

        return bundle.ToArray();
    }
}
