using System.Collections.Immutable;
using System.Text;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>What a file is for.</summary>
public enum FileRole
{
    /// <summary>The signature of a slot.</summary>
    Signature,

    /// <summary>A further signature that the employee may choose.</summary>
    Offer,

    /// <summary>A ready answer, as a message (RFC 5322) with its subject.</summary>
    Answer,

    /// <summary>A picture that signatures refer to.</summary>
    Picture,
}

/// <summary>A file that a client keeps: where, and the SHA-256 of its bytes in lower-case hex.</summary>
/// <param name="Path">Relative path with forward slashes; its segments are from <see cref="FileName"/>.</param>
/// <param name="Sha256">SHA-256 of the file.</param>
/// <param name="Address">The account it is for; empty for pictures, and for a signature that stands for every account.</param>
/// <param name="Slot">The slot it is for; empty for pictures, offers and answers.</param>
public sealed record ManifestFile(string Path, string Sha256, string Address, string Slot)
{
    /// <summary>What it is for.</summary>
    public FileRole Role { get; init; }

    /// <summary>The occasions its slot covers; none for what has no slot.</summary>
    public ImmutableArray<Occasion> Occasions { get; init; } = [];

    /// <summary>What people pick an offer or an answer by; empty for others.</summary>
    public string Name { get; init; } = "";
}

/// <summary>What one client is to hold. An agent writes it beside the files as <c>relevo.json</c>.</summary>
/// <param name="Edition">The edition it was made from.</param>
/// <param name="Files">Every file, in the order of their paths.</param>
public sealed record Manifest(int Edition, ImmutableArray<ManifestFile> Files)
{
    /// <summary>Name of the manifest's own file.</summary>
    public const string OwnFileName = "relevo.json";

    /// <summary>The tag of a manifest without any file.</summary>
    public static string NothingsTag { get; } = TagOf([]);

    /// <summary>
    /// What is to be held, in one hash: see <see cref="TagOf"/>. The edition's number is left out, so that an edition that changes nothing for a client asks nothing
    /// of it.
    /// </summary>
    public string Tag() => TagOf(Files.Select(file => (file.Path, file.Sha256)));

    /// <summary>SHA-256, in lower-case hex, of a line for each file in the order of their paths: its hash, a space, its path, a line feed. So what was found in a client proves by itself that it is what was wanted.</summary>
    public static string TagOf(IEnumerable<(string Path, string Sha256)> files)
    {
        var lines = new StringBuilder();
        foreach (var (path, sha256) in files.OrderBy(file => file.Path, StringComparer.Ordinal)) lines.Append(sha256).Append(' ').Append(path).Append('\n');
        return RenderedSignature.Sha256(Encoding.UTF8.GetBytes(lines.ToString()));
    }

    /// <summary>The published JSON Schema of a manifest. Source: JSON Schema 2020-12.</summary>
    public static string Schema() => RelevoJson.Schema(typeof(Manifest), "What a client of Relevo is to hold");
}

/// <summary>A file with its bytes, on its way to a client.</summary>
public sealed record WantedFile(ManifestFile Entry, ReadOnlyMemory<byte> Bytes);

/// <summary>What was found in a client. Sha256 is empty for a file that is not there.</summary>
public sealed record FoundFile(string Path, string Sha256);

/// <summary>Everything one client is to hold, with bytes for signatures; pictures are fetched by their hash.</summary>
public sealed record Delivery(Manifest Manifest, ImmutableArray<WantedFile> Signatures)
{
    /// <summary>What it was made from, see <see cref="Slotting.RecipeOf"/>.</summary>
    public Guid Recipe { get; init; }

    /// <summary>What it is called, by what it is made from and what it came to.</summary>
    public WantedTag Wanted => new(Recipe, Manifest.Tag());
}

/// <summary>What a client is to hold: what it is made from, and the tag of what that came to.</summary>
public readonly record struct WantedTag(Guid Recipe, string Tag);
