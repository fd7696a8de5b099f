using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text;

namespace Relevo.Core.People.Formats;

/// <summary>Sizes past which a file is refused, so that a reading never needs more memory than one record.</summary>
/// <param name="MaxFileBytes">Bytes of the whole file.</param>
/// <param name="MaxRecordBytes">Bytes of one record, comments left out.</param>
/// <param name="MaxProblems">Problems reported before the reading stops.</param>
public sealed record LdifLimits(long MaxFileBytes, int MaxRecordBytes, int MaxProblems)
{
    /// <summary>100 MiB holds 100,000 people with room for their other attributes; 4 MiB holds a portrait in
    /// base64; after 100 problems nobody reads on.</summary>
    public static LdifLimits Default { get; } = new(100L << 20, 4 << 20, 100);
}

/// <summary>
/// Reads LDIF content and change records from a stream, one record in memory at a time.
/// Reads version 1 only. Takes LF and CRLF, folded lines, comments, a UTF-8 byte-order mark, and unencoded UTF-8
/// in values (common practice; the RFC wants base64). A record with a problem is left out and reading goes on
/// with the next one; an unknown version or a passed limit ends it. Source: RFC 2849.
/// </summary>
public static class LdifReader
{
    /// <summary>Yields records and problems in file order. The stream is read once and not closed.</summary>
    public static async IAsyncEnumerable<LdifItem> ReadAsync(
        Stream stream,
        LdifLimits limits,
        [EnumeratorCancellation] CancellationToken cancellationToken)
    {
        var lines = new LogicalLineReader(stream, limits);
        var record = new List<LogicalLine>();
        var problems = 0;
        var first = true;
        while (true)
        {
            var line = await lines.NextAsync(cancellationToken);
            if (line is { IsBlank: false, IsEnd: false } && line.Problem is null)
            {
                record.Add(line);
                if (!first || !IsVersion(line)) continue;
                first = false;
                record.Clear();
                if (VersionProblem(line) is { } unknown)
                {
                    yield return new LdifItem(null, unknown);
                    yield break;
                }

                continue;
            }

            if (line.Problem is { } problem)
            {
                problems++;
                yield return new LdifItem(null, problem);
                if (line.IsEnd) yield break;
                await SkipRecordAsync(lines, cancellationToken);
                record.Clear();
            }
            else if (record.Count > 0)
            {
                first = false;
                var item = LdifRecordParser.Parse(record);
                record.Clear();
                if (item.Problem is not null) problems++;
                yield return item;
            }

            if (problems >= limits.MaxProblems)
            {
                yield return new LdifItem(null, new LdifProblem(line.Number, $"Reading stopped here after {limits.MaxProblems} problems."));
                yield break;
            }

            if (line.IsEnd) yield break;
        }
    }

    private static async Task SkipRecordAsync(LogicalLineReader lines, CancellationToken cancellationToken)
    {
        LogicalLine line;
        do line = await lines.NextAsync(cancellationToken);
        while (line is { IsBlank: false, IsEnd: false });
    }

    private static bool IsVersion(LogicalLine line) => line.Bytes.AsSpan().StartsWith("version:"u8);

    private static LdifProblem? VersionProblem(LogicalLine line)
    {
        var text = Encoding.UTF8.GetString(line.Bytes.AsSpan("version:".Length)).Trim();
        return text == "1" ? null : new LdifProblem(line.Number, $"LDIF version \"{Shorten(text)}\" is not known; only version 1 can be read.");
    }

    internal static string Shorten(string text) => text.Length <= 60 ? text : text[..60] + "…";
}

/// <summary>A line after unfolding, or the end of the file. Bytes hold no line break.</summary>
internal sealed record LogicalLine(byte[] Bytes, long Number, bool IsEnd, LdifProblem? Problem)
{
    public bool IsBlank => Bytes.Length == 0 && !IsEnd && Problem is null;
}
