using Microsoft.Extensions.DependencyInjection;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Relevo.Data;

namespace Relevo.Server.Tests;

/// <summary>What clients are to hold is written while they ask, and by whoever plans; here tests plan.</summary>
public sealed class PlanningTests
{
    [Fact]
    public async Task A_client_that_asked_since_it_was_read_is_read_again_and_loses_nothing()
    {
        await using var world = await World.StartAsync("mia");
        var (stale, told, next) = (Assert.Single(await world.ReadAsync()), new WantedTag(Guid.NewGuid(), new string('a', 64)), Guid.NewGuid());
        await world.Deliveries.MoveAsync(stale.Client.Id, before => before.Told(told).Held(told.Tag), CancellationToken.None);
        await world.WantAsync([stale], next);
        var standing = (await world.FindAsync(stale)).Standing;
        Assert.Equal((DeliveryState.Waits, next, told.Recipe, told.Tag), (standing.State, standing.Recipe!.Value, standing.HeldRecipe!.Value, standing.HeldTag));
        await world.WantAsync([await world.FindAsync(stale)], told.Recipe);
        Assert.Equal(DeliveryState.InPlace, (await world.FindAsync(stale)).Standing.State); // it holds that already
    }

    [Fact]
    public async Task Two_who_plan_at_the_same_time_leave_every_client_with_the_whole_plan_of_one_of_them()
    {
        await using var world = await World.StartAsync([.. Enumerable.Range(0, 40).Select(number => $"p{number:00}")]);
        var (clients, one, two) = (await world.ReadAsync(), Guid.NewGuid(), Guid.NewGuid());
        await Task.WhenAll(Task.Run(() => world.WantAsync(clients, one, isFixed: true)), Task.Run(() => world.WantAsync([.. clients.AsEnumerable().Reverse()], two, isFixed: false)));
        var after = await world.ReadAsync();
        Assert.Equal(40, after.Count);
        Assert.All(after, client => Assert.Contains((client.Standing.Recipe!.Value, client.IsFixed), new[] { (one, true), (two, false) }));
    }

    [Fact]
    public async Task A_mailbox_that_is_for_other_addresses_by_now_is_left_to_the_next_planning()
    {
        await using var world = await World.StartAsync("mia");
        var stale = Assert.Single(await world.ReadAsync());
        await world.DoAsync("update client set addresses = '{mia@brackenfold.example, reception@brackenfold.example}'; update delivery set looked_at = now()");
        await world.WantAsync([stale], Guid.NewGuid());
        Assert.Equal(stale.Standing.Recipe, (await world.FindAsync(stale)).Standing.Recipe);
    }

    [Fact]
    public async Task Who_comes_into_a_wave_with_a_new_client_brings_the_others_along()
    {
        await using var world = await World.StartAsync("mia");
        var old = Assert.Single(await world.ReadAsync());
        await world.DoAsync("insert into edition (number, content, sha256, published_by) select 2, content, sha256, published_by from edition; delete from rollout_member; update rollout set edition = 2; update wave set state = 'open'");
        Assert.Equal(1, (await world.FindAsync(old)).Edition);
        await world.AddAsync("mia", new Placement(2, 1, 0));
        Assert.Equal((2, false), await world.FindAsync(old) is var now ? (now.Edition, now.IsPlanned) : default);
        Assert.Equal(2, (await world.NewAsync()).Count);
        await world.WantAsync(await world.NewAsync(), Guid.NewGuid(), edition: 2);
        Assert.Empty(await world.NewAsync());
        Assert.True((await world.FindAsync(old)).IsPlanned);
    }

    /// <summary>People with a mailbox each that the server has planned for edition 1, and a server that plans no more.</summary>
    private sealed class World(RunningServer server, Browser browser) : IAsyncDisposable
    {
        public DeliveryStore Deliveries { get; } = server.Services.GetRequiredService<DeliveryStore>();

        private readonly PlanStore plans = server.Services.GetRequiredService<PlanStore>();

        public static async Task<World> StartAsync(params string[] keys)
        {
            var server = await RunningServer.StartAsync();
            var browser = await server.SignInAsync();
            await browser.PrepareAsync();
            await browser.ApplyAsync(Ldif.People([.. keys.Select(key => (key, "Vet"))]));
            await browser.PublishAndRollOutAsync();
            var world = new World(server, browser);
            foreach (var key in keys) await world.AddAsync(key, new Placement(1, null, null));
            while (await server.Database.AskAsync<long>("select count(*) from delivery where recipe is null") > 0) await Task.Delay(20);
            foreach (var work in server.Services.GetServices<Microsoft.Extensions.Hosting.IHostedService>().OfType<Rollout.RolloutWork>()) await work.StopAsync(CancellationToken.None);
            return world;
        }

        public async Task AddAsync(string key, Placement placement)
        {
            var mailbox = new Client(Guid.CreateVersion7(), "browser-mailbox", key, (await browser.FindAsync(key + "@")).Id, Guid.NewGuid().ToString()) { Addresses = [$"{key}@brackenfold.example"] };
            await server.Services.GetRequiredService<ClientStore>().AddAsync(mailbox, null, null, placement, new Actor(null, "test"), CancellationToken.None);
        }

        public async Task<List<ClientDelivery>> ReadAsync() => await plans.PlannedAsync(null, CancellationToken.None).ToListAsync();

        public async Task<List<ClientDelivery>> NewAsync() => await plans.NewAsync(CancellationToken.None).ToListAsync();

        public async Task<ClientDelivery> FindAsync(ClientDelivery client) => (await Deliveries.FindAsync(client.Client.Id, CancellationToken.None))!;

        public Task WantAsync(IEnumerable<ClientDelivery> clients, Guid recipe, bool isFixed = true, int edition = 1) =>
            plans.WantAsync([.. clients.Select(client => new WantedHolding(client.Client, edition, recipe, isFixed, IsServed: false) { Before = client })], CancellationToken.None);

        public Task DoAsync(string sql) => server.Database.DoAsync(sql);

        public async ValueTask DisposeAsync()
        {
            browser.Dispose();
            await server.DisposeAsync();
        }
    }
}
