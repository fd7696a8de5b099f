using System.Net;
using System.Text;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.People;

namespace Relevo.Server.Tests;

/// <summary>What a reading of a source would do, does, and takes back.</summary>
public sealed class RunTests
{
    private static readonly string[] Twenty = [.. Enumerable.Range(0, 20).Select(number => $"p{number:00}")];

    [Fact]
    public async Task The_brake_holds_a_file_that_retires_many_until_somebody_says_yes()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Listing(Twenty));
        var plan = await browser.DropAsync(Listing(Twenty[..10]));
        Assert.Equal(RunState.Held, plan.Run.State);
        Assert.Contains("10 of 20", Assert.Single(plan.Run.Brake), StringComparison.Ordinal);
        using var held = await browser.ApplyAsync(plan.Run.Id, isAccepted: false);
        Assert.Equal("held", (await Problem.ReadAsync(held)).Code);
        Assert.Equal(20, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        using var accepted = await browser.ApplyAsync(plan.Run.Id, isAccepted: true);
        Assert.Equal(HttpStatusCode.NoContent, accepted.StatusCode);
        Assert.Equal(10, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        Assert.Equal(10, (await browser.GetAsync<PeopleAnswer>("api/people?state=retired")).Total);
    }

    [Fact]
    public async Task A_file_of_changes_changes_those_it_names_and_leaves_the_others()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet"), ("joel", "Vet"), ("ann", "Nurse")));
        var changes = "dn: uid=mia,dc=brackenfold,dc=example\nchangetype: modify\nreplace: title\ntitle: Chief\n-\n\ndn: uid=ann,dc=brackenfold,dc=example\nchangetype: delete\n\n"
            + "dn: uid=new,dc=brackenfold,dc=example\nchangetype: add\nobjectClass: inetOrgPerson\nuid: new\ncn: Newcomer\nsn: New\n";
        var plan = await browser.DropAsync(changes);
        Assert.Equal((RunState.Planned, new RunCounts(1, 1, 1, 0), 1), (plan.Run.State, plan.Run.Counts, plan.Run.Unchanged));
        using var applied = await browser.ApplyAsync(plan.Run.Id);
        Assert.Equal([("joel", "Vet"), ("mia", "Chief"), ("Newcomer", "")], (await browser.GetAsync<PeopleAnswer>("api/people")).People.Select(person => (person.Name, person.Title)));
        var again = await browser.DropAsync(changes);
        Assert.Equal(RunState.Refused, again.Run.State);
        Assert.Contains("is there already", Assert.Single(again.Run.Problems).Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_brake_holds_a_file_that_empties_a_field()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Listing(Twenty));
        var plan = await browser.DropAsync(Listing(Twenty).Replace("title: Vet\n", "", StringComparison.Ordinal));
        Assert.Equal(["20 of 20 people would lose \"Title\", more than 5 %."], plan.Run.Brake);
    }

    [Fact]
    public async Task The_last_run_is_taken_back_with_everything_it_did_and_only_the_last()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("stays", "Vet"), ("changes", "Vet"), ("leaves", "Vet")));
        var first = (await browser.GetAsync<SourceRun[]>("api/runs"))[0];
        var before = await StateAsync(browser);
        await browser.ApplyAsync(Ldif.People(("stays", "Vet"), ("changes", "Senior vet"), ("joins", "Vet")));
        using var tooLate = await browser.SendAsync(HttpMethod.Post, $"api/runs/{first.Id}/undo", null);
        Assert.Equal("not-last", (await Problem.ReadAsync(tooLate)).Code);
        var last = (await browser.GetAsync<SourceRun[]>("api/runs"))[0];
        Assert.True(last.MayUndo);
        using var undone = await browser.SendAsync(HttpMethod.Post, $"api/runs/{last.Id}/undo", null);
        Assert.Equal(HttpStatusCode.NoContent, undone.StatusCode);
        Assert.Equal(before, await StateAsync(browser));
        // Taking back is a run of its own, and can be taken back.
        var again = (await browser.GetAsync<SourceRun[]>("api/runs"))[0];
        Assert.Equal((RunKind.Undo, true), (again.Kind, again.MayUndo));
        using var redone = await browser.SendAsync(HttpMethod.Post, $"api/runs/{again.Id}/undo", null);
        Assert.Equal(["changes: Senior vet", "joins: Vet", "stays: Vet"], await StateAsync(browser));
    }

    [Fact]
    public async Task Taking_a_run_back_makes_the_offices_again_that_people_come_back_to()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia").TrimEnd() + "\nl: Berlin\n");
        await browser.ApplyAsync(Ldif.Person("mia").TrimEnd() + "\nl: Potsdam\n");
        await server.Database.DoAsync("update unit set retired_at = now() where name = 'Berlin'");
        using var undone = await browser.SendAsync(HttpMethod.Post, $"api/runs/{(await browser.GetAsync<SourceRun[]>("api/runs"))[0].Id}/undo", null);
        Assert.Equal(HttpStatusCode.NoContent, undone.StatusCode);
        Assert.Equal("Berlin, Potsdam", await server.Database.AskAsync<string>("select string_agg(name, ', ' order by name) from unit where kind = 'office' and retired_at is null"));
    }

    [Fact]
    public async Task Somebody_with_the_same_id_and_another_name_is_the_same_person()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        var before = await browser.FindAsync("mia");
        var plan = await browser.DropAsync(Ldif.Person("mia", mail: "mia.zorn@brackenfold.example").Replace("cn: mia", "cn: Mia Zorn", StringComparison.Ordinal));
        Assert.Equal((1, 1), (plan.Renamed, plan.Run.Counts.Changing));
        using var applied = await browser.ApplyAsync(plan.Run.Id);
        var after = await browser.FindAsync("Mia Zorn");
        Assert.Equal((before.Id, "mia.zorn@brackenfold.example"), (after.Id, after.Addresses[0]));
    }

    [Fact]
    public async Task Two_sources_with_the_same_address_collide_until_they_are_said_to_be_the_same_person()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia", "Vet"));
        await KeepMappingAsync(browser, "Name;E-Mail;Mobil\nMia L;mia@brackenfold.example;+46 8 465 004 12\n");
        var collided = await DropTableAsync(browser, "Name;E-Mail;Mobil\nMia L;mia@brackenfold.example;+46 8 465 004 12\n");
        Assert.Equal(("Mia L", "mia"), (Assert.Single(collided.Run.Collisions).Person, collided.Run.Collisions[0].OtherPerson));

        var source = (await browser.GetAsync<SourceAnswer[]>("api/sources")).Single(candidate => candidate.Kind == SourceKind.Csv);
        using var saved = await browser.PutAsync($"api/sources/{source.Id}", new SourceRequest("Staff list", source.Mapping, source.Brake, ["mail"], null), source.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        var joined = await DropTableAsync(browser, "Name;E-Mail;Mobil\nMia L;mia@brackenfold.example;+46 8 465 004 12\n");
        Assert.Empty(joined.Run.Collisions);
        Assert.Equal((1, true), (joined.Run.Counts.Known, joined.Joining[0].IsKnown));
        using var applied = await browser.ApplyAsync(joined.Run.Id);
        var mia = await browser.GetAsync<PersonAnswer>($"api/people/{(await browser.FindAsync("mia")).Id}");
        Assert.Equal(2, mia.Entries.Length);
        Assert.Equal(("mia", "+46 8 465 004 12", "Staff list"), (mia.Name, Field(mia, "mobile").Stored, Field(mia, "mobile").RecordName)); // the first source is believed, the second fills gaps

        using var ordered = await browser.PutAsync("api/sources/order", new SourceOrderRequest([source.Id]), null);
        Assert.Equal("Mia L", (await browser.GetAsync<PersonAnswer>($"api/people/{mia.Id}")).Name);
        // A person leaves only when no source lists them.
        await browser.ApplyAsync(Ldif.Person("other"));
        Assert.False((await browser.GetAsync<PersonAnswer>($"api/people/{mia.Id}")).IsRetired);
    }

    [Fact]
    public async Task A_table_is_mapped_once_and_read_the_same_way_the_next_time()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        const string file = "Personalnummer;Vorname;Nachname;E-Mail;Standort\n1;SÖREN;VON THADEN;s@brackenfold.example;Köln\n";
        using var unmapped = await browser.SendAsync(HttpMethod.Post, "api/people/imports?fileName=staff.csv", Table(file));
        Assert.Equal("mapping-needed", (await Problem.ReadAsync(unmapped)).Code);
        var look = await KeepMappingAsync(browser, file, mapping => mapping with
        {
            Fields = [.. mapping.Fields.Select(field => field.Field == "displayName" ? field with { Transforms = [new CaseTransform(CaseStyle.Name)] } : field)],
        });
        Assert.False(look.IsKeptMapping);
        var plan = await DropTableAsync(browser, file, Encoding.Latin1); // the same table, saved by another program
        using var applied = await browser.ApplyAsync(plan.Run.Id);
        Assert.Equal("Sören von Thaden", (await browser.FindAsync("thaden")).Name);
        var again = await LookAsync(browser, file);
        Assert.True(again.IsKeptMapping);
        Assert.Equal("Sören von Thaden", Assert.Single(again.People).Name);
    }

    [Fact]
    public async Task A_run_whose_process_died_stays_as_it_was_and_the_next_one_works()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        var source = (await browser.GetAsync<SourceAnswer[]>("api/sources"))[0].Id;
        var runs = new RunStore(Npgsql.NpgsqlDataSource.Create(server.Database.ConnectionString));
        var cut = new NewRun(Guid.CreateVersion7(), source, RunKind.ByHand, "cut off");
        await runs.BeginAsync(cut, new Actor(null, "test"), CancellationToken.None);
        Assert.Equal(RunState.Reading, (await browser.GetAsync<RunAnswer>($"api/runs/{cut.Id}")).Run.State);
        using var refused = await browser.ApplyAsync(cut.Id);
        using var nothing = await browser.SendAsync(HttpMethod.Post, $"api/runs/{Guid.NewGuid()}/undo", null);
        Assert.Equal(HttpStatusCode.NotFound, nothing.StatusCode);
        Assert.Equal("not-waiting", (await Problem.ReadAsync(refused)).Code);
        await browser.ApplyAsync(Ldif.People(("mia", "Senior vet")));
        Assert.Equal("Senior vet", (await browser.FindAsync("mia")).Title);
    }

    private static string Listing(IEnumerable<string> people) => string.Concat(people.Select(uid => Ldif.Person(uid)));

    private static PersonField Field(PersonAnswer person, string name) => person.Fields.Single(field => field.Name == name);

    private static async Task<string[]> StateAsync(Browser browser) => [.. (await browser.GetAsync<PeopleAnswer>("api/people")).People.Select(person => $"{person.Name}: {person.Title}")];

    private static ByteArrayContent Table(string file, Encoding? encoding = null)
    {
        var content = new ByteArrayContent((encoding ?? Encoding.UTF8).GetBytes(file));
        content.Headers.ContentType = new("application/octet-stream");
        return content;
    }

    private static Task<RunAnswer> DropTableAsync(Browser browser, string file, Encoding? encoding = null) => browser.DropAsync(Table(file, encoding), "staff.csv");

    private static async Task<TableAnswer> LookAsync(Browser browser, string file) =>
        await Browser.ReadAsync<TableAnswer>(await browser.SendAsync(HttpMethod.Post, "api/tables/look?isWhole=true", Table(file)));

    private static async Task<TableAnswer> KeepMappingAsync(Browser browser, string file, Func<Mapping, Mapping>? correct = null)
    {
        var look = await LookAsync(browser, file);
        using var kept = await browser.PutAsync("api/tables/mapping", new KeepMappingRequest(look.Sample.Form, (correct ?? (mapping => mapping))(look.Mapping)), null);
        Assert.Equal(HttpStatusCode.NoContent, kept.StatusCode);
        return look;
    }
}
