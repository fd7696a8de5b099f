using System.Text.Json;
using Relevo.Core;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Relevo.Data;

namespace Relevo.Server.People;

/// <summary>How the tables of a source are written. Encoding and delimiter are found anew in each file; what the administrator corrected is kept.</summary>
public sealed record TableSettings(string? Delimiter, TextEncoding? Encoding, bool? HasHeader)
{
    /// <summary>Nothing corrected.</summary>
    public static TableSettings Found { get; } = new(null, null, null);

    /// <summary>Reads a source's settings document.</summary>
    public static TableSettings Read(string json) => json == "{}" ? Found : JsonSerializer.Deserialize<TableSettings>(json, RelevoJson.Options)!;

    /// <summary>The form that was found, corrected.</summary>
    public TableForm Correct(TableForm found) => new(Encoding ?? found.Encoding, Delimiter ?? found.Delimiter, HasHeader ?? found.HasHeader);
}

/// <summary>Reads files that administrators drop. A body is read as it arrives and never kept as it is.</summary>
internal static class DirectoryFiles
{
    private static readonly string[] TableEndings = [".csv", ".tsv", ".txt", ".tab"];

    /// <summary>True for files that are tables by their ending.</summary>
    public static bool IsTable(string fileName) => TableEndings.Contains(Path.GetExtension(fileName), StringComparer.OrdinalIgnoreCase);

    /// <summary>The source that files of a kind belong to; made when the first one comes.</summary>
    public static async Task<Guid> EnsureSourceAsync(SourceStore sources, SourceKind kind, Actor actor, CancellationToken cancellationToken)
    {
        if (await sources.FirstAsync(kind, cancellationToken) is { } known) return known.Id;
        var source = new Source(Guid.CreateVersion7(), kind, kind == SourceKind.Csv ? "Table file" : "Directory file", 0, "{}", null, BrakeSettings.Default, [], false, null, 1);
        await sources.AddAsync(source, "", actor, cancellationToken);
        return source.Id;
    }

    /// <summary>Reads a file for a source. A table without a mapping is a problem that says so.</summary>
    public static async Task<DirectoryContent> ReadAsync(Stream body, Source source, FieldCatalogue fields, TakePicture takePicture, CancellationToken cancellationToken)
    {
        if (source.Kind != SourceKind.Csv) return await LdifListing.ReadAsync(body, source.Mapping ?? Mapping.Standard, fields, LdifLimits.Default, takePicture, cancellationToken);
        var table = await ReadWholeAsync(body, LdifLimits.Default.MaxFileBytes, cancellationToken);
        var look = TableDetection.Look(table[..(int)Math.Min(table.Length, 256 * 1024)], isWhole: table.Length <= 256 * 1024);
        var found = look?.Form ?? new TableForm(TextEncoding.Utf8, ",", true);
        var form = TableSettings.Read(source.Settings).Correct(found with { Encoding = TableDetection.DetectEncoding(table.Span, isWhole: true) });
        return TableListing.Read(table, form, source.Mapping ?? new Mapping([], [], [], false), fields, LdifLimits.Default);
    }

    /// <summary>Reads a body, one byte past the limit at most: the reader then says that it is too long.</summary>
    public static async Task<ReadOnlyMemory<byte>> ReadWholeAsync(Stream body, long limit, CancellationToken cancellationToken)
    {
        var bytes = new MemoryStream();
        var buffer = new byte[64 * 1024];
        for (int read; bytes.Length <= limit && (read = await body.ReadAsync(buffer, cancellationToken)) > 0;) bytes.Write(buffer, 0, read);
        return bytes.GetBuffer().AsMemory(0, (int)bytes.Length);
    }

    /// <summary>A browser shows an answer only after it has sent everything, so what is not kept is still taken in.</summary>
    public static async Task DrainAsync(Stream body, CancellationToken cancellationToken)
    {
        var buffer = new byte[64 * 1024];
        while (await body.ReadAsync(buffer, cancellationToken) > 0)
        {
        }
    }
}
