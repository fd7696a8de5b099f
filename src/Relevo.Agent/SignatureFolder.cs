using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text.Json;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;

namespace Relevo.Agent;

/// <summary>
/// The folder a mail program reads. Every file is written beside its place, flushed and renamed, so that nobody ever reads half of one. Only
/// files named in the folder's own manifest are ever removed.
/// </summary>
public sealed class SignatureFolder(string path)
{
    private const int MostContents = 20; // files whose content is reported; more of them are known by their hashes

    /// <summary>Names of files that are being written begin like this.</summary>
    public const string UnfinishedPrefix = ".relevo-";

    /// <summary>Where the folder lies.</summary>
    public string Location { get; } = System.IO.Path.GetFullPath(path);

    /// <summary>Makes the folder and clears what an interrupted writing left.</summary>
    public void Prepare()
    {
        Directory.CreateDirectory(Location);
        foreach (var unfinished in Directory.EnumerateFiles(Location, UnfinishedPrefix + "*", SearchOption.AllDirectories)) File.Delete(unfinished);
    }

    /// <summary>The manifest of what was written last, or null when there is none that can be read.</summary>
    public Manifest? ReadManifest()
    {
        try
        {
            return JsonSerializer.Deserialize<Manifest>(File.ReadAllBytes(Place(Manifest.OwnFileName)), RelevoJson.Options);
        }
        catch (Exception missing) when (missing is IOException or JsonException)
        {
            return null;
        }
    }

    /// <summary>The manifest's files as they are on the disk now.</summary>
    public ImmutableArray<FoundFile> Look(Manifest manifest) => [.. manifest.Files.Select(file => new FoundFile(file.Path, Hash(Place(file.Path))))];

    /// <summary>What stands in files that differ from the manifest, as far as it is text and not too long.</summary>
    public ImmutableArray<FoundContent> Contents(Manifest manifest, ImmutableArray<FoundFile> found) =>
    [
        .. manifest.Files.Zip(found).Where(pair => pair.First.Sha256 != pair.Second.Sha256 && pair.Second.Sha256.Length > 0 && pair.First.Role != FileRole.Picture).Take(MostContents)
            .Select(pair => new FoundContent(pair.First.Path, ReadText(Place(pair.First.Path)))),
    ];

    /// <summary>True when every file of the manifest is on the disk with its hash.</summary>
    public bool Holds(Manifest manifest) => manifest.Files.All(file => Hash(Place(file.Path)) == file.Sha256);

    /// <summary>
    /// Brings the folder to the manifest: writes what differs, removes what an earlier manifest named and this one does not, writes the manifest
    /// last. bytes: gives a file's bytes by its path. Throws IOException or UnauthorizedAccessException when the disk refuses.
    /// </summary>
    public async Task WriteAsync(Manifest manifest, Func<ManifestFile, Task<byte[]>> bytes, CancellationToken cancellationToken)
    {
        var before = ReadManifest();
        foreach (var file in manifest.Files)
        {
            if (Hash(Place(file.Path)) != file.Sha256) await ReplaceAsync(Place(file.Path), await bytes(file), cancellationToken);
        }

        var kept = manifest.Files.Select(file => file.Path).ToHashSet(StringComparer.Ordinal);
        foreach (var old in before?.Files.Where(file => !kept.Contains(file.Path)) ?? []) File.Delete(Place(old.Path));
        await ReplaceAsync(Place(Manifest.OwnFileName), JsonSerializer.SerializeToUtf8Bytes(manifest, RelevoJson.Options), cancellationToken);
    }

    private static async Task ReplaceAsync(string place, byte[] bytes, CancellationToken cancellationToken)
    {
        var folder = System.IO.Path.GetDirectoryName(place)!;
        Directory.CreateDirectory(folder);
        var beside = System.IO.Path.Combine(folder, UnfinishedPrefix + Guid.NewGuid().ToString("N"));
        await using (var file = new FileStream(beside, FileMode.CreateNew, FileAccess.Write))
        {
            await file.WriteAsync(bytes, cancellationToken);
            file.Flush(flushToDisk: true);
        }

        File.Move(beside, place, overwrite: true);
    }

    private static string ReadText(string place)
    {
        try
        {
            var text = File.ReadAllText(place).Replace('\0', '\uFFFD');
            return text.Length > AgentProtocol.MostContent ? text[..AgentProtocol.MostContent] : text;
        }
        catch (Exception gone) when (gone is IOException or UnauthorizedAccessException)
        {
            return "";
        }
    }

    private static string Hash(string place)
    {
        try
        {
            using var file = File.OpenRead(place);
            return Convert.ToHexStringLower(SHA256.HashData(file));
        }
        catch (Exception missing) when (missing is IOException or UnauthorizedAccessException)
        {
            return "";
        }
    }

    /// <summary>A path of a manifest inside this folder; one that would leave it is refused, whoever sent it.</summary>
    private string Place(string relative)
    {
        var segments = relative.Split('/');
        if (segments.Any(segment => segment.Length == 0 || segment is "." or ".." || segment.Contains('\\', StringComparison.Ordinal)))
            throw new IOException($"The path \"{relative}\" leads out of the signature folder and is refused.");
        return System.IO.Path.Combine([Location, .. segments]);
    }
}
