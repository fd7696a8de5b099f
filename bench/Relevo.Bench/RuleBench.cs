using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;

namespace Relevo.Bench;

/// <summary>Reach and decisions over 100,000 accounts and 200 rules, beside the plain evaluation of the same situations in the same run.</summary>
internal static class RuleBench
{
    private const int Accounts = 100_000, Rules = 200;
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 26, 12, 0);
    private static readonly ImmutableArray<Cell> Cells = Cell.All(["inside", "practices", "suppliers", "outside"], ClientKind.All.Select(kind => kind.Kind));

    public static int Run()
    {
        var (senders, rules) = (MakeSenders(), MakeRules());
        ReachMap.Of(AccountTable.Of(CompanyRecords.Plain, senders[..1000]), rules, Cells, Now); // compiled once before any clock runs
        var before = GC.GetTotalMemory(forceFullCollection: true);
        var clock = Stopwatch.StartNew();
        var map = ReachMap.Of(AccountTable.Of(CompanyRecords.Plain, senders), rules, Cells, Now);
        var cold = clock.Elapsed.TotalSeconds;
        var memory = (GC.GetTotalMemory(forceFullCollection: true) - before) / (1 << 20);
        Say($"Reach of {Accounts:N0} accounts x {Rules} rules x {Cells.Length} squares, cold    {cold,7:N3} s     target: 1.5; {Met(cold < 1.5)}; {memory} MB kept; target: 500; {Met(memory < 500)}");

        var edits = new List<double>();
        for (var round = 0; round < 40; round++)
        {
            var at = round * 5 % Rules;
            var edited = rules with { Signature = rules.Signature.SetItem(at, rules.Signature[at] with { Conditions = [new OccasionCondition([Occasion.New]), new ValueCondition("location", ValueTest.OneOf, [$"Office {round}"])] }) };
            clock.Restart();
            map.With(edited);
            edits.Add(clock.Elapsed.TotalMilliseconds);
        }

        edits.Sort();
        Say($"  after one rule is edited, median and 95th percentile      {edits[20],7:N1} and {edits[38]:N1} ms; target: 50; {Met(edits[20] < 50)}");
        clock.Restart();
        var dead = Shading.Find(map, Track.Signature);
        Say($"  its dead rules with what shades each                      {clock.Elapsed.TotalMilliseconds,7:N1} ms, {dead.Length} of them");

        Decide(map);
        var plain = Compare(map, clock);
        Say($"  the plain evaluation of the same {(long)Accounts * Cells.Length:N0} situations      {plain,7:N1} s, {plain / cold:N0} times as long, same answers; target: 50 times; {Met(plain >= 50 * cold)}");
        return 0;
    }

    /// <summary>The page's way: the map of an edited rule set from a running server.</summary>
    public static async Task<int> RunAsync(Uri address)
    {
        using var http = new HttpClient { BaseAddress = address };
        await RolloutBench.SignInAsync(http);
        var stored = (await http.GetFromJsonAsync<JsonObject>(new Uri("api/rules", UriKind.Relative)))!;
        var tried = new JsonObject();
        foreach (var track in new[] { "signature", "disclaimer", "banner" }) tried[track] = new JsonArray([.. stored[track]!.AsArray().Select(row => row!["rule"]!.DeepClone())]);
        var times = new List<double>();
        for (var round = 0; round < 60; round++)
        {
            tried["signature"]![3]!["conditions"] = new JsonArray(new JsonObject { ["kind"] = "occasion", ["occasions"] = new JsonArray("reply") }, new JsonObject { ["kind"] = "value", ["field"] = "title", ["test"] = "contains", ["values"] = new JsonArray($"s{round}") });
            var clock = Stopwatch.StartNew();
            using var answer = await http.PostAsJsonAsync(new Uri("api/rules/reach", UriKind.Relative), tried);
            var map = JsonNode.Parse(await answer.Content.ReadAsStringAsync())!;
            if (round >= 20) times.Add(clock.Elapsed.TotalMilliseconds);
            if (round == 0) Say($"The map of the demo's rules over {map["accounts"]!.GetValue<int>():N0} accounts, at the API, first asked for: {clock.Elapsed.TotalSeconds:N2} s");
        }

        times.Sort();
        OnScreen(address);
        Say($"  while a rule is edited, at the API: median {times[20]:N0} ms, 95th percentile {times[38]:N0} ms");
        return 0;
    }

    /// <summary>From a tick in an open rule to the changed words of what would change, by the page's own clock: every choice of readers once, each one tick from the one before.</summary>
    private static void OnScreen(Uri address)
    {
        const string ticks =
            """
            const done = arguments[0];
            const said = () => document.querySelector('[aria-label="What would change"]')?.innerText ?? '';
            const frame = () => new Promise((next) => requestAnimationFrame(next));
            const boxes = [...document.querySelectorAll('fieldset input[type=checkbox]')];
            const state = () => boxes.map((box) => (box.checked ? 1 : 0)).join('');
            const kept = state();
            (async () => {
              const times = [];
              for (let step = 1; step < 1 << boxes.length; step++) {
                const box = boxes[Math.log2(step & -step)];
                const before = said();
                const from = performance.now();
                box.click();
                while (said() === before && performance.now() - from < 5000) await frame();
                if (state() !== kept && state().includes('1')) times.push(performance.now() - from);
                await new Promise((next) => setTimeout(next, 300));
              }
              done(times);
            })();
            """;
        var profile = Directory.CreateTempSubdirectory("relevo-bench-").FullName;
        using var driver = ListBench.Start(profile);
        driver.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromSeconds(120);
        ListBench.SignIn(driver, address);
        driver.Navigate().GoToUrl(new Uri(address, "rules"));
        ListBench.Await(driver, "[aria-label^='Condition of rule 8: inside']").Click();
        ListBench.Await(driver, "fieldset input[type=checkbox]");
        var times = ((IReadOnlyCollection<object>)driver.ExecuteAsyncScript(ticks)!).Select(time => Convert.ToDouble(time, CultureInfo.InvariantCulture)).Order().ToArray();
        Say($"  while a rule is edited, on screen, from a tick to what would change: median {times[times.Length / 2]:N0} ms, slowest {times[^1]:N0} ms of {times.Length}; target: under 200 ms; {Met(times[times.Length / 2] < 200)}");
        driver.Quit();
        Directory.Delete(profile, recursive: true);
    }

    private static void Decide(ReachMap map)
    {
        const int batch = 1000;
        var batches = new List<double>();
        var random = new Random(20261126);
        var asked = Enumerable.Range(0, 500 * batch).Select(_ => (Place: random.Next(Accounts), Square: random.Next(Cells.Length))).ToArray();
        var rules = 0;
        for (var at = 0; at < 50 * batch; at++) rules += map.Decide(asked[at].Place, asked[at].Square).Rule is null ? 0 : 1;
        var allocated = GC.GetAllocatedBytesForCurrentThread();
        for (var at = 0; at < asked.Length; at += batch)
        {
            var clock = Stopwatch.GetTimestamp();
            for (var index = at; index < at + batch; index++) rules += map.Decide(asked[index].Place, asked[index].Square).Rule is null ? 0 : 1;
            batches.Add(Stopwatch.GetElapsedTime(clock).TotalNanoseconds / batch);
        }

        allocated = GC.GetAllocatedBytesForCurrentThread() - allocated;
        batches.Sort();
        Say($"  one decision without trace, median                        {batches[250],7:N0} ns    target: 2,000; {Met(batches[250] < 2000)}; {allocated / (double)asked.Length:N0} bytes each, the result's own; {rules:N0} had a rule");
    }

    /// <summary>Goes through everybody and every square the plain way, on as many cores as the map had, and compares.</summary>
    private static double Compare(ReachMap map, Stopwatch clock)
    {
        var differing = 0;
        clock.Restart();
        Parallel.For(0, Accounts, place =>
        {
            for (var square = 0; square < Cells.Length; square++)
            {
                var cell = Cells[square];
                var plain = Decision.Decide(map.Rules, map.Accounts.Records, new Situation(map.Accounts[place], cell.Audience, cell.Occasion, cell.Client, Now));
                if (plain.Rule?.Id != (map.Winner(place, square) is >= 0 and var winner ? map.Rules.Signature[winner].Id : null)) Interlocked.Increment(ref differing);
            }
        });
        var time = clock.Elapsed.TotalSeconds;
        if (differing > 0) throw new InvalidOperationException($"{differing} situations are decided differently.");
        return time;
    }

    private static Sender[] MakeSenders()
    {
        var fields = FieldCatalogue.Standard;
        int Field(string name) => fields.TryFind(name, out var index) ? index : throw new InvalidOperationException(name);
        var (title, department, location, organisation, language, groups, registration) = (Field("title"), Field("department"), Field("location"), Field("organisation"), Field("language"), Field(GroupNames.Field), Field("registrationNumber"));
        return
        [
            .. Enumerable.Range(0, Accounts).Select(index =>
            {
                var stored = new string?[fields.Fields.Length];
                stored[title] = $"Title {index % 211}";
                stored[department] = $"Team {index % 307}";
                stored[location] = $"Office {index % 61}";
                stored[organisation] = $"Entity {index % 5}";
                stored[language] = (index % 3) switch { 0 => "en-GB", 1 => "de", _ => "sv" };
                stored[groups] = index % 7 == 0 ? $"Group {index % 40}; Rota" : $"Group {index % 40}";
                stored[registration] = index % 4 == 0 ? $"B-{index}" : "";
                return new Sender(Guid.NewGuid(), $"Person {index}", $"p{index}@{(index % 10 == 0 ? "second" : "brackenfold")}.example", index % 9 == 0 ? AccountKind.Alias : AccountKind.Own, stored);
            }),
        ];
    }

    /// <summary>Rules as large companies have them: most for an office, a team, a group or a few addresses, in some messages to some readers; the last ones for everybody.</summary>
    private static RuleSet MakeRules()
    {
        Condition Who(int rule) => (rule % 8) switch
        {
            0 => new UnitCondition(UnitKind.Office, [$"Office {rule % 61}"]),
            1 => new UnitCondition(UnitKind.Team, [$"Team {rule}", $"Team {rule + 1}"]),
            2 => new GroupCondition([$"Group {rule % 40}"]),
            3 => new ValueCondition("title", ValueTest.Contains, [$"le {rule}"]),
            4 => new AddressCondition([.. Enumerable.Range(rule * 10, 5).Select(number => $"p{number}@brackenfold.example")]),
            5 => new AllOf([new ValueCondition("registrationNumber", ValueTest.Present, []), new UnitCondition(UnitKind.Entity, [$"Entity {rule % 5}"])]),
            6 => new NoneOf([new ValueCondition("language", ValueTest.OneOf, ["de", "sv"]), new UnitCondition(UnitKind.Office, [$"Office {rule % 31}"])]),
            _ => new AnyOf([new DomainCondition(["second.example"]), new UnitCondition(UnitKind.Office, [$"Office {rule % 17}"])]),
        };
        Condition Message(int rule) => (rule % 3) switch
        {
            0 => new OccasionCondition([(Occasion)(rule / 3 % 3)]),
            1 => new AudienceCondition([rule % 2 == 0 ? "practices" : "suppliers"]),
            _ => new ClientCondition([ClientKind.All[rule / 3 % 5].Kind]),
        };
        return new RuleSet([.. Enumerable.Range(0, Rules).Select(rule => new Rule(Guid.NewGuid(), true, rule >= Rules - 2 ? [Message(rule)] : [Who(rule), Message(rule)], new CarryDesigns([Guid.NewGuid()])))]);
    }

    private static string Met(bool isMet) => isMet ? "met" : "MISSED";

    private static void Say(FormattableString line) => Console.WriteLine(line.ToString(CultureInfo.InvariantCulture));
}
