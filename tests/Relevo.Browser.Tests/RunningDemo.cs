using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using Npgsql;
using Xunit;

namespace Relevo.Browser.Tests;

/// <summary>The demo as its visitors get it: server, stand-ins with their agents, and an empty database seeded by the server itself.</summary>
public class RunningDemo : IAsyncLifetime
{
    private readonly List<Process> processes = [];
    private readonly string place = Directory.CreateTempSubdirectory("relevo-browser-").FullName;
    private readonly string database = $"browser_{Guid.NewGuid():N}";

    private Process? server;

    public Uri Address { get; } = new($"http://127.0.0.1:{FreePort()}");

    public Uri StandIns { get; } = new($"http://127.0.0.1:{FreePort()}");

    public int DirectoryPort { get; } = FreePort();

    private int MailPort { get; } = FreePort();

    public string DeskApps => Path.Combine(place, "desk-apps");

    /// <summary>Whether the demo's twenty desk apps run with their agents, which take longer to start than all the rest.</summary>
    protected virtual bool HasDeskApps => true;

    public static string Root => Setting("RELEVO_ROOT");

    public async ValueTask InitializeAsync()
    {
        await RunSqlAsync($"create database {database}");
        var tokens = Path.Combine(place, "agents.json");
        await StartServerAsync();
        if (!HasDeskApps) await File.WriteAllTextAsync(tokens, "[]");
        Start("Relevo.StandIns", "relevo-standins", ["--server", Address.ToString(), "--urls", StandIns.ToString(), "--tokens", tokens, "--folder", DeskApps, "--agent", Program("Relevo.Agent", "relevo-agent"), "--directory", Path.Combine(Root, "demo/brackenfold.ldif"), "--directory-port", DirectoryPort.ToString(), "--mail-port", MailPort.ToString(), "--mailbox-token", "demo-mailboxes"], []);
        await AnswersAsync(StandIns);
    }

    /// <summary>kill -9 of the server: no warning, no clean-up.</summary>
    public async Task KillServerAsync()
    {
        server!.Kill();
        await server.WaitForExitAsync();
    }

    /// <summary>Starts the server, on what is in the database.</summary>
    public async Task StartServerAsync()
    {
        server = Start("Relevo.Server", "relevo-server", ["serve"], new()
        {
            ["RELEVO_DATABASE"] = new NpgsqlConnectionStringBuilder(Setting("RELEVO_TEST_DATABASE")) { Database = database }.ConnectionString,
            ["RELEVO_URLS"] = Address.ToString(),
            ["RELEVO_WEB"] = Path.Combine(Root, "web/dist"),
            ["RELEVO_DEMO_FOLDER"] = Path.Combine(Root, "demo"),
            ["RELEVO_DEMO_TOKENS"] = Path.Combine(place, "agents.json"),
            ["RELEVO_SMTP"] = $"smtp://127.0.0.1:{MailPort}",
            ["RELEVO_DEMO_MAILBOXES"] = $"{new Uri(StandIns, "/.well-known/jmap")} demo-mailboxes",
            ["RELEVO_MAILBOX_LOOK_SECONDS"] = "2",
        });
        await AnswersAsync(new Uri(Address, "/health/ready"));
    }

    public async ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        foreach (var process in processes.AsEnumerable().Reverse())
        {
            if (!process.HasExited) process.Kill(entireProcessTree: true);
            await process.WaitForExitAsync();
            process.Dispose();
        }

        await RunSqlAsync($"drop database if exists {database} with (force)");
        Directory.Delete(place, recursive: true);
    }

    private static string Setting(string name) => Environment.GetEnvironmentVariable(name) ?? throw new InvalidOperationException($"{name} is not set; run the tests with ./relevo test.");

    private static string Program(string project, string name) => Path.Combine(Root, "src", project, "bin/Release/net10.0", name + ".dll");

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    private static async Task RunSqlAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Setting("RELEVO_TEST_DATABASE"));
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    private static async Task AnswersAsync(Uri address)
    {
        using var http = new HttpClient();
        for (var attempt = 0; attempt < 600; attempt++)
        {
            try
            {
                using var answer = await http.GetAsync(address);
                if (answer.IsSuccessStatusCode) return;
            }
            catch (HttpRequestException)
            {
                // Not up yet.
            }

            await Task.Delay(100);
        }

        throw new TimeoutException($"{address} did not answer within a minute.");
    }

    private Process Start(string project, string name, string[] arguments, Dictionary<string, string> environment)
    {
        var start = new ProcessStartInfo("dotnet") { RedirectStandardOutput = true, RedirectStandardError = true };
        start.ArgumentList.Add(Program(project, name));
        foreach (var argument in arguments) start.ArgumentList.Add(argument);
        foreach (var (key, value) in environment) start.Environment[key] = value;
        var process = Process.Start(start)!;
        process.OutputDataReceived += (_, _) => { };
        process.ErrorDataReceived += (_, line) => Console.Error.WriteLine(line.Data);
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        processes.Add(process);
        return process;
    }
}

/// <summary>The demo for visits that end before Rollout: without desk apps.</summary>
public sealed class DemoWithoutDeskApps : RunningDemo
{
    protected override bool HasDeskApps => false;
}
