using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Npgsql;

namespace Relevo.Bench;

/// <summary>What a compose helper waits for while a message is written: new messages and answers, to readers inside and outside, of 100 people, in turns.</summary>
internal static class ComposeBench
{
    private const int Helpers = 100, Warming = 200, Messages = 1000;
    private static readonly string[] Occasions = ["new", "reply", "forward"];
    private static readonly string[] Recipients = ["p7@brackenfold.example", "Orders <orders@milbury-glass.example>", "p7@brackenfold.example, Petra Lindqvist <petra@lindqvist-og-son.example>, it@harrowgate-tools.example", ""];

    public static async Task RunAsync(Uri address, NpgsqlDataSource database, int edition)
    {
        var tokens = Enumerable.Range(0, Helpers).Select(_ => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32))).ToArray();
        await using (var insert = database.CreateCommand(
            """
            with fresh as (
                insert into client (id, kind, name, person_id, token_hash)
                select gen_random_uuid(), 'compose-helper', 'measured', someone.id, given.hash
                from (select id, row_number() over (order by id) as number from person where retired_at is null and exists (select from account where account.person_id = person.id) order by id limit $2) someone
                join unnest($1::bytea[]) with ordinality given (hash, number) on given.number = someone.number
                returning id)
            insert into delivery (client_id, kind, edition) select id, 'compose-helper', $3 from fresh
            """))
        {
            insert.Parameters.Add(new NpgsqlParameter { Value = tokens.Select(token => SHA256.HashData(Encoding.UTF8.GetBytes(token))).ToArray() });
            insert.Parameters.Add(new NpgsqlParameter { Value = Helpers });
            insert.Parameters.Add(new NpgsqlParameter { Value = edition });
            await insert.ExecuteNonQueryAsync();
        }

        using var http = new HttpClient { BaseAddress = address };
        var milliseconds = new List<double>();
        var bytes = 0L;
        for (var message = 0; message < Warming + Messages; message++)
        {
            var body = new JsonObject { ["from"] = "", ["recipients"] = Recipients[message % Recipients.Length], ["occasion"] = Occasions[message % Occasions.Length], ["message"] = message };
            using var request = new HttpRequestMessage(HttpMethod.Post, "helper/v1/compose") { Content = JsonContent.Create(body) };
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", tokens[message % Helpers]);
            var clock = Stopwatch.StartNew();
            using var answer = await http.SendAsync(request);
            var written = await answer.Content.ReadAsByteArrayAsync();
            if (message >= Warming) milliseconds.Add(clock.Elapsed.TotalMilliseconds);
            answer.EnsureSuccessStatusCode();
            if (written.Length == 0) throw new InvalidOperationException("A helper was answered with nothing.");
            bytes += written.Length;
        }

        milliseconds.Sort();
        var (median, most) = (milliseconds[Messages / 2], milliseconds[Messages * 95 / 100]);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"Compose helper, signature and what may be chosen for one message, 100,000 people: median {median:N1} ms, 95th percentile {most:N1} ms ({bytes / (Warming + Messages):N0} bytes); target: under 20 ms; {(most < 20 ? "met" : "MISSED")}"));
    }
}
