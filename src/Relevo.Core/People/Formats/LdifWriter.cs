using System.Buffers;
using System.Text;

namespace Relevo.Core.People.Formats;

/// <summary>
/// Writes LDIF version 1 with LF, folded at 76 columns, base64 wherever a value is not a SAFE-STRING or ends in a
/// space. Source: RFC 2849, notes 2, 4, 5 and 8.
/// </summary>
public static class LdifWriter
{
    private const int LineColumns = 76; // RFC 2849's examples and common practice

    /// <summary>Writes the version line and every record.</summary>
    public static void Write(IBufferWriter<byte> output, IEnumerable<LdifRecord> records)
    {
        Line(output, "version: 1");
        foreach (var record in records)
        {
            Line(output, "");
            Value(output, "dn", Encoding.UTF8.GetBytes(record.DistinguishedName), isUrl: false);
            switch (record)
            {
                case LdifEntry entry:
                    Values(output, entry.Values);
                    break;
                case LdifChange change:
                    Change(output, change);
                    break;
            }
        }
    }

    private static void Change(IBufferWriter<byte> output, LdifChange change)
    {
        foreach (var control in change.Controls)
        {
            var criticality = control.Criticality switch { true => " true", false => " false", null => "" };
            var value = control.Value is { } bytes ? ":: " + Convert.ToBase64String(bytes.Span) : "";
            Line(output, "control: " + control.ObjectIdentifier + criticality + value);
        }

        Line(output, "changetype: " + change.ChangeType);
        Values(output, change.Values);
        foreach (var modification in change.Modifications)
        {
            Line(output, modification.Operation + ": " + modification.Attribute);
            Values(output, modification.Values);
            Line(output, "-");
        }
    }

    private static void Values(IBufferWriter<byte> output, IEnumerable<LdifValue> values)
    {
        foreach (var value in values) Value(output, value.Description, value.Bytes.Span, value.Kind == LdifValueKind.Url);
    }

    private static void Value(IBufferWriter<byte> output, string description, ReadOnlySpan<byte> bytes, bool isUrl)
    {
        if (isUrl) Line(output, description + ":< " + Encoding.UTF8.GetString(bytes));
        else if (IsSafe(bytes)) Line(output, description + (bytes.IsEmpty ? ":" : ": ") + Encoding.ASCII.GetString(bytes));
        else Line(output, description + ":: " + Convert.ToBase64String(bytes));
    }

    private static bool IsSafe(ReadOnlySpan<byte> bytes)
    {
        if (bytes.IsEmpty) return true;
        if (bytes[0] is (byte)' ' or (byte)':' or (byte)'<' || bytes[^1] == ' ') return false;
        return bytes.IndexOfAnyExceptInRange((byte)1, (byte)127) < 0 && bytes.IndexOfAny((byte)'\n', (byte)'\r') < 0;
    }

    private static void Line(IBufferWriter<byte> output, string ascii)
    {
        for (var at = 0; ; at += LineColumns - (at == 0 ? 0 : 1))
        {
            var room = at == 0 ? LineColumns : LineColumns - 1;
            var piece = ascii.AsSpan(at, Math.Min(room, ascii.Length - at));
            if (at > 0) output.Write(" "u8);
            output.Write(Encoding.ASCII.GetBytes(piece.ToString()));
            output.Write("\n"u8);
            if (at + piece.Length >= ascii.Length) return;
        }
    }
}
