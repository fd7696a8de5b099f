using System.Runtime.CompilerServices;

namespace Relevo.Core.People.Formats;

/// <summary>One logical line of a block: where its bytes lie, without a line break, and the number of the physical line it starts on.</summary>
internal readonly record struct LdifLine(int Start, int Length, long Number);

/// <summary>The lines of one record, or why they cannot be read. Number: the last physical line that was looked at. The bytes stay; where the lines lie is known until the next block is read.</summary>
internal readonly record struct LdifBlock(byte[] Bytes, ArraySegment<LdifLine> Lines, long Number, bool IsEnd, LdifProblem? Problem)
{
    public int Count => Lines.Count;

    public ReadOnlySpan<byte> this[int line] => Bytes.AsSpan(Lines[line].Start, Lines[line].Length);

    /// <summary>The block without its first line.</summary>
    public LdifBlock WithoutFirst() => this with { Lines = Lines[1..] };
}

/// <summary>
/// Cuts a stream into the lines of its records: joins folded lines and drops comments. Only the filling of the buffer waits for the stream.
/// Source: RFC 2849, notes 2 and 3: a line that begins with one space continues the one before it.
/// </summary>
internal sealed class LdifBlockReader(Stream stream, LdifLimits limits)
{
    private const int BufferBytes = 256 * 1024; // one read; large enough that a 100 MiB file takes 400 reads
    private byte[] buffer = new byte[BufferBytes];
    private int start;
    private int length;
    private long fileBytes;
    private long lineNumber;
    private bool isEnded;
    private bool isPastLimit;
    private bool isInLongLine; // the rest of a line that is too long to keep

    // The record that is being read.
    private byte[] record = new byte[4096];
    private int recordLength;
    private LdifLine[] lines = new LdifLine[64];
    private int count; // of lines
    private bool isInComment;
    private LdifProblem? tooLong;

    public async ValueTask<LdifBlock> NextAsync(CancellationToken cancellationToken)
    {
        LdifBlock? block;
        while ((block = Take()) is null) await FillAsync(cancellationToken);
        return block.Value;
    }

    /// <summary>The next block out of what is in the buffer; null when more is needed.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private LdifBlock? Take()
    {
        while (true)
        {
            if (isPastLimit) return new LdifBlock([], [], lineNumber + 1, true, PastLimit());
            var window = buffer.AsSpan(start, length);
            var end = window.IndexOf((byte)'\n');
            if (end < 0 && !isEnded) return null;
            if (window.IsEmpty && !isInLongLine) return Finish(isEnd: true);
            var line = end < 0 ? window : window[..end];
            start += end < 0 ? length : end + 1;
            length -= end < 0 ? length : end + 1;
            lineNumber++;
            if (lineNumber == 1 && line.StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF])) line = line[3..];
            if (line.Length > 0 && line[^1] == '\r') line = line[..^1];
            if (isInLongLine) EndLongLine();
            else if (line.Length > 0) Add(line);
            else if (count > 0 || tooLong is not null) return Finish(isEnd: false);
            else isInComment = false;
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Add(ReadOnlySpan<byte> line)
    {
        if (line[0] == ' ' && (isInComment || count > 0))
        {
            if (!isInComment) Append(line[1..], lines[count - 1] with { Length = lines[count - 1].Length + line.Length - 1 }, isNew: false);
            return;
        }

        isInComment = line[0] == '#';
        if (!isInComment) Append(line, new LdifLine(recordLength, line.Length, lineNumber), isNew: true);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Append(ReadOnlySpan<byte> bytes, LdifLine line, bool isNew)
    {
        if (recordLength + bytes.Length > limits.MaxRecordBytes) tooLong ??= TooLong(line.Number);
        if (tooLong is not null) return;
        if (record.Length < recordLength + bytes.Length) Array.Resize(ref record, Math.Max(record.Length * 2, recordLength + bytes.Length));
        bytes.CopyTo(record.AsSpan(recordLength));
        recordLength += bytes.Length;
        if (isNew && count++ == lines.Length) Array.Resize(ref lines, lines.Length * 2);
        lines[count - 1] = line;
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private LdifBlock Finish(bool isEnd)
    {
        var block = new LdifBlock(tooLong is null ? record.AsSpan(0, recordLength).ToArray() : [], new ArraySegment<LdifLine>(lines, 0, tooLong is null ? count : 0), lineNumber, isEnd, tooLong);
        recordLength = 0;
        count = 0;
        isInComment = false;
        tooLong = null;
        return block;
    }

    private async ValueTask FillAsync(CancellationToken cancellationToken)
    {
        // A line past the record limit is read to its end but no longer kept.
        isInLongLine |= length > limits.MaxRecordBytes;
        if (isInLongLine) length = 0;
        buffer.AsSpan(start, length).CopyTo(buffer);
        start = 0;

        if (length == buffer.Length) Array.Resize(ref buffer, buffer.Length * 2);
        var read = await stream.ReadAsync(buffer.AsMemory(length), cancellationToken);
        length += read;
        fileBytes += read;
        isEnded = read == 0;
        isPastLimit = fileBytes > limits.MaxFileBytes;
    }

    private void EndLongLine()
    {
        isInLongLine = false;
        tooLong ??= TooLong(lineNumber);
    }

    private LdifProblem TooLong(long line) => new(line, $"The record is longer than {limits.MaxRecordBytes / (1 << 20)} MiB here; no directory entry is that large.");

    private LdifProblem PastLimit() => new(lineNumber + 1, $"The file passes {limits.MaxFileBytes / (1 << 20)} MiB here, the most that is read; leave out pictures or split the export.");
}
