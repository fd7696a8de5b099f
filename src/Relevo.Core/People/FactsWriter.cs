using System.Runtime.CompilerServices;
using System.Text.Json;

namespace Relevo.Core.People;

/// <summary>
/// Writes facts down one value after the other, as <see cref="Facts.WriterOptions"/> would have them written: two million values of a directory, of which hardly any
/// has anything to escape. For one writer at a time.
/// </summary>
internal sealed class FactsWriter(SharedPieces target)
{
    private int length; // of what was written of the object

    /// <summary>Begins an object. What was not taken before is forgotten.</summary>
    public void Begin()
    {
        target.Drop();
        length = 0;
    }

    /// <summary>Writes a value in valid UTF-8. Names come in their order, each once.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Write(JsonEncodedText name, ReadOnlySpan<byte> value)
    {
        const int marks = 6; // a brace or comma, four quotes, a colon
        var encoder = Facts.WriterOptions.Encoder!;
        if (encoder.FindFirstCharacterToEncodeUtf8(value) >= 0) value = JsonEncodedText.Encode(value, encoder).EncodedUtf8Bytes;
        var field = name.EncodedUtf8Bytes;
        var room = target.GetSpan(field.Length + value.Length + marks);
        room[0] = length == 0 ? (byte)'{' : (byte)',';
        room[1] = (byte)'"';
        field.CopyTo(room[2..]);
        room = room[(2 + field.Length)..];
        "\":\""u8.CopyTo(room);
        value.CopyTo(room[3..]);
        room[3 + value.Length] = (byte)'"';
        target.Advance(field.Length + value.Length + marks);
        length += field.Length + value.Length + marks;
    }

    /// <summary>Ends the object, which may be followed by something else in the same piece. Returns its bytes.</summary>
    public int End()
    {
        var rest = length == 0 ? "{}"u8 : "}"u8;
        rest.CopyTo(target.GetSpan(rest.Length));
        target.Advance(rest.Length);
        return length + rest.Length;
    }
}
