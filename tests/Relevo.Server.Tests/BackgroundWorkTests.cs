using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging.Abstractions;
using Relevo.Core;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Connectors;
using Relevo.Server.Rollout;

namespace Relevo.Server.Tests;

/// <summary>Work that nobody asked for goes on, whatever it meets, and forgets nothing.</summary>
public sealed class BackgroundWorkTests
{
    private static readonly Actor Actor = new(null, "test");

    [Fact]
    public async Task A_source_that_cannot_be_asked_keeps_the_schedule_from_none_of_the_others()
    {
        await using var server = await RunningServer.StartAsync();
        var sources = server.Services.GetRequiredService<SourceStore>();
        // Nothing listens on port 9 (discard, RFC 863), so the reading fails as soon as it begins.
        var settings = JsonSerializer.Serialize(new LdapSettings("127.0.0.1", 9, LdapSecurity.None, "", "", "dc=brackenfold,dc=example", "(objectClass=*)"), RelevoJson.Options);
        var (broken, whole) = (Guid.CreateVersion7(), Guid.CreateVersion7());
        foreach (var (id, name) in new[] { (broken, "Broken"), (whole, "Whole") }) await sources.AddAsync(new Source(id, SourceKind.Ldap, name, 0, settings, null, BrakeSettings.Default, [], false, 60, 1), "", Actor, CancellationToken.None);
        await server.Database.DoAsync($"update source set brake = '{{\"atLeast\":\"much\"}}', next_at = now() - interval '1 hour' where id = '{broken}'");
        var schedule = server.Services.GetRequiredService<SourceSchedule>();
        await schedule.AskDueAsync(CancellationToken.None);
        await schedule.AskDueAsync(CancellationToken.None);
        Assert.Equal("failed", await server.Database.AskAsync<string>($"select state from run where source_id = '{whole}'"));
        Assert.True(await server.Database.AskAsync<bool>($"select next_at > now() from source where id = '{broken}'"));
    }

    [Fact]
    public async Task When_a_client_was_heard_of_is_written_down_later_if_writing_is_broken_off_or_refused()
    {
        await using var database = await TestDatabase.CreateAsync();
        await using var data = Database.Open(database.ConnectionString);
        var (person, client) = (Guid.CreateVersion7(), Guid.CreateVersion7());
        await database.DoAsync($"insert into person (id) values ('{person}'); insert into client (id, kind, name, person_id) values ('{client}', 'desk-app', 'mia', '{person}')");
        using var seen = new SeenClients(new ClientStore(data), TimeProvider.System, NullLogger<SeenClients>.Instance);
        seen.Note(client);
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => seen.WriteAsync(new CancellationToken(canceled: true)));
        await database.DoAsync("alter table client rename to other");
        await seen.WriteAsync(CancellationToken.None);
        await database.DoAsync("alter table other rename to client");
        Assert.False(await IsSeenAsync());
        await seen.WriteAsync(CancellationToken.None);
        Assert.True(await IsSeenAsync());

        async Task<bool> IsSeenAsync() => await database.AskAsync<bool>("select last_seen_at is not null from client");
    }
}
