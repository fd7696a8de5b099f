using System.Collections.Immutable;
using System.Text;
using System.Text.Json;
using Relevo.Core.Rendering;

namespace Relevo.Core.Rollouts;

/// <summary>A file the agent keeps: where, and the SHA-256 of its bytes in lower-case hex.</summary>
/// <param name="Path">Relative path with forward slashes; its segments are from <see cref="Clients.FileName"/>.</param>
/// <param name="Sha256">SHA-256 of the file.</param>
/// <param name="Address">The account it is for; empty for pictures.</param>
/// <param name="Slot">The slot it is for; empty for pictures.</param>
public sealed record ManifestFile(string Path, string Sha256, string Address, string Slot);

/// <summary>What one computer is to hold. Written beside the files as <c>relevo.json</c>.</summary>
/// <param name="Edition">The edition it was made from.</param>
/// <param name="Files">Every file, in the order of their paths.</param>
public sealed record Manifest(int Edition, ImmutableArray<ManifestFile> Files)
{
    /// <summary>Name of the manifest's own file.</summary>
    public const string OwnFileName = "relevo.json";

    /// <summary>The manifest's identity: SHA-256 of its JSON.</summary>
    public string Tag() => RenderedSignature.Sha256(Encoding.UTF8.GetBytes(JsonSerializer.Serialize(this, RelevoJson.Options)));
}

/// <summary>A file with its bytes, on its way to a computer.</summary>
public sealed record WantedFile(ManifestFile Entry, ReadOnlyMemory<byte> Bytes);

/// <summary>What the agent found on the disk. Sha256 is empty for a file that is not there.</summary>
public sealed record FoundFile(string Path, string Sha256);

/// <summary>Everything one computer is to hold, with bytes for signatures; pictures are fetched by their hash.</summary>
public sealed record Delivery(Manifest Manifest, ImmutableArray<WantedFile> Signatures);
