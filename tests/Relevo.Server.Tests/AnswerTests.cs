using System.Net;
using Relevo.Core.Designs;
using Relevo.Server.Designs;
using Relevo.Server.Proof;

namespace Relevo.Server.Tests;

/// <summary>Ready answers: drafts, lost updates, editions.</summary>
public sealed class AnswerTests
{
    private static readonly ReadyAnswer Confirmed = new("Confirmed", "Visit at {organisation}", "Hello,\n{mobile}\nit is in our book.\n");

    [Fact]
    public async Task A_ready_answer_is_kept_changed_written_for_a_person_and_taken_out()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        var added = await Browser.ReadAsync<AnswerRow>(await browser.PostAsync("api/answers", Confirmed));
        var mia = (await browser.FindAsync("mia")).Id;
        var written = await browser.GetAsync<WrittenAnswer>($"api/answers/{added.Id}/written?person={mia}");
        Assert.Equal("Hello,\nit is in our book.\n", written.Text);

        using var saved = await browser.PutAsync($"api/answers/{added.Id}", Confirmed with { Text = "It is {title}." }, 1);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        using var late = await browser.PutAsync($"api/answers/{added.Id}", Confirmed, 1);
        Assert.Equal(HttpStatusCode.PreconditionFailed, late.StatusCode);
        using var odd = await browser.PutAsync($"api/answers/{added.Id}", Confirmed with { Text = "{shoeSize}" }, 2);
        Assert.Equal("field-unknown", (await Problem.ReadAsync(odd)).Faults[0].Code);
        Assert.Equal("It is {title}.", (await browser.GetAsync<AnswerRow>($"api/answers/{added.Id}")).Document.Text);
        using var gone = await browser.DeleteAsync($"api/answers/{added.Id}", 2);
        Assert.Equal(HttpStatusCode.NoContent, gone.StatusCode);
        Assert.Empty(await browser.GetAsync<AnswerRow[]>("api/answers"));
    }

    [Fact]
    public async Task A_ready_answer_is_published_with_the_edition_and_its_change_is_one_to_publish()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.Person("mia"));
        await browser.PrepareAsync();
        var added = await Browser.ReadAsync<AnswerRow>(await browser.PostAsync("api/answers", Confirmed));
        Assert.Contains(await ChangesAsync(browser), change => change == "New ready answer.");
        Assert.Equal(1, (await Browser.ReadAsync<PublishAnswer>(await browser.PostAsync("api/editions", new PublishRequest(0)))).Number);
        Assert.False(Assert.Single(await browser.GetAsync<AnswerRow[]>("api/answers")).IsEdited);
        using var saved = await browser.PutAsync($"api/answers/{added.Id}", Confirmed with { Subject = "Soon" }, 1);
        Assert.Equal(["Subject: \"Visit at {organisation}\" becomes \"Soon\"."], await ChangesAsync(browser));
        Assert.True(Assert.Single(await browser.GetAsync<AnswerRow[]>("api/answers")).IsEdited);
    }

    private static async Task<string[]> ChangesAsync(Browser browser) => [.. (await browser.GetAsync<ProofAnswer>("api/proof")).Changes.Select(change => change.Text)];
}
