using System.Collections.Immutable;
using System.Net;
using Relevo.Core.People;
using Relevo.Server.Lens;
using Relevo.Server.People;

namespace Relevo.Server.Tests;

/// <summary>Shared mailboxes: who sends from them, by hand and by group, and what they say for everybody.</summary>
public sealed class MailboxTests
{
    private const string Reception = "reception@brackenfold.example";
    private const string Desk = "dn: cn=Front desk,dc=brackenfold,dc=example\nobjectClass: groupOfNames\ncn: Front desk\n";

    [Fact]
    public async Task Members_of_a_group_and_people_named_by_hand_send_from_it_with_its_name_and_number()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Company("mia", "joel"));
        var (mia, ann) = ((await browser.FindAsync("mia")).Id, (await browser.FindAsync("ann")).Id);
        Assert.Equal(new GroupAnswer("Front desk", 2), Assert.Single(await browser.GetAsync<GroupAnswer[]>("api/groups")));
        await AddAsync(browser, ["front DESK"], [ann], ("displayName", "Reception"), ("telephone", "+44 20 7946 0900"));

        var mailbox = Assert.Single(await browser.GetAsync<MailboxAnswer[]>("api/mailboxes"));
        Assert.Equal([("ann", true), ("joel", false), ("mia", false)], mailbox.Senders.Select(sender => (sender.Name, sender.IsByHand)));
        var person = await browser.GetAsync<PersonAnswer>($"api/people/{mia}?address={Reception}");
        Assert.Equal([AccountKind.Own, AccountKind.Shared], person.Accounts.Select(account => account.Kind));
        Assert.Equal(("Reception", Layer.Override, Reception), Field(person, "displayName"));
        Assert.Equal("mia", Field(await browser.GetAsync<PersonAnswer>($"api/people/{mia}"), "displayName").Text);
        var lens = await browser.GetAsync<LensAnswer>($"api/lens?person={mia}&address={Reception}");
        Assert.Contains("tel:+442079460900", lens.Signature!.Html, StringComparison.Ordinal);
        // It is nobody's own: files of people do without it.
        using var table = await browser.PostAsync("api/people/export", new ExportRequest(new PeopleSelection([mia], null), "csv"));
        Assert.DoesNotContain(Reception, await table.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        using var card = await browser.PostAsync("api/people/export", new ExportRequest(new PeopleSelection([mia], null), "vcard"));
        Assert.DoesNotContain(Reception, await card.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        // A person may still have something of their own to say there.
        var account = person.Accounts.Single(candidate => candidate.Kind == AccountKind.Shared);
        using var set = await browser.PutAsync($"api/people/{mia}/fields/telephone", new SetFieldRequest(account.Id, "+44 20 7946 0901"), null);
        Assert.Equal("+44 20 7946 0901", Field(await browser.GetAsync<PersonAnswer>($"api/people/{mia}?address={Reception}"), "telephone").Text);
    }

    [Fact]
    public async Task Who_leaves_the_group_loses_the_account_and_who_comes_back_finds_what_was_set_for_it()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Company("mia", "joel"));
        await AddAsync(browser, ["Front desk"], []);
        var mia = (await browser.FindAsync("mia")).Id;
        var account = (await browser.GetAsync<PersonAnswer>($"api/people/{mia}")).Accounts.Single(candidate => candidate.Kind == AccountKind.Shared);
        using var set = await browser.PutAsync($"api/people/{mia}/fields/title", new SetFieldRequest(account.Id, "Reception lead"), null);
        await browser.ApplyAsync(Company("joel", "ann"));
        Assert.Single((await browser.GetAsync<PersonAnswer>($"api/people/{mia}")).Accounts);
        Assert.Equal(["ann", "joel"], (await MailboxAsync(browser)).Senders.Select(sender => sender.Name));
        await browser.ApplyAsync(Company("mia", "joel"));
        Assert.Equal("Reception lead", Field(await browser.GetAsync<PersonAnswer>($"api/people/{mia}?address={Reception}"), "title").Text);
    }

    [Fact]
    public async Task A_mailbox_changes_for_all_its_senders_at_once_and_goes_with_all_their_accounts()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Company("mia", "joel"));
        await AddAsync(browser, ["Front desk"], [], ("displayName", "Reception"));
        var mailbox = await MailboxAsync(browser);
        using var saved = await browser.PutAsync($"api/mailboxes/{mailbox.Id}", new MailboxRequest("front@brackenfold.example", Facts(("displayName", "Front desk")), ["Front desk"], []), mailbox.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        var mia = (await browser.FindAsync("mia")).Id;
        Assert.Equal("Front desk", Field(await browser.GetAsync<PersonAnswer>($"api/people/{mia}?address=front@brackenfold.example"), "displayName").Text);
        using var lost = await browser.PutAsync($"api/mailboxes/{mailbox.Id}", new MailboxRequest(Reception, Facts(), [], []), mailbox.Revision);
        Assert.Equal("lost-update", (await Problem.ReadAsync(lost)).Code);
        using var gone = await browser.DeleteAsync($"api/mailboxes/{mailbox.Id}", mailbox.Revision + 1);
        Assert.Equal(HttpStatusCode.NoContent, gone.StatusCode);
        Assert.Empty(await browser.GetAsync<MailboxAnswer[]>("api/mailboxes"));
        Assert.Single((await browser.GetAsync<PersonAnswer>($"api/people/{mia}")).Accounts);
    }

    [Fact]
    public async Task What_cannot_be_a_mailbox_is_refused_with_the_place()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Company("mia"));
        using var odd = await browser.PostAsync("api/mailboxes", new MailboxRequest("reception", Facts(("manager", "x"), ("telephone", new string('1', 1001))), [], []));
        Assert.Equal(["/address", "/facts/manager", "/facts/telephone"], (await Problem.ReadAsync(odd)).Faults.Select(fault => fault.Pointer));
        using var taken = await browser.PostAsync("api/mailboxes", new MailboxRequest("MIA@brackenfold.example", Facts(), [], []));
        Assert.Equal("address-taken", (await Problem.ReadAsync(taken)).Code);
        using var nobody = await browser.PostAsync("api/mailboxes", new MailboxRequest(Reception, Facts(), [], [Guid.NewGuid()]));
        Assert.Equal("sender-unknown", (await Problem.ReadAsync(nobody)).Faults[0].Code);
        await AddAsync(browser, [], []);
        using var twice = await browser.PostAsync("api/mailboxes", new MailboxRequest("Reception@brackenfold.example", Facts(), [], []));
        Assert.Equal("address-taken", (await Problem.ReadAsync(twice)).Code);
        using var none = await browser.DeleteAsync($"api/mailboxes/{Guid.NewGuid()}", 1);
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
    }

    [Fact]
    public async Task Whoever_is_retired_by_hand_stays_so_through_syncs_until_brought_back_with_all_accounts()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Company("mia", "joel"));
        await AddAsync(browser, ["Front desk"], []);
        var mia = (await browser.FindAsync("mia")).Id;
        Assert.Equal(1, await RetireAsync(browser, mia, isRetired: true));
        Assert.Equal(0, await RetireAsync(browser, mia, isRetired: true));
        await browser.ApplyAsync(Company("mia", "joel", "ann").Replace("title: Vet", "title: Chief", StringComparison.Ordinal));
        var retired = await browser.GetAsync<PersonAnswer>($"api/people/{mia}");
        Assert.Equal((true, true, 0), (retired.IsRetired, retired.IsRetiredByHand, retired.Accounts.Length));
        Assert.Equal(["ann", "joel"], (await MailboxAsync(browser)).Senders.Select(sender => sender.Name));
        Assert.Equal(1, await RetireAsync(browser, mia, isRetired: false));
        var back = await browser.GetAsync<PersonAnswer>($"api/people/{mia}");
        Assert.Equal((false, "Chief"), (back.IsRetired, Field(back, "title").Text));
        Assert.Equal(["mia@brackenfold.example", Reception], back.Accounts.Select(account => account.Address));
        var history = await browser.GetAsync<PersonEvent[]>($"api/people/{mia}/history");
        Assert.Equal(["brought back", "retired by hand"], history.Select(line => line.What).Where(what => what is "brought back" or "retired by hand"));
    }

    [Fact]
    public async Task A_field_is_opened_to_those_who_are_selected_and_to_nobody_else()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Company("mia", "joel"));
        var mia = (await browser.FindAsync("mia")).Id;
        await server.AddUserAsync("mia@brackenfold.example", "a-password-for-mia", Relevo.Data.UserRole.Employee, mia);
        using var employee = await server.VisitAsync();
        using var signedIn = await employee.PostAsync("api/session", new SignIn.SignInRequest("mia@brackenfold.example", "a-password-for-mia"));
        await employee.LoadSessionAsync();
        using var opened = await browser.PostAsync("api/people/opened", new OpenFieldRequest(new PeopleSelection([mia], null), "pronouns", true));
        Assert.Equal(1, (await Browser.ReadAsync<CountAnswer>(opened)).Count);
        using var own = await employee.PutAsync("api/own/fields/pronouns", new SetOwnRequest("she/her"), null);
        Assert.Equal(HttpStatusCode.NoContent, own.StatusCode);
        Assert.Equal("pronouns", Assert.Single(await employee.GetAsync<OpenField[]>("api/own/fields")).Name);
        using var closed = await browser.PostAsync("api/people/opened", new OpenFieldRequest(new PeopleSelection([mia], null), "pronouns", false));
        Assert.Equal("", Field(await browser.GetAsync<PersonAnswer>($"api/people/{mia}"), "pronouns").Text);
        using var refused = await employee.PutAsync("api/own/fields/pronouns", new SetOwnRequest("they/them"), null);
        Assert.Equal("field-fixed", (await Problem.ReadAsync(refused)).Code);
        using var unknown = await browser.PostAsync("api/people/opened", new OpenFieldRequest(new PeopleSelection([mia], null), "nonsense", true));
        Assert.Equal("field-unknown", (await Problem.ReadAsync(unknown)).Faults[0].Code);
    }

    /// <summary>Three people; those named are at the front desk.</summary>
    private static string Company(params string[] desk) =>
        Ldif.People(("mia", "Vet"), ("joel", "Nurse"), ("ann", "Nurse")) + Desk + string.Concat(desk.Select(uid => $"member: uid={uid},dc=brackenfold,dc=example\n")) + "\n";

    private static ImmutableSortedDictionary<string, string> Facts(params (string Field, string Value)[] facts) => facts.ToImmutableSortedDictionary(pair => pair.Field, pair => pair.Value);

    private static (string Text, Layer? Origin, string Record) Field(PersonAnswer person, string name)
    {
        var field = person.Fields.Single(candidate => candidate.Name == name);
        return (field.Text, field.Origin, field.RecordName);
    }

    private static async Task AddAsync(Browser browser, string[] groups, Guid[] senders, params (string Field, string Value)[] facts)
    {
        using var added = await browser.PostAsync("api/mailboxes", new MailboxRequest(Reception, Facts(facts), [.. groups], [.. senders]));
        Assert.Equal(HttpStatusCode.Created, added.StatusCode);
    }

    private static async Task<MailboxAnswer> MailboxAsync(Browser browser) => Assert.Single(await browser.GetAsync<MailboxAnswer[]>("api/mailboxes"));

    private static async Task<int> RetireAsync(Browser browser, Guid person, bool isRetired)
    {
        using var answer = await browser.PostAsync("api/people/retire", new RetireRequest(new PeopleSelection([person], null), isRetired));
        return (await Browser.ReadAsync<CountAnswer>(answer)).Count;
    }
}
