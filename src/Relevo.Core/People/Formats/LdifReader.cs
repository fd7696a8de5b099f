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
    public static IAsyncEnumerable<LdifItem> ReadAsync(Stream stream, LdifLimits limits, CancellationToken cancellationToken) =>
        ReadAsync(stream, limits, lendsValues: false, cancellationToken);

    /// <summary>The same. lendsValues: the values of an entry hold only until the next record is asked for; of a large directory they are a quarter of all the memory a reading goes through.</summary>
    internal static async IAsyncEnumerable<LdifItem> ReadAsync(Stream stream, LdifLimits limits, bool lendsValues, [EnumeratorCancellation] CancellationToken cancellationToken)
    {
        var blocks = new LdifBlockReader(stream, limits);
        var parser = new LdifRecordParser(lendsValues);
        var problems = 0;
        var isFirst = true;
        while (true)
        {
            var block = await blocks.NextAsync(cancellationToken);
            var mayBeVersion = isFirst;
            isFirst &= block.Count == 0;
            if (mayBeVersion && block.Count > 0 && IsVersion(block[0]))
            {
                if (VersionProblem(block) is { } unknown)
                {
                    yield return new LdifItem(null, unknown);
                    yield break;
                }

                block = block.WithoutFirst();
            }

            if (block.Count > 0 || block.Problem is not null)
            {
                var item = block.Problem is { } unread ? new LdifItem(null, unread) : parser.Parse(block);
                yield return item;
                if (item.Problem is not null && ++problems >= limits.MaxProblems && !block.IsEnd)
                {
                    yield return new LdifItem(null, new LdifProblem(block.Number, $"Reading stopped here after {limits.MaxProblems} problems."));
                    yield break;
                }
            }

            if (block.IsEnd) yield break;
        }
    }

    private static bool IsVersion(ReadOnlySpan<byte> line) => line.StartsWith("version:"u8);

    private static LdifProblem? VersionProblem(LdifBlock block)
    {
        var text = Encoding.UTF8.GetString(block[0]["version:".Length..]).Trim();
        return text == "1" ? null : new LdifProblem(block.Lines[0].Number, $"LDIF version \"{Shorten(text)}\" is not known; only version 1 can be read.");
    }

    internal static string Shorten(string text) => text.Length <= 60 ? text : text[..60] + "…";
}
