using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Clients;
using Relevo.Core.Editions;
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
public sealed class SignatureExport(Drafts drafts, CurrentRoster rosters, Situations situations, CompiledDesigns compiled, PictureCuts cuts, PictureStore pictures)
{
    /// <summary>The signature, or the problem that says why there is none.</summary>
    public async Task<(ExportedSignature? Signature, ProblemHttpResult? Refusal)> MakeAsync(Guid id, Guid person, string? address, AskedSituation asked, bool embedsPictures, CancellationToken cancellationToken)
    {
        var content = await drafts.ReadAsync(cancellationToken);
        if (content.Find(id) is not { } design) return (null, Problems.NotFound("design"));
        var roster = await rosters.GetAsync(cancellationToken);
        if (roster.Find(person) is not { } row) return (null, Problems.NotFound("person"));
        if (situations.Refuse(asked, content) is { } refusal) return (null, refusal);
        var read = situations.Read(asked, roster, row, address, content);
        if (read.Account is null) return (null, Problems.Of(StatusCodes.Status409Conflict, "no-account", $"{row.Name} has no address to send from.", "Choose somebody who has one."));
        var form = ClientKind.DeskApp.Form with { EmbedsPictures = embedsPictures };
        var furnished = Signing.Furnish(design, content, roster.Records, read.Situation, Decision.Decide(content.Rules, roster.Records, read.Situation), read.Values);
        var program = compiled.Get(furnished, form, roster.Records.Fields);
        var signature = program.Render(read.Values, read.Circumstances);
        await cuts.EnsureAsync(signature.Pictures, cancellationToken);
        var bytes = new Dictionary<string, byte[]>();
        foreach (var picture in signature.Pictures)
        {
            if (await pictures.ReadAnyAsync(picture, cancellationToken) is { } file) bytes[picture] = file;
        }

        return (new ExportedSignature(row.Name, read.Account.Address, form, signature, bytes, () => program.RenderRtf(read.Values, read.Circumstances, bytes)), null);
    }
}
