using Relevo.Core.People.Sources;
using Relevo.Core.Rendering;
using Relevo.Data;
using Relevo.Imaging;

namespace Relevo.Server.Connectors;

/// <summary>Keeps pictures that sources send. What was sent before is known by its bytes and not decoded again.</summary>
public sealed class PictureIntake(PictureStore pictures)
{
    /// <summary>Keeps one picture, outside the library.</summary>
    public async ValueTask<TakenPicture> TakeAsync(ReadOnlyMemory<byte> file, CancellationToken cancellationToken)
    {
        var sent = RenderedSignature.Sha256(file.Span);
        if (await pictures.FindSentAsync(sent, cancellationToken) is { } known) return known;
        var (picture, reason) = PictureReading.Read(file.ToArray());
        var kept = picture is null ? null : new PictureHead(RenderedSignature.Sha256(picture.Png), "Portrait", picture.Width, picture.Height);
        if (kept is not null) await pictures.KeepAsync(kept, picture!.Png, isInLibrary: false, cancellationToken);
        var taken = new TakenPicture(kept?.Sha256, reason);
        await pictures.KeepSentAsync(sent, taken, cancellationToken);
        return taken;
    }
}
