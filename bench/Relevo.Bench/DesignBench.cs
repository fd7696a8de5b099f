using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Relevo.Bench;

/// <summary>A design over everybody, and previews after edits, at the API of a running server with 100,000 people.</summary>
internal static class DesignBench
{
    private const int Edits = 60;

    public static async Task<int> RunAsync(Uri address)
    {
        using var http = new HttpClient { BaseAddress = address };
        await RolloutBench.SignInAsync(http);
        var person = (await http.GetFromJsonAsync<JsonObject>(new Uri("api/people?limit=1&search=maren", UriKind.Relative)))!["people"]![0]!["id"]!.ToString();
        using var opened = await http.PostAsJsonAsync(new Uri("api/designs", UriKind.Relative), new JsonObject { ["starter"] = "portrait-and-icons", ["name"] = "Measured" });
        var design = JsonNode.Parse(await opened.Content.ReadAsStringAsync())!.AsObject();
        var (id, revision, document) = (design["id"]!.ToString(), design["revision"]!.GetValue<int>(), design["document"]!.AsObject());

        var clock = Stopwatch.StartNew();
        var review = await ReviewAsync(http, id);
        var cold = clock.Elapsed;
        var (edits, previews) = (new List<double>(), new List<double>());
        for (var edit = 0; edit < Edits; edit++)
        {
            document["theme"]!["sizes"]!["text"] = 11 + (edit % 4);
            using var request = new HttpRequestMessage(HttpMethod.Put, new Uri($"api/designs/{id}", UriKind.Relative)) { Content = JsonContent.Create(document) };
            request.Headers.IfMatch.Add(new EntityTagHeaderValue($"\"{revision++}\""));
            (await http.SendAsync(request)).EnsureSuccessStatusCode();
            clock.Restart();
            (await http.GetAsync(new Uri($"api/lens?design={id}&person={person}&marked=true", UriKind.Relative))).EnsureSuccessStatusCode();
            previews.Add(clock.Elapsed.TotalMilliseconds);
            clock.Restart();
            await ReviewAsync(http, id);
            edits.Add(clock.Elapsed.TotalMilliseconds);
        }

        edits.Sort();
        previews.Sort();
        Say($"Longest and emptiest of {review["accounts"]!.GetValue<int>():N0} accounts, at the API: {cold.TotalSeconds:N2} s cold; target: under 2 s; {(cold.TotalSeconds < 2 ? "met" : "MISSED")}");
        Say($"  after one edit: median {edits[Edits / 2]:N0} ms, 95th percentile {edits[Edits * 95 / 100]:N0} ms; target for the median: under 200 ms; {(edits[Edits / 2] < 200 ? "met" : "MISSED")}");
        var slow = previews[Edits * 95 / 100];
        Say($"Preview after an edit, at the API: median {previews[Edits / 2]:N1} ms, 95th percentile {slow:N1} ms; target: under 30 ms; {(slow < 30 ? "met" : "MISSED")}");
        return 0;
    }

    private static async Task<JsonObject> ReviewAsync(HttpClient http, string id) => (await http.GetFromJsonAsync<JsonObject>(new Uri($"api/designs/{id}/review", UriKind.Relative)))!;

    private static void Say(FormattableString line) => Console.WriteLine(line.ToString(CultureInfo.InvariantCulture));
}
