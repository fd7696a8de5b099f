using System.Globalization;
using System.Runtime.InteropServices;

namespace Relevo.Server.Tests.Ldap;

/// <summary>Signals that interrupt what threads wait for, without any other effect.</summary>
internal static class Signals
{
    private const int ChildEnded = 17; // SIGCHLD

    /// <summary>Tells every thread of this process, now and then until cancelled, that a child has ended.</summary>
    public static async Task InterruptWaitsAsync(CancellationToken cancellationToken)
    {
        while (!cancellationToken.IsCancellationRequested)
        {
            foreach (var thread in Directory.EnumerateDirectories("/proc/self/task"))
                _ = SignalThread(Environment.ProcessId, int.Parse(Path.GetFileName(thread), CultureInfo.InvariantCulture), ChildEnded);
            await Task.Delay(250, CancellationToken.None);
        }
    }

    [DllImport("libc", EntryPoint = "tgkill")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static extern int SignalThread(int process, int thread, int signal);
}
