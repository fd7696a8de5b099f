using System.IO.Hashing;
using System.Runtime.InteropServices;

namespace Relevo.Core.Rendering;

/// <summary>
/// Puts facts one after another, each so that it cannot be taken for another, and hashes them with XXH3 in 128 bits (the xxHash specification, version 0.8): enough that two
/// that differ never meet by chance. Whoever made facts that meet on purpose would keep a signature of their own from changing, and gain nothing.
/// </summary>
internal sealed class DigestWriter
{
    private readonly XxHash128 hash = new();

    /// <summary>The digest of what was added.</summary>
    public Guid Digest()
    {
        Span<byte> digest = stackalloc byte[16];
        hash.GetCurrentHash(digest);
        return new Guid(digest);
    }

    /// <summary>Adds a number.</summary>
    public void Add(int number) => hash.Append(MemoryMarshal.AsBytes(new ReadOnlySpan<int>(in number)));

    /// <summary>Adds a digest.</summary>
    public void Add(Guid digest) => hash.Append(MemoryMarshal.AsBytes(new ReadOnlySpan<Guid>(in digest)));

    /// <summary>Adds a text.</summary>
    public void Add(string text)
    {
        Add(text.Length);
        hash.Append(MemoryMarshal.AsBytes(text.AsSpan()));
    }

    /// <summary>Adds bytes.</summary>
    public void Add(ReadOnlySpan<byte> bytes)
    {
        Add(bytes.Length);
        hash.Append(bytes);
    }
}
