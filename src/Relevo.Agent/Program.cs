using System.Net;
using System.Net.Http.Headers;
using System.Runtime.InteropServices;
using Relevo.Agent;

// Exit codes: 0 stopped or done, 1 refused or not well, 2 wrong usage.
if (AgentOptions.Parse(args, Environment.GetEnvironmentVariable) is not { } options)
{
    await Console.Error.WriteLineAsync(AgentOptions.Usage);
    return 2;
}

using var stop = new CancellationTokenSource();
Console.CancelKeyPress += (_, pressed) =>
{
    pressed.Cancel = true;
    stop.Cancel();
};
using var term = PosixSignalRegistration.Create(PosixSignal.SIGTERM, signal =>
{
    signal.Cancel = true;
    stop.Cancel();
});
if (options.StopsWithInput) _ = Task.Run(async () => { await Console.In.ReadToEndAsync(); await stop.CancelAsync(); });

// Without --proxy the system's own settings hold (HTTPS_PROXY, NO_PROXY and what the desktop says).
using var handler = new SocketsHttpHandler { Proxy = options.Proxy is null ? null : new WebProxy(options.Proxy), UseProxy = true, PooledConnectionLifetime = TimeSpan.FromMinutes(10) };
using var server = new HttpClient(handler) { BaseAddress = options.Server, Timeout = TimeSpan.FromSeconds(30) };
if (options.Token.Length > 0) server.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", options.Token);
try
{
    if (options.Task == AgentTask.Enrol)
    {
        var trouble = await TokenFile.EnrolAsync(server, options.Code, options.TokenFile, stop.Token);
        if (trouble is not null) await Console.Error.WriteLineAsync(trouble);
        return trouble is null ? 0 : 1;
    }

    if (options.Task == AgentTask.Doctor) return await Doctor.LookAsync(options, server, Console.Out, stop.Token) ? 0 : 1;
}
catch (Exception trouble) when (trouble is HttpRequestException or IOException or UnauthorizedAccessException or OperationCanceledException)
{
    await Console.Error.WriteLineAsync($"{trouble.Message} Look at --server, --proxy and --token-file; nothing was changed.");
    return 1;
}

var folder = new SignatureFolder(options.Folder);
try
{
    folder.Prepare();
}
catch (Exception refused) when (refused is IOException or UnauthorizedAccessException)
{
    await Console.Error.WriteLineAsync($"The signature folder cannot be used: {refused.Message}");
    return 1;
}

var agent = new SignatureAgent(server, folder);
var silence = 0;
var rotated = options.TokenFile.Length > 0 && File.Exists(options.TokenFile) ? File.GetLastWriteTimeUtc(options.TokenFile) : DateTime.UtcNow;
while (!stop.IsCancellationRequested)
{
    var outcome = PollOutcome.NoAnswer;
    try
    {
        outcome = await agent.PollAsync(stop.Token);
        if (options.TokenFile.Length > 0 && options.RotateEvery > TimeSpan.Zero && outcome is PollOutcome.InPlace or PollOutcome.Written && DateTime.UtcNow - rotated > options.RotateEvery)
        {
            rotated = DateTime.UtcNow;
            await TokenFile.RotateAsync(server, options.TokenFile, stop.Token);
        }
    }
    catch (OperationCanceledException) when (stop.IsCancellationRequested)
    {
        break;
    }
    catch (Exception later) when (later is HttpRequestException or IOException or UnauthorizedAccessException)
    {
        // The token in use stays good; it is replaced another day.
    }

    if (outcome == PollOutcome.PutRightNow) continue;
    var isSilent = outcome is PollOutcome.NoAnswer or PollOutcome.Refused or PollOutcome.Failed;
    silence = isSilent ? silence + 1 : 0;
    if (options.IsOnce) return isSilent ? 1 : 0;
    try
    {
        await Task.Delay(options.NextDelay(silence, Random.Shared.NextDouble(), agent.AskedToWait), stop.Token);
    }
    catch (OperationCanceledException)
    {
        break;
    }
}

return 0;
