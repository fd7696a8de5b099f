using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Clients;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;

namespace Relevo.Server.Designs;

/// <summary>A signature on its way out, with the bytes of every picture it shows, by name.</summary>
public sealed record ExportedSignature(string Name, string Address, RenderingForm Form, RenderedSignature Signature, IReadOnlyDictionary<string, byte[]> Pictures, Func<ReadOnlyMemory<byte>> Rtf);

/// <summary>Makes a draft's signature for a person and a situation as files and messages want it.</summary>
public sealed class SignatureExport(Drafts drafts, CurrentRoster rosters, CompiledDesigns compiled, PictureCuts cuts, PictureStore pictures)
{
    /// <summary>The signature, or the problem that says why there is none.</summary>
    public async Task<(ExportedSignature? Signature, ProblemHttpResult? Refusal)> MakeAsync(Guid id, Guid person, string? address, string occasion, string audience, bool embedsPictures, CancellationToken cancellationToken)
    {
        if (!Enum.TryParse<Occasion>(occasion, ignoreCase: true, out var when) || !Enum.IsDefined(when) || !Audiences.All.Contains(audience))
            return (null, Problems.Of(StatusCodes.Status400BadRequest, "situation-unknown", "There is no such situation.", $"The occasion is new, reply or forward; the audience one of {string.Join(", ", Audiences.All)}."));
        if ((await drafts.ReadAsync(cancellationToken)).Find(id) is not { } design) return (null, Problems.NotFound("design"));
        var roster = await rosters.GetAsync(cancellationToken);
        if (roster.Find(person) is not { } row) return (null, Problems.NotFound("person"));
        if (row.Person.FindAccount(address) is not { } account) return (null, Problems.Of(StatusCodes.Status409Conflict, "no-account", $"{row.Name} has no address to send from.", "Choose somebody who has one."));
        var form = ClientKind.DeskApp.Form with { EmbedsPictures = embedsPictures };
        var (program, values, circumstances) = (compiled.Get(design, form, roster.Records.Fields), FieldResolution.Resolve(roster.Records, row.Person, account, ""), new Circumstances(when, audience));
        var signature = program.Render(values, circumstances);
        await cuts.EnsureAsync(signature.Pictures, cancellationToken);
        var bytes = new Dictionary<string, byte[]>();
        foreach (var picture in signature.Pictures)
        {
            if (await pictures.ReadAnyAsync(picture, cancellationToken) is { } file) bytes[picture] = file;
        }

        return (new ExportedSignature(row.Name, account.Address, form, signature, bytes, () => program.RenderRtf(values, circumstances, bytes)), null);
    }
}
