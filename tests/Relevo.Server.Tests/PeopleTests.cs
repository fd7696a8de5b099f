using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Relevo.Server.Lens;
using Relevo.Server.People;

namespace Relevo.Server.Tests;

public sealed class PeopleTests
{
    private const string Hostile = "<script>alert(1)</script> & Söhne \"x\"";

    [Fact]
    public async Task The_first_people_of_a_file_are_shown_to_map_by_and_nothing_is_kept()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var file = new ByteArrayContent(System.Text.Encoding.UTF8.GetBytes(Ldif.Person("mia") + Ldif.Person("joel")));
        file.Headers.ContentType = new("application/octet-stream");
        var sample = await Browser.ReadAsync<Relevo.Server.Connectors.SampleAnswer>(await browser.SendAsync(HttpMethod.Post, "api/files/look?isWhole=true", file));
        Assert.Equal(2, sample.Entries.Length);
        Assert.Contains(sample.Entries[0].Values, value => value is { Attribute: "uid", Text: "mia" });
        Assert.Empty((await browser.GetAsync<PeopleAnswer>("api/people")).People);
        using var picture = new ByteArrayContent([0x89, 0x50, 0x4E, 0x47]);
        picture.Headers.ContentType = new("application/octet-stream");
        using var refused = await browser.SendAsync(HttpMethod.Post, "api/files/look?isWhole=true", picture);
        Assert.Equal("no-person", (await Problem.ReadAsync(refused)).Faults[0].Code);
    }

    [Fact]
    public async Task A_file_shows_what_it_would_do_and_does_it_when_applied()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("stays", "Vet"), ("changes", "Vet"), ("leaves", "Vet")));
        var plan = await browser.DropAsync(Ldif.People(("stays", "Vet"), ("changes", "Senior vet"), ("joins", "Vet")));
        Assert.Equal((1, 1, 1, 1), (plan.Run.Counts.Joining, plan.Run.Counts.Changing, plan.Run.Counts.Leaving, plan.Run.Unchanged));
        Assert.Equal("Title: Vet -> Senior vet", string.Join(", ", plan.Changing.Single().Changes.Select(change => $"{change.Field}: {change.Before} -> {change.After}")));
        Assert.Equal(3, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
        Assert.Contains((await browser.GetAsync<PeopleAnswer>("api/people")).People, person => person.Name == "leaves");

        using var applied = await browser.ApplyAsync(plan.Run.Id);
        Assert.Equal(HttpStatusCode.NoContent, applied.StatusCode);
        var people = (await browser.GetAsync<PeopleAnswer>("api/people")).People;
        Assert.Equal(["changes", "joins", "stays"], people.Select(person => person.Name));
        Assert.Equal("Senior vet", people[0].Title);
        var history = await browser.GetAsync<PersonEvent[]>($"api/people/{people[0].Id}/history");
        Assert.Equal(["changed by Directory file", "joined by Directory file"], history.Select(line => line.What));
        Assert.Equal("Title: Vet -> Senior vet", string.Join(", ", history[0].Changes.Select(change => $"{change.Field}: {change.Before} -> {change.After}")));
    }

    [Fact]
    public async Task Someone_who_returns_is_the_same_person_again()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet"), ("joel", "Vet")));
        var before = (await browser.FindAsync("mia")).Id;
        await browser.ApplyAsync(Ldif.People(("joel", "Vet")));
        await browser.ApplyAsync(Ldif.People(("joel", "Vet"), ("mia", "Vet")));
        Assert.Equal(before, (await browser.FindAsync("mia")).Id);
    }

    [Fact]
    public async Task An_address_passes_from_one_person_to_another_in_one_file()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("a", mail: "desk@x.example") + Ldif.Person("b", mail: "b@x.example"));
        await browser.ApplyAsync(Ldif.Person("a", mail: "b@x.example") + Ldif.Person("b", mail: "desk@x.example"));
        Assert.Equal(["desk@x.example"], (await browser.FindAsync("desk@")).Addresses);
    }

    [Fact]
    public async Task A_file_with_one_bad_line_changes_nobody()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var plan = await browser.DropAsync(Ldif.People(("good", "Vet")) + "dn: uid=bad\nobjectClass: person\nuid: bad\ncn:: ???\n");
        Assert.False(plan.MayApply);
        Assert.Equal(13, Assert.Single(plan.Run.Problems).Line);
        using var refused = await browser.ApplyAsync(plan.Run.Id);
        Assert.Equal("has-problems", (await Problem.ReadAsync(refused)).Code);
        Assert.Equal(0, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
    }

    [Fact]
    public async Task Two_administrators_with_two_files_cannot_overwrite_each_other()
    {
        await using var server = await RunningServer.StartAsync();
        using var first = await server.SignInAsync();
        using var second = await server.SignInAsync();
        var plans = new[] { await first.DropAsync(Ldif.People(("a", "Vet"))), await second.DropAsync(Ldif.People(("b", "Vet"))) };
        var answers = await Task.WhenAll(
            first.ApplyAsync(plans[0].Run.Id),
            second.ApplyAsync(plans[1].Run.Id));
        Assert.Single(answers, answer => answer.StatusCode == HttpStatusCode.NoContent);
        Assert.Equal("stale", (await Problem.ReadAsync(answers.Single(answer => answer.StatusCode == HttpStatusCode.Conflict))).Code);
        Assert.Equal(1, (await first.GetAsync<PeopleAnswer>("api/people")).Total);
    }

    [Fact]
    public async Task Two_hundred_megabytes_are_answered_with_a_line_and_do_not_fill_the_memory()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        using var file = new EndlessContent(200L << 20);
        file.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        var before = GC.GetTotalMemory(forceFullCollection: true);
        var plan = await browser.DropAsync(file);
        var problem = plan.Run.Problems[^1];
        Assert.Contains("100 MiB", problem.Message, StringComparison.Ordinal);
        Assert.True(problem.Line > 100_000);
        Assert.False(plan.MayApply);
        Assert.InRange(GC.GetTotalMemory(forceFullCollection: true) - before, long.MinValue, 64 << 20);
    }

    [Fact]
    public async Task A_hostile_name_is_kept_and_shown_as_exactly_itself()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync($"dn: uid=x\nobjectClass: person\nuid: x\ncn:: {Convert.ToBase64String(Encoding.UTF8.GetBytes(Hostile))}\nmail: x@brackenfold.example\n");
        var person = await browser.FindAsync("Söhne");
        Assert.Equal(Hostile, person.Name);
        var lens = await browser.GetAsync<LensAnswer>($"api/lens?person={person.Id}");
        Assert.Contains("&lt;script&gt;alert(1)&lt;/script&gt; &amp; Söhne \"x\"", lens.Signature!.Html, StringComparison.Ordinal);
        Assert.Contains(Hostile, lens.Signature.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Search_takes_its_wildcards_literally()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "100 % vet"), ("joel", "Vet")));
        Assert.Equal(1, (await browser.GetAsync<PeopleAnswer>("api/people?search=%25")).Total);
        Assert.Equal(0, (await browser.GetAsync<PeopleAnswer>("api/people?search=_____________")).Total);
    }

    /// <summary>A valid file that goes on for so many bytes, made as it is sent; people differ, so that the reader keeps them.</summary>
    private sealed class EndlessContent(long length) : HttpContent
    {
        protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context)
        {
            var filler = new string('x', 900);
            for (long sent = 0, number = 0; sent < length; number++)
            {
                var entry = Encoding.ASCII.GetBytes($"dn: uid=p{number}\nobjectClass: person\nuid: p{number}\ncn: Person {number}\ndescription: {filler}\n\n");
                await stream.WriteAsync(entry);
                sent += entry.Length;
            }
        }

        protected override bool TryComputeLength(out long computed)
        {
            computed = 0;
            return false;
        }
    }
}

/// <summary>Small directory files.</summary>
internal static class Ldif
{
    public static string Person(string uid, string title = "Vet", string? mail = null) =>
        $"dn: uid={uid},dc=brackenfold,dc=example\nobjectClass: inetOrgPerson\nuid: {uid}\ncn: {uid}\nsn: {uid}\ntitle: {title}\ntelephoneNumber: +44 20 7946 0000\nmail: {mail ?? uid + "@brackenfold.example"}\n\n";

    public static string People(params (string Uid, string Title)[] people) => string.Concat(people.Select(person => Person(person.Uid, person.Title)));
}
