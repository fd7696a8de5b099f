using System.Globalization;

namespace Relevo.Agent;

/// <summary>How an agent was started.</summary>
internal sealed record AgentOptions(Uri Server, string Folder, string Token, TimeSpan Every, bool IsOnce, bool StopsWithInput)
{
    private const double LongestSilenceSeconds = 60; // so that a server that comes back is found again within a minute
    private const double Jitter = 0.2; // share of the interval; keeps a fleet from asking all at once

    /// <summary>Reads the command line, or gives null when it cannot be used.</summary>
    public static AgentOptions? Parse(string[] args, Func<string, string?> environment)
    {
        var values = new Dictionary<string, string>(StringComparer.Ordinal);
        for (var index = 0; index < args.Length; index++)
        {
            if (args[index] is "--once" or "--stop-with-input") values[args[index]] = "";
            else if (args[index].StartsWith("--", StringComparison.Ordinal) && index + 1 < args.Length) values[args[index]] = args[++index];
            else return null;
        }

        var token = values.TryGetValue("--token-file", out var file) ? ReadToken(file) : environment("RELEVO_AGENT_TOKEN");
        if (string.IsNullOrWhiteSpace(token) || !values.TryGetValue("--server", out var address) || !Uri.TryCreate(address.TrimEnd('/') + "/", UriKind.Absolute, out var server) || !values.TryGetValue("--folder", out var folder)) return null;
        var every = 300.0;
        if (values.TryGetValue("--every", out var seconds) && (!double.TryParse(seconds, NumberStyles.Float, CultureInfo.InvariantCulture, out every) || every is < 0.1 or > 86_400)) return null;
        return new AgentOptions(server, folder, token.Trim(), TimeSpan.FromSeconds(every), values.ContainsKey("--once"), values.ContainsKey("--stop-with-input"));
    }

    /// <summary>The time to the next poll. silence: polls in a row without success; chance: from 0 to 1.</summary>
    public TimeSpan NextDelay(int silence, double chance)
    {
        var seconds = silence == 0 ? Every.TotalSeconds : Math.Min(Math.Max(LongestSilenceSeconds, Every.TotalSeconds), Every.TotalSeconds * Math.Pow(2, Math.Min(silence, 10) - 1));
        return TimeSpan.FromSeconds(seconds * (1 + (Jitter * ((2 * chance) - 1))));
    }

    private static string? ReadToken(string file)
    {
        try
        {
            return File.ReadAllText(file);
        }
        catch (Exception missing) when (missing is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
