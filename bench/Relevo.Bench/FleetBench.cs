using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Npgsql;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.StandIns.Fleet;
using Relevo.StandIns.Jmap;

namespace Relevo.Bench;

/// <summary>15,000 clients against servers of its own: 5,000 desk apps, 5,000 mailboxes, 5,000 phones.</summary>
internal sealed class FleetBench
{
    private const int People = 5000;
    private const string MailboxToken = "mailboxes";
    private static readonly FleetSettings Quiet = FleetSettings.Quiet with { PollSeconds = 10 };
    private static readonly TimeSpan LongestWait = TimeSpan.FromMinutes(10); // a mailbox that failed four times is left alone for four minutes

    private readonly string connectionString, program, web, demo, restart;
    private readonly int[] ports = [FreePort(), FreePort()];
    private readonly Process?[] servers = new Process?[2];
    private readonly NpgsqlDataSource database;
    private double cpuOfDead;

    private FleetBench(string connectionString, string program, string web, string demo, string restart)
    {
        (this.connectionString, this.program, this.web, this.demo, this.restart) = (connectionString, program, web, demo, restart);
        database = Database.Open(connectionString);
    }

    public static async Task<int> RunAsync(string connectionString, string program, string web, string demo, string restart)
    {
        var bench = new FleetBench(connectionString, program, web, demo, restart);
        try
        {
            return await bench.MeasureAsync();
        }
        finally
        {
            foreach (var server in bench.servers) server?.Kill();
        }
    }

    private double Cpu => cpuOfDead + servers.Sum(server => server is null ? 0 : ServerUse.CpuSeconds(server.Id));

    private Uri Address(int number) => new($"http://127.0.0.1:{ports[number]}/");

    private async Task<int> MeasureAsync()
    {
        await StartAsync(0);
        await StartAsync(1);
        await DoAsync("update client set retired_at = now()"); // the demo's own have nobody who runs them
        await PeopleBench.ImportAsync(database, People);
        await using var mailboxes = await MailboxHost.StartAsync(Enumerable.Range(0, People).Select(number => ($"p{number}", new[] { $"p{number}@brackenfold.example" })), MailboxToken, FreePort(), seed: 6);
        await using var fleet = new Fleet([Address(0), Address(1)], await AddClientsAsync(), Quiet);
        using var http = new HttpClient { BaseAddress = Address(0) };
        await RolloutBench.SignInAsync(http);
        using (var set = await http.PutAsJsonAsync(new Uri("api/mailbox-server", UriKind.Relative), new JsonObject { ["url"] = mailboxes.SessionUrl.ToString(), ["token"] = MailboxToken })) set.EnsureSuccessStatusCode();
        await UntilAsync("select count(*) from client where outside_id <> '' and retired_at is null", People, "the mailboxes found");
        await RolloutBench.PostAsync(http, "api/editions", new JsonObject { ["latest"] = 0 });
        fleet.Start();

        var (cpu, clock) = (Cpu, Stopwatch.StartNew());
        await RolloutBench.PostAsync(http, "api/rollout", new JsonObject { ["edition"] = 1 });
        await InPlaceAsync(1);
        var used = Cpu - cpu;
        Say($"From start to the last of {3 * People:N0} clients in place, no faults: {clock.Elapsed.TotalSeconds:N1} s (they ask every 10 s, give or take a fifth); {used:N0} s of the servers' CPU; target: under 60 s of it; {Met(used < 60)}");

        // An edition of another number that says the same.
        var editions = new EditionStore(database);
        var actor = new Actor(await AskAsync<Guid>("select id from app_user limit 1"), "bench");
        var content = (await editions.FindAsync(1, CancellationToken.None))!;
        await editions.PublishAsync(content, 1, actor, CancellationToken.None);
        var (events, written) = (await CountAsync("select count(*) from delivery_event"), fleet.Clients.Sum(client => client.Written));
        await RolloutBench.PostAsync(http, "api/rollout", new JsonObject { ["edition"] = 2 });
        await InPlaceAsync(2);
        await Task.Delay(TimeSpan.FromSeconds(12)); // everybody asks once more
        var delivered = await CountAsync("select count(*) from delivery_event") - events + fleet.Clients.Sum(client => client.Written) - written;
        Say($"An edition identical to the last: {delivered} deliveries to {3 * People:N0} clients; target: none; {Met(delivered == 0)}");
        await MeasurePollsAsync(fleet);

        var one = content.Rules.Signature.First(rule => rule.Then is CarryDesigns);
        ImmutableArray<Rule> everybodyTheSame = [one with { Id = Guid.NewGuid(), Conditions = [], IsOn = true, Then = new CarryDesigns([content.Designs.First(design => design.Document.Name == "Short").Id]) }];
        await editions.PublishAsync(content with { Rules = content.Rules with { Signature = everybodyTheSame, Banner = [] } }, 2, actor, CancellationToken.None);
        await FailAsync(http, fleet, mailboxes);
        return 0;
    }

    /// <summary>5 % failing, one of two servers killed every ten seconds for a minute, the database restarted once.</summary>
    private async Task FailAsync(HttpClient http, Fleet fleet, MailboxHost mailboxes)
    {
        var (written, changes, events) = (fleet.Clients.Sum(client => client.Written), mailboxes.Changes, await CountAsync("select coalesce(max(id), 0) from delivery_event"));
        fleet.Behave(Quiet with { Failing = 0.05, Restarting = 0.05 });
        mailboxes.Misbehave(0.05, 0.05);
        var clock = Stopwatch.StartNew();
        var everybody = new JsonObject
        {
            ["name"] = "Everybody",
            ["people"] = new JsonObject { ["kind"] = "everybody" },
            ["start"] = new JsonObject { ["kind"] = "atOnce" },
            ["gate"] = new JsonObject { ["mostTrouble"] = 100, ["leastInPlace"] = 100 },
        };
        await RolloutBench.PostAsync(http, "api/rollout", new JsonObject { ["edition"] = 3, ["waves"] = new JsonArray(everybody) });
        for (var round = 0; round < 6; round++)
        {
            await Task.Delay(TimeSpan.FromSeconds(4));
            cpuOfDead += ServerUse.CpuSeconds(servers[round % 2]!.Id);
            servers[round % 2]!.Kill();
            if (round == 2) await RestartDatabaseAsync();
            await StartAsync(round % 2);
            await Task.Delay(TimeSpan.FromSeconds(4));
        }

        mailboxes.Misbehave(0, 0);
        await InPlaceAsync(3);
        var time = clock.Elapsed.TotalSeconds;
        var twice = await CountAsync($"select count(*) from (select client_id, tag from delivery_event where id > {events} and state = 'inPlace' group by 1, 2 having count(*) > 1) twice");
        var (toldTwice, changed, inMailboxes) = (fleet.Clients.Sum(client => client.ToldTwice), fleet.Clients.Sum(client => client.Written) - written, mailboxes.Changes - changes);
        var isRight = twice == 0 && toldTwice == 0 && changed == 2 * People && inMailboxes == People;
        Say($"5 % failing for a minute, a server killed six times, the database restarted once: all {3 * People:N0} in place after {time:N0} s; told twice to change to the same: {toldTwice + twice}; changed {changed:N0} computers and phones and {inMailboxes:N0} mailboxes of {2 * People:N0} and {People:N0}; target: each once; {Met(isRight)}");
    }

    /// <summary>Polls with nothing new, as many as one server answers. The fleet's own are slowed down meanwhile.</summary>
    private async Task MeasurePollsAsync(Fleet fleet)
    {
        fleet.Behave(Quiet with { PollSeconds = 60 });
        await Task.Delay(TimeSpan.FromSeconds(12)); // everybody has asked once more, and is quiet for a while
        var (cpu, calls) = (0.0, 0L);
        var (answered, other, time) = await Polls.MeasureAsync(Address(1), [.. fleet.Clients.Where(client => client.HeldTag.Length > 0).Take(2000)], TimeSpan.FromSeconds(3), TimeSpan.FromSeconds(8), async () => (cpu, calls) = (Cpu, await CallsAsync()));
        var (rate, share, queries) = (answered / time.TotalSeconds, (Cpu - cpu) / time.TotalSeconds, await CallsAsync() - calls);
        fleet.Behave(Quiet);
        Say($"Polls with nothing new, one server, those who ask on the same two cores: {rate:N0} a second, {share:N1} cores of it the servers'; {(double)queries / answered:N2} transactions each; others than 304: {other}; target: 3,000, one query each at most; {Met(rate >= 3000 && queries <= answered)}");
    }

    private async Task<long> CallsAsync() => await CountAsync("select xact_commit from pg_stat_database where datname = current_database()");

    private async Task<List<FleetMember>> AddClientsAsync()
    {
        var people = new List<(Guid Id, string Name)>();
        await using (var command = database.CreateCommand("select account.person_id, account.address from account where account.address ~ '^p[0-9]+@brackenfold.example$' order by account.address"))
        await using (var reader = await command.ExecuteReaderAsync())
        {
            while (await reader.ReadAsync()) people.Add((reader.GetGuid(0), reader.GetString(1)));
        }

        var members = new List<FleetMember>();
        foreach (var kind in new[] { "desk-app", "pocket-app" })
        {
            var (ids, tokens) = (people.Select(_ => Guid.CreateVersion7()).ToArray(), people.Select(_ => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32))).ToArray());
            await using var insert = database.CreateCommand("insert into client (id, kind, name, person_id, is_for_all, token_hash) select id, $3, 'measured', person, $3 = 'pocket-app', hash from unnest($1::uuid[], $2::uuid[], $4::bytea[]) fresh (id, person, hash)");
            insert.Parameters.Add(new NpgsqlParameter { Value = ids });
            insert.Parameters.Add(new NpgsqlParameter { Value = people.Select(person => person.Id).ToArray() });
            insert.Parameters.Add(new NpgsqlParameter { Value = kind });
            insert.Parameters.Add(new NpgsqlParameter { Value = tokens.Select(token => SHA256.HashData(Encoding.UTF8.GetBytes(token))).ToArray() });
            await insert.ExecuteNonQueryAsync();
            members.AddRange(people.Zip(tokens).Select(pair => new FleetMember(kind, kind, pair.First.Name, pair.First.Name, pair.Second)));
        }

        await DoAsync("insert into delivery (client_id, kind) select id, kind from client on conflict do nothing");
        return members;
    }

    private Task InPlaceAsync(int edition) =>
        UntilAsync($"select count(*) from delivery join client on client.id = delivery.client_id where client.retired_at is null and state = 'inPlace' and edition = {edition} and held_tag = wanted_tag", 3 * People, $"edition {edition} in place");

    private async Task UntilAsync(string sql, long wanted, string what)
    {
        var clock = Stopwatch.StartNew();
        while (true)
        {
            var count = await CountAsync(sql);
            if (count >= wanted) return;
            if (clock.Elapsed > LongestWait) throw new TimeoutException($"{count} of {wanted} were {what} within {LongestWait.TotalMinutes} minutes.");
            await Task.Delay(250);
        }
    }

    private async Task StartAsync(int number)
    {
        var start = new ProcessStartInfo("dotnet") { RedirectStandardOutput = true, RedirectStandardError = true };
        start.ArgumentList.Add(program);
        start.ArgumentList.Add("serve");
        foreach (var (name, value) in new[] { ("RELEVO_DATABASE", connectionString), ("RELEVO_URLS", Address(number).ToString()), ("RELEVO_PUBLIC_URL", "https://signatures.brackenfold.example"), ("RELEVO_WEB", web), ("RELEVO_DEMO_FOLDER", demo), ("RELEVO_DEMO_TOKENS", "/dev/null"), ("DOTNET_TieredPGO", "0") }) start.Environment[name] = value;
        var server = Process.Start(start)!;
        server.BeginOutputReadLine();
        server.BeginErrorReadLine();
        servers[number] = server;
        using var http = new HttpClient { BaseAddress = Address(number) };
        for (var attempt = 0; attempt < 1200; attempt++)
        {
            try
            {
                using var answer = await http.GetAsync(new Uri("health/ready", UriKind.Relative));
                if (answer.IsSuccessStatusCode) return;
            }
            catch (HttpRequestException)
            {
                // Not up yet.
            }

            await Task.Delay(50);
        }

        throw new TimeoutException("A server did not come up within a minute.");
    }

    private async Task RestartDatabaseAsync()
    {
        using var run = Process.Start(new ProcessStartInfo("bash", ["-c", restart + " >/dev/null 2>&1"]))!;
        await run.WaitForExitAsync();
        NpgsqlConnection.ClearAllPools();
        await Task.Delay(500);
    }

    private Task<long> CountAsync(string sql) => AskAsync<long>(sql);

    private async Task<T> AskAsync<T>(string sql)
    {
        for (var attempt = 0; ; attempt++)
        {
            try
            {
                await using var command = database.CreateCommand(sql);
                return (T)(await command.ExecuteScalarAsync())!;
            }
            catch (NpgsqlException) when (attempt < 20)
            {
                await Task.Delay(250); // the database is being restarted
            }
        }
    }

    private async Task DoAsync(string sql)
    {
        await using var command = database.CreateCommand(sql);
        await command.ExecuteNonQueryAsync();
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    private static string Met(bool isMet) => isMet ? "met" : "MISSED";

    private static void Say(FormattableString line) => Console.WriteLine(line.ToString(CultureInfo.InvariantCulture));
}
