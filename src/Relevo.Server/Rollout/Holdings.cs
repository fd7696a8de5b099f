using System.Collections.Concurrent;
using System.Collections.Immutable;
using Microsoft.Extensions.Caching.Memory;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Designs;
using Relevo.Server.Hosting;
using Relevo.Server.Lens;
using Relevo.Server.Rules;

namespace Relevo.Server.Rollout;

/// <summary>
/// Computes what installed clients are to hold: edition, people as they are now, the kind's profile. Every way in asks here, and the plan does too, so that what is
/// planned, delivered and compared is one thing.
/// </summary>
public sealed class Holdings(PublishedEditions editions, PictureCuts cuts, PictureStore pictures, CurrentReach reach, ServerSettings server) : IDisposable
{
    private const long MostPictureBytes = 64 << 20; // bytes of pictures that rich text is filled with

    private readonly ConcurrentDictionary<int, (CompanyRecords From, SigningAt Signing)> ready = new();
    private readonly MemoryCache pictureBytes = new(new MemoryCacheOptions { SizeLimit = MostPictureBytes });

    /// <summary>An edition ready to write for these people now.</summary>
    public async Task<Slotting> SlottingAsync(int edition, PeopleRoster roster, ClientSettings settings, CancellationToken cancellationToken) =>
        new(edition, await SigningAsync(edition, roster, cancellationToken), server.PublicAddress, kind => settings.Of(kind).Caution);

    /// <summary>What a client is to hold, with its bytes. Somebody who is retired has no accounts, and so gets nothing.</summary>
    public async Task<Delivery> FitAsync(Client client, Slotting slotting, PeopleRoster roster, CancellationToken cancellationToken)
    {
        var chosen = Choose(client, slotting, roster);
        return await DeliverAsync(slotting.Fill(chosen), cancellationToken) with { Recipe = slotting.RecipeOf(chosen) };
    }

    /// <summary>What is to go into a client's slots.</summary>
    public static ChosenSlots Choose(Client client, Slotting slotting, PeopleRoster roster) => Choose(client, slotting, AccountsOf(roster.Find(client.PersonId), slotting.Signing.Records), slotting.Decide);

    /// <summary>The same with the person's accounts as they are fitted, which a person's clients share, and decisions made for everybody.</summary>
    public static ChosenSlots Choose(Client client, Slotting slotting, FittingAccount[] accounts, Func<Sender, Cell, Decision> decide)
    {
        var kind = ClientKind.Find(client.Kind);
        if (kind is null) return new ChosenSlots(ClientKind.DeskApp with { HoldsOffers = false }, [], []); // shipped no longer: it is to hold nothing
        if (!client.Addresses.IsEmpty) accounts = [.. accounts.Where(account => client.Addresses.Contains(account.Sender.Address, StringComparer.OrdinalIgnoreCase))];
        return slotting.Choose(client.IsByHand ? kind.ByHand : kind, accounts, client.IsForAll, tellsLosses: false, decide);
    }

    /// <summary>The accounts of a person as they are fitted.</summary>
    public static FittingAccount[] AccountsOf(RosterRow? row, CompanyRecords records) =>
        row is null || row.Person.IsRetired ? [] : [.. row.Person.Accounts.Select(account => FittingAccount.Of(records, row.Person, account))];

    /// <summary>The whole delivery, with the pictures' hashes, which are made where they are not there yet.</summary>
    public async Task<Delivery> DeliverAsync(Fitting fitting, CancellationToken cancellationToken)
    {
        if (!fitting.Linked.IsEmpty) await cuts.EnsureAsync(fitting.Linked, cancellationToken);
        var (hashes, bytes) = await PicturesAsync([.. fitting.Pictures.Keys], fitting.NeedsPictureBytes, cancellationToken);
        return fitting.Deliver(hashes, bytes);
    }

    /// <summary>Hashes of these pictures by name, and their bytes where they are needed; those that cannot be made are left out.</summary>
    public async Task<(IReadOnlyDictionary<string, string> Hashes, IReadOnlyDictionary<string, byte[]> Bytes)> PicturesAsync(IReadOnlyCollection<string> names, bool needsBytes, CancellationToken cancellationToken)
    {
        var kept = await cuts.EnsureAsync(names, cancellationToken);
        var bytes = new Dictionary<string, byte[]>();
        foreach (var name in needsBytes ? kept.Keys : [])
        {
            if (await BytesAsync(name, cancellationToken) is { } png) bytes[name] = png;
        }

        return (kept.ToDictionary(picture => picture.Key, picture => picture.Value.Sha256), bytes);
    }

    /// <inheritdoc />
    public void Dispose() => pictureBytes.Dispose();

    private async Task<SigningAt> SigningAsync(int edition, PeopleRoster roster, CancellationToken cancellationToken)
    {
        if (!ready.TryGetValue(edition, out var known) || !ReferenceEquals(known.From, roster.Records))
        {
            var content = await editions.GetAsync(edition, cancellationToken);
            known = (roster.Records, new SigningAt(content, content.RecordsFrom(roster.Records), reach.Now));
        }
        else if (known.Signing.Moment != reach.Now)
        {
            // What time alone changes is put together anew; as long as it changes nothing, all of it is kept.
            known = (known.From, EditionTimes.Differ(known.Signing.Content, known.Signing.Moment, reach.Now) ? known.Signing.At(reach.Now) : known.Signing);
        }

        if (ready.Count > 8) ready.Clear(); // an edition is rolled out, one is left behind, a few are gone back to
        ready[edition] = known;
        return known.Signing;
    }

    private async Task<byte[]?> BytesAsync(string name, CancellationToken cancellationToken)
    {
        if (pictureBytes.TryGetValue(name, out byte[]? known)) return known;
        if (await pictures.ReadAnyAsync(name, cancellationToken) is not { } read) return null;
        return pictureBytes.Set(name, read, new MemoryCacheEntryOptions { Size = read.Length });
    }
}
