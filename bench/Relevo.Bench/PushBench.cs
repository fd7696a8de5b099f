using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Relevo.Bench;

/// <summary>Measures a running server through its public door: how many SCIM writes a second eight clients get done, and how long a search over everybody takes.</summary>
internal static class PushBench
{
    private const int Clients = 8, Each = 250;

    public static async Task<int> RunAsync(Uri address)
    {
        using var http = new HttpClient { BaseAddress = address };
        await RolloutBench.SignInAsync(http);
        using var made = await http.PostAsJsonAsync(new Uri("api/tokens", UriKind.Relative), new JsonObject { ["name"] = "bench", ["source"] = null });
        var token = (await made.Content.ReadFromJsonAsync<JsonObject>())!["token"]!.GetValue<string>();
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        // A server that has just started reads everybody and compiles itself; what is measured is one that runs.
        await SearchAsync(http, "m");
        var warm = await Task.WhenAll(Enumerable.Range(0, Clients).Select(client => PushAsync(http, $"w{client}", Each)));
        await Task.WhenAll(warm.Select(some => PatchAsync(http, [.. some], "warm")));
        var clock = Stopwatch.StartNew();
        var ids = (await Task.WhenAll(Enumerable.Range(0, Clients).Select(client => PushAsync(http, $"c{client}", Each)))).SelectMany(made => made).ToArray();
        Say($"SCIM, {Clients} clients: {ids.Length / clock.Elapsed.TotalSeconds:N0} users created a second; target: 500");
        clock.Restart();
        await Task.WhenAll(ids.Chunk(Each).Select(some => PatchAsync(http, some, "patched")));
        Say($"SCIM, {Clients} clients: {ids.Length / clock.Elapsed.TotalSeconds:N0} users patched a second; target: 500");
        var kept = (await http.GetFromJsonAsync<JsonObject>(new Uri("api/people?search=patched&limit=1", UriKind.Relative)))!["total"]!.GetValue<int>();
        Say($"  of {ids.Length} patched users {kept} are there; none lost: {(kept == ids.Length ? "met" : "MISSED")}");
        await MeasureSearchAsync(http);
        return 0;
    }

    private static async Task SearchAsync(HttpClient http, string search)
    {
        var answer = (await http.GetFromJsonAsync<JsonObject>(new Uri($"api/people?facets=true&limit=200&search={search}", UriKind.Relative)))!;
        if (answer["people"] is null) throw new InvalidOperationException("The search was not answered.");
    }

    private static async Task MeasureSearchAsync(HttpClient http)
    {
        string[] searches = ["m", "ma", "mar", "maren%2077", "holtkmap", "o'neill%204", "020%207946%2001", "p4711@", "surgeon", "clinic%2012"];
        var times = new List<double>();
        for (var round = 0; round < 20; round++)
        {
            foreach (var search in searches)
            {
                var clock = Stopwatch.StartNew();
                await SearchAsync(http, search);
                if (round > 0) times.Add(clock.Elapsed.TotalMilliseconds);
            }
        }

        times.Sort();
        var total = (await http.GetFromJsonAsync<JsonObject>(new Uri("api/people?limit=1", UriKind.Relative)))!["total"]!.GetValue<int>();
        var slow = times[times.Count * 95 / 100];
        Say($"Search while typing over {total:N0} people, at the API, 200 rows and all facets: median {times[times.Count / 2]:N0} ms, 95th percentile {slow:N0} ms; target: under 60 ms; {(slow < 60 ? "met" : "MISSED")}");
    }

    private static async Task<List<string>> PushAsync(HttpClient http, string name, int count)
    {
        var ids = new List<string>();
        for (var number = 0; number < count; number++)
        {
            var user = new JsonObject
            {
                ["userName"] = $"{name}.{number}",
                ["displayName"] = $"Pushed {name} {number}",
                ["title"] = "Vet",
                ["emails"] = new JsonArray(new JsonObject { ["value"] = $"{name}.{number}@pushed.example", ["primary"] = true }),
            };
            using var answer = await http.PostAsJsonAsync(new Uri("scim/v2/Users", UriKind.Relative), user);
            answer.EnsureSuccessStatusCode();
            ids.Add((await answer.Content.ReadFromJsonAsync<JsonObject>())!["id"]!.GetValue<string>());
        }

        return ids;
    }

    private static async Task PatchAsync(HttpClient http, string[] ids, string title)
    {
        foreach (var id in ids)
        {
            var patch = new JsonObject { ["Operations"] = new JsonArray(new JsonObject { ["op"] = "replace", ["path"] = "title", ["value"] = title }) };
            using var answer = await http.PatchAsJsonAsync(new Uri($"scim/v2/Users/{id}", UriKind.Relative), patch);
            answer.EnsureSuccessStatusCode();
        }
    }

    private static void Say(FormattableString line) => Console.WriteLine(line.ToString(CultureInfo.InvariantCulture));
}
