using System.Collections.Immutable;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;

namespace Relevo.Core.People.Formats;

/// <summary>How the characters of a text file are written.</summary>
public enum TextEncoding
{
    /// <summary>UTF-8, with or without a mark.</summary>
    Utf8,

    /// <summary>UTF-16, low byte first.</summary>
    Utf16LittleEndian,

    /// <summary>UTF-16, high byte first.</summary>
    Utf16BigEndian,

    /// <summary>Windows-1252, in which offices of western Europe still save tables.</summary>
    Windows1252,
}

/// <summary>How a table is written. Source: RFC 4180; other delimiters and encodings are common practice.</summary>
public sealed record TableForm(TextEncoding Encoding, string Delimiter, bool HasHeader);

/// <summary>The beginning of a table. Columns are named by the header, or "Column 1" and so on; a name that stands twice gets a number.</summary>
public sealed record TableSample(TableForm Form, ImmutableArray<string> Columns, ImmutableArray<ImmutableArray<string>> Rows);

/// <summary>One row with the line it starts on, or what is wrong there.</summary>
public sealed record TableItem(long Line, ImmutableArray<string> Cells, LdifProblem? Problem);

/// <summary>Finds out how a table is written.</summary>
public static class TableDetection
{
    private const int SampleRows = 20; // enough to tell a delimiter, few enough to show
    private static readonly string[] Delimiters = [",", ";", "\t", "|"];
    private static readonly Encoding Windows1252 = CodePagesEncodingProvider.Instance.GetEncoding(1252)!;

    /// <summary>The encoding of a whole file, or of its beginning. isWhole: false lets the last character be cut off.</summary>
    public static TextEncoding DetectEncoding(ReadOnlySpan<byte> bytes, bool isWhole)
    {
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE])) return TextEncoding.Utf16LittleEndian;
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF])) return TextEncoding.Utf16BigEndian;
        var head = bytes[..Math.Min(bytes.Length, 4096)];
        int evenZeros = 0, oddZeros = 0;
        for (var index = 0; index < head.Length; index++)
        {
            if (head[index] != 0) continue;
            if (index % 2 == 0) evenZeros++;
            else oddZeros++;
        }

        // Text of western languages has a zero in every second byte of UTF-16 and none in UTF-8.
        if (oddZeros > head.Length / 4) return TextEncoding.Utf16LittleEndian;
        if (evenZeros > head.Length / 4) return TextEncoding.Utf16BigEndian;
        return IsUtf8(bytes, isWhole) ? TextEncoding.Utf8 : TextEncoding.Windows1252;
    }

    /// <summary>Reads the beginning of a table: form, columns and first rows. Returns null when there is no row in it. isWhole: false when the file goes on.</summary>
    public static TableSample? Look(ReadOnlyMemory<byte> head, bool isWhole)
    {
        var encoding = DetectEncoding(head.Span, isWhole);
        var text = DotNetEncoding(encoding).GetString(head.Span).TrimStart('\uFEFF');
        if (!isWhole && text.LastIndexOf('\n') is > 0 and var end) text = text[..(end + 1)];
        var form = new TableForm(encoding, DetectDelimiter(text), HasHeader: true);
        var rows = Parse(new StringReader(text), form.Delimiter).Take(SampleRows + 1).Select(item => item.Cells).Where(cells => !cells.IsEmpty).ToList();
        if (rows.Count == 0) return null;
        form = form with { HasHeader = LooksLikeHeader(rows[0]) };
        return new TableSample(form, Columns(form, rows[0]), [.. rows.Skip(form.HasHeader ? 1 : 0).Take(SampleRows)]);
    }

    /// <summary>Names of the columns.</summary>
    public static ImmutableArray<string> Columns(TableForm form, ImmutableArray<string> firstRow)
    {
        var names = new List<string>();
        foreach (var cell in firstRow)
        {
            var name = form.HasHeader && cell.Trim().Length > 0 ? FieldValue.OneLine(cell) : $"Column {names.Count + 1}";
            var unique = name;
            for (var number = 2; names.Contains(unique, StringComparer.OrdinalIgnoreCase); number++) unique = $"{name} {number}";
            names.Add(unique);
        }

        return [.. names];
    }

    internal static Encoding DotNetEncoding(TextEncoding encoding) => encoding switch
    {
        TextEncoding.Utf16LittleEndian => Encoding.Unicode,
        TextEncoding.Utf16BigEndian => Encoding.BigEndianUnicode,
        TextEncoding.Windows1252 => Windows1252,
        _ => Encoding.UTF8,
    };

    /// <summary>Rows of a table, each with the line it starts on. A quote that is never closed is named with the line it opens on.</summary>
    internal static IEnumerable<TableItem> Parse(TextReader reader, string delimiter)
    {
        const int maxCellCharacters = 1 << 20; // an unclosed quote would otherwise take the whole file into one cell
        using var parser = new CsvParser(reader, new CsvConfiguration(System.Globalization.CultureInfo.InvariantCulture)
        {
            Delimiter = delimiter,
            BadDataFound = null,
            MaxFieldSize = maxCellCharacters,
            IgnoreBlankLines = true,
            DetectColumnCountChanges = false,
            CountBytes = false,
        });
        while (true)
        {
            var lineBefore = parser.RawRow;
            string[] cells = [];
            LdifProblem? problem = null;
            long line;
            try
            {
                if (!parser.Read()) yield break;
                cells = parser.Record!;
                var raw = parser.RawRecord.AsSpan();
                var isClosed = raw.Count('"') % 2 == 0;
                // The line break that ends a row is not yet a new line; inside an open cell it is.
                line = parser.RawRow - (isClosed ? raw.TrimEnd('\n') : raw).Count('\n');
                if (!isClosed) problem = Unclosed(line);
            }
            catch (MaxFieldSizeException)
            {
                line = lineBefore + 1;
                problem = Unclosed(line);
                cells = [];
            }

            yield return new TableItem(line, [.. cells], problem);
            if (problem is not null) yield break; // what follows was taken into the open cell, or may have been
        }
    }

    private static LdifProblem Unclosed(long line) => new(line, "A quotation mark opens here and is not closed where the cell ends; reading stopped.");

    private static string DetectDelimiter(string text)
    {
        var lines = text.Split('\n').Where(line => line.Trim().Length > 0).Take(SampleRows).ToArray();
        // The delimiter stands in every line, as often in one as in the next, and more often than the others that do.
        return Delimiters.Select(delimiter => (delimiter, counts: lines.Select(line => CountOutsideQuotes(line, delimiter[0])).ToArray()))
            .Where(candidate => candidate.counts.Length > 0)
            .OrderByDescending(candidate => candidate.counts.Min() > 0)
            .ThenByDescending(candidate => candidate.counts.Count(count => count == candidate.counts[0] && count > 0))
            .ThenByDescending(candidate => candidate.counts.Sum())
            .Select(candidate => candidate.delimiter)
            .FirstOrDefault(",");
    }

    private static int CountOutsideQuotes(string line, char delimiter)
    {
        var (count, inside) = (0, false);
        foreach (var character in line)
        {
            if (character == '"') inside = !inside;
            else if (character == delimiter && !inside) count++;
        }

        return count;
    }

    /// <summary>A header holds names: no address, no number, nothing twice.</summary>
    private static bool LooksLikeHeader(ImmutableArray<string> row) =>
        row.All(cell => !cell.Contains('@', StringComparison.Ordinal) && cell.Count(char.IsAsciiDigit) <= 2)
        && row.Where(cell => cell.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase).Count() == row.Count(cell => cell.Length > 0);

    private static bool IsUtf8(ReadOnlySpan<byte> bytes, bool isWhole)
    {
        while (!bytes.IsEmpty)
        {
            var status = Rune.DecodeFromUtf8(bytes, out _, out var used);
            if (status == System.Buffers.OperationStatus.NeedMoreData) return !isWhole;
            if (status != System.Buffers.OperationStatus.Done) return false;
            bytes = bytes[used..];
            var ascii = bytes.IndexOfAnyExceptInRange((byte)0, (byte)0x7F);
            bytes = ascii < 0 ? default : bytes[ascii..];
        }

        return true;
    }
}
