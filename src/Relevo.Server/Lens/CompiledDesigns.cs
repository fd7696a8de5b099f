using System.Text;
using Microsoft.Extensions.Caching.Memory;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;

namespace Relevo.Server.Lens;

/// <summary>Keeps compiled designs by what they hold, so that each state of a design is compiled once per process. Nothing here goes stale.</summary>
public sealed class CompiledDesigns : IDisposable
{
    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = 500 }); // programs; each takes a few kilobytes

    /// <summary>The design compiled for a client kind, to be run over values in the order of the fields. marksBlocks: for an editor's eyes, see <see cref="RenderingForm.MarksBlocks"/>.</summary>
    public CompiledDesign Get(DesignDocument design, ClientKind kind, FieldCatalogue fields, bool marksBlocks = false) => Get(design, kind.Form with { MarksBlocks = marksBlocks }, fields);

    /// <summary>The design compiled for a form of rendering.</summary>
    public CompiledDesign Get(DesignDocument design, RenderingForm form, FieldCatalogue fields)
    {
        var key = $"{form}:{RenderedSignature.Sha256(Encoding.UTF8.GetBytes(design.ToJson() + fields.Fingerprint))}";
        return cache.GetOrCreate(key, entry =>
        {
            entry.Size = 1;
            return CompiledDesign.Compile(design, fields, form);
        })!;
    }

    /// <inheritdoc />
    public void Dispose() => cache.Dispose();
}
