using System.Collections.Concurrent;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Relevo.Data;
using Relevo.Imaging;

namespace Relevo.Server.Designs;

/// <summary>
/// Makes the pictures that rendered signatures name, and keeps them. Only what a signature of this company has shown can be fetched, so nobody
/// outside can have the server make pictures. A name always stands for the same picture, so what is known of it never goes stale.
/// </summary>
public sealed class PictureCuts(PictureStore pictures)
{
    private const int MostKnown = 500_000; // names; a portrait and a few icons for each of 100,000 people

    private readonly ConcurrentDictionary<string, KeptCut> known = new(StringComparer.Ordinal);

    /// <summary>The pictures of these names as they are kept, by name. One whose source is not in the library is left out.</summary>
    public async Task<IReadOnlyDictionary<string, KeptCut>> EnsureAsync(IReadOnlyCollection<string> names, CancellationToken cancellationToken)
    {
        var found = new Dictionary<string, KeptCut>(names.Count, StringComparer.Ordinal);
        var unknown = new List<string>();
        foreach (var name in names)
        {
            if (known.TryGetValue(name, out var cut)) found[name] = cut;
            else unknown.Add(name);
        }

        if (unknown.Count == 0) return found;
        var kept = await pictures.FindCutsAsync(unknown, cancellationToken);
        foreach (var name in unknown)
        {
            if (!kept.TryGetValue(name, out var cut)) cut = await MakeAsync(name, cancellationToken);
            if (cut is null) continue;
            found[name] = cut;
            if (known.Count < MostKnown) known[name] = cut;
        }

        return found;
    }

    /// <summary>Those of the names that are kept already, and so many of the others as well, made now: looking at everybody makes their pictures bit by bit.</summary>
    public async Task<IReadOnlyDictionary<string, KeptCut>> FindAsync(IReadOnlyCollection<string> names, int mostMade, CancellationToken cancellationToken)
    {
        var unknown = names.Where(name => !known.ContainsKey(name)).ToArray();
        var kept = unknown.Length == 0 ? [] : await pictures.FindCutsAsync(unknown, cancellationToken);
        foreach (var (name, cut) in kept)
        {
            if (known.Count < MostKnown) known[name] = cut;
        }

        var made = await EnsureAsync([.. unknown.Where(name => !kept.ContainsKey(name)).Take(mostMade)], cancellationToken);
        var found = new Dictionary<string, KeptCut>(names.Count, StringComparer.Ordinal);
        foreach (var name in names)
        {
            if (known.TryGetValue(name, out var cut) || kept.TryGetValue(name, out cut) || made.TryGetValue(name, out cut)) found[name] = cut;
        }

        return found;
    }

    private async Task<KeptCut?> MakeAsync(string name, CancellationToken cancellationToken)
    {
        if (PictureCut.Parse(name) is not { } wanted) return null;
        var bytes = PictureCut.ParseIcon(wanted.Source) is var (kind, colour)
            ? IconDrawing.Draw(kind, colour, wanted.Width * wanted.Density, wanted.Height * wanted.Density)
            : await pictures.ReadAsync(wanted.Source, cancellationToken) is { } source ? PictureCutting.Cut(wanted, source) : null;
        return bytes is null ? null : await pictures.KeepCutAsync(name, RenderedSignature.Sha256(bytes), bytes, cancellationToken);
    }
}
