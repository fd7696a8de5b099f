using System.Buffers;
using System.IO.Hashing;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;

namespace Relevo.Core;

/// <summary>
/// Where texts were met first, without keeping them: a hundred thousand strings fewer that a collection of garbage carries along. They are told apart by XXH3 in 128 bits
/// (the xxHash specification, version 0.8), so that two that differ never meet by chance.
/// </summary>
/// <param name="ignoresCase">Whether texts are the same that differ in case, as <see cref="StringComparison.OrdinalIgnoreCase"/> has it.</param>
internal sealed class TextPlaces(bool ignoresCase)
{
    private const int MostOnStack = 256; // characters
    private readonly Dictionary<UInt128, long> places = [];

    /// <summary>Notes the place of a text that was not met before. False when it was; first is then where.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public bool TryAdd(ReadOnlySpan<char> text, long place, out long first)
    {
        ref var kept = ref CollectionsMarshal.GetValueRefOrAddDefault(places, Hash(text), out var isThere);
        if (!isThere) kept = place;
        first = kept;
        return !isThere;
    }

    /// <summary>Finds where a text was met first.</summary>
    public bool TryFind(ReadOnlySpan<char> text, out long place) => places.TryGetValue(Hash(text), out place);

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private UInt128 Hash(ReadOnlySpan<char> text)
    {
        if (!ignoresCase) return XxHash128.HashToUInt128(MemoryMarshal.AsBytes(text));
        var rented = text.Length > MostOnStack ? ArrayPool<char>.Shared.Rent(text.Length) : null;
        var large = rented ?? stackalloc char[MostOnStack];
        // The same for nearly all, and many characters at once.
        if (Ascii.ToUpper(text, large, out var length) != OperationStatus.Done) length = text.ToUpperInvariant(large);
        var hash = XxHash128.HashToUInt128(MemoryMarshal.AsBytes(large[..length]));
        if (rented is not null) ArrayPool<char>.Shared.Return(rented);
        return hash;
    }
}
