using System.Collections.Immutable;
using System.Globalization;
using System.Security.Claims;
using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using MimeKit;
using Relevo.Core;
using Relevo.Core.Checks;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Designs;

/// <summary>A test message that was sent. To: where. Links: each link in it, with its form looked at.</summary>
public sealed record SentTest(string To, ImmutableArray<LinkLine> Links);

/// <summary>Signatures of some people: of one design, or of every design of a set.</summary>
public sealed record SignaturesRequest(PeopleSelection People, Guid? Design, string Set);

/// <summary>One signature as a file: a page with the pictures inside, plain text, rich text, a whole test message with the pictures inside, or a bundle of all with the pictures beside.</summary>
public static class ExportEndpoints
{
    private const int MostPeople = 500; // of one bundle; each brings some files and pictures
    private static readonly FormatOptions Wire = MakeWire();

    /// <summary>Maps the endpoints.</summary>
    public static void MapExports(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/designs/{id:guid}/files/{kind}", ExportAsync).WithName("ExportSignature");
        routes.MapPost("/api/designs/{id:guid}/test-messages", SendAsync).WithName("SendTestMessage");
        routes.MapPost("/api/people/signatures", ExportManyAsync).WithName("ExportSignatures");
    }

    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> ExportAsync(
        Guid id, string kind, Guid person, SignatureExport export, TimeProvider clock, CancellationToken cancellationToken, string? address = null, string occasion = "", string audience = "", string client = "", string moment = "")
    {
        if (kind is not ("html" or "txt" or "rtf" or "eml" or "zip")) return Problems.NotFound("kind of file");
        var (exported, refusal) = await export.MakeAsync(id, person, address, new AskedSituation(occasion, audience, client, moment), embedsPictures: kind == "eml", cancellationToken);
        if (exported is null) return refusal!;
        var name = string.Create(CultureInfo.InvariantCulture, $"{FileName.Encode(exported.Address)}.{kind}");
        switch (kind)
        {
            case "txt":
                return TypedResults.File(exported.Signature.Text.ToArray(), "text/plain; charset=utf-8", name);
            case "html":
                return TypedResults.File(SignatureBundle.WholePage(exported), "text/html; charset=utf-8", name);
            case "rtf":
                return TypedResults.File(exported.Rtf().ToArray(), "application/rtf", name);
            case "zip":
                return TypedResults.File(SignatureBundle.Write([("", "signature", exported)]), "application/zip", name);
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
        Guid id, Guid person, SignatureExport export, MailDelivery delivery, UserStore users, ClaimsPrincipal user, TimeProvider clock, CancellationToken cancellationToken, string? address = null, string occasion = "", string audience = "", string client = "", string moment = "")
    {
        if (!delivery.IsPossible) return Problems.Of(StatusCodes.Status409Conflict, "no-mail-server", "Relevo has no mail server to send by.", "Start the server with RELEVO_SMTP (docs/operations.md), or take the test message along as a file.");
        var me = (await users.FindAsync(user.UserId(), cancellationToken))!.SignInName;
        if (!MailboxAddress.TryParse(me, out var self) || !me.Contains('@', StringComparison.Ordinal)) return Problems.Of(StatusCodes.Status409Conflict, "no-address", $"You are signed in as {me}, which is no mail address.", "Take the test message along as a file.");
        var (exported, refusal) = await export.MakeAsync(id, person, address, new AskedSituation(occasion, audience, client, moment), embedsPictures: true, cancellationToken);
        if (exported is null) return refusal!;
        using var message = TestMessage.Make(exported, self, clock.GetUtcNow());
        if (await delivery.SendAsync(message, cancellationToken) is { } trouble) return Problems.Of(StatusCodes.Status502BadGateway, "mail-not-sent", "The test was not sent.", trouble);
        return TypedResults.Ok(new SentTest(me, LinkReport.Of(Encoding.UTF8.GetString(exported.Signature.Html.Span))));
    }

    /// <summary>A folder for each person who has an address, with every design asked for, as it goes outside in a new message.</summary>
    private static async Task<Results<FileContentHttpResult, ProblemHttpResult>> ExportManyAsync(SignaturesRequest request, CurrentRoster rosters, Drafts drafts, SignatureExport export, CancellationToken cancellationToken)
    {
        if (PeopleEndpoints.Choose(await rosters.GetAsync(cancellationToken), request.People) is not { } people) return PeopleEndpoints.StateUnknown(request.People.Query!);
        if (people.Length > MostPeople) return Problems.Of(StatusCodes.Status413PayloadTooLarge, "too-many", $"{people.Length} people are more than one bundle takes.", $"Choose at most {MostPeople}.");
        var designs = (await drafts.ReadAsync(cancellationToken)).Designs.Where(design => design.Id == request.Design || (request.Set.Length > 0 && design.Document.Set == request.Set)).ToArray();
        if (designs.Length == 0) return Problems.NotFound("design or set");
        var names = new List<string>(); // designs may be called alike; their files may not
        foreach (var design in designs) names.Add(DesignSet.FreeName(design.Document.Name, names));
        var bundled = new List<(string Folder, string Name, ExportedSignature Signature)>();
        foreach (var person in people.Where(row => row.Person.FindAccount(null) is not null))
        {
            foreach (var (design, name) in designs.Zip(names))
            {
                var (exported, refusal) = await export.MakeAsync(design.Id, person.Person.Id, null, new AskedSituation("", "", "", ""), embedsPictures: false, cancellationToken);
                if (exported is null) return refusal!;
                bundled.Add(($"{FileName.Encode(exported.Address)}/", FileName.Encode(name), exported));
            }
        }

        return TypedResults.File(SignatureBundle.Write(bundled), "application/zip", "signatures.zip");
    }

    /// <summary>Lines end as on the wire, whatever the machine. Source: RFC 5322 section 2.1.</summary>
    private static FormatOptions MakeWire()
    {
        var options = FormatOptions.Default.Clone();
        options.NewLineFormat = NewLineFormat.Dos;
        return options;
    }
}
