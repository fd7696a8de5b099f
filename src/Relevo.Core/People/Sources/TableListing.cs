using System.Collections.Immutable;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>Reads people from a table by a mapping of its columns.</summary>
public static class TableListing
{
    /// <summary>Reads a whole table. A row that cannot be read, or with more cells than there are columns, is a problem; missing cells at its end are empty.</summary>
    public static DirectoryContent Read(ReadOnlyMemory<byte> table, TableForm form, Mapping mapping, FieldCatalogue catalogue, LdifLimits limits)
    {
        var listing = new Listing(mapping, catalogue, limits.MaxProblems);
        if (table.Length > limits.MaxFileBytes)
        {
            listing.Fail(1, $"The file has more than {limits.MaxFileBytes / (1 << 20)} MiB, the most that is read; leave out pictures or split it.");
            return listing.Finish("");
        }

        var columns = ImmutableArray<string>.Empty;
        using var reader = new StreamReader(AsStream(table), TableDetection.DotNetEncoding(form.Encoding), detectEncodingFromByteOrderMarks: true);
        foreach (var item in TableDetection.Parse(reader, form.Delimiter))
        {
            if (item.Problem is { } problem) listing.Fail(problem.Line, problem.Message);
            else if (!columns.IsEmpty) Take(item, columns, listing);
            else
            {
                columns = TableDetection.Columns(form, item.Cells);
                if (CheckColumns(mapping, columns) is { } missing)
                {
                    listing.Fail(item.Line, missing);
                    break;
                }

                if (!form.HasHeader) Take(item, columns, listing);
            }

            if (listing.IsFull) break;
        }

        return listing.Finish("The table is empty; it lists nobody.");
    }

    /// <summary>What rows of a sample become, for looking at a mapping before it is kept.</summary>
    public static ImmutableArray<ListedPerson> Preview(TableSample sample, Mapping mapping, FieldCatalogue catalogue)
    {
        var listing = new Listing(mapping, catalogue, maxProblems: 100);
        for (var index = 0; index < sample.Rows.Length; index++) Take(new TableItem(index + 1, sample.Rows[index], null), sample.Columns, listing);
        return listing.Finish("").People;
    }

    private static MemoryStream AsStream(ReadOnlyMemory<byte> bytes) =>
        System.Runtime.InteropServices.MemoryMarshal.TryGetArray(bytes, out var segment) ? new MemoryStream(segment.Array!, segment.Offset, segment.Count, writable: false) : new MemoryStream(bytes.ToArray());

    private static string? CheckColumns(Mapping mapping, ImmutableArray<string> columns)
    {
        var missing = mapping.Columns.Where(name => !columns.Contains(name, StringComparer.OrdinalIgnoreCase)).ToArray();
        return missing.Length == 0 ? null : $"The table no longer has the column{(missing.Length == 1 ? "" : "s")} {string.Join(", ", missing.Select(name => $"\"{name}\""))}; map its columns again.";
    }

    private static void Take(TableItem row, ImmutableArray<string> columns, Listing listing)
    {
        if (row.Cells.Length > columns.Length && row.Cells.Skip(columns.Length).Any(cell => cell.Length > 0))
        {
            listing.Fail(row.Line, $"The row has {row.Cells.Length} cells and the table {columns.Length} columns; perhaps a cell that holds the delimiter is not quoted.");
            return;
        }

        if (row.Cells.All(cell => cell.Trim().Length == 0)) return;
        var values = row.Cells.Take(columns.Length).Select((cell, index) => new RecordValue(columns[index], FieldValue.OneLine(cell), row.Line)).Where(value => !value.IsEmpty);
        listing.Take(new DirectoryRecord("", row.Line, [.. values]));
    }
}
