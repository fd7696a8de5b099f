using System.Collections.Immutable;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using Relevo.Core;
using Relevo.Core.Rendering;

namespace Relevo.Server.Designs;

/// <summary>A file of a bundle. Bytes: how many.</summary>
public sealed record BundleFile(string Path, string Sha256, int Bytes);

/// <summary>What a bundle holds.</summary>
public sealed record BundleManifest(ImmutableArray<BundleFile> Files);

/// <summary>Signatures as files that anybody can open.</summary>
internal static class SignatureBundle
{
    /// <summary>A page that needs no file beside it. Source: RFC 2397.</summary>
    public static byte[] WholePage(ExportedSignature exported) => Encoding.UTF8.GetBytes(exported.Pictures.Aggregate(
        Page(exported.Signature),
        (text, picture) => text.Replace($"src=\"{exported.Form.PictureAddress(picture.Key)}\"", $"src=\"data:image/png;base64,{Convert.ToBase64String(picture.Value)}\"", StringComparison.Ordinal)));

    /// <summary>A ZIP archive of every form of each signature, with the pictures where the HTML looks for them, and a manifest with the SHA-256 of each file. Folder: empty, or ending with a slash.</summary>
    public static byte[] Write(IReadOnlyList<(string Folder, string Name, ExportedSignature Signature)> signatures)
    {
        var files = new SortedDictionary<string, byte[]>(StringComparer.Ordinal); // designs of one person share their pictures
        foreach (var (folder, name, exported) in signatures)
        {
            files[$"{folder}{name}.html"] = Encoding.UTF8.GetBytes(Page(exported.Signature));
            files[$"{folder}{name}.txt"] = exported.Signature.Text.ToArray();
            files[$"{folder}{name}.rtf"] = exported.Rtf().ToArray();
            foreach (var picture in exported.Pictures) files[folder + exported.Form.PictureAddress(picture.Key)] = picture.Value;
        }

        var manifest = new BundleManifest([.. files.Select(file => new BundleFile(file.Key, RenderedSignature.Sha256(file.Value), file.Value.Length))]);
        using var bundle = new MemoryStream();
        using (var archive = new ZipArchive(bundle, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, bytes) in files.Append(KeyValuePair.Create("manifest.json", JsonSerializer.SerializeToUtf8Bytes(manifest, RelevoJson.Options))))
            {
                using var entry = archive.CreateEntry(path).Open();
                entry.Write(bytes);
            }
        }

        return bundle.ToArray();
    }

    private static string Page(RenderedSignature signature) =>
        $"<!doctype html>\n<html><head><meta charset=\"utf-8\"><title>Signature</title></head><body>{Encoding.UTF8.GetString(signature.Html.Span)}</body></html>\n";
}
