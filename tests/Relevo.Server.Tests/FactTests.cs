using System.Collections.Immutable;
using System.Net;
using System.Text;
using Relevo.Core.People;
using Relevo.Server.Lens;
using Relevo.Server.People;

namespace Relevo.Server.Tests;

/// <summary>Facts on their layers: units, overrides, fields of one's own, files out.</summary>
public sealed class FactTests
{
    [Fact]
    public async Task An_offices_number_reaches_everybody_there_who_has_none_and_nobody_else()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(In("Berlin", "own", "+49 30 23125 118") + In("Berlin", "none", "") + In("Bath", "elsewhere", ""));
        var berlin = await UnitAsync(browser, "Berlin");
        Assert.Equal((UnitKind.Office, 2), (berlin.Kind, berlin.People));
        using var saved = await browser.PutAsync($"api/units/{berlin.Id}", new UnitRequest(UnitKind.Office, "Berlin", null, Facts(("telephone", "+49 30 23125 100"))), berlin.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        Assert.Equal(("+49 30 23125 118", Layer.Source), await TelephoneAsync(browser, "own"));
        Assert.Equal(("+49 30 23125 100", Layer.Office), await TelephoneAsync(browser, "none"));
        Assert.Equal(("", null), await TelephoneAsync(browser, "elsewhere"));
        Assert.Equal(1, (await UnitAsync(browser, "Berlin")).Uses["telephone"]);
        var lens = await browser.GetAsync<LensAnswer>($"api/lens?person={(await browser.FindAsync("none")).Id}");
        Assert.Contains("tel:+493023125100", lens.Signature!.Html, StringComparison.Ordinal);

        using var lost = await browser.PutAsync($"api/units/{berlin.Id}", new UnitRequest(UnitKind.Office, "Berlin", null, Facts()), berlin.Revision);
        Assert.Equal("lost-update", (await Problem.ReadAsync(lost)).Code);
    }

    [Fact]
    public async Task A_team_inside_itself_is_refused_and_one_inside_another_takes_its_facts()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(In("Berlin", "mia", "").Replace("title: Vet", "title: Vet\ndepartmentNumber: Night", StringComparison.Ordinal));
        using var added = await browser.PostAsync("api/units", new UnitRequest(UnitKind.Team, "Surgery", null, Facts(("telephone", "+49 30 23125 200"))));
        Assert.Equal(HttpStatusCode.Created, added.StatusCode);
        var (night, surgery) = (await UnitAsync(browser, "Night"), await UnitAsync(browser, "Surgery"));
        using var inside = await browser.PutAsync($"api/units/{night.Id}", new UnitRequest(UnitKind.Team, "Night", surgery.Id, Facts()), night.Revision);
        Assert.Equal(HttpStatusCode.NoContent, inside.StatusCode);
        Assert.Equal(("+49 30 23125 200", Layer.Team), await TelephoneAsync(browser, "mia"));
        using var loop = await browser.PutAsync($"api/units/{surgery.Id}", new UnitRequest(UnitKind.Team, "Surgery", night.Id, Facts()), surgery.Revision);
        Assert.Equal("unit-loop", (await Problem.ReadAsync(loop)).Faults[0].Code);
        using var twice = await browser.PostAsync("api/units", new UnitRequest(UnitKind.Team, "surgery", null, Facts()));
        Assert.Equal("name-taken", (await Problem.ReadAsync(twice)).Code);
        using var odd = await browser.PostAsync("api/units", new UnitRequest(UnitKind.Office, "Rome", null, Facts(("displayName", "x"))));
        Assert.Equal("/facts/displayName", (await Problem.ReadAsync(odd)).Faults[0].Pointer);
    }

    [Fact]
    public async Task An_override_stands_above_the_source_for_the_person_or_one_account_and_is_told()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        static string Mia(string title) => Ldif.Person("mia", title).Replace("mail: mia@", "mail: m@brackenfold.example\nmail: mia@", StringComparison.Ordinal);
        await browser.ApplyAsync(Mia("Vet"));
        var id = (await browser.FindAsync("mia")).Id;
        await SetAsync(browser, id, "title", null, "Chief");
        await SetAsync(browser, id, "telephone", null, "");
        Assert.Equal(("", Layer.Override), await TelephoneAsync(browser, "mia"));
        var account = (await browser.GetAsync<PersonAnswer>($"api/people/{id}")).Accounts.Single(candidate => candidate.Kind == AccountKind.Alias);
        await SetAsync(browser, id, "title", account.Id, "Surgeon on duty");
        Assert.Equal("Chief", await TitleAsync(browser, id, "m@brackenfold.example"));
        Assert.Equal("Surgeon on duty", await TitleAsync(browser, id, account.Address));
        // The next sync changes what lies beneath, and not the override.
        await browser.ApplyAsync(Mia("Senior vet"));
        Assert.Equal("Chief", await TitleAsync(browser, id, "m@brackenfold.example"));
        await SetAsync(browser, id, "title", null, null);
        Assert.Equal("Senior vet", await TitleAsync(browser, id, "m@brackenfold.example"));
        var history = await browser.GetAsync<PersonEvent[]>($"api/people/{id}/history");
        Assert.Contains(history, line => line.What == "override set" && line.Changes.Any(change => change is { Field: "Title", Before: null, After: "Chief" }));

        using var tooLong = await browser.PutAsync($"api/people/{id}/fields/title", new SetFieldRequest(null, new string('x', 1001)), null);
        Assert.Equal("value-refused", (await Problem.ReadAsync(tooLong)).Faults[0].Code);
        using var foreign = await browser.PutAsync($"api/people/{Guid.NewGuid()}/fields/title", new SetFieldRequest(account.Id, "x"), null);
        Assert.Equal(HttpStatusCode.NotFound, foreign.StatusCode);
    }

    [Fact]
    public async Task Many_are_set_at_once_by_id_or_by_what_finds_them()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet"), ("joel", "Vet"), ("ann", "Nurse")));
        using var set = await browser.PostAsync("api/people/overrides", new SetManyRequest(new PeopleSelection(null, PeopleQuery.Everybody with { Search = "vet" }), "title", "Surgeon"));
        Assert.Equal(2, (await Browser.ReadAsync<CountAnswer>(set)).Count);
        Assert.Equal(["Nurse", "Surgeon", "Surgeon"], (await browser.GetAsync<PeopleAnswer>("api/people")).People.Select(person => person.Title));
        Assert.Equal(2, (await browser.GetAsync<PeopleAnswer>("api/people?state=overridden")).Total);
        using var unknown = await browser.PostAsync("api/people/overrides", new SetManyRequest(new PeopleSelection([], null), "nonsense", "x"));
        Assert.Equal("field-unknown", (await Problem.ReadAsync(unknown)).Faults[0].Code);
    }

    [Fact]
    public async Task A_field_of_ones_own_is_read_checked_shown_and_keeps_its_place()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var set = await browser.GetAsync<FieldSetAnswer>("api/field-set");
        var badge = new OwnField("badge", "Badge", FieldKind.Choice, ["badgeColour"], [FieldHolder.Person], FieldRule.Closed with { Choices = ["red", "blue"] }, PhoneDisplay.International, false);
        using var saved = await browser.PutAsync("api/field-set", set.Fields with { Own = [badge] }, set.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        var plan = await browser.DropAsync(Ldif.Person("mia").Replace("title: Vet", "badgeColour: red", StringComparison.Ordinal) + Ldif.Person("joel").Replace("title: Vet", "badgeColour: green", StringComparison.Ordinal));
        Assert.Equal(("joel", "Badge", "green"), (plan.Run.Refused[0].Person, plan.Run.Refused[0].Field, plan.Run.Refused[0].Value));
        using var applied = await browser.ApplyAsync(plan.Run.Id);
        Assert.Equal("red", (await browser.GetAsync<PersonAnswer>($"api/people/{(await browser.FindAsync("mia")).Id}")).Fields.Single(field => field.Name == "badge").Text);
        using var renamed = await browser.PutAsync("api/field-set", set.Fields with { Own = [badge with { Name = "tag" }] }, set.Revision + 1);
        Assert.Equal("field-kept", (await Problem.ReadAsync(renamed)).Faults[0].Code);
        using var evil = await browser.PutAsync("api/field-set", set.Fields with { Own = [badge, badge with { Name = "code", Kind = FieldKind.Text, Rule = FieldRule.Closed with { Pattern = "(" } }] }, set.Revision + 1);
        Assert.Equal("/own/1/rule/pattern", (await Problem.ReadAsync(evil)).Faults[0].Pointer);
    }

    [Fact]
    public async Task A_profile_link_stands_with_the_companys_facts_is_counted_and_doubted()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia") + Ldif.Person("joel"));
        var set = await browser.GetAsync<FieldSetAnswer>("api/field-set");
        var posts = new OwnField("posts", "Posts", FieldKind.Web, [], [FieldHolder.Company, FieldHolder.Person], FieldRule.Closed, PhoneDisplay.International, false, ProfileKind.Posts);
        using var made = await browser.PutAsync("api/field-set", set.Fields with { Own = [posts] }, set.Revision);
        Assert.Equal(ProfileKind.Posts, (await browser.GetAsync<FieldAnswer[]>("api/fields")).Single(field => field.Name == "posts").Profile);
        var company = (await browser.GetAsync<UnitAnswer[]>("api/units")).Single(unit => unit.Kind == UnitKind.Company);
        using var saved = await browser.PutAsync($"api/units/{company.Id}", new UnitRequest(UnitKind.Company, company.Name, null, Facts(("posts", "https://posts.example/"))), company.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        company = (await browser.GetAsync<UnitAnswer[]>("api/units")).Single(unit => unit.Kind == UnitKind.Company);
        Assert.Equal(2, company.Uses["posts"]);
        Assert.Contains("front page", company.Doubts["posts"], StringComparison.Ordinal);
    }

    [Fact]
    public async Task Employees_set_what_is_opened_to_them_and_ask_for_what_needs_a_yes()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        var mia = (await browser.FindAsync("mia")).Id;
        await server.AddUserAsync("mia@brackenfold.example", "a-password-for-mia", Relevo.Data.UserRole.Employee, mia);
        using var employee = await server.VisitAsync();
        using var signedIn = await employee.PostAsync("api/session", new SignIn.SignInRequest("mia@brackenfold.example", "a-password-for-mia"));
        await employee.LoadSessionAsync();
        using var closed = await employee.PutAsync("api/own/fields/pronouns", new SetOwnRequest("she/her"), null);
        Assert.Equal("field-fixed", (await Problem.ReadAsync(closed)).Code);
        var set = await browser.GetAsync<FieldSetAnswer>("api/field-set");
        var rule = FieldRule.Closed with { IsOpen = true, MaxLength = 20 };
        var opened = set.Fields with { Standard = set.Fields.Standard.Add("pronouns", new(rule, PhoneDisplay.International)).Add("title", new(rule with { NeedsApproval = true }, PhoneDisplay.International)) };
        using var saved = await browser.PutAsync("api/field-set", opened, set.Revision);

        using var own = await employee.PutAsync("api/own/fields/pronouns", new SetOwnRequest("she/her"), null);
        Assert.Equal(HttpStatusCode.NoContent, own.StatusCode);
        var field = (await browser.GetAsync<PersonAnswer>($"api/people/{mia}")).Fields.Single(candidate => candidate.Name == "pronouns");
        Assert.Equal(("she/her", Layer.Own), (field.Text, field.Origin));
        using var tooLong = await employee.PutAsync("api/own/fields/pronouns", new SetOwnRequest(new string('x', 21)), null);
        Assert.Equal("value-refused", (await Problem.ReadAsync(tooLong)).Faults[0].Code);

        using var asked = await employee.PutAsync("api/own/fields/title", new SetOwnRequest("Chief"), null);
        Assert.Equal("Vet", (await browser.FindAsync("mia")).Title);
        Assert.True((await employee.GetAsync<OpenField[]>("api/own/fields")).Single(open => open.Name == "title").IsWaiting);
        var wish = Assert.Single(await browser.GetAsync<WaitingWish[]>("api/wishes"));
        Assert.Equal(("mia", "Title", "Chief", "Vet"), (wish.Person, wish.Label, wish.Value, wish.Shown));
        using var granted = await browser.PostAsync($"api/wishes/{mia}/title", new AnswerWish(true));
        Assert.Equal("Chief", (await browser.FindAsync("mia")).Title);
        Assert.Empty(await browser.GetAsync<WaitingWish[]>("api/wishes"));
        using var foreign = await employee.Http.GetAsync(new Uri("api/wishes", UriKind.Relative));
        Assert.Equal(HttpStatusCode.Forbidden, foreign.StatusCode);
    }

    [Fact]
    public async Task The_list_says_what_is_missing_for_the_designs_in_use_and_finds_whom()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.Person("mia") + Ldif.Person("joel").Replace("title: Vet", "mobile: +46 8 465 004 12", StringComparison.Ordinal) + Ldif.Person("ann").Replace("telephoneNumber: +44 20 7946 0000", "telephoneNumber: ask", StringComparison.Ordinal));
        var facets = (await browser.GetAsync<PeopleAnswer>("api/people?facets=true")).Facets!;
        Assert.Equal(2, facets["missing"].Single(count => count.Key == "mobile").Count);
        Assert.DoesNotContain(facets["missing"], count => count.Key == "fax"); // no design shows it
        Assert.Equal(["ann", "mia"], (await browser.GetAsync<PeopleAnswer>("api/people?missing=mobile")).People.Select(person => person.Name));
        Assert.Equal(["ann"], (await browser.GetAsync<PeopleAnswer>("api/people?state=doubtful")).People.Select(person => person.Name));
        Assert.Equal("Title", (await browser.GetAsync<PersonAnswer>($"api/people/{(await browser.FindAsync("joel")).Id}")).Lacks.Single(label => label == "Title"));
    }

    /// <summary>Sources: RFC 4180 for the table, RFC 6350 for the cards.</summary>
    [Fact]
    public async Task People_go_out_as_a_table_and_as_cards()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia", "Vet, \"senior\""));
        var selection = new PeopleSelection([(await browser.FindAsync("mia")).Id], null);
        using var table = await browser.PostAsync("api/people/export", new ExportRequest(selection, "csv"));
        var bytes = await table.Content.ReadAsByteArrayAsync();
        Assert.Equal([0xEF, 0xBB, 0xBF], bytes[..3]);
        var lines = Encoding.UTF8.GetString(bytes.AsSpan(3)).Split("\r\n");
        Assert.StartsWith("Name,Given name,Surname,", lines[0], StringComparison.Ordinal);
        Assert.Contains("\"Vet, \"\"senior\"\"\"", lines[1], StringComparison.Ordinal);
        using var cards = await browser.PostAsync("api/people/export", new ExportRequest(selection, "vcard"));
        var card = await cards.Content.ReadAsStringAsync();
        Assert.StartsWith("BEGIN:VCARD\r\nVERSION:4.0\r\n", card, StringComparison.Ordinal);
        Assert.Contains("TEL;VALUE=uri;TYPE=\"work,voice\":tel:+442079460000\r\n", card, StringComparison.Ordinal);
        Assert.Contains("TITLE:Vet\\, \"senior\"\r\n", card, StringComparison.Ordinal);
        Assert.All(card.Split("\r\n"), line => Assert.True(Encoding.UTF8.GetByteCount(line) <= 75, line));
        using var unknown = await browser.PostAsync("api/people/export", new ExportRequest(selection, "xls"));
        Assert.Equal("format-unknown", (await Problem.ReadAsync(unknown)).Code);
    }

    private static string In(string office, string uid, string telephone) =>
        Ldif.Person(uid).Replace("telephoneNumber: +44 20 7946 0000\n", telephone.Length > 0 ? $"telephoneNumber: {telephone}\nl: {office}\n" : $"l: {office}\n", StringComparison.Ordinal);

    private static ImmutableSortedDictionary<string, string> Facts(params (string Field, string Value)[] facts) => facts.ToImmutableSortedDictionary(pair => pair.Field, pair => pair.Value);

    private static async Task<UnitAnswer> UnitAsync(Browser browser, string name) => (await browser.GetAsync<UnitAnswer[]>("api/units")).Single(unit => unit.Name == name);

    private static async Task<(string Text, Layer? Origin)> TelephoneAsync(Browser browser, string name)
    {
        var field = (await browser.GetAsync<PersonAnswer>($"api/people/{(await browser.FindAsync(name)).Id}")).Fields.Single(candidate => candidate.Name == "telephone");
        return (field.Text, field.Origin);
    }

    private static async Task<string> TitleAsync(Browser browser, Guid id, string address) =>
        (await browser.GetAsync<PersonAnswer>($"api/people/{id}?address={address}")).Fields.Single(field => field.Name == "title").Text;

    private static async Task SetAsync(Browser browser, Guid id, string field, Guid? account, string? value)
    {
        using var set = await browser.PutAsync($"api/people/{id}/fields/{field}", new SetFieldRequest(account, value), null);
        Assert.Equal(HttpStatusCode.NoContent, set.StatusCode);
    }
}
