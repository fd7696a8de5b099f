using System.Buffers;
using System.Buffers.Text;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.RegularExpressions;
using System.Text.Unicode;

namespace Relevo.Core.People.Formats;

/// <summary>Turns the logical lines of one record into a record or the first problem in it. lendsValues: see <see cref="LdifReader"/>. Source: RFC 2849.</summary>
internal sealed partial class LdifRecordParser(bool lendsValues)
{
    private const int MostLent = 64; // values of an entry
    private static readonly ImmutableHashSet<string> ModifyOperations = ["add", "delete", "replace"];
    private static readonly ImmutableHashSet<string> RenameLines = ["newrdn", "deleteoldrdn", "newsuperior"];
    private readonly LdifDescriptions descriptions = new();
    private readonly LdifValue[]?[] lent = new LdifValue[MostLent][]; // by how many they are

    /// <summary>One record after the other.</summary>
    public LdifItem Parse(in LdifBlock block)
    {
        try
        {
            return new LdifItem(ParseRecord(block), null);
        }
        catch (UnreadableLineException unreadable)
        {
            return new LdifItem(null, new LdifProblem(unreadable.Line, unreadable.Message));
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private LdifRecord ParseRecord(in LdifBlock block)
    {
        var head = ParseLine(block, 0);
        if (!Is(head, "dn")) throw new UnreadableLineException(head.Line, $"The record begins with \"{LdifReader.Shorten(head.Description)}\", not with its \"dn\".");
        if (head.Kind == LdifValueKind.Url || !head.TryGetText(out var name)) throw new UnreadableLineException(head.Line, "The \"dn\" is not text in UTF-8.");

        var next = 1;
        ImmutableArray<LdifControl>.Builder? controls = null; // hardly any record has one
        while (next < block.Count && Is(ParseLine(block, next), "control")) (controls ??= ImmutableArray.CreateBuilder<LdifControl>()).Add(ParseControl(ParseLine(block, next++)));
        if (next < block.Count && ParseLine(block, next) is var type && Is(type, "changetype"))
            return ParseChange(name.Trim(), head.Line, Text(type).Trim(), controls?.ToImmutable() ?? [], block, next + 1);
        if (controls is not null) throw new UnreadableLineException(head.Line, "A record with a control needs a changetype.");
        if (next == block.Count) throw new UnreadableLineException(head.Line, "The record has a \"dn\" and nothing else.");
        var values = ParseValues(block, next, lendsValues);
        foreach (ref readonly var value in values.AsSpan())
        {
            if (Is(value, "dn")) throw new UnreadableLineException(value.Line, "A second \"dn\" stands inside the record; the empty line between two records is missing.");
        }

        return new LdifEntry(name.Trim(), head.Line, values);
    }

    private LdifChange ParseChange(string name, long line, string type, ImmutableArray<LdifControl> controls, in LdifBlock block, int next)
    {
        switch (type)
        {
            case "add":
                return new LdifChange(name, line, type, controls, ParseValues(block, next), []);
            case "delete" when next == block.Count:
                return new LdifChange(name, line, type, controls, [], []);
            case "modify":
                return new LdifChange(name, line, type, controls, [], ParseModifications(block, next));
            case "modrdn" or "moddn":
                var values = ParseValues(block, next);
                foreach (var value in values)
                {
                    if (!RenameLines.Contains(value.Attribute)) throw new UnreadableLineException(value.Line, $"\"{value.Attribute}\" has no place in a rename.");
                }

                return new LdifChange(name, line, type, controls, values, []);
            case "delete":
                throw new UnreadableLineException(block.Lines[next].Number, "A delete has no lines after its changetype.");
            default:
                throw new UnreadableLineException(block.Lines[next - 1].Number, $"The changetype \"{LdifReader.Shorten(type)}\" is not known.");
        }
    }

    private ImmutableArray<LdifModification> ParseModifications(in LdifBlock block, int next)
    {
        var modifications = ImmutableArray.CreateBuilder<LdifModification>();
        while (next < block.Count)
        {
            var head = ParseLine(block, next++);
            if (!ModifyOperations.Contains(head.Attribute)) throw new UnreadableLineException(head.Line, $"\"{LdifReader.Shorten(head.Attribute)}\" is not add, delete or replace.");
            var attribute = Text(head).Trim();
            var values = ImmutableArray.CreateBuilder<LdifValue>();
            for (; next < block.Count && !block[next].SequenceEqual("-"u8); next++)
            {
                var value = ParseLine(block, next);
                if (!string.Equals(value.Description, attribute, StringComparison.OrdinalIgnoreCase))
                    throw new UnreadableLineException(value.Line, $"\"{LdifReader.Shorten(value.Description)}\" stands in a change of \"{attribute}\".");
                values.Add(value);
            }

            if (next == block.Count) throw new UnreadableLineException(head.Line, "The change is not closed by a line with a single hyphen.");
            next++;
            modifications.Add(new LdifModification(head.Attribute, attribute, values.ToImmutable()));
        }

        return modifications.ToImmutable();
    }

    private LdifControl ParseControl(LdifValue line)
    {
        var match = ControlPattern().Match(Text(line));
        if (!match.Success) throw new UnreadableLineException(line.Line, "The control is not an object identifier with an optional true or false and a value.");
        bool? criticality = match.Groups["critical"].Success ? match.Groups["critical"].Value == "true" : null;
        if (!match.Groups["value"].Success) return new LdifControl(match.Groups["oid"].Value, criticality, null);
        var value = Encoding.UTF8.GetBytes("value" + match.Groups["value"].Value);
        var spec = ParseLine(new LdifBlock(value, new ArraySegment<LdifLine>([new LdifLine(0, value.Length, line.Line)]), line.Line, false, null), 0);
        return new LdifControl(match.Groups["oid"].Value, criticality, spec.Bytes);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private ImmutableArray<LdifValue> ParseValues(in LdifBlock block, int from, bool mayLend = false)
    {
        var count = block.Count - from;
        var values = mayLend && count < MostLent ? lent[count] ??= new LdifValue[count] : new LdifValue[count];
        for (var index = from; index < block.Count; index++)
        {
            ref var value = ref values[index - from];
            value = ParseLine(block, index);
            if (Is(value, "changetype")) throw new UnreadableLineException(value.Line, "A changetype must come directly after the \"dn\" and its controls.");
        }

        return ImmutableCollectionsMarshal.AsImmutableArray(values);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private LdifValue ParseLine(in LdifBlock block, int index)
    {
        var (start, length, number) = block.Lines[index];
        var bytes = block[index];
        var colon = bytes.IndexOf((byte)':');
        if (colon <= 0) throw new UnreadableLineException(number, NotALine(bytes));
        var (attribute, options) = descriptions.Find(index, bytes[..colon]) ?? throw new UnreadableLineException(number, NotALine(bytes));
        var rest = bytes[(colon + 1)..];
        if (rest.StartsWith(":"u8)) return new LdifValue(attribute, options, Decode(rest[1..].TrimStart((byte)' '), number, attribute), LdifValueKind.Base64, number);
        var isUrl = rest.StartsWith("<"u8);
        var plain = (isUrl ? rest[1..] : rest).TrimStart((byte)' ');
        return Utf8.IsValid(plain)
            ? new LdifValue(attribute, options, block.Bytes.AsMemory(start + length - plain.Length, plain.Length), isUrl ? LdifValueKind.Url : LdifValueKind.Text, number)
            : throw new UnreadableLineException(number, $"The value of \"{attribute}\" is not UTF-8.");
    }

    private static ReadOnlyMemory<byte> Decode(ReadOnlySpan<byte> base64, long line, string attribute)
    {
        base64 = base64.TrimEnd((byte)' ');
        var decoded = new byte[Base64.GetMaxDecodedFromUtf8Length(base64.Length)];
        return Base64.DecodeFromUtf8(base64, decoded, out _, out var written) == OperationStatus.Done
            ? decoded.AsMemory(0, written)
            : throw new UnreadableLineException(line, $"The value of \"{attribute}\" is not valid base64.");
    }

    private static string NotALine(ReadOnlySpan<byte> bytes)
    {
        var shown = new string(Encoding.UTF8.GetString(bytes[..Math.Min(bytes.Length, 200)]).Select(c => char.IsControl(c) || c == '\uFFFD' ? '·' : c).ToArray());
        return $"\"{LdifReader.Shorten(shown)}\" is not a line of LDIF (an attribute, a colon and a value).";
    }

    private static string Text(LdifValue value) => value.TryGetText(out var text) ? text : throw new UnreadableLineException(value.Line, "The value is not UTF-8.");

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static bool Is(in LdifValue value, string attribute) => value.Attribute.Length == attribute.Length && string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase);

    [GeneratedRegex(@"^(?<oid>[0-9]+(?:\.[0-9]+)*)(?: +(?<critical>true|false))?(?<value>:.*)?$", RegexOptions.CultureInvariant | RegexOptions.Singleline)]
    private static partial Regex ControlPattern();

    /// <summary>Leaves a record at its first unreadable line; never crosses this file.</summary>
    private sealed class UnreadableLineException(long line, string message) : Exception(message)
    {
        public long Line { get; } = line;
    }
}
