using System.Buffers;
using System.Text;
using System.Text.Json;
using Relevo.Core;
using Relevo.Core.People;

namespace Relevo.Data;

/// <summary>Facts as JSON text. A reader keeps one copy of each name and of values that many people share.</summary>
internal sealed class FactsJson
{
    private readonly SharedTexts shared = new();

    /// <summary>Reads one record's facts.</summary>
    public static Facts ReadOne(string json) => new FactsJson().Read(json);

    /// <summary>Writes facts as a JSON object.</summary>
    public static string Write(Facts facts)
    {
        var buffer = new ArrayBufferWriter<byte>(256);
        using var writer = new Utf8JsonWriter(buffer, Facts.WriterOptions);
        return Encoding.UTF8.GetString(facts.Write(buffer, writer).Span);
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
            StringPool? values = null;
            while (reader.Read())
            {
                if (reader.TokenType is not (JsonTokenType.PropertyName or JsonTokenType.String)) continue;
                var text = characters.AsSpan(0, reader.CopyString(characters));
                if (reader.TokenType == JsonTokenType.PropertyName) values = shared.Of(text);
                else pairs.Add(KeyValuePair.Create(values!.Name, values.Keep(text)));
            }

            return new Facts(pairs);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(bytes);
            ArrayPool<char>.Shared.Return(characters);
        }
    }
}
