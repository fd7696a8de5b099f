using System.Diagnostics;

namespace Relevo.StandIns;

/// <summary>Runs the real agent program once for each desk app. The agents end with this process, whatever ends it: their input closes.</summary>
internal sealed class AgentProcesses(StandInOptions options) : IDisposable
{
    private const string PollSeconds = "2"; // a demo is watched; real agents ask every five minutes
    private readonly List<Process> processes = [];

    public void Start(IEnumerable<DeskApp> apps)
    {
        foreach (var app in apps)
        {
            var start = new ProcessStartInfo("dotnet") { RedirectStandardInput = true, UseShellExecute = false };
            foreach (var argument in new[] { options.Agent, "--server", options.Server, "--folder", app.Folder, "--every", PollSeconds, "--stop-with-input" }) start.ArgumentList.Add(argument);
            // In the environment and not on the command line, where every user of the machine could read it.
            start.Environment["RELEVO_AGENT_TOKEN"] = app.Token;
            start.Environment["DOTNET_gcServer"] = "0";
            start.Environment["DOTNET_GCHeapHardLimit"] = "0x4000000";
            processes.Add(Process.Start(start)!);
        }
    }

    public void Dispose()
    {
        foreach (var process in processes)
        {
            process.StandardInput.Close();
            if (!process.WaitForExit(2000)) process.Kill();
            process.Dispose();
        }
    }
}
