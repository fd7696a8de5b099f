using System.Diagnostics;

namespace Relevo.Server.Tests;

/// <summary>Back-up and restore by the launcher, as an administrator would.</summary>
public sealed class BackupTests
{
    [Fact]
    public async Task What_was_backed_up_is_there_again_in_an_empty_database_and_clients_go_on()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        var phone = await browser.AddClientAsync("pocket-app", (await browser.FindAsync("mia")).Id, "Phone");
        await browser.PublishAndRollOutAsync();
        var file = Path.Combine(Directory.CreateTempSubdirectory("relevo-test-").FullName, "relevo.backup");
        Assert.Equal((0, ""), await RunAsync(server.Database.ConnectionString, "backup", file));
        Assert.Contains("never writes over one", (await RunAsync(server.Database.ConnectionString, "backup", file)).Errors, StringComparison.Ordinal);
        Assert.Contains("nothing is lost", (await RunAsync(server.Database.ConnectionString, "restore", file)).Errors, StringComparison.Ordinal);

        await using var empty = await TestDatabase.CreateEmptyAsync();
        Assert.Equal((0, ""), await RunAsync(empty.ConnectionString, "restore", file));
        foreach (var table in new[] { "person", "client", "delivery", "edition", "audit_line", "app_user", "data_protection_key" })
            Assert.Equal(await server.Database.AskAsync<long>($"select count(*) from {table}"), await empty.AskAsync<long>($"select count(*) from {table}"));
        using var restored = await ServerProcess.StartAsync(empty.ConnectionString, ServerProcess.FreePort());
        using var http = new HttpClient { BaseAddress = restored.Address };
        http.DefaultRequestHeaders.Authorization = new("Bearer", phone.Token);
        Assert.Contains("mia", await http.GetStringAsync("pocket/v1/profile"), StringComparison.Ordinal);
        Directory.Delete(Path.GetDirectoryName(file)!, recursive: true);
    }

    private static async Task<(int Code, string Errors)> RunAsync(string database, params string[] arguments)
    {
        var start = new ProcessStartInfo("bash") { RedirectStandardError = true, RedirectStandardOutput = true };
        start.ArgumentList.Add(Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "relevo"));
        foreach (var argument in arguments) start.ArgumentList.Add(argument);
        start.Environment["RELEVO_DATABASE"] = database;
        using var process = Process.Start(start)!;
        var output = process.StandardOutput.ReadToEndAsync();
        var errors = await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        _ = await output;
        return (process.ExitCode, errors.Trim());
    }
}
