namespace Relevo.Core.People.Formats;

/// <summary>
/// Joins folded lines and drops comments. Source: RFC 2849, notes 2 and 3: a line that begins with one space
/// continues the one before it.
/// </summary>
internal sealed class LogicalLineReader(Stream stream, LdifLimits limits)
{
    private const int BufferBytes = 64 * 1024; // one read; large enough that a 100 MiB file takes 1,600 reads
    private readonly byte[] buffer = new byte[BufferBytes];
    private int start;
    private int length;
    private long fileBytes;
    private long lineNumber;
    private int recordBytes;
    private PhysicalLine? pushedBack;
    private bool ended;

    public async ValueTask<LogicalLine> NextAsync(CancellationToken cancellationToken)
    {
        while (true)
        {
            var head = await TakeAsync(cancellationToken);
            if (head.Problem is not null || head.IsEnd) return new LogicalLine([], head.Number, head.IsEnd, head.Problem);
            if (head.Bytes.Length == 0)
            {
                recordBytes = 0;
                return new LogicalLine([], head.Number, false, null);
            }

            var whole = await UnfoldAsync(head, cancellationToken);
            if (whole.Problem is not null) return whole;
            if (whole.Bytes[0] == '#') continue;
            recordBytes += whole.Bytes.Length;
            if (recordBytes <= limits.MaxRecordBytes) return whole;
            recordBytes = 0;
            return TooLong(whole.Number);
        }
    }

    private async ValueTask<LogicalLine> UnfoldAsync(PhysicalLine head, CancellationToken cancellationToken)
    {
        var next = await TakeAsync(cancellationToken);
        if (!IsContinuation(next))
        {
            pushedBack = next;
            return new LogicalLine(head.Bytes, head.Number, false, null);
        }

        var joined = new MemoryStream();
        joined.Write(head.Bytes);
        for (; IsContinuation(next); next = await TakeAsync(cancellationToken))
        {
            if (joined.Length > limits.MaxRecordBytes) return TooLong(head.Number);
            joined.Write(next.Bytes.AsSpan(1));
        }

        pushedBack = next;
        return new LogicalLine(joined.ToArray(), head.Number, false, null);
    }

    private LogicalLine TooLong(long line) => new([], line, false, new LdifProblem(
        line, $"The record is longer than {limits.MaxRecordBytes / (1 << 20)} MiB here; no directory entry is that large."));

    private static bool IsContinuation(PhysicalLine line) => line is { IsEnd: false, Problem: null, Bytes.Length: > 0 } && line.Bytes[0] == ' ';

    private async ValueTask<PhysicalLine> TakeAsync(CancellationToken cancellationToken)
    {
        if (pushedBack is { } kept)
        {
            pushedBack = null;
            return kept;
        }

        return await ReadPhysicalAsync(cancellationToken);
    }

    private async ValueTask<PhysicalLine> ReadPhysicalAsync(CancellationToken cancellationToken)
    {
        if (ended) return new PhysicalLine([], lineNumber, true, null);
        MemoryStream? longLine = null;
        while (true)
        {
            if (length == 0 && !await FillAsync(cancellationToken))
            {
                ended = true;
                if (fileBytes > limits.MaxFileBytes) return PastLimit();
                return longLine is null ? new PhysicalLine([], lineNumber, true, null) : Line(longLine.ToArray());
            }

            if (fileBytes > limits.MaxFileBytes)
            {
                ended = true;
                return PastLimit();
            }

            var window = buffer.AsSpan(start, length);
            var end = window.IndexOf((byte)'\n');
            var taken = window[..(end < 0 ? length : end)];
            if (end >= 0 && longLine is null)
            {
                var whole = taken.ToArray();
                Drop(end + 1);
                return Line(whole);
            }

            longLine ??= new MemoryStream();
            // A line past the record limit is read to its end but no longer kept.
            if (longLine.Length <= limits.MaxRecordBytes) longLine.Write(taken);
            Drop(end < 0 ? length : end + 1);
            if (end >= 0) return Line(longLine.ToArray());
        }
    }

    private PhysicalLine Line(byte[] bytes)
    {
        lineNumber++;
        if (lineNumber == 1 && bytes.AsSpan().StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF])) bytes = bytes[3..];
        if (bytes.Length > 0 && bytes[^1] == '\r') bytes = bytes[..^1];
        return new PhysicalLine(bytes, lineNumber, false, null);
    }

    private PhysicalLine PastLimit() => new([], lineNumber + 1, true, new LdifProblem(
        lineNumber + 1, $"The file passes {limits.MaxFileBytes / (1 << 20)} MiB here, the most that is read; leave out pictures or split the export."));

    private async ValueTask<bool> FillAsync(CancellationToken cancellationToken)
    {
        start = 0;
        length = await stream.ReadAsync(buffer, cancellationToken);
        fileBytes += length;
        return length > 0;
    }

    private void Drop(int count)
    {
        start += count;
        length -= count;
    }

    private sealed record PhysicalLine(byte[] Bytes, long Number, bool IsEnd, LdifProblem? Problem);
}
