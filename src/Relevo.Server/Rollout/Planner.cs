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
public sealed class Planner(PlanStore plans, CurrentRoster rosters, ClientSettingsStore settings, RolloutStore rollouts, Holdings holdings, CurrentReach reach, TimeProvider clock)
{
    private const int Batch = 1000; // clients written in one transaction

    // A rollout that somebody started is planned on all cores. Looking through everybody for what may have changed has time, and leaves half of them to those who wait for a screen.
    private static ParallelOptions AllCores(CancellationToken cancellationToken) => new() { MaxDegreeOfParallelism = Environment.ProcessorCount + 1, CancellationToken = cancellationToken }; // one batch more, as one waits for the database

    private static ParallelOptions HalfTheCores(CancellationToken cancellationToken) => new() { MaxDegreeOfParallelism = Math.Max(1, Environment.ProcessorCount / 2), CancellationToken = cancellationToken };

    private readonly Dictionary<Guid, WantedHolding> pending = []; // changes outside rollouts that have not been let go yet
    private PeopleRoster? planned;
    private Instant plannedAt;
    private DateTimeOffset pendingSince, lastGone;
    private int clients;
    private int plannedRevision;
    private string plannedRollout = ""; // the rollout all of whose clients are planned, and how far it had come

    /// <summary>Another process may have planned meanwhile: everything is looked at again.</summary>
    public void Forget()
    {
        (planned, plannedAt, plannedRollout) = (null, default, "");
        pending.Clear();
    }

    /// <summary>Plans what there is to plan. True when anything was written.</summary>
    public async Task<bool> PlanAsync(CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var (said, revision) = await settings.ReadAsync(cancellationToken);
        if (revision != plannedRevision) planned = null; // how slots are filled may be other than before
        plannedRevision = revision;
        var wrote = await PlanAsync(plans.NewAsync(cancellationToken), roster, said, cancellationToken);
        wrote |= await PlanEditionsAsync(roster, said, cancellationToken);
        await FindChangesAsync(roster, said, cancellationToken);
        return await LetGoAsync(said.Flow, cancellationToken) || wrote;
    }

    /// <summary>Clients that were given another edition: no brake, a rollout has its gates.</summary>
    private async Task<bool> PlanEditionsAsync(PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken)
    {
        var newest = await rollouts.NewestAsync(cancellationToken);
        var rollout = newest is null ? "" : $"{newest.Id} {newest.Edition} {string.Join(' ', newest.Waves.Select(wave => wave.State == WaveState.Waits))}";
        if (rollout == plannedRollout) return false; // nobody's edition can be another than it was
        var wrote = await PlanAsync(plans.UnplannedAsync(cancellationToken), roster, said, cancellationToken);
        plannedRollout = rollout;
        return wrote;
    }

    private async Task<bool> PlanAsync(IAsyncEnumerable<ClientDelivery> those, PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken)
    {
        var wrote = false;
        await Parallel.ForEachAsync(BatchesAsync(those, cancellationToken), AllCores(cancellationToken), async (batch, stop) =>
        {
            wrote = true;
            var wanted = await FitAllAsync(batch, roster, said, stop);
            lock (pending)
            {
                foreach (var one in wanted) pending.Remove(one.Client.Id);
            }

            await plans.WantAsync(wanted, stop);
        });
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
            await Parallel.ForEachAsync(BatchesAsync(plans.PlannedAsync(changed, cancellationToken), cancellationToken), HalfTheCores(cancellationToken), async (batch, stop) =>
            {
                Interlocked.Add(ref count, batch.Count);
                var fitted = await FitAllAsync(batch, roster, said, stop);
                lock (pending)
                {
                    foreach (var one in fitted) Note(one);
                }
            });

            clients = changed is null ? count : Math.Max(clients, count);
        }

        (planned, plannedAt) = (roster, reach.Now);
    }

    /// <summary>Notes what a client is to hold if that is something else than before.</summary>
    private void Note(WantedHolding one)
    {
        if (one.Recipe == one.Before!.Standing.Recipe && one.IsFixed == one.Before.IsFixed)
        {
            pending.Remove(one.Client.Id);
            return;
        }

        if (pending.Count == 0) pendingSince = clock.GetUtcNow();
        pending[one.Client.Id] = one with { Before = null }; // it may have to wait
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
        foreach (var batch in going.Chunk(Batch)) await plans.WantAsync(batch, cancellationToken);
        foreach (var one in going) pending.Remove(one.Client.Id);
        lastGone = now;
        if (pending.Count == 0) await settings.HoldAsync(0, cancellationToken);
        return true;
    }

    private async Task<bool> HasTimeChangedAsync(PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken)
    {
        if (plannedAt == reach.Now) return false;
        foreach (var edition in await plans.EditionsAsync(cancellationToken))
        {
            var content = (await holdings.SlottingAsync(edition, roster, said, cancellationToken)).Signing.Content;
            if (Core.Editions.EditionTimes.Differ(content, plannedAt, reach.Now)) return true;
        }

        return false;
    }

    /// <summary>Fits many clients. The decisions of a batch are made together, as the map makes them.</summary>
    private async Task<List<WantedHolding>> FitAllAsync(List<ClientDelivery> batch, PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken)
    {
        var wanted = new List<WantedHolding>(batch.Count);
        foreach (var ofEdition in batch.GroupBy(one => one.Edition!.Value))
        {
            var slotting = await holdings.SlottingAsync(ofEdition.Key, roster, said, cancellationToken);
            var accounts = new Dictionary<Guid, FittingAccount[]>();
            foreach (var one in ofEdition)
            {
                if (!accounts.ContainsKey(one.Client.PersonId)) accounts[one.Client.PersonId] = Holdings.AccountsOf(roster.Find(one.Client.PersonId), slotting.Signing.Records);
            }

            var decide = Decisions(ofEdition, accounts.Values, slotting);
            foreach (var one in ofEdition)
            {
                var chosen = Holdings.Choose(one.Client, slotting, accounts[one.Client.PersonId], decide);
                var recipe = slotting.RecipeOf(chosen);
                // Who puts signatures in by hand is asked to do it again only for signatures that are really others: there is no client that would ask and say that it has them.
                var isToBeSure = one.Client.IsByHand && one.Standing.HeldTag.Length > 0 && one.Standing.Recipe != recipe;
                var tag = isToBeSure ? (await holdings.DeliverAsync(slotting.Fill(chosen), cancellationToken)).Manifest.Tag() : "";
                wanted.Add(new WantedHolding(one.Client, ofEdition.Key, recipe, !chosen.IsOpen, chosen.Kind.IsPerMessage) { Tag = tag, Before = one });
            }
        }

        return wanted;
    }

    /// <summary>The decisions of the people of a batch in the squares that slots ask, made for all of them at once.</summary>
    private static Func<Sender, Cell, Decision> Decisions(IEnumerable<ClientDelivery> batch, IEnumerable<FittingAccount[]> accounts, Slotting slotting)
    {
        var signing = slotting.Signing;
        var senders = accounts.SelectMany(ofPerson => ofPerson).Select(account => account.Sender).ToList();
        var table = AccountTable.Of(signing.Records, senders);
        var kinds = batch.Select(one => ClientKind.Find(one.Client.Kind)).OfType<ClientKind>().Distinct().ToArray();
        var cells = kinds.SelectMany(kind => kind.Slots.Select(slot => new Cell(slotting.CautionOf(kind.Kind).FirstAudience, slotting.CautionOf(kind.Kind).FirstOccasion(slot), kind.Kind))).Distinct();
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
