using System.Runtime.CompilerServices;
using System.Threading.Channels;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.People.Roster;
using Relevo.Core.Rollouts;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Relevo.Data;
using Relevo.Server.People;
using Relevo.Server.Rules;

namespace Relevo.Server.Rollout;

/// <summary>
/// Says what every client is to hold, whenever that may be something else than before: an edition was rolled out to it, its person's facts changed, time went by.
/// Only what is different is written. Belongs to one process at a time: see <see cref="RolloutWork"/>.
/// </summary>
public sealed class Planner(DeliveryStore deliveries, CurrentRoster rosters, ClientSettingsStore settings, RolloutStore rollouts, Holdings holdings, CurrentReach reach, TimeProvider clock)
{
    private const int Batch = 2000; // clients written in one transaction

    // A rollout that somebody started is planned on all cores. Looking through everybody for what may have changed has time, and leaves half of them to those who wait for a screen.
    private static readonly ParallelOptions AllCores = new(), HalfTheCores = new() { MaxDegreeOfParallelism = Math.Max(1, Environment.ProcessorCount / 2) };

    private readonly Dictionary<Guid, WantedHolding> pending = []; // changes outside rollouts that have not been let go yet
    private PeopleRoster? planned;
    private Instant plannedAt;
    private DateTimeOffset pendingSince, lastGone;
    private int clients;
    private int plannedRevision;

    /// <summary>Another process may have planned meanwhile: everything is looked at again.</summary>
    public void Forget()
    {
        (planned, plannedAt) = (null, default);
        pending.Clear();
    }

    /// <summary>Plans what there is to plan. True when anything was written.</summary>
    public async Task<bool> PlanAsync(CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var (said, revision) = await settings.ReadAsync(cancellationToken);
        if (revision != plannedRevision) planned = null; // how slots are filled may be other than before
        plannedRevision = revision;
        var wrote = await PlanEditionsAsync(roster, said, cancellationToken);
        await FindChangesAsync(roster, said, cancellationToken);
        return await LetGoAsync(said.Flow, cancellationToken) || wrote;
    }

    /// <summary>Clients that were given another edition: no brake, a rollout has its gates.</summary>
    private async Task<bool> PlanEditionsAsync(PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken)
    {
        var wrote = false;
        for (var isAny = true; isAny; wrote |= isAny)
        {
            isAny = false;
            var writing = Task.CompletedTask; // of the batch before, while the next is computed
            try
            {
                await foreach (var batch in BatchesAsync(deliveries.UnplannedAsync(cancellationToken), cancellationToken))
                {
                    isAny = true;
                    var wanted = new List<WantedHolding>(batch.Count);
                    foreach (var one in await FitAllAsync(batch, roster, said, AllCores, cancellationToken)) wanted.Add(one.Wanted);
                    foreach (var one in wanted) pending.Remove(one.Client);
                    await writing;
                    writing = deliveries.WantAsync(wanted, cancellationToken);
                }
            }
            finally
            {
                await writing;
            }
        }

        return wrote;
    }

    /// <summary>What changed facts and time make of clients that stay with their edition.</summary>
    private async Task FindChangesAsync(PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken)
    {
        Guid[]? changed = null; // null: everybody
        if (planned is not null && ReferenceEquals(planned.Records, roster.Records) && !await HasTimeChangedAsync(roster, said, cancellationToken))
        {
            if (ReferenceEquals(planned, roster)) return;
            changed = [.. ChangedSince(planned, roster)];
        }

        if (changed is null or { Length: > 0 })
        {
            var count = 0;
            await foreach (var batch in BatchesAsync(deliveries.PlannedAsync(changed, cancellationToken), cancellationToken))
            {
                count += batch.Count;
                foreach (var (one, before) in await FitAllAsync(batch, roster, said, HalfTheCores, cancellationToken))
                {
                    if (one.Tag == before.Standing.WantedTag && one.IsFixed == before.IsFixed) pending.Remove(one.Client);
                    else
                    {
                        if (pending.Count == 0) pendingSince = clock.GetUtcNow();
                        pending[one.Client] = one;
                    }
                }
            }

            clients = changed is null ? count : Math.Max(clients, count);
        }

        (planned, plannedAt) = (roster, reach.Now);
    }

    /// <summary>Gathers what comes one by one. The next batch is read while one is worked on.</summary>
    private static async IAsyncEnumerable<List<ClientDelivery>> BatchesAsync(IAsyncEnumerable<ClientDelivery> coming, [EnumeratorCancellation] CancellationToken cancellationToken)
    {
        var channel = Channel.CreateBounded<List<ClientDelivery>>(2);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken);
        var reading = ReadAsync();
        try
        {
            await foreach (var batch in channel.Reader.ReadAllAsync(cancellationToken)) yield return batch;
        }
        finally
        {
            await stop.CancelAsync();
            await reading;
        }

        async Task ReadAsync()
        {
            try
            {
                var batch = new List<ClientDelivery>(Batch);
                await foreach (var one in coming.WithCancellation(stop.Token))
                {
                    batch.Add(one);
                    if (batch.Count < Batch) continue;
                    await channel.Writer.WriteAsync(batch, stop.Token);
                    batch = new List<ClientDelivery>(Batch);
                }

                if (batch.Count > 0) await channel.Writer.WriteAsync(batch, stop.Token);
                channel.Writer.Complete();
            }
#pragma warning disable CA1031 // whoever takes the batches hears of it
            catch (Exception trouble)
#pragma warning restore CA1031
            {
                channel.Writer.TryComplete(trouble);
            }
        }
    }

    /// <summary>Writes what is pending, as much as may go, unless the brake holds it.</summary>
    private async Task<bool> LetGoAsync(Flow flow, CancellationToken cancellationToken)
    {
        if (pending.Count == 0) return false;
        if (flow.Brakes(pending.Count, clients) && await settings.BrakeAsync(cancellationToken) is var brake && (brake.LetGoAt is null || brake.LetGoAt < pendingSince))
        {
            if (await settings.HoldAsync(pending.Count, cancellationToken) && brake.Held == 0)
                await rollouts.NoticeAsync("changes held", $"Changed facts would change {pending.Count} of {clients} clients at once; none of them is told before you let them go.", cancellationToken);
            return false;
        }

        var now = clock.GetUtcNow();
        var may = flow.MayGo(Duration.FromTimeSpan(now - lastGone));
        if (may == 0) return false;
        WantedHolding[] going = [.. pending.Values.Take(may)];
        foreach (var batch in going.Chunk(Batch)) await deliveries.WantAsync(batch, cancellationToken);
        foreach (var one in going) pending.Remove(one.Client);
        lastGone = now;
        if (pending.Count == 0) await settings.HoldAsync(0, cancellationToken);
        return true;
    }

    private async Task<bool> HasTimeChangedAsync(PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken)
    {
        if (plannedAt == reach.Now) return false;
        foreach (var edition in await deliveries.EditionsAsync(cancellationToken))
        {
            var content = (await holdings.SlottingAsync(edition, roster, said, cancellationToken)).Signing.Content;
            if (Core.Editions.EditionTimes.Differ(content, plannedAt, reach.Now)) return true;
        }

        return false;
    }

    /// <summary>Fits many clients. The decisions of a batch are made together, as the map makes them.</summary>
    private async Task<List<(WantedHolding Wanted, ClientDelivery Before)>> FitAllAsync(List<ClientDelivery> batch, PeopleRoster roster, ClientSettings said, ParallelOptions cores, CancellationToken cancellationToken)
    {
        var fitted = new List<(WantedHolding, ClientDelivery)>(batch.Count);
        foreach (var ofEdition in batch.GroupBy(one => one.Edition!.Value))
        {
            var slotting = await holdings.SlottingAsync(ofEdition.Key, roster, said, cancellationToken);
            ClientDelivery[] some = [.. ofEdition];
            Guid[] people = [.. some.Select(one => one.Client.PersonId).Distinct()];
            var accounts = new FittingAccount[people.Length][];
            Parallel.For(0, people.Length, cores, index => accounts[index] = Holdings.AccountsOf(roster.Find(people[index]), slotting.Signing.Records));
            var accountsOf = people.Zip(accounts).ToDictionary(pair => pair.First, pair => pair.Second);
            var decide = Decisions(some, accounts, slotting);
            var fittings = new Fitting[some.Length];
            Parallel.For(0, some.Length, cores, index => fittings[index] = Holdings.Fit(some[index].Client, slotting, accountsOf[some[index].Client.PersonId], decide));
            var names = fittings.SelectMany(fitting => fitting.Pictures.Keys).ToHashSet(StringComparer.Ordinal);
            var (hashes, bytes) = await holdings.PicturesAsync(names, fittings.Any(fitting => fitting.NeedsPictureBytes), cancellationToken);
            var wanted = new WantedHolding[some.Length];
            Parallel.For(0, some.Length, cores, index => wanted[index] = new WantedHolding(some[index].Client.Id, ofEdition.Key, fittings[index].Deliver(hashes, bytes).Manifest.Tag(), !Holdings.IsOpen(fittings[index]), ClientKind.Find(some[index].Client.Kind)?.IsPerMessage == true));
            for (var index = 0; index < some.Length; index++) fitted.Add((wanted[index], some[index]));
        }

        return fitted;
    }

    /// <summary>The decisions of the people of a batch in the squares that slots ask, made for all of them at once.</summary>
    private static Func<Sender, Cell, Decision> Decisions(ClientDelivery[] batch, FittingAccount[][] accounts, Slotting slotting)
    {
        var signing = slotting.Signing;
        var senders = accounts.SelectMany(ofPerson => ofPerson).Select(account => account.Sender).ToList();
        var table = AccountTable.Of(signing.Records, senders);
        var kinds = batch.Select(one => ClientKind.Find(one.Client.Kind)).OfType<ClientKind>().Distinct().ToArray();
        var cells = kinds.SelectMany(kind => kind.Slots.Select(slot => new Cell(slotting.CautionOf(kind.Kind).Audiences(signing.Content.Audiences)[0], slotting.CautionOf(kind.Kind).Occasions(slot)[0], kind.Kind))).Distinct();
        var map = ReachMap.Of(table, signing.Content.RulesInForce(), [.. cells], signing.Moment);
        return (sender, cell) => map.Decide(table.Find(sender.Person, sender.Address), map.PlaceOf(cell));
    }

    private static IEnumerable<Guid> ChangedSince(PeopleRoster before, PeopleRoster now)
    {
        var changed = new List<Guid>();
        foreach (var row in now.Rows)
        {
            if (!ReferenceEquals(before.Find(row.Person.Id), row)) changed.Add(row.Person.Id);
        }

        return changed;
    }
}
