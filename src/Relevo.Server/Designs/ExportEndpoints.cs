using System.Collections.Immutable;
using System.Globalization;
using System.IO.Compression;
using System.Security.Claims;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using MimeKit;
using Relevo.Core;
using Relevo.Core.Checks;
using Relevo.Core.Clients;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.Designs;

/// <summary>A file of a bundle. Bytes: how many.</summary>
public sealed record BundleFile(string Path, string Sha256, int Bytes);

/// <summary>A test message that was sent. To: where. Links: each link in it, with its form looked at.</summary>
public sealed record SentTest(string To, ImmutableArray<LinkLine> Links);

/// <summary>What a bundle holds.</summary>
public sealed record BundleManifest(ImmutableArray<BundleFile> Files);

/// <summary>One signature as a file: a page with the pictures inside, plain text, rich text, a whole test message with the pictures inside, or a bundle of all with the pictures beside.</summary>
public static class ExportEndpoints
{
    private static readonly FormatOptions Wire = MakeWire();

    /// <summary>Maps the endpoints.</summary>
    public static void MapExports(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/designs/{id:guid}/files/{kind}", ExportAsync).WithName("ExportSignature");
        routes.MapPost("/api/designs/{id:guid}/test-messages", SendAsync).WithName("SendTestMessage");
    }

    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> ExportAsync(
        Guid id, string kind, Guid person, SignatureExport export, TimeProvider clock, CancellationToken cancellationToken, string? address = null, string occasion = "new", string audience = Audiences.Outside)
    {
        if (kind is not ("html" or "txt" or "rtf" or "eml" or "zip")) return Problems.NotFound("kind of file");
        var (exported, refusal) = await export.MakeAsync(id, person, address, occasion, audience, embedsPictures: kind == "eml", cancellationToken);
        if (exported is null) return refusal!;
        var name = string.Create(CultureInfo.InvariantCulture, $"{FileName.Encode(exported.Address)}.{kind}");
        switch (kind)
        {
            case "txt":
                return TypedResults.File(exported.Signature.Text.ToArray(), "text/plain; charset=utf-8", name);
            case "html":
                return TypedResults.File(Encoding.UTF8.GetBytes(WithPictures(exported)), "text/html; charset=utf-8", name);
            case "rtf":
                return TypedResults.File(exported.Rtf().ToArray(), "application/rtf", name);
            case "zip":
                return TypedResults.File(Bundle(exported), "application/zip", name);
            default:
                using (var message = TestMessage.Make(exported, new MailboxAddress(exported.Name, exported.Address), clock.GetUtcNow()))
                {
                    using var written = new MemoryStream();
                    message.Prepare(EncodingConstraint.SevenBit);
                    await message.WriteToAsync(Wire, written, cancellationToken);
                    return TypedResults.File(written.ToArray(), "message/rfc822", name);
                }
        }
    }

    /// <summary>Sends the signature in a message from the one who asks to the same; the sign-in name is their address.</summary>
    private static async Task<Results<Ok<SentTest>, ProblemHttpResult>> SendAsync(
        Guid id, Guid person, SignatureExport export, MailDelivery delivery, UserStore users, ClaimsPrincipal user, TimeProvider clock, CancellationToken cancellationToken, string? address = null, string occasion = "new", string audience = Audiences.Outside)
    {
        if (!delivery.IsPossible) return Problems.Of(StatusCodes.Status409Conflict, "no-mail-server", "Relevo has no mail server to send by.", "Start the server with RELEVO_SMTP (docs/operations.md), or take the test message along as a file.");
        var me = (await users.FindAsync(user.UserId(), cancellationToken))!.SignInName;
        if (!MailboxAddress.TryParse(me, out var self) || !me.Contains('@', StringComparison.Ordinal)) return Problems.Of(StatusCodes.Status409Conflict, "no-address", $"You are signed in as {me}, which is no mail address.", "Take the test message along as a file.");
        var (exported, refusal) = await export.MakeAsync(id, person, address, occasion, audience, embedsPictures: true, cancellationToken);
        if (exported is null) return refusal!;
        using var message = TestMessage.Make(exported, self, clock.GetUtcNow());
        if (await delivery.SendAsync(message, cancellationToken) is { } trouble) return Problems.Of(StatusCodes.Status502BadGateway, "mail-not-sent", "The test was not sent.", trouble);
        return TypedResults.Ok(new SentTest(me, LinkReport.Of(Encoding.UTF8.GetString(exported.Signature.Html.Span))));
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
    private static string WithPictures(ExportedSignature exported) => exported.Pictures.Aggregate(
        Page(exported.Signature),
        (text, picture) => text.Replace($"src=\"{exported.Form.PictureAddress(picture.Key)}\"", $"src=\"data:image/png;base64,{Convert.ToBase64String(picture.Value)}\"", StringComparison.Ordinal));

    /// <summary>The signature's files with the pictures where the HTML looks for them, and a manifest with the SHA-256 of each.</summary>
    private static byte[] Bundle(ExportedSignature exported)
    {
        (string Path, byte[] Bytes)[] files =
        [
            ("signature.html", Encoding.UTF8.GetBytes(Page(exported.Signature))),
            ("signature.txt", exported.Signature.Text.ToArray()),
            ("signature.rtf", exported.Rtf().ToArray()),
            .. exported.Pictures.Select(picture => (exported.Form.PictureAddress(picture.Key), picture.Value)),
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
