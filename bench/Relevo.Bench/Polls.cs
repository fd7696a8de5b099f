using System.Diagnostics;
using System.Net.Sockets;
using System.Text;
using Relevo.StandIns.Fleet;

namespace Relevo.Bench;

/// <summary>Polls as fast as a server answers, over connections that are kept. Requests are written once and answers only counted, because whoever asks has to share the cores with the server measured.</summary>
internal static class Polls
{
    private const int Connections = 32;

    /// <summary>Answers of 304 and others within the time, after a while of warming.</summary>
    public static async Task<(long NotModified, long Other, TimeSpan Time)> MeasureAsync(Uri server, IReadOnlyList<SimulatedClient> clients, TimeSpan warming, TimeSpan time, Func<Task> begun)
    {
        var requests = clients.Select(client => Encoding.ASCII.GetBytes(
            $"GET /{(client.Member.Kind == "pocket-app" ? "pocket/v1/profile" : "agent/v1/signatures")} HTTP/1.1\r\nHost: {server.Authority}\r\nAuthorization: Bearer {client.Member.Token}\r\nIf-None-Match: \"{client.HeldTag}\"\r\n\r\n")).ToArray();
        var (notModified, other, counts) = (0L, 0L, false);
        using var stop = new CancellationTokenSource();
        var polling = Enumerable.Range(0, Connections).Select(connection => Task.Run(async () =>
        {
            using var line = new TcpClient { NoDelay = true };
            await line.ConnectAsync(server.Host, server.Port);
            var stream = line.GetStream();
            var buffer = new byte[64 * 1024];
            for (var number = connection; !stop.IsCancellationRequested; number += Connections)
            {
                await stream.WriteAsync(requests[number % requests.Length]);
                var isNothingNew = await ReadAsync(stream, buffer);
                if (!Volatile.Read(ref counts)) continue;
                if (isNothingNew) Interlocked.Increment(ref notModified);
                else Interlocked.Increment(ref other);
                if (!isNothingNew) return; // it has a body, which nobody reads here
            }
        })).ToArray();
        await Task.Delay(warming);
        await begun();
        Volatile.Write(ref counts, true);
        var clock = Stopwatch.StartNew();
        await Task.Delay(time);
        var answer = (Interlocked.Read(ref notModified), Interlocked.Read(ref other), clock.Elapsed);
        await stop.CancelAsync();
        await Task.WhenAll(polling);
        return answer;
    }

    /// <summary>Reads one answer's header section. True for 304, which has no body (RFC 9110 section 15.4.5).</summary>
    private static async Task<bool> ReadAsync(NetworkStream stream, byte[] buffer)
    {
        var length = 0;
        while (true)
        {
            var read = await stream.ReadAsync(buffer.AsMemory(length));
            if (read == 0) throw new IOException("The server closed the connection.");
            length += read;
            if (buffer.AsSpan(0, length).IndexOf("\r\n\r\n"u8) >= 0) return buffer.AsSpan(0, length).StartsWith("HTTP/1.1 304"u8);
        }
    }
}
