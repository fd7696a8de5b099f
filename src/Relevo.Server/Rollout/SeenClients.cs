using System.Collections.Concurrent;
using Relevo.Data;

namespace Relevo.Server.Rollout;

/// <summary>Remembers when clients were heard of, and writes it down every second or two, so that a poll stays one read.</summary>
public sealed partial class SeenClients(ClientStore clients, TimeProvider clock, ILogger<SeenClients> log) : BackgroundService
{
    private static readonly TimeSpan WriteEvery = TimeSpan.FromSeconds(1.5);

    private ConcurrentDictionary<Guid, DateTimeOffset> seen = new();

    /// <summary>A client was heard of.</summary>
    public void Note(Guid client) => seen[client] = clock.GetUtcNow();

    /// <summary>Writes down what is remembered.</summary>
    public async Task WriteAsync(CancellationToken cancellationToken)
    {
        if (seen.IsEmpty) return;
        var now = Interlocked.Exchange(ref seen, new());
        try
        {
            await clients.SeenAsync([.. now.OrderBy(pair => pair.Key)], cancellationToken);
        }
        catch (Exception trouble)
        {
            foreach (var (client, at) in now) seen.TryAdd(client, at);
            if (cancellationToken.IsCancellationRequested) throw;
            LogAway(trouble.Message);
        }
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(WriteEvery, clock);
        try
        {
            while (await timer.WaitForNextTickAsync(stoppingToken)) await WriteAsync(stoppingToken);
        }
        catch (Exception) when (stoppingToken.IsCancellationRequested)
        {
            await WriteAsync(CancellationToken.None);
        }
    }

    [LoggerMessage(LogLevel.Warning, "When clients were heard of could not be written down: {Reason}")]
    private partial void LogAway(string reason);
}
