using System.Diagnostics;
using System.Net;
using Relevo.Server.Connectors;

namespace Relevo.Server.Tests.Ldap;

/// <summary>The stand-in process with a directory, a mailbox for each person in it, and no desk apps.</summary>
internal sealed class StandInDirectory(Process process, HttpClient http, string place, int port) : IAsyncDisposable
{
    public const string Secret = "let-me-look";

    /// <summary>What the mailbox server asks for.</summary>
    public const string MailboxToken = "token-of-the-mailboxes";

    /// <summary>Where the mailbox server's session is.</summary>
    public Uri SessionUrl { get; } = new(http.BaseAddress!, ".well-known/jmap");

    /// <summary>Speaks to the stand-in's pages.</summary>
    public HttpClient Http => http;

    public LdapSettings Settings { get; } = new("127.0.0.1", port, LdapSecurity.None, "", "cn=relevo,dc=brackenfold,dc=example", "dc=brackenfold,dc=example", "(objectClass=inetOrgPerson)");

    /// <summary>Starts it. content: of the directory, the demo's where none is given.</summary>
    public static async Task<StandInDirectory> StartAsync(string? content = null)
    {
        var place = Directory.CreateTempSubdirectory("relevo-test-").FullName;
        await File.WriteAllTextAsync(Path.Combine(place, "agents.json"), "[]");
        var (web, port) = (ServerProcess.FreePort(), ServerProcess.FreePort());
        var ldif = Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "demo", "brackenfold.ldif");
        if (content is not null) await File.WriteAllTextAsync(ldif = Path.Combine(place, "directory.ldif"), content);
        var start = new ProcessStartInfo("dotnet");
        foreach (var argument in new[] { Path.Combine(AppContext.BaseDirectory, "relevo-standins.dll"), "--server", "http://127.0.0.1:1", "--urls", $"http://127.0.0.1:{web}", "--tokens", Path.Combine(place, "agents.json"), "--folder", place, "--agent", "none", "--directory", ldif, "--directory-port", $"{port}", "--mailbox-token", MailboxToken })
            start.ArgumentList.Add(argument);
        var http = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{web}/") };
        var directory = new StandInDirectory(Process.Start(start)!, http, place, port);
        for (var tries = 0; ; tries++)
        {
            try
            {
                Assert.Contains(content is null ? "It holds 238 people" : "It holds", await http.GetStringAsync("directory"), StringComparison.Ordinal);
                return directory;
            }
            catch (HttpRequestException) when (tries < 600)
            {
                await Task.Delay(50);
            }
        }
    }

    public async Task HappenAsync(string day)
    {
        using var answer = await http.PostAsync($"directory/{day}", null);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
    }

    /// <summary>Makes the mailbox server misbehave, or behave again.</summary>
    public async Task MisbehaveAsync(object faults)
    {
        using var answer = await http.PostAsync("mailboxes/faults", System.Net.Http.Json.JsonContent.Create(faults));
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
    }

    public async ValueTask DisposeAsync()
    {
        process.Kill(entireProcessTree: true);
        await process.WaitForExitAsync();
        process.Dispose();
        http.Dispose();
        Directory.Delete(place, recursive: true);
    }
}
