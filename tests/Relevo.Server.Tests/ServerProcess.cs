using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace Relevo.Server.Tests;

/// <summary>The server as a process of its own, so that it can be killed.</summary>
public sealed class ServerProcess : IDisposable
{
    private static readonly System.Collections.Concurrent.ConcurrentDictionary<int, bool> GivenPorts = new();

    private readonly Process process;

    private ServerProcess(Process process, Uri address)
    {
        this.process = process;
        Address = address;
    }

    public Uri Address { get; }

    public static int FreePort()
    {
        while (true)
        {
            using var listener = new TcpListener(IPAddress.Loopback, 0);
            listener.Start();
            var port = ((IPEndPoint)listener.LocalEndpoint).Port;
            // The system may give a port out again as soon as it is let go, before whoever asked for it has taken it.
            if (GivenPorts.TryAdd(port, true)) return port;
        }
    }

    public static async Task<ServerProcess> StartAsync(string database, int port)
    {
        var address = new Uri($"http://127.0.0.1:{port}/");
        var server = new ServerProcess(Start(["serve"], ("RELEVO_DATABASE", database), ("RELEVO_URLS", address.ToString()), ("RELEVO_FIRST_ADMINISTRATOR_NAME", RunningServer.AdministratorName), ("RELEVO_FIRST_ADMINISTRATOR_PASSWORD", RunningServer.AdministratorPassword)), address);
        using var http = new HttpClient { BaseAddress = address };
        for (var attempt = 0; attempt < 600; attempt++)
        {
            try
            {
                using var answer = await http.GetAsync(new Uri("health/ready", UriKind.Relative));
                if (answer.IsSuccessStatusCode) return server;
            }
            catch (HttpRequestException)
            {
                // Not up yet.
            }

            await Task.Delay(50);
        }

        server.Dispose();
        throw new TimeoutException("The server process did not come up within 30 s.");
    }

    public static async Task<int> RunAsync(string[] arguments)
    {
        using var run = Start(arguments);
        await run.WaitForExitAsync();
        return run.ExitCode;
    }

    /// <summary>kill -9: no warning, no clean-up.</summary>
    public async Task KillAsync()
    {
        process.Kill();
        await process.WaitForExitAsync();
    }

    public void Dispose()
    {
        if (!process.HasExited) process.Kill();
        process.Dispose();
    }

    private static Process Start(string[] arguments, params (string Name, string Value)[] environment)
    {
        var start = new ProcessStartInfo("dotnet") { RedirectStandardOutput = true, RedirectStandardError = true };
        start.ArgumentList.Add(Path.Combine(AppContext.BaseDirectory, "relevo-server.dll"));
        foreach (var argument in arguments) start.ArgumentList.Add(argument);
        foreach (var (name, value) in environment) start.Environment[name] = value;
        var process = Process.Start(start)!;
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        return process;
    }
}
