using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Npgsql;
using Relevo.Data;

namespace Relevo.Bench;

/// <summary>The plan of a rollout for everybody: what three clients of each of 100,000 people are to hold, computed and written by a running server; then what compose helpers are told.</summary>
internal static class PlanBench
{
    private static readonly TimeSpan LongestWait = TimeSpan.FromMinutes(5);

    public static async Task<int> RunAsync(Uri address, string connectionString, int server)
    {
        await using var database = Database.Open(connectionString);
        using var http = new HttpClient { BaseAddress = address };
        await RolloutBench.SignInAsync(http);
        await DoAsync(database, "insert into client (id, kind, name, person_id) select gen_random_uuid(), kind, 'measured', person.id from person cross join (values ('desk-app'), ('browser-mailbox'), ('pocket-app')) kinds (kind) where person.retired_at is null");
        await DoAsync(database, "insert into delivery (client_id, kind) select id, kind from client on conflict do nothing");
        await DoAsync(database, "analyze client, delivery");
        var clients = await AskAsync(database, "select count(*) from delivery");
        var latest = (await http.GetFromJsonAsync<JsonObject>(new Uri("api/proof", UriKind.Relative)))!["latest"]!.GetValue<int>();
        await RolloutBench.PostAsync(http, "api/editions", new JsonObject { ["latest"] = latest });
        await ComposeBench.RunAsync(address, database, latest + 1);

        var (before, cpu) = (ServerUse.Megabytes(server).Now, ServerUse.CpuSeconds(server));
        ServerUse.ForgetPeak(server);
        var clock = Stopwatch.StartNew();
        await RolloutBench.PostAsync(http, "api/rollout", new JsonObject { ["edition"] = latest + 1 });
        var started = clock.Elapsed.TotalSeconds;
        while (await AskAsync(database, "select exists (select from delivery where recipe is null or edition is distinct from (select max(number) from edition))::int::bigint") > 0)
        {
            if (clock.Elapsed > LongestWait)
            {
                Console.Error.WriteLine("The plan was not done within five minutes.");
                return 1;
            }

            await Task.Delay(500); // asking costs the database something
        }

        var (time, peak) = (clock.Elapsed.TotalSeconds, ServerUse.Megabytes(server).Peak);
        Say($"Plan for {clients:N0} clients of {clients / 3:N0} people, streaming to the database: {time:N1} s, of which starting {started:N1} s; target: under 15 s; {Met(time < 15)}");
        Say($"  {ServerUse.CpuSeconds(server) - cpu:N0} s of the server's CPU; at most {peak:N0} MB of memory, {before:N0} MB of it before; target: under 600 MB; {Met(peak < 600)}");
        return 0;
    }

    private static async Task<long> AskAsync(NpgsqlDataSource database, string sql)
    {
        await using var command = database.CreateCommand(sql);
        return (long)(await command.ExecuteScalarAsync())!;
    }

    private static async Task DoAsync(NpgsqlDataSource database, string sql)
    {
        await using var command = database.CreateCommand(sql);
        command.CommandTimeout = 120;
        await command.ExecuteNonQueryAsync();
    }

    private static string Met(bool isMet) => isMet ? "met" : "MISSED";

    private static void Say(FormattableString line) => Console.WriteLine(line.ToString(CultureInfo.InvariantCulture));
}
