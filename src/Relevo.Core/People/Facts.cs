using System.Buffers;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;

namespace Relevo.Core.People;

/// <summary>
/// Facts by field name. A field that is not there has no value on its layer; a field that is there with an empty text is an explicit blank,
/// which is a value. Kept as one sorted array: a hundred thousand people have one of these each. Facts of a source that is being read are one piece of
/// UTF-8 until somebody looks at them: most of them go as they are into the database.
/// </summary>
public sealed class Facts : IEquatable<Facts>
{
    private const int MaxPlainName = 64; // a longer name is looked for in the general way

    private readonly ReadOnlyMemory<byte> json; // an object in the order of the names; empty when there are pairs
    private KeyValuePair<string, string>[]? pairs; // taken out of the object when first looked at; two threads take out the same

    /// <summary>Keeps the values in the order of their names; of a name that stands twice the last value stays.</summary>
    public Facts(IEnumerable<KeyValuePair<string, string>> values)
    {
        pairs = [.. values];
        // Sources mostly give their facts in this order already.
        if (!IsSorted(pairs)) Array.Sort(pairs, (left, right) => string.CompareOrdinal(left.Key, right.Key));
        if (HasRepeats(pairs)) pairs = [.. pairs.GroupBy(pair => pair.Key, StringComparer.Ordinal).Select(group => group.Last())];
    }

    private Facts(ReadOnlyMemory<byte> json) => this.json = json;

    /// <summary>No facts at all.</summary>
    public static Facts None { get; } = new(Array.Empty<KeyValuePair<string, string>>());

    /// <summary>Facts that are written down already: an object of texts in UTF-8 as <see cref="WriterOptions"/> have it, in the order of its names, each once.</summary>
    internal static Facts Written(ReadOnlyMemory<byte> json) => new(json);

    /// <summary>How facts are written as JSON.</summary>
    public static JsonWriterOptions WriterOptions { get; } = new() { SkipValidation = true, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>The values in the order of their names.</summary>
    public ReadOnlySpan<KeyValuePair<string, string>> Pairs => Kept;

    /// <summary>How many fields there are.</summary>
    public int Count => Kept.Length;

    /// <summary>The names in order.</summary>
    public IEnumerable<string> Names => Kept.Select(pair => pair.Key);

    private KeyValuePair<string, string>[] Kept => pairs ??= [.. Read(json.Span)];

    /// <summary>The value, or null when the field is not there.</summary>
    public string? this[string field]
    {
        get
        {
            if (pairs is not { } known) return Find(json.Span, field);
            int low = 0, high = known.Length - 1;
            while (low <= high)
            {
                var middle = (low + high) >> 1;
                var order = string.CompareOrdinal(known[middle].Key, field);
                if (order == 0) return known[middle].Value;
                if (order < 0) low = middle + 1;
                else high = middle - 1;
            }

            return null;
        }
    }

    /// <summary>The same facts with one field set (null takes it out).</summary>
    public Facts With(string field, string? value)
    {
        var others = Kept.Where(pair => pair.Key != field);
        return new Facts(value is null ? others : others.Append(KeyValuePair.Create(field, value)));
    }

    /// <summary>What many say for a field: each value once, blanks left out, in order.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public static string[] ValuesOf(IReadOnlyList<Facts> many, string field)
    {
        const int mostOnStack = 256; // bytes; a longer value is made a string before it is looked up
        var met = new HashSet<string>(StringComparer.Ordinal);
        var texts = met.GetAlternateLookup<ReadOnlySpan<char>>();
        Span<char> text = stackalloc char[mostOnStack];
        for (var index = 0; index < many.Count; index++)
        {
            var facts = many[index];
            if (facts.pairs is null && TryFindPlain(facts.json.Span, field, out var quoted) && quoted.Length <= mostOnStack)
            {
                if (quoted.Length > 1) texts.Add(text[..Encoding.UTF8.GetChars(quoted[1..], text)]);
            }
            else if (facts[field] is { Length: > 0 } value) met.Add(value);
        }

        string[] values = [.. met];
        Array.Sort(values, StringComparer.Ordinal);
        return values;
    }

    /// <summary>The facts as a JSON object in UTF-8, names in order. buffer: used over and over.</summary>
    public ReadOnlyMemory<byte> Write(ArrayBufferWriter<byte> buffer, Utf8JsonWriter writer)
    {
        if (!json.IsEmpty) return json;
        buffer.ResetWrittenCount();
        writer.Reset(buffer);
        writer.WriteStartObject();
        foreach (var pair in Pairs) writer.WriteString(pair.Key, pair.Value);
        writer.WriteEndObject();
        writer.Flush();
        return buffer.WrittenMemory;
    }

    /// <summary>Writes the same into a target.</summary>
    internal void Write(IBufferWriter<byte> target)
    {
        if (!json.IsEmpty)
        {
            target.Write(json.Span);
            return;
        }

        var buffer = new ArrayBufferWriter<byte>(512);
        using var writer = new Utf8JsonWriter(buffer, WriterOptions);
        target.Write(Write(buffer, writer).Span);
    }

    /// <inheritdoc />
    public bool Equals(Facts? other) => other is not null && (ReferenceEquals(this, other) || Pairs.SequenceEqual(other.Pairs));

    /// <inheritdoc />
    public override bool Equals(object? obj) => Equals(obj as Facts);

    /// <inheritdoc />
    public override int GetHashCode() => Count == 0 ? 0 : HashCode.Combine(Count, Kept[0].Value, Kept[^1].Value);

    /// <summary>True when nothing is escaped: then each quote begins or ends a text, and texts stand for themselves.</summary>
    private static bool IsPlain(ReadOnlySpan<byte> json) => !json.Contains((byte)'\\');

    private static List<KeyValuePair<string, string>> Read(ReadOnlySpan<byte> json)
    {
        var read = new List<KeyValuePair<string, string>>(20);
        var reader = new Utf8JsonReader(json);
        var name = "";
        while (reader.Read())
        {
            if (reader.TokenType == JsonTokenType.PropertyName) name = reader.GetString()!;
            else if (reader.TokenType == JsonTokenType.String) read.Add(KeyValuePair.Create(name, reader.GetString()!));
        }

        return read;
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static string? Find(ReadOnlySpan<byte> json, string field)
    {
        if (TryFindPlain(json, field, out var value)) return value.IsEmpty ? null : Encoding.UTF8.GetString(value[1..]);
        var reader = new Utf8JsonReader(json);
        while (reader.Read())
        {
            if (reader.TokenType != JsonTokenType.PropertyName) continue;
            var isIt = reader.ValueTextEquals(field);
            reader.Read();
            if (isIt) return reader.GetString();
        }

        return null;
    }

    /// <summary>
    /// Finds a value with the quote before it; nothing when the field is not there. False when it has to be looked for in the general way. Only a name is followed by a
    /// colon and a quote, so the first place that reads like it is it.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static bool TryFindPlain(ReadOnlySpan<byte> json, string field, out ReadOnlySpan<byte> quoted)
    {
        quoted = [];
        if (!IsPlain(json) || field.Length > MaxPlainName || !Ascii.IsValid(field)) return false;
        Span<byte> wanted = stackalloc byte[MaxPlainName + 4];
        wanted[0] = (byte)'"';
        var length = Encoding.UTF8.GetBytes(field, wanted[1..]);
        "\":\""u8.CopyTo(wanted[(length + 1)..]);
        var start = json.IndexOf(wanted[..(length + 4)]);
        if (start < 0) return true;
        json = json[(start + length + 3)..];
        quoted = json[..(1 + json[1..].IndexOf((byte)'"'))];
        return true;
    }

    private static bool IsSorted(KeyValuePair<string, string>[] pairs)
    {
        for (var index = 1; index < pairs.Length; index++)
        {
            if (string.CompareOrdinal(pairs[index - 1].Key, pairs[index].Key) > 0) return false;
        }

        return true;
    }

    private static bool HasRepeats(KeyValuePair<string, string>[] pairs)
    {
        for (var index = 1; index < pairs.Length; index++)
        {
            if (pairs[index].Key == pairs[index - 1].Key) return true;
        }

        return false;
    }
}
