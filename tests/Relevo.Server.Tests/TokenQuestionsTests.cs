using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Relevo.Data;
using Relevo.Server.Rollout;

namespace Relevo.Server.Tests;

/// <summary>Tokens of requests that come at the same time, which are asked about together.</summary>
public sealed class TokenQuestionsTests
{
    [Fact]
    public async Task Each_of_many_who_ask_at_once_is_answered_for_their_own_token_and_strangers_are_not_known()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        var person = (await browser.FindAsync("mia")).Id;
        var added = new List<AddClientAnswer>();
        for (var number = 0; number < 5; number++) added.Add(await browser.AddClientAsync("desk-app", person, $"Computer {number}"));
        var questions = server.Services.GetRequiredService<TokenQuestions>();

        // Six hundred questions: more than are asked about together.
        var answers = await Task.WhenAll(Enumerable.Range(0, 600).Select(async number => (number, Found: await questions.FindAsync(Tokens.Hash(number % 6 < 5 ? added[number % 6].Token : $"stranger {number}"), CancellationToken.None))));
        Assert.All(answers, answer => Assert.Equal(answer.number % 6 < 5 ? $"Computer {answer.number % 6}" : null, answer.Found?.Client.Name));
    }

    [Fact]
    public async Task A_client_is_found_by_the_token_it_has_and_by_the_one_that_follows_and_it_is_known_which()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        await browser.ApplyAsync(Ldif.People(("mia", "Vet")));
        var added = await browser.AddClientAsync("desk-app", (await browser.FindAsync("mia")).Id, "Computer");
        var (next, hash) = Tokens.New();
        await server.Services.GetRequiredService<ClientStore>().RotateAsync(added.Id, hash, CancellationToken.None);
        var questions = server.Services.GetRequiredService<TokenQuestions>();
        var found = await Task.WhenAll(new[] { added.Token, next, added.Token }.Select(token => questions.FindAsync(Tokens.Hash(token), CancellationToken.None)));
        Assert.Equal([false, true, false], found.Select(one => one!.HasNextToken));
        using (await browser.DeleteAsync($"api/clients/{added.Id}", null)) { }
        Assert.Null(await questions.FindAsync(Tokens.Hash(added.Token), CancellationToken.None));
    }

    [Fact]
    public async Task A_database_that_is_away_is_told_to_everybody_who_asked_and_asked_anew_afterwards()
    {
        await using var database = await TestDatabase.CreateAsync();
        await using var away = NpgsqlDataSource.Create(new NpgsqlConnectionStringBuilder(database.ConnectionString) { Port = ServerProcess.FreePort() }.ConnectionString);
        var questions = new TokenQuestions(new DeliveryStore(away));
        for (var round = 0; round < 2; round++)
        {
            var troubles = await Task.WhenAll(Enumerable.Range(0, 20).Select(number => Record.ExceptionAsync(() => questions.FindAsync(Tokens.Hash($"{number}"), CancellationToken.None)).AsTask()));
            Assert.All(troubles, trouble => Assert.IsAssignableFrom<NpgsqlException>(trouble));
        }
    }
}
