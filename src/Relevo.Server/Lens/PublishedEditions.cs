using Microsoft.Extensions.Caching.Memory;
using Relevo.Core.Editions;
using Relevo.Data;

namespace Relevo.Server.Lens;

/// <summary>Keeps the editions that agents ask for in memory. Editions are immutable, so nothing here goes stale.</summary>
public sealed class PublishedEditions(EditionStore editions) : IDisposable
{
    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = 10 }); // editions; one is rolled out, a few are looked back at

    /// <summary>The edition of this number, which exists because a rollout refers to it.</summary>
    public async Task<EditionContent> GetAsync(int number, CancellationToken cancellationToken)
    {
        if (cache.TryGetValue(number, out EditionContent? kept)) return kept!;
        var read = await editions.FindAsync(number, cancellationToken) ?? throw new InvalidOperationException($"Edition {number} is rolled out and not there.");
        return cache.Set(number, read, new MemoryCacheEntryOptions { Size = 1 });
    }

    /// <inheritdoc />
    public void Dispose() => cache.Dispose();
}
