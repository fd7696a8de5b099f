using System.Globalization;

namespace Relevo.Agent;

/// <summary>What an agent was asked to do.</summary>
internal enum AgentTask
{
    /// <summary>Keep the folder, until it is stopped.</summary>
    Run,

    /// <summary>Turn a code into a token.</summary>
    Enrol,

    /// <summary>Look whether everything it needs is there.</summary>
    Doctor,
}

/// <summary>How an agent was started.</summary>
internal sealed record AgentOptions(AgentTask Task, Uri Server, string Folder, string TokenFile, string Token, string Code, TimeSpan Every, TimeSpan RotateEvery, Uri? Proxy, bool IsOnce, bool StopsWithInput)
{
    /// <summary>How it is called.</summary>
    public const string Usage =
        """
        usage: relevo-agent [run] --server URL [--folder DIR] --token-file FILE [--every SECONDS] [--rotate-days DAYS] [--proxy URL] [--once] [--stop-with-input]
               relevo-agent enrol --server URL --code CODE --token-file FILE [--proxy URL]
               relevo-agent doctor --server URL [--folder DIR] --token-file FILE [--proxy URL]
        The token may come from RELEVO_AGENT_TOKEN instead of a file. Without --folder the files lie where this system keeps a user's configuration.
        """;

    private const double LongestSilenceSeconds = 60; // so that a server that comes back is found again within a minute
    private const double Jitter = 0.2; // share of the interval; keeps a fleet from asking all at once

    /// <summary>Where signatures lie when no folder is named: under the configuration folder of the system's user. Sources: XDG Base Directory Specification 0.8; elsewhere common practice.</summary>
    public static string StandardFolder { get; } = Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.ApplicationData, Environment.SpecialFolderOption.DoNotVerify), "relevo", "signatures");

    /// <summary>Reads the command line, or gives null when it cannot be used.</summary>
    public static AgentOptions? Parse(string[] args, Func<string, string?> environment)
    {
        var task = AgentTask.Run;
        var rest = args.AsSpan();
        if (args is [var first, ..] && !first.StartsWith('-'))
        {
            if (!Enum.TryParse(first, ignoreCase: true, out task) || !Enum.IsDefined(task)) return null;
            rest = rest[1..];
        }

        var values = new Dictionary<string, string>(StringComparer.Ordinal);
        for (var index = 0; index < rest.Length; index++)
        {
            if (rest[index] is "--once" or "--stop-with-input") values[rest[index]] = "";
            else if (rest[index].StartsWith("--", StringComparison.Ordinal) && index + 1 < rest.Length) values[rest[index]] = rest[++index];
            else return null;
        }

        var file = values.GetValueOrDefault("--token-file", "");
        var token = task == AgentTask.Enrol ? "" : file.Length > 0 ? ReadToken(file) : environment("RELEVO_AGENT_TOKEN");
        var code = values.GetValueOrDefault("--code", "");
        if (task == AgentTask.Enrol ? code.Length == 0 || file.Length == 0 : string.IsNullOrWhiteSpace(token)) return null;
        if (!values.TryGetValue("--server", out var address) || !Uri.TryCreate(address.TrimEnd('/') + "/", UriKind.Absolute, out var server) || server.Scheme is not ("http" or "https")) return null;
        Uri? proxy = null;
        if (values.TryGetValue("--proxy", out var through) && !Uri.TryCreate(through, UriKind.Absolute, out proxy)) return null;
        if (!TryRead(values, "--every", 300, 0.1, 86_400, out var every) || !TryRead(values, "--rotate-days", 30, 0, 3650, out var rotate)) return null;
        return new AgentOptions(
            task, server, values.GetValueOrDefault("--folder", StandardFolder), file, token?.Trim() ?? "", code, TimeSpan.FromSeconds(every), TimeSpan.FromDays(rotate), proxy,
            values.ContainsKey("--once"), values.ContainsKey("--stop-with-input"));
    }

    /// <summary>The time to the next poll. silence: polls in a row without success; chance: from 0 to 1; asked: how long the server asked to be left alone, or null.</summary>
    public TimeSpan NextDelay(int silence, double chance, TimeSpan? asked = null)
    {
        var seconds = silence == 0 ? Every.TotalSeconds : Math.Min(Math.Max(LongestSilenceSeconds, Every.TotalSeconds), Every.TotalSeconds * Math.Pow(2, Math.Min(silence, 10) - 1));
        var delay = TimeSpan.FromSeconds(seconds * (1 + (Jitter * ((2 * chance) - 1))));
        // Later than asked by up to a fifth, so that a fleet that was sent away together does not come back together.
        return asked is { } least && least > delay ? least * (1 + (Jitter * chance)) : delay;
    }

    private static bool TryRead(Dictionary<string, string> values, string name, double standard, double least, double most, out double number)
    {
        number = standard;
        return !values.TryGetValue(name, out var text) || (double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out number) && number >= least && number <= most);
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
