using System.Net;
using Relevo.Server.SignIn;

namespace Relevo.Server.Tests;

public sealed class HttpTests
{
    [Fact]
    public async Task Every_answer_forbids_foreign_and_inline_scripts()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.VisitAsync();
        foreach (var path in new[] { "api/session", "health/live", "api/nothing-here" })
        {
            using var answer = await browser.Http.GetAsync(new Uri(path, UriKind.Relative));
            var policy = Assert.Single(answer.Headers.GetValues("Content-Security-Policy"));
            Assert.Contains("script-src 'self';", policy, StringComparison.Ordinal);
            Assert.DoesNotContain("unsafe-inline", policy.Replace("style-src-attr 'unsafe-inline'", "", StringComparison.Ordinal), StringComparison.Ordinal);
            Assert.Equal("nosniff", Assert.Single(answer.Headers.GetValues("X-Content-Type-Options")));
        }
    }

    [Fact]
    public async Task Health_readiness_and_metrics_answer_and_metrics_only_nearby()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.VisitAsync();
        Assert.Equal("alive", await browser.Http.GetStringAsync(new Uri("health/live", UriKind.Relative)));
        Assert.Equal("ready", await browser.Http.GetStringAsync(new Uri("health/ready", UriKind.Relative)));
        Assert.Contains("http_request_duration_seconds", await browser.Http.GetStringAsync(new Uri("metrics", UriKind.Relative)), StringComparison.Ordinal);
        using var proxied = new HttpRequestMessage(HttpMethod.Get, "metrics");
        proxied.Headers.Add("X-Forwarded-For", "192.0.2.1");
        using var refused = await browser.Http.SendAsync(proxied);
        Assert.Equal(HttpStatusCode.NotFound, refused.StatusCode);
    }

    [Fact]
    public async Task What_is_unknown_or_unreadable_is_a_problem_that_says_so()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var unknown = await browser.Http.GetAsync(new Uri("api/nothing-here", UriKind.Relative));
        Assert.Equal("not-found", (await Problem.ReadAsync(unknown)).Code);
        using var occasion = await browser.Http.GetAsync(new Uri("api/lens?occasion=7", UriKind.Relative));
        Assert.Equal("occasion-unknown", (await Problem.ReadAsync(occasion)).Code);
        using var body = await browser.SendAsync(HttpMethod.Post, "api/session", new StringContent("{\"name\":5}", System.Text.Encoding.UTF8, "application/json"));
        Assert.Equal((HttpStatusCode.BadRequest, "unreadable"), (body.StatusCode, (await Problem.ReadAsync(body)).Code));
        using var empty = await browser.PostAsync("api/session", new SignInRequest("", ""));
        Assert.Equal("sign-in-incomplete", (await Problem.ReadAsync(empty)).Code);
    }

    [Theory]
    [InlineData("api/people?offset=99999999999")]
    [InlineData("api/people?state=asleep")]
    [InlineData("api/people?columns=nonsense")]
    [InlineData("api/people?office=berlin")]
    [InlineData("api/people/not-an-id")]
    [InlineData("api/lens?person=00000000-0000-0000-0000-000000000000")]
    [InlineData("api/lens?design=x")]
    [InlineData("api/designs/00000000-0000-0000-0000-000000000000")]
    [InlineData("api/runs/00000000-0000-0000-0000-000000000000")]
    [InlineData("pictures/..%2F..%2Fetc%2Fpasswd.png")]
    public async Task Odd_addresses_are_the_senders_fault_and_said_so(string path)
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        using var answer = await browser.Http.GetAsync(new Uri(path, UriKind.Relative));
        Assert.InRange((int)answer.StatusCode, 400, 499);
        Assert.NotEmpty((await Problem.ReadAsync(answer)).Code);
    }

    [Fact]
    public async Task Odd_bodies_are_the_senders_fault_and_said_so()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        (string Path, string Body, int Status)[] bodies =
        [
            ("api/session", new string('x', 2_000_000), 413),
            ("api/session", "{\"name\":\"a\\u0000b\",\"password\":\"x\"}", 400),
            ("api/clients", "{\"kind\":\"desk-app\",\"name\":\"\",\"personId\":\"00000000-0000-0000-0000-000000000000\"}", 422),
            ("api/clients", "{\"kind\":\"desk-app\",\"name\":\"x\",\"personId\":\"00000000-0000-0000-0000-000000000000\"}", 404),
            ("api/rollout", "{\"edition\":99}", 404),
            ("api/rollout", "{\"edition\":\"one\"}", 400),
            ("api/editions", "{\"latest\":-1}", 409),
            ("api/designs", "{\"starter\":\"nothing-like-it\",\"name\":\"x\"}", 404),
            ("api/designs", "{\"starter\":\"two-lines\",\"name\":\"\\u0000\"}", 422),
            ("api/designs", "{\"unheardOf\":1}", 400),
            ("api/mailboxes", "{}", 400),
            ("api/mailboxes", "{\"address\":\"a@b.example\",\"facts\":{},\"groups\":null,\"senders\":[]}", 400),
            ("api/mailboxes", "{\"address\":\"a\\u0000@b.example\",\"facts\":{},\"groups\":[],\"senders\":[]}", 422),
            ("api/mailboxes", "{\"address\":\"a@b.example\",\"facts\":{},\"groups\":[],\"senders\":[\"me\"]}", 400),
            ("api/people/retire", "{\"people\":{\"ids\":[\"nobody\"]},\"isRetired\":true}", 400),
            ("api/people/retire", "{\"people\":{\"ids\":null,\"query\":{\"state\":\"odd\"}},\"isRetired\":true}", 400),
            ("api/people/opened", "{\"people\":{\"ids\":[],\"query\":null},\"field\":\"mail\",\"isOpen\":true}", 422),
            ("api/sources/try", "{\"entries\":[],\"mapping\":{\"key\":[],\"addresses\":[],\"fields\":[],\"hasStandardFields\":false}}", 422),
            ("api/sources/try", "{\"entries\":[{\"name\":\"\",\"values\":null}],\"mapping\":{\"key\":[\"uid\"],\"addresses\":[],\"fields\":[],\"hasStandardFields\":true}}", 400),
            ("api/sources/try", "{\"entries\":[],\"mapping\":{\"key\":[\"uid\"],\"addresses\":[],\"fields\":[{\"field\":\"title\",\"attributes\":[\"title\"],\"joiner\":null,\"transforms\":[{\"kind\":\"unheardOf\"}]}],\"hasStandardFields\":true}}", 400),
        ];
        foreach (var (path, body, status) in bodies)
        {
            using var answer = await browser.SendAsync(HttpMethod.Post, path, new StringContent(body, System.Text.Encoding.UTF8, "application/json"));
            Assert.Equal((path, body[..Math.Min(60, body.Length)], status), (path, body[..Math.Min(60, body.Length)], (int)answer.StatusCode));
            Assert.NotEmpty((await Problem.ReadAsync(answer)).Code);
        }
    }

    [Fact]
    public async Task The_API_describes_itself_with_everything_the_screens_use()
    {
        var file = Path.GetTempFileName();
        var exit = await ServerProcess.RunAsync(["openapi", file]);
        Assert.Equal(0, exit);
        using var document = System.Text.Json.JsonDocument.Parse(await File.ReadAllTextAsync(file));
        Assert.True(document.RootElement.GetProperty("paths").EnumerateObject().Count() > 15);
        Assert.Contains("kind", document.RootElement.GetProperty("components").GetProperty("schemas").GetProperty("BlockTextLine").GetProperty("required").EnumerateArray().Select(item => item.GetString()));
        File.Delete(file);
    }
}
