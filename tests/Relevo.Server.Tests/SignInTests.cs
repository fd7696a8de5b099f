using System.Net;
using Npgsql;
using Relevo.Data;
using Relevo.Server.Hosting;
using Relevo.Server.SignIn;

namespace Relevo.Server.Tests;

public sealed class SignInTests
{
    [Fact]
    public async Task The_cookie_of_a_sign_in_is_closed_to_scripts_and_other_sites()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.VisitAsync();
        using var answer = await browser.PostAsync("api/session", new SignInRequest("ADMIN@brackenfold.example ", RunningServer.AdministratorPassword));
        var cookie = answer.Headers.GetValues("Set-Cookie").Single(value => value.StartsWith("relevo=", StringComparison.Ordinal));
        Assert.Contains("httponly", cookie, StringComparison.OrdinalIgnoreCase);
        Assert.Contains("samesite=strict", cookie, StringComparison.OrdinalIgnoreCase);
        await browser.LoadSessionAsync();
        Assert.Equal(UserRole.Administrator, (await browser.GetAsync<Session>("api/session")).User!.Role);
    }

    [Fact]
    public async Task Failures_make_a_name_wait_longer_and_longer()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.VisitAsync();
        for (var attempt = 0; attempt < 3; attempt++)
        {
            using var refused = await browser.PostAsync("api/session", new SignInRequest(RunningServer.AdministratorName, "wrong"));
            Assert.Equal(HttpStatusCode.Unauthorized, refused.StatusCode);
        }

        using var waits = await browser.PostAsync("api/session", new SignInRequest(RunningServer.AdministratorName, RunningServer.AdministratorPassword));
        Assert.Equal(HttpStatusCode.TooManyRequests, waits.StatusCode);
        Assert.Equal("1", waits.Headers.GetValues("Retry-After").Single());
        var now = DateTimeOffset.UnixEpoch;
        Assert.Equal([0, 0, 0, 1, 2, 4, 8, 900], new[] { 0, 1, 2, 3, 4, 5, 6, 40 }.Select(failures => (int)SignInDelay.Remaining(failures == 0 ? null : new SignInFailures(failures, now), now).TotalSeconds));
    }

    [Fact]
    public async Task A_change_without_the_antiforgery_token_is_refused()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var answer = await browser.Http.PostAsync(new Uri("api/rollout", UriKind.Relative), null);
        Assert.Equal("antiforgery", (await Problem.ReadAsync(answer)).Code);
    }

    [Fact]
    public async Task Nobody_reads_a_leg_without_signing_in_and_an_employee_not_at_all()
    {
        await using var server = await RunningServer.StartAsync();
        await server.AddUserAsync("mia@brackenfold.example", "a-password-of-mia", UserRole.Employee);
        using var browser = await server.VisitAsync();
        foreach (var path in new[] { "api/line", "api/lens", "api/people", "api/designs", "api/rules", "api/proof", "api/rollout" })
        {
            using var answer = await browser.Http.GetAsync(new Uri(path, UriKind.Relative));
            Assert.Equal((HttpStatusCode.Unauthorized, "sign-in-needed"), (answer.StatusCode, (await Problem.ReadAsync(answer)).Code));
        }

        using var signIn = await browser.PostAsync("api/session", new SignInRequest("mia@brackenfold.example", "a-password-of-mia"));
        using var refused = await browser.Http.GetAsync(new Uri("api/people", UriKind.Relative));
        Assert.Equal((HttpStatusCode.Forbidden, "not-allowed"), (refused.StatusCode, (await Problem.ReadAsync(refused)).Code));
    }

    [Fact]
    public async Task A_retired_user_is_out_at_once()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await server.Database.DoAsync("update app_user set retired_at = now()");
        using var answer = await browser.Http.GetAsync(new Uri("api/people", UriKind.Relative));
        Assert.Equal(HttpStatusCode.Unauthorized, answer.StatusCode);
    }

    [Fact]
    public async Task Production_does_not_start_with_a_password_of_the_demo()
    {
        await using var database = await TestDatabase.CreateAsync();
        var demo = RunningServer.Settings(database.ConnectionString) with { FirstAdministratorPassword = "paper-ink-and-baton" };
        await AssertRefusedAsync(demo, "demo");
        var user = new User(Guid.NewGuid(), "boss@brackenfold.example", "Boss", SessionEndpoints.Hash("paper-ink-and-baton"), UserRole.Administrator, null);
        await using var source = Database.Open(database.ConnectionString);
        await new UserStore(source).AddAsync(user, CancellationToken.None);
        await AssertRefusedAsync(RunningServer.Settings(database.ConnectionString), "boss@brackenfold.example");
    }

    [Fact]
    public async Task The_first_start_asks_for_an_administrator_with_a_long_password()
    {
        await using var database = await TestDatabase.CreateEmptyAsync();
        var settings = RunningServer.Settings(database.ConnectionString);
        await AssertRefusedAsync(settings with { FirstAdministratorPassword = null }, "RELEVO_FIRST_ADMINISTRATOR_PASSWORD");
        await AssertRefusedAsync(settings with { FirstAdministratorPassword = "short" }, "12");
    }

    [Theory]
    [InlineData("mail.brackenfold.example")]
    [InlineData("http://brackenfold.example")]
    [InlineData("smtp:")]
    public void A_mail_server_that_is_no_address_is_one_clear_sentence(string mailServer)
    {
        var refused = Assert.Throws<StartRefusedException>(() => ServerSettings.Read(name => name switch { "RELEVO_DATABASE" => "Host=127.0.0.1", "RELEVO_SMTP" => mailServer, _ => null }));
        Assert.StartsWith("RELEVO_SMTP is not the address of a mail server", refused.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_database_that_is_not_there_is_one_clear_sentence()
    {
        var nowhere = new NpgsqlConnectionStringBuilder { Host = "127.0.0.1", Port = 1, Database = "x", Username = "x", Password = "x" }.ConnectionString;
        await AssertRefusedAsync(RunningServer.Settings(nowhere), "The database cannot be used");
        Assert.Contains("RELEVO_DATABASE", Assert.Throws<StartRefusedException>(() => ServerSettings.Read(_ => null)).Message, StringComparison.Ordinal);
        Assert.Contains("connection string", Assert.Throws<StartRefusedException>(() => ServerSettings.Read(name => name == "RELEVO_DATABASE" ? "nonsense=x" : null)).Message, StringComparison.Ordinal);
    }

    private static async Task AssertRefusedAsync(ServerSettings settings, string words)
    {
        await using var application = RelevoServer.Build(settings);
        var refused = await Assert.ThrowsAsync<StartRefusedException>(() => RelevoServer.PrepareAsync(application, settings, CancellationToken.None));
        Assert.Contains(words, refused.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', refused.Message);
    }
}
