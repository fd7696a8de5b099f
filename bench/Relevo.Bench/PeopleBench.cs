using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Npgsql;
using NpgsqlTypes;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Roster;
using Relevo.Core.People.Sources;
using Relevo.Data;

namespace Relevo.Bench;

/// <summary>
/// A first import of generated people from LDIF, a sync with a few changes, and the list in memory: the way of the product, database included,
/// beside a bare binary COPY of the same rows in the same run.
/// </summary>
internal static class PeopleBench
{
    private const int Count = 100_000;
    private const int Changed = 50;
    private const int Syncs = 3;
    private const int Copies = 5;
    private const int Rounds = 3;
    private static readonly FieldCatalogue Fields = FieldCatalogue.Standard;
    private static readonly Actor Actor = new(null, "bench");

    /// <summary>
    /// A first import is over in seconds, in which a busy machine may well do something else: three stand beside each other, each by a process of its own into a database of its own,
    /// and each with its own COPYs.
    /// </summary>
    public static async Task<int> RunAsync(string connectionString)
    {
        var rounds = new List<ImportFigures>();
        for (var round = 1; round < Rounds; round++) rounds.Add(await MeasureInNewDatabaseAsync(connectionString, round));
        rounds.Add(await MeasureInProcessAsync(connectionString));
        var times = Median(rounds.Select(round => round.Imported / round.Copied));
        var part = Median(rounds.Select(round => round.Synced / round.Imported));
        var memory = rounds.Max(round => round.Megabytes);
        Say($"Bare binary COPY of {Count:N0} rows of 20 columns                {Range(rounds, round => round.Copied)}     1.0 times; each the median of five");
        Say($"First import of {Count:N0} people from LDIF, plan and apply    {Range(rounds, round => round.Imported)}     {string.Join(", ", rounds.Select(round => Text($"{round.Imported / round.Copied:N1}")))} times, {times:N1} in the median; target: at most 5; {Met(times <= 5)}");
        Say($"  at most {memory:N0} MB of memory; target: at most 400; {Met(memory <= 400)}");
        Say($"Sync of {Count:N0} with {Changed} changes                              {Range(rounds, round => round.Synced)}     {string.Join(", ", rounds.Select(round => Text($"{round.Synced / round.Imported:P0}")))} of the first import, {part:P0} in the median; target: at most a third; {Met(part * 3 <= 1)}; each the median of three");
        Say($"  rows of people written in the three: {string.Join(", ", rounds.Select(round => round.Written))}; target: {Syncs * Changed}; {Met(rounds.All(round => round.Written == Syncs * Changed))}");
        await using var database = Database.Open(connectionString);
        await MeasureRosterAsync(new PersonStore(database));
        return 0;
    }

    /// <summary>One import into an empty database with the syncs and COPYs beside it; prints the figures as JSON after what it has to say.</summary>
    public static async Task<int> MeasureAsync(string connectionString)
    {
        await Database.MigrateAsync(connectionString, CancellationToken.None);
        await using var database = Database.Open(connectionString);
        var (sources, runs) = (new SourceStore(database), new RunStore(database));
        var source = new Source(Guid.CreateVersion7(), SourceKind.Csv, "Generated", 0, "{}", null, BrakeSettings.Default, [], false, null, 1);
        await sources.AddAsync(source, "", Actor, CancellationToken.None);
        var files = Enumerable.Range(0, Syncs + 1).Select(round => WriteLdif(Count, round * Changed)).ToArray();
        // The import comes first, so that the peak of memory is its own.
        var imported = await SyncAsync(runs, source.Id, files[0], expected: Count);
        var memory = Process.GetCurrentProcess().PeakWorkingSet64 / (1 << 20);
        // Each has fifty changes more than the one before.
        var syncs = new List<double>();
        for (var round = 1; round <= Syncs; round++) syncs.Add(await SyncAsync(runs, source.Id, files[round], expected: Changed));
        var written = await CountAsync(database, "select sum(revision - 1) from person");
        var copies = new List<double>();
        for (var round = 0; round < Copies; round++) copies.Add(await CopyAsync(database));
        foreach (var file in files) File.Delete(file);
        Console.WriteLine(JsonSerializer.Serialize(new ImportFigures(imported, Median(syncs), Median(copies), memory, written)));
        return 0;
    }

    /// <summary>Seconds, the peak of memory, and how many rows of people the syncs wrote.</summary>
    private sealed record ImportFigures(double Imported, double Synced, double Copied, long Megabytes, long Written);

    private static async Task<ImportFigures> MeasureInNewDatabaseAsync(string connectionString, int round)
    {
        var beside = new NpgsqlConnectionStringBuilder(connectionString);
        beside.Database += Text($"_{round}");
        await using var database = Database.Open(connectionString);
        await DoAsync(database, $"create database {beside.Database}");
        var figures = await MeasureInProcessAsync(beside.ConnectionString);
        await DoAsync(database, $"drop database {beside.Database} with (force)");
        return figures;
    }

    private static async Task<ImportFigures> MeasureInProcessAsync(string connectionString)
    {
        using var process = Process.Start(new ProcessStartInfo(Environment.ProcessPath!, [typeof(PeopleBench).Assembly.Location, "import", connectionString]) { RedirectStandardOutput = true })!;
        var said = (await process.StandardOutput.ReadToEndAsync()).TrimEnd().Split('\n');
        await process.WaitForExitAsync();
        if (process.ExitCode != 0) throw new InvalidOperationException($"The import ended with {process.ExitCode}.");
        foreach (var line in said[..^1]) Console.WriteLine(line);
        return JsonSerializer.Deserialize<ImportFigures>(said[^1])!;
    }

    private static double Median(IEnumerable<double> figures)
    {
        var sorted = figures.Order().ToArray();
        return sorted[sorted.Length / 2];
    }

    private static string Range(List<ImportFigures> rounds, Func<ImportFigures, double> figure) => Text($"{rounds.Min(figure):N2} to {rounds.Max(figure):N2} s");

    /// <summary>Imports so many generated people, p0, p1 and so on.</summary>
    public static async Task ImportAsync(NpgsqlDataSource database, int count)
    {
        var source = new Source(Guid.CreateVersion7(), SourceKind.Csv, "Generated", 9, "{}", null, BrakeSettings.Default, [], false, null, 1);
        await new SourceStore(database).AddAsync(source, "", Actor, CancellationToken.None);
        var file = WriteLdif(count, 0);
        await SyncAsync(new RunStore(database), source.Id, file, count);
        File.Delete(file);
    }

    private static async Task MeasureRosterAsync(PersonStore people)
    {
        var clock = Stopwatch.StartNew();
        var changes = await people.ReadChangesAsync(null, CancellationToken.None);
        var roster = PeopleRoster.Build(changes.Records!, changes.People);
        Say($"Reading and resolving everybody into memory, once per process    {clock.Elapsed.TotalSeconds,6:N2} s");
        string[] searches = ["m", "ma", "mar", "maren 77", "holtkmap", "o'neill 4", "020 7946 01", "p4711@", "surgeon", "clinic 12"];
        var times = new List<double>();
        for (var round = 0; round < 20; round++)
        {
            foreach (var search in searches)
            {
                clock.Restart();
                RosterSearch.Answer(roster, RosterQuery.Everybody with { Search = search }, ["mobile", "title"]);
                times.Add(clock.Elapsed.TotalMilliseconds);
            }
        }

        times.Sort();
        Say($"Search with facets over {Count:N0}, in the core, median and 95th percentile: {times[times.Count / 2]:N1} and {times[times.Count * 95 / 100]:N1} ms");
    }

    private static async Task<double> SyncAsync(RunStore runs, Guid source, string file, int expected)
    {
        var clock = Stopwatch.StartNew();
        await using var ldif = File.OpenRead(file);
        var content = await LdifListing.ReadAsync(ldif, Mapping.Standard, Fields, LdifLimits.Default, null, CancellationToken.None);
        var read = clock.Elapsed.TotalSeconds;
        var run = new NewRun(Guid.CreateVersion7(), source, RunKind.File, "generated.ldif");
        await runs.PlanAsync(run, content, Fields, Actor, CancellationToken.None);
        var planned = clock.Elapsed.TotalSeconds;
        var outcome = await runs.ApplyAsync(run.Id, isAccepted: true, Actor, CancellationToken.None);
        var time = clock.Elapsed.TotalSeconds;
        var counts = (await runs.FindAsync(run.Id, CancellationToken.None))!.Counts;
        if (outcome != ApplyOutcome.Applied || counts.Joining + counts.Changing != expected) throw new InvalidOperationException($"The run ended as {outcome} with {counts}.");
        Say($"  of which read {read:N2} s, plan {planned - read:N2} s, apply {time - planned:N2} s");
        return time;
    }

    /// <summary>The rows of the same people, 20 columns of text, into a table without any index: the least work there is.</summary>
    private static async Task<double> CopyAsync(NpgsqlDataSource database)
    {
        await using var connection = await database.OpenConnectionAsync();
        var columns = string.Join(", ", Enumerable.Range(0, 20).Select(column => $"c{column} text"));
        await using (var create = new NpgsqlCommand($"drop table if exists bench_copy; create table bench_copy ({columns})", connection)) await create.ExecuteNonQueryAsync();
        var rows = Enumerable.Range(0, Count).Select(number => Enumerable.Range(0, 20).Select(column => Cell(number, column)).ToArray()).ToArray();
        var clock = Stopwatch.StartNew();
        await using (var copy = await connection.BeginBinaryImportAsync("copy bench_copy from stdin (format binary)"))
        {
            foreach (var row in rows)
            {
                await copy.StartRowAsync();
                foreach (var cell in row) await copy.WriteAsync(cell, NpgsqlDbType.Text);
            }

            await copy.CompleteAsync();
        }

        var time = clock.Elapsed.TotalSeconds;
        await using var drop = new NpgsqlCommand("drop table bench_copy", connection);
        await drop.ExecuteNonQueryAsync();
        return time;
    }

    /// <summary>People who differ in about as many ways as real ones; the first so many have another title.</summary>
    private static string WriteLdif(int count, int changed)
    {
        var file = Path.GetTempFileName();
        using var ldif = new StreamWriter(file);
        ldif.Write("version: 1\n\n");
        string[] attributes = ["uid", "cn", "sn", "givenName", "displayName", "mail", "title", "departmentNumber", "o", "l", "telephoneNumber", "mobile", "labeledURI", "preferredLanguage", "employeeNumber", "postNominals", "registrationNumber", "street", "postalCode", "c"];
        for (var number = 0; number < count; number++)
        {
            ldif.Write(string.Create(CultureInfo.InvariantCulture, $"dn: uid=p{number},ou=people,dc=brackenfold,dc=example\nobjectClass: inetOrgPerson\n"));
            for (var column = 0; column < attributes.Length; column++) ldif.Write($"{attributes[column]}: {(column == 6 && number < changed ? "Clinical director" : Cell(number, column))}\n");
            ldif.Write('\n');
        }

        return file;
    }

    private static string Cell(int number, int column) => column switch
    {
        0 => $"p{number}",
        1 or 4 => $"{Given[number % Given.Length]} {Surnames[number / 3 % Surnames.Length]} {number}",
        2 => $"{Surnames[number / 3 % Surnames.Length]} {number}",
        3 => Given[number % Given.Length],
        5 => $"p{number}@brackenfold.example",
        6 => number % 5 == 0 ? "Specialist in small animal surgery" : "Veterinary surgeon",
        7 => $"Clinic {number % 197}",
        8 => $"Brackenfold {number % 3} Limited",
        9 => $"Harrogate {number % 31}",
        10 => $"+44 20 7946 {number % 1000:0000}",
        11 => $"+44 20 7946 {(number + 500) % 1000:0000}",
        12 => $"https://brackenfold.example/clinics/{number % 197}",
        13 => "en",
        14 => $"{100_000 + number}",
        15 => "MRCVS",
        16 => $"B-{number:00000}",
        17 => $"{number % 200} High Street",
        18 => $"HG{number % 9} {number % 7}XX",
        _ => "GB",
    };

    private static readonly string[] Given = ["Maren", "Asa", "Joern", "Winifred", "Till", "Ottilie", "Percy", "Suenje"];
    private static readonly string[] Surnames = ["Holtkamp", "O'Neill", "von der Luehe", "Ashdown", "Nordahl", "Soehnlein", "McKay"];

    private static async Task<long> CountAsync(NpgsqlDataSource database, string sql)
    {
        await using var command = database.CreateCommand(sql);
        return (long)(await command.ExecuteScalarAsync())!;
    }

    private static async Task DoAsync(NpgsqlDataSource database, string sql)
    {
        await using var command = database.CreateCommand(sql);
        await command.ExecuteNonQueryAsync();
    }

    private static string Met(bool isMet) => isMet ? "met" : "MISSED";

    private static string Text(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);

    private static void Say(FormattableString line) => Console.WriteLine(Text(line));
}
