using System.Buffers;
using System.Text;
using System.Text.Json;
using Relevo.Core.People;

namespace Relevo.Data;

/// <summary>Facts as jsonb text. A reader keeps one copy of each name and of values that many people share.</summary>
internal sealed class FactsJson
{
    private const int MaxPooled = 50_000; // distinct texts; past this the values are mostly one person's own
    private const int MaxPooledCharacters = 100; // a longer value is hardly shared
    private readonly HashSet<string> pool = new(StringComparer.Ordinal);
    private readonly HashSet<string>.AlternateLookup<ReadOnlySpan<char>> lookup;

    public FactsJson() => lookup = pool.GetAlternateLookup<ReadOnlySpan<char>>();

    /// <summary>Reads one record's facts.</summary>
    public static Facts ReadOne(string json) => new FactsJson().Read(json);

    /// <summary>Writes facts as a JSON object.</summary>
    public static string Write(Facts facts)
    {
        var buffer = new ArrayBufferWriter<byte>(256);
        using (var writer = new Utf8JsonWriter(buffer, new JsonWriterOptions { SkipValidation = true, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
        {
            writer.WriteStartObject();
            foreach (var pair in facts.Pairs) writer.WriteString(pair.Key, pair.Value);
            writer.WriteEndObject();
        }

        return Encoding.UTF8.GetString(buffer.WrittenSpan);
    }

    /// <summary>Reads facts, keeping shared texts once for as long as this reader lives.</summary>
    public Facts Read(string json)
    {
        if (json == "{}") return Facts.None;
        var bytes = ArrayPool<byte>.Shared.Rent(Encoding.UTF8.GetMaxByteCount(json.Length));
        var characters = ArrayPool<char>.Shared.Rent(json.Length);
        try
        {
            var reader = new Utf8JsonReader(bytes.AsSpan(0, Encoding.UTF8.GetBytes(json, bytes)));
            var pairs = new List<KeyValuePair<string, string>>(20);
            var name = "";
            while (reader.Read())
            {
                if (reader.TokenType is not (JsonTokenType.PropertyName or JsonTokenType.String)) continue;
                var text = Keep(characters.AsSpan(0, reader.CopyString(characters)));
                if (reader.TokenType == JsonTokenType.PropertyName) name = text;
                else pairs.Add(KeyValuePair.Create(name, text));
            }

            return new Facts(pairs);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(bytes);
            ArrayPool<char>.Shared.Return(characters);
        }
    }

    private string Keep(ReadOnlySpan<char> text)
    {
        if (lookup.TryGetValue(text, out var same)) return same;
        var fresh = text.ToString();
        if (text.Length <= MaxPooledCharacters && pool.Count < MaxPooled) pool.Add(fresh);
        return fresh;
    }
}
