using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Options;
using Relevo.Core;
using Relevo.Core.Designs;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Connectors;
using Relevo.Server.Designs;
using Relevo.Server.Hosting;
using Relevo.Server.People;
using Relevo.Server.Proof;
using Relevo.Server.Rollout;
using Relevo.Server.Rules;
using Relevo.Server.SignIn;

namespace Relevo.Server.Tests;

/// <summary>A server on a free port with a database of its own, and an administrator who can sign in.</summary>
public sealed class RunningServer : IAsyncDisposable
{
    public const string AdministratorName = "admin@brackenfold.example";
    public const string AdministratorPassword = "a-password-for-tests";

    private readonly WebApplication application;

    private RunningServer(TestDatabase database, WebApplication application)
    {
        Database = database;
        this.application = application;
        Address = new Uri(application.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()!.Addresses.First() + "/");
    }

    public TestDatabase Database { get; }

    public Uri Address { get; }

    public IServiceProvider Services => application.Services;

    public static ServerSettings Settings(string database) => new(database, "http://127.0.0.1:0", "/nonexistent", AdministratorName, AdministratorPassword, null, null)
    {
        PublicAddress = "https://relevo.brackenfold.example",
        WorkEvery = TimeSpan.FromMilliseconds(100), // every test has a server, and each looks round so often
        MailboxLookEvery = TimeSpan.FromMilliseconds(200),
    };

    public static async Task<RunningServer> StartAsync(Uri? mailServer = null)
    {
        var database = await TestDatabase.CreateAsync();
        var settings = Settings(database.ConnectionString) with { MailServer = mailServer };
        // A start makes the first administrator only where nobody is; a fifth of all tests' time went into hashes as slow as they should be.
        await using (var data = Relevo.Data.Database.Open(database.ConnectionString)) await new UserStore(data).AddAsync(new User(Guid.NewGuid(), AdministratorName, AdministratorName, QuickHash(AdministratorPassword), UserRole.Administrator, null), CancellationToken.None);
        var application = RelevoServer.Build(settings);
        await RelevoServer.PrepareAsync(application, settings, CancellationToken.None);
        await application.StartAsync();
        return new RunningServer(database, application);
    }

    /// <summary>A browser without anybody signed in.</summary>
    public async Task<Browser> VisitAsync()
    {
        var browser = new Browser(Address);
        await browser.LoadSessionAsync();
        return browser;
    }

    /// <summary>A browser with the administrator signed in.</summary>
    public async Task<Browser> SignInAsync()
    {
        var browser = new Browser(Address);
        await browser.SignInAsync();
        return browser;
    }

    public async Task<User> AddUserAsync(string name, string password, UserRole role, Guid? person = null)
    {
        var user = new User(Guid.NewGuid(), name, name, QuickHash(password), role, person);
        Assert.True(await Services.GetRequiredService<UserStore>().AddAsync(user, CancellationToken.None));
        return user;
    }

    /// <summary>A hash that says itself how few rounds it took.</summary>
    private static string QuickHash(string password) => new PasswordHasher<User>(Options.Create(new PasswordHasherOptions { IterationCount = 10 })).HashPassword(null!, password);

    public async ValueTask DisposeAsync()
    {
        await application.DisposeAsync();
        await Database.DisposeAsync();
    }
}

/// <summary>What a page does: keeps cookies, sends the antiforgery token, reads problems.</summary>
public sealed class Browser : IDisposable
{
    private readonly HttpClientHandler handler = new() { CookieContainer = new CookieContainer() };

    public Browser(Uri address) => Http = new HttpClient(handler) { BaseAddress = address, Timeout = TimeSpan.FromSeconds(100) };

    public HttpClient Http { get; }

    /// <summary>Signs the administrator in.</summary>
    public async Task SignInAsync()
    {
        await LoadSessionAsync();
        using var answer = await PostAsync("api/session", new SignInRequest(RunningServer.AdministratorName, RunningServer.AdministratorPassword));
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
        await LoadSessionAsync();
    }

    public IEnumerable<Cookie> Cookies => handler.CookieContainer.GetAllCookies();

    public string Token { get; private set; } = "";

    public async Task LoadSessionAsync() => Token = (await GetAsync<Session>("api/session")).AntiforgeryToken;

    public async Task<T> GetAsync<T>(string path) => (await Http.GetFromJsonAsync<T>(path, RelevoJson.Options))!;

    public Task<HttpResponseMessage> PostAsync<T>(string path, T body) => SendAsync(HttpMethod.Post, path, JsonContent.Create(body, options: RelevoJson.Options));

    public Task<HttpResponseMessage> DeleteAsync(string path, int? seen) => SendAsync(HttpMethod.Delete, path, null, seen);

    public Task<HttpResponseMessage> PutAsync<T>(string path, T body, int? seen) => SendAsync(HttpMethod.Put, path, JsonContent.Create(body, options: RelevoJson.Options), seen);

    public async Task<HttpResponseMessage> SendAsync(HttpMethod method, string path, HttpContent? content, int? seen = null)
    {
        using var request = new HttpRequestMessage(method, path) { Content = content };
        request.Headers.Add("X-Relevo-Antiforgery", Token);
        // A body that is refused for its size is answered before all of it is sent; asking first is how a client hears that for sure (RFC 9110 section 10.1.1).
        request.Headers.ExpectContinue = content?.Headers.ContentLength > 1 << 20;
        if (seen is { } revision) request.Headers.IfMatch.Add(new EntityTagHeaderValue($"\"{revision}\""));
        return await Http.SendAsync(request);
    }

    /// <summary>Drops a directory file and gives what it would do.</summary>
    public async Task<RunAnswer> DropAsync(string ldif) => await DropAsync(new ByteArrayContent(Encoding.UTF8.GetBytes(ldif)));

    public async Task<RunAnswer> DropAsync(HttpContent file, string name = "people.ldif")
    {
        file.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        using var answer = await SendAsync(HttpMethod.Post, $"api/people/imports?fileName={name}", file);
        Assert.Equal(HttpStatusCode.Created, answer.StatusCode);
        return (await answer.Content.ReadFromJsonAsync<RunAnswer>(RelevoJson.Options))!;
    }

    /// <summary>Drops a directory file and applies it.</summary>
    public async Task ApplyAsync(string ldif)
    {
        var plan = await DropAsync(ldif);
        Assert.Empty(plan.Run.Problems);
        using var answer = await ApplyAsync(plan.Run.Id, isAccepted: true);
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
    }

    /// <summary>Has a source read now and waits for what it says.</summary>
    public async Task<RunAnswer> ReadNowAsync(Guid source)
    {
        var begun = await ReadAsync<BegunRun>(await SendAsync(HttpMethod.Post, $"api/sources/{source}/runs", null));
        for (var tries = 0; tries < 600; tries++)
        {
            var run = await GetAsync<RunAnswer>($"api/runs/{begun.Id}");
            if (run.Run.State != RunState.Reading) return run;
            await Task.Delay(50);
        }

        throw new TimeoutException("The reading did not end.");
    }

    /// <summary>Asks for a run to be applied, and gives whatever is answered.</summary>
    public Task<HttpResponseMessage> ApplyAsync(Guid run, bool isAccepted = false) => PostAsync($"api/runs/{run}/apply", new ApplyRequest(isAccepted));

    public async Task<PersonRow> FindAsync(string name) => Assert.Single((await GetAsync<PeopleAnswer>($"api/people?search={Uri.EscapeDataString(name)}")).People);

    /// <summary>Opens a starter and gives the design.</summary>
    public async Task<DesignAnswer> OpenStarterAsync(string starter, string name) => await ReadAsync<DesignAnswer>(await PostAsync("api/designs", new OpenStarterRequest(starter, name)));

    /// <summary>The two designs and rules of the slice: full for new messages, short for answers.</summary>
    public async Task<(DesignAnswer Full, DesignAnswer Short)> PrepareAsync()
    {
        var full = await OpenStarterAsync("beside-the-mark", "Full");
        var brief = await OpenStarterAsync("two-lines", "Short");
        var rules = new Core.Rules.RuleSet([
            new(Guid.NewGuid(), true, [new Core.Rules.OccasionCondition([Core.Rules.Occasion.New])], new Core.Rules.CarryDesigns([full.Id])),
            new(Guid.NewGuid(), true, [new Core.Rules.OccasionCondition([Core.Rules.Occasion.Reply, Core.Rules.Occasion.Forward])], new Core.Rules.CarryDesigns([brief.Id])),
        ]);
        using var saved = await PutAsync("api/rules", rules, (await GetAsync<RulesAnswer>("api/rules")).Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        return (full, brief);
    }

    public async Task SaveDesignAsync(Guid id, DesignDocument document)
    {
        var seen = (await GetAsync<DesignAnswer>($"api/designs/{id}")).Revision;
        using var saved = await PutAsync($"api/designs/{id}", document, seen);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
    }

    /// <summary>Publishes what is drafted and rolls it out. Gives the edition's number.</summary>
    public async Task<int> PublishAndRollOutAsync()
    {
        var latest = (await GetAsync<ProofAnswer>("api/proof")).Latest;
        var edition = (await ReadAsync<PublishAnswer>(await PostAsync("api/editions", new PublishRequest(latest)))).Number;
        await RollOutAsync(edition);
        return edition;
    }

    /// <summary>Rolls an edition out in the place of whatever goes on, and waits until its first wave has begun and is planned.</summary>
    public async Task RollOutAsync(int edition, params WavePlan[] waves)
    {
        var before = (await GetAsync<RolloutAnswer>("api/rollout")).Rollout;
        using var started = await PostAsync("api/rollout", new StartRolloutRequest(edition) { Waves = [.. waves], InPlaceOf = before is { EndedAt: null } ? before.Id : null });
        Assert.Equal(HttpStatusCode.NoContent, started.StatusCode);
        await UntilAsync(rollout => rollout.Rollout!.Id != before?.Id && rollout.Rollout.Waves[0].State != WaveState.Waits);
    }

    /// <summary>Sets how a client kind is treated.</summary>
    public async Task SettingsAsync(string kind, KindSettings settings)
    {
        using var read = await SendAsync(HttpMethod.Get, "api/client-settings", null);
        using var saved = await PutAsync("api/client-settings", ClientSettings.Standard with { Kinds = ClientSettings.Standard.Kinds.Add(kind, settings) }, int.Parse(read.Headers.ETag!.Tag.Trim('"'), System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
    }

    /// <summary>Waits until the rollout stands as it should.</summary>
    public async Task<RolloutAnswer> UntilAsync(Func<RolloutAnswer, bool> holds)
    {
        for (var attempt = 0; ; attempt++)
        {
            var rollout = await GetAsync<RolloutAnswer>("api/rollout");
            if (holds(rollout)) return rollout;
            Assert.True(attempt < 600, $"The rollout stands at {JsonSerializer.Serialize(rollout, RelevoJson.Options)}");
            await Task.Delay(25);
        }
    }

    public Task<AddClientAnswer> AddComputerAsync(Guid person, string name = "Berlin 01") => AddClientAsync("desk-app", person, name);

    public async Task<AddClientAnswer> AddClientAsync(string kind, Guid person, string name, bool isForAll = false) => await ReadAsync<AddClientAnswer>(await PostAsync("api/clients", new AddClientRequest(kind, name, person, isForAll)));

    public static async Task<T> ReadAsync<T>(HttpResponseMessage answer)
    {
        using (answer)
        {
            var text = await answer.Content.ReadAsStringAsync();
            Assert.True(answer.IsSuccessStatusCode, text);
            return JsonSerializer.Deserialize<T>(text, RelevoJson.Options)!;
        }
    }

    public void Dispose()
    {
        Http.Dispose();
        handler.Dispose();
    }
}

/// <summary>A problem as a page reads it.</summary>
public sealed record Problem(int Status, string Code, string Title, string Detail, Http.Fault[] Faults)
{
    public static async Task<Problem> ReadAsync(HttpResponseMessage answer)
    {
        Assert.Equal("application/problem+json", answer.Content.Headers.ContentType?.MediaType);
        using var json = JsonDocument.Parse(await answer.Content.ReadAsStringAsync());
        var root = json.RootElement;
        return new Problem(
            root.GetProperty("status").GetInt32(), root.GetProperty("code").GetString()!, root.GetProperty("title").GetString()!, root.GetProperty("detail").GetString()!,
            root.TryGetProperty("errors", out var errors) ? errors.Deserialize<Http.Fault[]>(JsonSerializerOptions.Web)! : []);
    }
}
