using System.Collections.Immutable;
using System.Net;
using System.Text;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Relevo.Server.Designs;
using Relevo.Server.Lens;
using Relevo.Server.Proof;
using Relevo.Server.Rules;

namespace Relevo.Server.Tests;

/// <summary>Rules with audiences, disclaimers and banners, through the door.</summary>
public sealed class RuleTests
{
    private static readonly AudienceBook Book = new(["brackenfold.example"], true, [new Audience("practices", "referring practices", ["practice.example"]) { Country = "GB", Language = "de" }]);

    [Fact]
    public async Task The_map_counts_who_gets_what_and_lists_them_and_follows_people_rules_and_audiences()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet"), ("joel", "Nurse")));
        var map = await browser.GetAsync<ReachAnswer>("api/rules/reach");
        Assert.Equal((2, 2 * 3 * 5), (map.Accounts, map.Squares.Length));
        Assert.All(map.Squares, square => Assert.Equal(square.Cell.Occasion == Occasion.New ? [2, 0] : [0, 2], square.Signature));

        await SaveAudiencesAsync(browser);
        var rules = await browser.GetAsync<RulesAnswer>("api/rules");
        var vets = Build(rules.Signature[1].Rule.Then, new ValueCondition("title", ValueTest.OneOf, ["vet"]), new AudienceCondition(["practices"]));
        await SaveAsync(browser, new RuleSet([vets, .. rules.Signature.Select(row => row.Rule)]));
        map = await browser.GetAsync<ReachAnswer>("api/rules/reach");
        Assert.Equal(["inside", "practices", "outside"], map.Audiences);
        Assert.Equal([1, 1, 0], map.Squares.Single(square => square.Cell == new Cell("practices", Occasion.New, "desk-app")).Signature);
        Assert.Equal(1, map.Reached[vets.Id]);
        var listed = await browser.GetAsync<SquareAccounts>("api/rules/accounts?audience=practices&occasion=new&client=desk-app&rule=0");
        Assert.Equal("mia@brackenfold.example", Assert.Single(listed.Accounts).Address);

        await browser.ApplyAsync(Ldif.People(("mia", "Director"), ("joel", "Nurse"), ("ove", "Vet")));
        listed = await browser.GetAsync<SquareAccounts>("api/rules/accounts?audience=practices&occasion=new&client=desk-app&rule=0");
        Assert.Equal("ove@brackenfold.example", Assert.Single(listed.Accounts).Address);
        foreach (var path in new[] { "audience=nobody&occasion=new&client=desk-app&rule=0", "audience=inside&occasion=9&client=desk-app&rule=0", "audience=inside&occasion=new&client=desk-app&rule=9", "audience=inside&occasion=new&client=desk-app&rule=-1&track=banner" })
            Assert.Equal(HttpStatusCode.NotFound, (await browser.Http.GetAsync(new Uri("api/rules/accounts?" + path, UriKind.Relative))).StatusCode);
        foreach (var path in new[] { "api/rules/reach?moment=soon", "api/lens?moment=9999-12-31T23:59:59Z", "api/lens?moment=-0001-01-01T00:00:00Z" })
        {
            using var odd = await browser.Http.GetAsync(new Uri(path, UriKind.Relative));
            Assert.Equal("moment-form", (await Problem.ReadAsync(odd)).Code);
        }
    }

    [Fact]
    public async Task Rules_that_are_tried_show_what_would_change_and_nothing_is_kept()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet"), ("joel", "Nurse")));
        var rules = await browser.GetAsync<RulesAnswer>("api/rules");
        var first = Build(new CarryNothing(), new ValueCondition("title", ValueTest.OneOf, ["Nurse"]));
        var tried = await Browser.ReadAsync<ReachAnswer>(await browser.PostAsync("api/rules/reach", new RuleSet([first, .. rules.Signature.Select(row => row.Rule)])));
        Assert.Equal([(rules.Signature[0].Rule.Id, 1, 10), (rules.Signature[1].Rule.Id, 1, 20)], tried.Shifts.Select(shift => (shift.From!.Value, shift.Accounts, shift.Squares)).OrderBy(shift => shift.Item3));
        Assert.Equal(["joel@brackenfold.example"], tried.Shifts[0].First);
        Assert.Equal(2, (await browser.GetAsync<RulesAnswer>("api/rules")).Signature.Length);
        foreach (var unreadable in new[] { "{\"signature\":[{\"id\":\"00000000-0000-0000-0000-000000000001\",\"isOn\":true,\"conditions\":[{}],\"then\":{\"kind\":\"nothing\"}}]}", "{\"signature\":[{\"id\":\"00000000-0000-0000-0000-000000000001\",\"isOn\":true,\"conditions\":[],\"then\":{}}]}" })
        {
            using var kindless = await browser.SendAsync(HttpMethod.Post, "api/rules/reach", new StringContent(unreadable, Encoding.UTF8, "application/json"));
            Assert.Equal("unreadable", (await Problem.ReadAsync(kindless)).Code);
        }

        var notice = await Browser.ReadAsync<DisclaimerRow>(await browser.PostAsync("api/disclaimers", new Disclaimer("Notice", DisclaimerLanguage.Person, "en", Texts(("en", "For you alone.")))));
        var adds = Build(new AddDisclaimers([notice.Id]), new ValueCondition("title", ValueTest.OneOf, ["Nurse"]));
        tried = await Browser.ReadAsync<ReachAnswer>(await browser.PostAsync("api/rules/reach", new RuleSet([.. rules.Signature.Select(row => row.Rule)]) { Disclaimer = [adds] }));
        Assert.Empty(tried.Shifts);
        Assert.Equal(new ReachGain(Track.Disclaimer, adds.Id, 1, 0), Assert.Single(tried.Gains));
        using var faulty = await browser.PostAsync("api/rules/reach", new RuleSet([first with { Conditions = [new OccasionCondition([])] }]));
        Assert.Equal("/signature/0/conditions/0/occasions", Assert.Single((await Problem.ReadAsync(faulty)).Faults).Pointer);
    }

    [Fact]
    public async Task An_expectation_that_fails_stops_publishing_with_its_trace_and_so_does_a_rule_that_names_what_is_gone()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var (full, brief) = await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        var rules = new RuleSet([.. (await browser.GetAsync<RulesAnswer>("api/rules")).Signature.Select(row => row.Rule)]);
        await SaveAsync(browser, rules with { Tests = [new RuleTest(Guid.NewGuid(), "Answers are full", [new OccasionCondition([Occasion.Reply])], [full.Id])] });
        using var refused = await browser.PostAsync("api/editions", new PublishRequest(0));
        var problem = await Problem.ReadAsync(refused);
        Assert.Equal("rules-stop", problem.Code);
        Assert.Equal("The expectation \"Answers are full\" fails in 10 of 10 situations: mia@brackenfold.example gets Short by rule 2, because this is a reply.", problem.Faults[0].Message);
        Assert.Equal((false, 1), ((await browser.GetAsync<ProofAnswer>("api/proof")).MayPublish, (await browser.GetAsync<ProofAnswer>("api/proof")).Stops.Length));
        await SaveAsync(browser, rules with { Tests = [new RuleTest(Guid.NewGuid(), "Answers are short", [new OccasionCondition([Occasion.Reply])], [brief.Id])] });
        Assert.Equal(1, await browser.PublishAndRollOutAsync());
    }

    [Fact]
    public async Task Disclaimers_and_banners_go_with_the_situation_the_lens_looks_through_and_are_refused_to_go_while_rules_name_them()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        await SaveAudiencesAsync(browser);
        var notice = await Browser.ReadAsync<DisclaimerRow>(await browser.PostAsync("api/disclaimers", new Disclaimer("Notice", DisclaimerLanguage.Audience, "en", Texts(("en", "For you alone, {displayName}."), ("de", "Nur für Sie.")))));
        var banner = await Browser.ReadAsync<BannerRow>(await browser.PostAsync("api/banners", new Banner("Ticks", BannerLayout.OneLine, "Ticks", "", "Book", "https://brackenfold.example") { Runs = new TimeCondition("UTC") { Until = "2031-01-01T00:00" } }));
        Assert.Equal(("running", "over"), (banner.State, (await Browser.ReadAsync<BannerRow>(await browser.PostAsync("api/banners", banner.Document with { Runs = new TimeCondition("UTC") { Until = "2020-01-01T00:00" } }))).State));
        var rules = await browser.GetAsync<RulesAnswer>("api/rules");
        await SaveAsync(browser, new RuleSet([.. rules.Signature.Select(row => row.Rule)]) { Disclaimer = [Build(new StopDisclaimers(), new AudienceCondition(["inside"])), Build(new AddDisclaimers([notice.Id]))], Banner = [Build(new ShowBanner(banner.Id))] });

        var outside = await browser.GetAsync<LensAnswer>("api/lens");
        Assert.Equal(["Notice"], outside.Disclaimers);
        Assert.EndsWith("For you alone, mia.\n", outside.Signature!.Text, StringComparison.Ordinal);
        Assert.EndsWith("Nur für Sie.\n", (await browser.GetAsync<LensAnswer>("api/lens?audience=practices")).Signature!.Text, StringComparison.Ordinal);
        var inside = await browser.GetAsync<LensAnswer>("api/lens?audience=inside&occasion=reply&client=relay&moment=2030-06-01T12:00:00Z");
        Assert.DoesNotContain("alone", inside.Signature!.Text, StringComparison.Ordinal);
        Assert.Equal(("2030-06-01T12:00:00Z", "relay"), (inside.Moment, inside.Client));
        Assert.Contains(inside.Trace, step => step is { Track: Track.Disclaimer, Number: 2, Outcome: TraceOutcome.NotReached });
        Assert.Empty((await browser.GetAsync<LensAnswer>("api/lens?moment=2031-06-01T12:00:00Z")).Banners);

        Assert.Equal([2], (await browser.GetAsync<DisclaimerRow[]>("api/disclaimers")).Single().UsedBy);
        using var kept = await browser.DeleteAsync($"api/disclaimers/{notice.Id}", 1);
        Assert.Equal("in-use", (await Problem.ReadAsync(kept)).Code);
        using var stays = await browser.DeleteAsync($"api/banners/{banner.Id}", 1);
        Assert.Equal("in-use", (await Problem.ReadAsync(stays)).Code);
        Assert.Equal(7, (await Browser.ReadAsync<DrawnBanner[]>(await browser.PostAsync("api/banners/drawn", banner.Document))).Length);
        var calendar = await browser.GetAsync<BannerRun[]>("api/banners/calendar?from=2030-12-25&until=2031-01-10");
        Assert.Equal(7, calendar.Single(run => run.Banner == banner.Id).Days.Length);
        Assert.Equal(["Every message shows Ticks."], calendar.Single(run => run.Banner == banner.Id).For);
    }

    [Fact]
    public async Task Numbers_are_shown_as_dialled_at_home_to_an_audience_in_the_same_country()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        await SaveAudiencesAsync(browser);
        var (fields, revision) = (server.Services.GetService(typeof(Data.FieldSetStore)) as Data.FieldSetStore) is { } store ? (store, (await store.ReadAsync(CancellationToken.None)).Revision) : throw new InvalidOperationException();
        var set = FieldSet.Empty with { Standard = FieldSet.Empty.Standard.Add("telephone", new StandardFieldSetting(FieldRule.Closed, PhoneDisplay.NationalAtHome)) };
        await fields.SaveAsync(revision, set, new Data.Actor((await server.AddUserAsync("x@brackenfold.example", "a-long-password", Data.UserRole.Administrator)).Id, "x"), CancellationToken.None);
        Assert.Contains("+44 20 7946 0000", (await browser.GetAsync<LensAnswer>("api/lens?audience=outside")).Signature!.Text, StringComparison.Ordinal);
        Assert.Contains("020 7946 0000", (await browser.GetAsync<LensAnswer>("api/lens?audience=practices")).Signature!.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Audiences_are_kept_guarded_read_from_a_table_and_asked_about_recipients()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await SaveAudiencesAsync(browser);
        using var faulty = await browser.PutAsync("api/audiences", Book with { Named = [Book.Named[0] with { Members = ["ok.example", "not ok"] }] }, 2);
        Assert.Equal(("/named/0/members/1", 2L), (await Problem.ReadAsync(faulty)).Faults.Select(fault => (fault.Pointer, fault.Line)).Single());
        using var late = await browser.PutAsync("api/audiences", Book, 1);
        Assert.Equal("lost-update", (await Problem.ReadAsync(late)).Code);
        var table = string.Join('\n', Enumerable.Range(1, 50_000).Select(number => number == 312 ? "oops oops" : $"d{number}.example"));
        using var refused = await browser.SendAsync(HttpMethod.Post, "api/audiences/members", new StringContent(table, Encoding.UTF8, "text/csv"));
        Assert.Equal(312, Assert.Single((await Problem.ReadAsync(refused)).Faults).Line);
        var members = await Browser.ReadAsync<MembersAnswer>(await browser.SendAsync(HttpMethod.Post, "api/audiences/members", new StringContent(table.Replace("oops oops", "mended.example", StringComparison.Ordinal), Encoding.UTF8, "text/csv")));
        Assert.Equal(50_000, members.Members.Length);
        using var large = await browser.PutAsync("api/audiences", Book with { Named = [Book.Named[0] with { Members = members.Members }] }, 2);
        Assert.Equal(HttpStatusCode.NoContent, large.StatusCode);
        var answer = await Browser.ReadAsync<RecipientsAnswer>(await browser.PostAsync("api/audiences/recipients", new RecipientsRequest("Mia <mia@brackenfold.example>, a@d49999.example")));
        Assert.Equal(("practices", "a@d49999.example"), (answer.Audience, answer.Deciding));
    }

    [Fact]
    public async Task Rules_and_audiences_go_out_as_a_file_and_come_back_whole_or_not_at_all()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await SaveAudiencesAsync(browser);
        var file = await browser.GetAsync<RuleFile>("api/rules/file");
        await SaveAsync(browser, RuleSet.Empty);
        var seen = (await browser.GetAsync<RulesAnswer>("api/rules")).Revision;
        using var broken = await browser.SendAsync(HttpMethod.Post, "api/rules/file", Json(file with { Audiences = file.Audiences with { OwnDomains = ["not ok"] } }), seen);
        Assert.Equal("/audiences/ownDomains/0", Assert.Single((await Problem.ReadAsync(broken)).Faults).Pointer);
        using var late = await browser.SendAsync(HttpMethod.Post, "api/rules/file", Json(file with { Audiences = AudienceBook.Empty }), seen - 1);
        Assert.Equal("lost-update", (await Problem.ReadAsync(late)).Code);
        Assert.Equal("practices", (await browser.GetAsync<AudiencesAnswer>("api/audiences")).Book.Named.Single().Key);
        using var taken = await browser.SendAsync(HttpMethod.Post, "api/rules/file", Json(file), seen);
        Assert.Equal(HttpStatusCode.NoContent, taken.StatusCode);
        Assert.Equal(2, (await browser.GetAsync<RulesAnswer>("api/rules")).Signature.Length);
    }

    [Fact]
    public async Task Company_facts_reach_people_with_the_edition_they_were_published_in()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        Assert.Equal(1, await browser.PublishAndRollOutAsync());
        var company = (await browser.GetAsync<People.UnitAnswer[]>("api/units")).Single(unit => unit.Kind == UnitKind.Company);
        using var saved = await browser.PutAsync($"api/units/{company.Id}", new People.UnitRequest(UnitKind.Company, company.Name, null, company.Facts.SetItem("webAddress", "https://brackenfold.example/new")), company.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        Assert.Equal("Web address: \"https://brackenfold.example/new\".", Assert.Single((await browser.GetAsync<ProofAnswer>("api/proof")).Changes).Text);
        Assert.Equal(2, await browser.PublishAndRollOutAsync());
    }

    private static StringContent Json(RuleFile file) => new(System.Text.Json.JsonSerializer.Serialize(file, Core.RelevoJson.Options), Encoding.UTF8, "application/json");

    private static Rule Build(Outcome then, params Condition[] conditions) => new(Guid.NewGuid(), true, [.. conditions], then);

    private static ImmutableSortedDictionary<string, DisclaimerText> Texts(params (string Language, string Text)[] texts) => texts.ToImmutableSortedDictionary(text => text.Language, text => new DisclaimerText(text.Text), StringComparer.Ordinal);

    private static async Task SaveAudiencesAsync(Browser browser)
    {
        using var saved = await browser.PutAsync("api/audiences", Book, 1);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
    }

    private static async Task SaveAsync(Browser browser, RuleSet rules)
    {
        using var saved = await browser.PutAsync("api/rules", rules, (await browser.GetAsync<RulesAnswer>("api/rules")).Revision);
        Assert.True(saved.IsSuccessStatusCode, await saved.Content.ReadAsStringAsync());
    }
}
