using System.Diagnostics;
using System.Net;
using System.Text.Json;
using Relevo.Core.Clients;

namespace Relevo.Server.Tests;

public sealed class StandInTests
{
    private const string Hostile = "<script>alert(1)</script> & Söhne \"x\"";

    [Fact]
    public async Task A_desk_app_of_a_hostile_name_has_a_folder_and_pages_that_read_as_exactly_that()
    {
        var place = Directory.CreateTempSubdirectory("relevo-test-").FullName;
        var tokens = Path.Combine(place, "agents.json");
        await File.WriteAllTextAsync(tokens, JsonSerializer.Serialize(new[] { new { computer = "Berlin 01", person = Hostile, address = "x@brackenfold.example", token = "t" } }));
        var address = new Uri($"http://127.0.0.1:{ServerProcess.FreePort()}/");
        var folder = Path.Combine(place, "desk-apps", FileName.Encode(Hostile));
        using var standIns = Start("--server", "http://127.0.0.1:1", "--urls", address.ToString(), "--tokens", tokens, "--folder", Path.Combine(place, "desk-apps"), "--agent", Path.Combine(AppContext.BaseDirectory, "relevo-agent.dll"));
        using var http = new HttpClient { BaseAddress = address };
        var list = await AskAsync(http, "");
        Assert.DoesNotContain("<script>", list, StringComparison.Ordinal);
        Assert.Contains(Hostile, WebUtility.HtmlDecode(list), StringComparison.Ordinal);
        var window = await AskAsync(http, $"desk/{Uri.EscapeDataString(FileName.Encode(Hostile))}/new");
        Assert.DoesNotContain("<script>", window, StringComparison.Ordinal);
        Assert.Contains($"<h1>{Hostile}</h1>", WebUtility.HtmlDecode(window), StringComparison.Ordinal);
        for (var attempt = 0; attempt < 200 && !Directory.Exists(folder); attempt++) await Task.Delay(50);
        Assert.Equal(Hostile, FileName.Decode(new DirectoryInfo(Assert.Single(Directory.EnumerateDirectories(Path.Combine(place, "desk-apps")))).Name));
        standIns.Kill(entireProcessTree: true);
        await standIns.WaitForExitAsync();
        Directory.Delete(place, recursive: true);
    }

    private static Process Start(params string[] arguments)
    {
        var start = new ProcessStartInfo("dotnet");
        start.ArgumentList.Add(Path.Combine(AppContext.BaseDirectory, "relevo-standins.dll"));
        foreach (var argument in arguments) start.ArgumentList.Add(argument);
        return Process.Start(start)!;
    }

    private static async Task<string> AskAsync(HttpClient http, string path)
    {
        for (var attempt = 0; ; attempt++)
        {
            try
            {
                return await http.GetStringAsync(new Uri(path, UriKind.Relative));
            }
            catch (HttpRequestException away) when (away.StatusCode is null && attempt < 200)
            {
                await Task.Delay(50);
            }
        }
    }
}
