using System.Globalization;

namespace Relevo.Bench;

/// <summary>What a process uses, as the kernel counts it. Source: proc(5).</summary>
internal static class ServerUse
{
    private const double TicksPerSecond = 100; // USER_HZ of Linux on every common machine

    /// <summary>Seconds of processor time so far; 0 for one that is gone.</summary>
    public static double CpuSeconds(int pid)
    {
        try
        {
            var fields = File.ReadAllText($"/proc/{pid}/stat").Split(") ")[^1].Split(' ');
            return (double.Parse(fields[11], CultureInfo.InvariantCulture) + double.Parse(fields[12], CultureInfo.InvariantCulture)) / TicksPerSecond;
        }
        catch (IOException)
        {
            return 0;
        }
    }

    /// <summary>Megabytes of memory now, and at most since <see cref="ForgetPeak"/>.</summary>
    public static (long Now, long Peak) Megabytes(int pid)
    {
        var lines = File.ReadAllLines($"/proc/{pid}/status");
        long Of(string name) => long.Parse(lines.First(line => line.StartsWith(name, StringComparison.Ordinal)).Split(':', ' ', '\t').First(part => part.Length > 0 && char.IsDigit(part[0])), CultureInfo.InvariantCulture) / 1024;
        return (Of("VmRSS"), Of("VmHWM"));
    }

    /// <summary>The peak of memory begins anew.</summary>
    public static void ForgetPeak(int pid) => File.WriteAllText($"/proc/{pid}/clear_refs", "5");
}
