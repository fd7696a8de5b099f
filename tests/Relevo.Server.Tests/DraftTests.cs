using System.Net;
using System.Text;
using Relevo.Core.Designs;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Designs;
using Relevo.Server.Lens;
using Relevo.Server.Proof;
using Relevo.Server.Rules;
using Relevo.Server.SignIn;

namespace Relevo.Server.Tests;

public sealed class DraftTests
{
    [Fact]
    public async Task Two_editors_of_one_design_see_each_other_and_neither_sees_itself()
    {
        await using var server = await RunningServer.StartAsync();
        using var ines = await server.SignInAsync();
        await server.AddUserAsync("tom@brackenfold.example", "a-second-pair-of-hands", UserRole.Administrator);
        using var tom = await server.VisitAsync();
        using var signedIn = await tom.PostAsync("api/session", new SignInRequest("tom@brackenfold.example", "a-second-pair-of-hands"));
        await tom.LoadSessionAsync();
        var design = (await ines.OpenStarterAsync("two-lines", "Short")).Id;
        Assert.Empty(await Browser.ReadAsync<string[]>(await ines.PostAsync($"api/designs/{design}/editors", new { })));
        Assert.NotEmpty(await Browser.ReadAsync<string[]>(await tom.PostAsync($"api/designs/{design}/editors", new { })));
        Assert.Equal(["tom@brackenfold.example"], await Browser.ReadAsync<string[]>(await ines.PostAsync($"api/designs/{design}/editors", new { })));
        using var nowhere = await ines.PostAsync($"api/designs/{Guid.NewGuid()}/editors", new { });
        Assert.Equal(HttpStatusCode.NotFound, nowhere.StatusCode);
    }

    [Fact]
    public async Task Designs_of_a_set_follow_its_theme_and_are_copied_together()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var full = await browser.OpenStarterAsync("beside-the-mark", "Full");
        var brief = await browser.OpenStarterAsync("two-lines", "Short");
        await browser.SaveDesignAsync(full.Id, full.Document with { Set = "Clinics" });
        await browser.SaveDesignAsync(brief.Id, brief.Document with { Set = "Clinics", Theme = full.Document.Theme });
        var theme = full.Document.Theme with { LineHeight = 160 };
        await browser.SaveDesignAsync(full.Id, full.Document with { Set = "Clinics", Theme = theme });
        var followed = await browser.GetAsync<DesignAnswer>($"api/designs/{brief.Id}");
        Assert.Equal((3, theme), (followed.Revision, followed.Document.Theme));
        Assert.Equal("design followed its set", await server.Database.AskAsync<string>("select action from audit_line order by id desc limit 1"));
        using var late = await browser.PutAsync($"api/designs/{brief.Id}", brief.Document, 2);
        Assert.Equal("lost-update", (await Problem.ReadAsync(late)).Code);
        var alone = await browser.OpenStarterAsync("one-line", "Alone");
        using var joining = await browser.PutAsync($"api/designs/{alone.Id}", alone.Document with { Set = "Clinics" }, 1);
        Assert.Equal("theme-of-set", (await Problem.ReadAsync(joining)).Faults[0].Code);
        var copied = await Browser.ReadAsync<DesignSet>(await browser.PostAsync("api/design-sets/copies", new CopySetRequest("Clinics")));
        Assert.Equal(("Clinics, copy", 2), (copied.Name, copied.Designs.Length));
        Assert.Equal(["Clinics", "Clinics", "", "Clinics, copy", "Clinics, copy"], (await browser.GetAsync<List<DesignRow>>("api/designs")).Select(row => row.Set));
        using var nowhere = await browser.PostAsync("api/design-sets/copies", new CopySetRequest("Nowhere"));
        Assert.Equal(HttpStatusCode.NotFound, nowhere.StatusCode);
    }

    [Fact]
    public async Task Editors_of_one_set_who_save_at_once_wait_for_each_other_and_lose_nothing()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var designs = new List<DesignAnswer>();
        for (var number = 0; number < 4; number++) designs.Add(await browser.OpenStarterAsync("beside-the-mark", $"Design {number}"));
        foreach (var design in designs) await browser.SaveDesignAsync(design.Id, design.Document with { Set = "Clinics" });
        var answers = await Task.WhenAll(designs.Select((design, number) => browser.PutAsync($"api/designs/{design.Id}", design.Document with { Set = "Clinics", Theme = design.Document.Theme with { LineHeight = 150 + number } }, 2)));
        Assert.Single(answers, answer => answer.StatusCode == HttpStatusCode.NoContent); // the others had not seen what it changed
        Assert.All(answers.Where(answer => answer.StatusCode != HttpStatusCode.NoContent), answer => Assert.Equal(HttpStatusCode.PreconditionFailed, answer.StatusCode));
        var sets = await browser.GetAsync<DesignSet[]>("api/design-sets");
        foreach (var design in designs) Assert.Equal(Assert.Single(sets).Theme, (await browser.GetAsync<DesignAnswer>($"api/designs/{design.Id}")).Document.Theme);
    }

    [Fact]
    public async Task A_copy_of_a_design_says_the_same_under_a_name_of_its_own()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var full = await browser.OpenStarterAsync("beside-the-mark", "Full");
        var first = await Browser.ReadAsync<DesignAnswer>(await browser.SendAsync(HttpMethod.Post, $"api/designs/{full.Id}/copies", null));
        var second = await Browser.ReadAsync<DesignAnswer>(await browser.SendAsync(HttpMethod.Post, $"api/designs/{full.Id}/copies", null));
        Assert.Equal(("Full, copy", "Full, copy 2"), (first.Document.Name, second.Document.Name));
        Assert.Equal(full.Document.ToJson(), (second.Document with { Name = "Full" }).ToJson());
        Assert.Equal(3, (await browser.GetAsync<DesignRow[]>("api/designs")).Length);
        using var missing = await browser.SendAsync(HttpMethod.Post, $"api/designs/{Guid.NewGuid()}/copies", null);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, missing.StatusCode);
    }

    [Fact]
    public async Task An_edited_design_is_seen_through_the_lens_at_once()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var (full, _) = await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        await browser.SaveDesignAsync(full.Id, full.Document with
        {
            Blocks = full.Document.Blocks.SetItem("role", new TextLine(TextRole.Text, " ", [new Part([new LiteralRun("Proudly: "), new FieldRun("title")])])),
        });
        Assert.Contains("Proudly: Vet", (await browser.GetAsync<LensAnswer>("api/lens")).Signature!.Html, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Of_two_editors_the_second_is_told_and_nothing_is_overwritten()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var (full, _) = await browser.PrepareAsync();
        using var first = await browser.PutAsync($"api/designs/{full.Id}", full.Document with { Name = "First" }, full.Revision);
        using var second = await browser.PutAsync($"api/designs/{full.Id}", full.Document with { Name = "Second" }, full.Revision);
        Assert.Equal(HttpStatusCode.NoContent, first.StatusCode);
        Assert.Equal((HttpStatusCode.PreconditionFailed, "lost-update"), (second.StatusCode, (await Problem.ReadAsync(second)).Code));
        Assert.Equal("First", (await browser.GetAsync<DesignAnswer>($"api/designs/{full.Id}")).Document.Name);
        using var blind = await browser.PutAsync($"api/designs/{full.Id}", full.Document, null);
        Assert.Equal((HttpStatusCode)428, blind.StatusCode);
    }

    [Theory]
    [InlineData("\"textLine\"", "\"hologram\"", "/kind", "block-unknown")]
    [InlineData("[\"columns\"]", "[\"columns\",\"columns\"]", "/root/1", "block-twice")]
    [InlineData("\"sha256\":\"", "\"sha256\":\"00", "/blocks/logo/sha256", "picture-missing")]
    public async Task A_design_with_a_fault_is_refused_with_its_place(string from, string to, string pointer, string code)
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var (full, _) = await browser.PrepareAsync();
        using var content = new StringContent(full.Document.ToJson().Replace(from, to, StringComparison.Ordinal), Encoding.UTF8, "application/json");
        using var refused = await browser.SendAsync(HttpMethod.Put, $"api/designs/{full.Id}", content, full.Revision);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        var fault = Assert.Single((await Problem.ReadAsync(refused)).Faults);
        Assert.EndsWith(pointer, fault.Pointer, StringComparison.Ordinal);
        Assert.Equal(code, fault.Code);
        Assert.Equal(full.Document.ToJson(), (await browser.GetAsync<DesignAnswer>($"api/designs/{full.Id}")).Document.ToJson());
    }

    [Fact]
    public async Task A_document_that_is_far_too_long_is_refused()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var (full, _) = await browser.PrepareAsync();
        using var content = new StringContent(new string(' ', 600_000), Encoding.UTF8, "application/json");
        using var refused = await browser.SendAsync(HttpMethod.Put, $"api/designs/{full.Id}", content, full.Revision);
        Assert.Equal("too-large", (await Problem.ReadAsync(refused)).Code);
    }

    [Fact]
    public async Task Rules_are_ordered_switched_and_guarded_like_designs()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        var before = await browser.GetAsync<RulesAnswer>("api/rules");
        Assert.Equal("A new message carries Full.", string.Concat(before.Signature[0].Sentence.Select(piece => piece.Text)));
        var turned = new RuleSet([before.Signature[1].Rule, before.Signature[0].Rule with { IsOn = false }]);
        using var saved = await browser.PutAsync("api/rules", turned, before.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        var lens = await browser.GetAsync<LensAnswer>("api/lens?occasion=new");
        Assert.Null(lens.Signature);
        Assert.Equal([TraceOutcome.Failed, TraceOutcome.SwitchedOff], lens.Trace.Select(step => step.Outcome));
        using var late = await browser.PutAsync("api/rules", turned, before.Revision);
        Assert.Equal("lost-update", (await Problem.ReadAsync(late)).Code);
        using var wrong = await browser.PutAsync("api/rules", new RuleSet([turned.Signature[0] with { Then = new CarryDesigns([Guid.NewGuid()]) }]), before.Revision + 1);
        Assert.Equal("/signature/0/then/designs", Assert.Single((await Problem.ReadAsync(wrong)).Faults).Pointer);
    }

    [Fact]
    public async Task Publishing_counts_up_and_only_when_something_changed()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var (full, _) = await browser.PrepareAsync();
        Assert.Equal(1, await browser.PublishAndRollOutAsync());
        Assert.Empty((await browser.GetAsync<ProofAnswer>("api/proof")).Changes);
        using var again = await browser.PostAsync("api/editions", new PublishRequest(1));
        Assert.Equal("nothing-changed", (await Problem.ReadAsync(again)).Code);
        await browser.SaveDesignAsync(full.Id, full.Document with { Name = "Fuller" });
        Assert.Contains((await browser.GetAsync<ProofAnswer>("api/proof")).Changes, change => change.Text.Contains("Renamed", StringComparison.Ordinal));
        Assert.Equal(2, await browser.PublishAndRollOutAsync());
    }

    [Fact]
    public async Task Of_two_who_publish_at_once_one_does()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.PrepareAsync();
        var answers = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => browser.PostAsync("api/editions", new PublishRequest(0))));
        Assert.Single(answers, answer => answer.StatusCode == HttpStatusCode.Created);
        Assert.Equal(1L, await server.Database.AskAsync<long>("select count(*) from edition"));
    }
}
