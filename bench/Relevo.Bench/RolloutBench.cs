using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Relevo.Bench;

/// <summary>Measures on a fresh demo, through its public door, from Publish to the last computer in place.</summary>
internal static class RolloutBench
{
    private static readonly TimeSpan LongestWait = TimeSpan.FromMinutes(2);

    public static async Task<int> RunAsync(Uri address)
    {
        using var http = new HttpClient { BaseAddress = address };
        await SignInAsync(http);
        var clock = Stopwatch.StartNew();
        await PostAsync(http, "api/editions", new JsonObject { ["latest"] = 0 });
        await PostAsync(http, "api/rollout", new JsonObject { ["edition"] = 1 });
        while (clock.Elapsed < LongestWait)
        {
            var rollout = (await http.GetFromJsonAsync<JsonObject>(new Uri("api/rollout", UriKind.Relative)))!;
            // One of the demo's computers lies in a drawer.
            var computers = rollout["kinds"]!.AsArray().First(kind => kind!["kind"]!.ToString() == "desk-app")!["counts"]!;
            var whole = computers["clients"]!.GetValue<int>() - 1;
            if (rollout["rollout"]!["edition"]!.GetValue<int>() == 1 && computers["inPlace"]!.GetValue<int>() == whole)
            {
                Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"From Publish to the last of {whole} computers in place: {clock.Elapsed.TotalSeconds:N1} s (their agents ask every 2 s, give or take a fifth)"));
                return 0;
            }

            await Task.Delay(20);
        }

        Console.Error.WriteLine("Not every computer was in place within two minutes.");
        return 1;
    }

    /// <summary>Signs in as the demo's administrator.</summary>
    public static async Task SignInAsync(HttpClient http)
    {
        await TakeTokenAsync(http);
        await PostAsync(http, "api/session", new JsonObject { ["name"] = "ines.albrecht@brackenfold.example", ["password"] = "paper-ink-and-baton" });
        await TakeTokenAsync(http);
    }

    private static async Task TakeTokenAsync(HttpClient http)
    {
        var session = (await http.GetFromJsonAsync<JsonObject>(new Uri("api/session", UriKind.Relative)))!;
        http.DefaultRequestHeaders.Remove("X-Relevo-Antiforgery");
        http.DefaultRequestHeaders.Add("X-Relevo-Antiforgery", session["antiforgeryToken"]!.GetValue<string>());
    }

    /// <summary>Changes something through the door; anything but success is an error.</summary>
    public static async Task PostAsync(HttpClient http, string path, JsonObject body)
    {
        using var answer = await http.PostAsJsonAsync(new Uri(path, UriKind.Relative), body);
        answer.EnsureSuccessStatusCode();
    }
}
