using System.Net.Http.Headers;
using Relevo.Agent;

// relevo-agent --server URL --folder DIR --token-file FILE [--every SECONDS] [--once] [--stop-with-input]
// The token may come from RELEVO_AGENT_TOKEN instead of a file. Exit codes: 0 stopped or done, 1 refused, 2 wrong usage.
if (AgentOptions.Parse(args, Environment.GetEnvironmentVariable) is not { } options)
{
    await Console.Error.WriteLineAsync("usage: relevo-agent --server URL --folder DIR --token-file FILE [--every SECONDS] [--once] [--stop-with-input]");
    return 2;
}

using var stop = new CancellationTokenSource();
Console.CancelKeyPress += (_, pressed) =>
{
    pressed.Cancel = true;
    stop.Cancel();
};
using var term = System.Runtime.InteropServices.PosixSignalRegistration.Create(System.Runtime.InteropServices.PosixSignal.SIGTERM, signal =>
{
    signal.Cancel = true;
    stop.Cancel();
});
if (options.StopsWithInput) _ = Task.Run(async () => { await Console.In.ReadToEndAsync(); await stop.CancelAsync(); });

using var server = new HttpClient { BaseAddress = options.Server, Timeout = TimeSpan.FromSeconds(30) };
server.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", options.Token);
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
while (!stop.IsCancellationRequested)
{
    var outcome = PollOutcome.NoAnswer;
    try
    {
        outcome = await agent.PollAsync(stop.Token);
    }
    catch (OperationCanceledException) when (stop.IsCancellationRequested)
    {
        break;
    }

    silence = outcome is PollOutcome.NoAnswer or PollOutcome.Refused or PollOutcome.Failed ? silence + 1 : 0;
    if (options.IsOnce) return outcome is PollOutcome.NoAnswer or PollOutcome.Refused or PollOutcome.Failed ? 1 : 0;
    try
    {
        await Task.Delay(options.NextDelay(silence, Random.Shared.NextDouble()), stop.Token);
    }
    catch (OperationCanceledException)
    {
        break;
    }
}

return 0;
