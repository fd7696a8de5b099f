using System.Net;
using Relevo.Core.Rollouts;

namespace Relevo.Agent;

/// <summary>Looks whether everything an agent needs is there, and says what to do where it is not.</summary>
internal static class Doctor
{
    /// <summary>Writes one line for each thing looked at. True when all is well.</summary>
    public static async Task<bool> LookAsync(AgentOptions options, HttpClient server, TextWriter output, CancellationToken cancellationToken)
    {
        var isWell = true;
        await SayAsync("folder", LookAtFolder(options.Folder));
        await SayAsync("what it holds", LookAtFiles(options.Folder));
        await SayAsync("server", await LookAtServerAsync(server, cancellationToken));
        await SayAsync("token", await LookAtTokenAsync(server, cancellationToken));
        return isWell;

        async Task SayAsync(string what, (bool IsWell, string Said) found)
        {
            isWell &= found.IsWell;
            await output.WriteLineAsync($"{(found.IsWell ? "well" : "not "),-5} {what,-14} {found.Said}");
        }
    }

    private static (bool IsWell, string Said) LookAtFolder(string path)
    {
        try
        {
            var folder = new SignatureFolder(path);
            folder.Prepare();
            var probe = Path.Combine(folder.Location, SignatureFolder.UnfinishedPrefix + "probe");
            File.WriteAllText(probe, "probe");
            File.Delete(probe);
            return (true, $"{folder.Location} can be written");
        }
        catch (Exception refused) when (refused is IOException or UnauthorizedAccessException)
        {
            return (false, $"{refused.Message} Give this user the right to write there, or name another folder with --folder.");
        }
    }

    private static (bool IsWell, string Said) LookAtFiles(string path)
    {
        var folder = new SignatureFolder(path);
        if (folder.ReadManifest() is not { } manifest) return (true, "nothing yet");
        var differing = folder.Look(manifest).Zip(manifest.Files).Count(pair => pair.First.Sha256 != pair.Second.Sha256);
        return differing == 0 ? (true, $"edition {manifest.Edition}, {manifest.Files.Length} files, all as they should be") : (false, $"{differing} of {manifest.Files.Length} files were changed or are gone; the next poll tells the server");
    }

    private static async Task<(bool IsWell, string Said)> LookAtServerAsync(HttpClient server, CancellationToken cancellationToken)
    {
        try
        {
            using var answer = await server.GetAsync(new Uri("health/ready", UriKind.Relative), cancellationToken);
            if (answer.StatusCode != HttpStatusCode.OK) return (false, $"{server.BaseAddress} answers {(int)answer.StatusCode}; ask an administrator whether it is being worked on.");
            // Nothing here depends on this clock; it is told because certificates do.
            var off = answer.Headers.Date is { } date ? (DateTimeOffset.UtcNow - date).Duration() : TimeSpan.Zero;
            return (true, $"{server.BaseAddress} is ready{(off > TimeSpan.FromMinutes(5) ? $"; this computer's clock is off by {off.TotalHours:0.0} hours, which secure connections may not bear" : "")}");
        }
        catch (Exception away) when (away is HttpRequestException or TaskCanceledException)
        {
            return (false, $"{server.BaseAddress} does not answer: {away.Message} Look at --server, --proxy and the network.");
        }
    }

    private static async Task<(bool IsWell, string Said)> LookAtTokenAsync(HttpClient server, CancellationToken cancellationToken)
    {
        try
        {
            using var answer = await server.GetAsync(new Uri(AgentProtocol.SignaturesPath, UriKind.Relative), HttpCompletionOption.ResponseHeadersRead, cancellationToken);
            return answer.StatusCode == HttpStatusCode.Unauthorized
                ? (false, "the server does not know it: ask for a new code and run relevo-agent enrol")
                : (answer.StatusCode is HttpStatusCode.OK or HttpStatusCode.NoContent or HttpStatusCode.NotModified, $"the server answers {(int)answer.StatusCode}");
        }
        catch (Exception away) when (away is HttpRequestException or TaskCanceledException)
        {
            return (false, "could not be tried");
        }
    }
}
