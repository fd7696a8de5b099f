using Microsoft.Extensions.DependencyInjection;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Relevo.Data;

namespace Relevo.Server.Tests;

/// <summary>Mailboxes that servers take for themselves, for so long.</summary>
public sealed class LeaseTests
{
    private const string Kind = "browser-mailbox";
    private static readonly TimeSpan Lease = TimeSpan.FromSeconds(30), LookEvery = TimeSpan.FromMinutes(15);

    [Fact]
    public async Task What_one_server_has_taken_another_does_not_get_before_it_is_given_back_or_the_time_is_over()
    {
        await using var world = await World.StartAsync();
        Assert.Equal(["mia"], await world.TakeAsync("one"));
        Assert.Empty(await world.TakeAsync("two"));
        await world.DoAsync("update delivery set leased_until = now() - interval '1 second'"); // the server that took it died half a minute ago
        Assert.Equal(["mia"], await world.TakeAsync("two"));
    }

    [Fact]
    public async Task A_server_that_was_slow_does_not_give_back_what_another_has_taken_since()
    {
        await using var world = await World.StartAsync();
        await world.TakeAsync("slow");
        await world.DoAsync("update delivery set leased_until = now() - interval '1 second'");
        await world.TakeAsync("other");
        await world.GiveBackAsync("slow", areLookedAt: true);
        Assert.Empty(await world.TakeAsync("third"));
        await world.GiveBackAsync("other", areLookedAt: true);
    }

    [Fact]
    public async Task A_mailbox_that_is_in_place_is_looked_at_again_after_its_interval_and_at_once_when_something_came_between()
    {
        await using var world = await World.StartAsync();
        await world.PutInPlaceAsync();
        await world.TakeAsync("one");
        await world.GiveBackAsync("one", areLookedAt: false); // the mailbox server was busy
        Assert.Equal(["mia"], await world.TakeAsync("one"));
        await world.GiveBackAsync("one", areLookedAt: true);
        Assert.Empty(await world.TakeAsync("one"));
        await world.DoAsync("update delivery set looked_at = now() - interval '16 minutes'");
        Assert.Equal(["mia"], await world.TakeAsync("one"));
    }

    [Fact]
    public async Task Nobody_gets_what_failed_a_moment_ago_was_set_aside_or_belongs_to_a_paused_rollout()
    {
        await using var world = await World.StartAsync();
        foreach (var (held, free) in new[]
        {
            ("update delivery set next_attempt_at = now() + interval '1 minute'", "update delivery set next_attempt_at = null"),
            ("update delivery set is_set_aside = true", "update delivery set is_set_aside = false"),
            ("update rollout set state = 'paused'", "update rollout set state = 'done'"),
            ("update client set retired_at = now()", "update client set retired_at = null"),
        })
        {
            await world.DoAsync(held);
            Assert.Empty(await world.TakeAsync("one"));
            await world.DoAsync(free);
            Assert.Equal(["mia"], await world.TakeAsync("one"));
            await world.GiveBackAsync("one", areLookedAt: false);
        }
    }

    [Fact]
    public async Task Servers_that_take_at_the_same_moment_take_different_ones()
    {
        await using var world = await World.StartAsync([.. Enumerable.Range(0, 30).Select(number => $"p{number:00}")]);
        var taken = await Task.WhenAll(Enumerable.Range(0, 6).Select(server => Task.Run(() => world.TakeAsync($"server {server}", most: 5))));
        Assert.Equal(30, taken.SelectMany(some => some).Distinct().Count());
    }

    /// <summary>People with a mailbox each that waits for the first edition, and no mailbox server, so that nobody but the test takes them.</summary>
    private sealed class World(RunningServer server, Browser browser) : IAsyncDisposable
    {
        private readonly DeliveryStore deliveries = server.Services.GetRequiredService<DeliveryStore>();

        public static async Task<World> StartAsync(params string[] keys)
        {
            if (keys.Length == 0) keys = ["mia"];
            var server = await RunningServer.StartAsync();
            var browser = await server.SignInAsync();
            await browser.PrepareAsync();
            await browser.ApplyAsync(Ldif.People([.. keys.Select(key => (key, "Vet"))]));
            await browser.PublishAndRollOutAsync();
            foreach (var key in keys)
            {
                var mailbox = new Client(Guid.CreateVersion7(), Kind, key, (await browser.FindAsync(key + "@")).Id, key) { Addresses = [$"{key}@brackenfold.example"] };
                await server.Services.GetRequiredService<ClientStore>().AddAsync(mailbox, null, null, new Placement(1, null, null), new Actor(null, "test"), CancellationToken.None);
            }

            while (await server.Database.AskAsync<long>("select count(*) from delivery where recipe is null") > 0) await Task.Delay(20);
            await server.Database.DoAsync("insert into rollout_member (person_id, rollout_id, wave) select person_id, rollout.id, 0 from client, rollout on conflict do nothing");
            return new World(server, browser);
        }

        public async Task<string[]> TakeAsync(string owner, int most = 100) => [.. (await deliveries.LeaseAsync(Kind, most, owner, Lease, LookEvery, CancellationToken.None)).Select(one => one.Client.Name)];

        public async Task GiveBackAsync(string owner, bool areLookedAt) => await deliveries.ReleaseAsync([await MiaAsync()], owner, areLookedAt, CancellationToken.None);

        public async Task PutInPlaceAsync()
        {
            var tag = new string('a', 64);
            Assert.Equal(DeliveryState.InPlace, (await deliveries.MoveAsync(await MiaAsync(), before => before.Told(new WantedTag(before.Recipe!.Value, tag)).Held(tag), CancellationToken.None))!.State);
        }

        public Task DoAsync(string sql) => server.Database.DoAsync(sql);

        public async ValueTask DisposeAsync()
        {
            browser.Dispose();
            await server.DisposeAsync();
        }

        private Task<Guid> MiaAsync() => server.Database.AskAsync<Guid>("select id from client where name = 'mia'");
    }
}
