using System.Diagnostics;
using System.Text.Json.Nodes;
using Xunit;

namespace Relevo.Core.Tests;

/// <summary>Asks packages that are not ours: the scripts of tests/outside get cases and give their answers as JSON.</summary>
internal static class Outside
{
    public static async Task<JsonObject> AskAsync(string script, JsonObject cases)
    {
        var root = Environment.GetEnvironmentVariable("RELEVO_ROOT") ?? throw new InvalidOperationException("RELEVO_ROOT is not set; run the tests with ./relevo test.");
        var (input, output) = (Path.GetTempFileName(), Path.GetTempFileName());
        await File.WriteAllTextAsync(input, cases.ToJsonString());
        var (code, _, errors) = await RunAsync("node", Path.Combine(root, "tests/outside", script), input, output);
        Assert.True(code == 0, errors);
        var answers = JsonNode.Parse(await File.ReadAllTextAsync(output))!.AsObject();
        File.Delete(input);
        File.Delete(output);
        return answers;
    }

    public static async Task<(int ExitCode, string Output, string Errors)> RunAsync(string program, params string[] arguments)
    {
        using var process = Process.Start(new ProcessStartInfo(program, arguments) { RedirectStandardError = true, RedirectStandardOutput = true })!;
        var output = process.StandardOutput.ReadToEndAsync();
        var errors = await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        return (process.ExitCode, await output, errors);
    }
}
