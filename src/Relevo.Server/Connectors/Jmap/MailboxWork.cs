using System.Collections.Immutable;
using System.Text;
using Microsoft.AspNetCore.DataProtection;
using NodaTime;
using Npgsql;
using Relevo.Core.Clients;
using Relevo.Core.People.Roster;
using Relevo.Core.Rendering;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Hosting;
using Relevo.Server.People;
using Relevo.Server.Rollout;

namespace Relevo.Server.Connectors.Jmap;

/// <summary>
/// Brings signatures into mailboxes whose server speaks JMAP. Every server process takes deliveries for itself, for so long; what it does not finish because it died
/// is taken by another, which finds it done or does it.
/// </summary>
public sealed partial class MailboxWork(
    ClientSettingsStore settings, ClientStore clients, DeliveryStore deliveries, CurrentRoster rosters, Placing placing, Holdings holdings, SeenClients seen, IDataProtectionProvider protection, IHttpClientFactory https, ServerSettings server,
    TimeProvider clock, ILogger<MailboxWork> log) : BackgroundService
{
    /// <summary>Name of the HTTP client that speaks to the mailbox server.</summary>
    public const string HttpName = "mailboxes";

    private const int Batch = 100; // mailboxes taken at once
    private static readonly TimeSpan Lease = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan DiscoverEvery = TimeSpan.FromSeconds(30), DiscoverAllEvery = TimeSpan.FromMinutes(30);

    private readonly string owner = $"{Environment.MachineName} {Environment.ProcessId} {Guid.NewGuid():N}";
    // In which state a mailbox held what a tag names: as long as nothing changed since, it does. Another process that looks finds that out for itself.
    private readonly Dictionary<Guid, (string State, string Tag)> proven = [];
    private JmapSession? session;
    private int sessionRevision;
    private DateTimeOffset leftAloneUntil, discoverAt, discoverAllAt;

    /// <summary>The kinds that are reached through identities.</summary>
    private static ImmutableArray<ClientKind> Kinds { get; } = [.. ClientKind.All.Where(kind => kind.Reached == ClientWay.Identities)];

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            var isBusy = false;
            try
            {
                isBusy = clock.GetUtcNow() >= leftAloneUntil && await WorkAsync(stoppingToken);
            }
            catch (Exception) when (stoppingToken.IsCancellationRequested)
            {
                return; // what was left of the work is done at the next start
            }
            catch (JmapException trouble)
            {
                await RestAsync(trouble, stoppingToken);
            }
            catch (Exception away) when (away is NpgsqlException or TimeoutException)
            {
                LogAway(away.Message);
            }
            catch (Exception trouble)
            {
                LogTrouble(trouble);
            }

            if (!isBusy) await Task.Delay(server.WorkEvery, clock, stoppingToken).ContinueWith(_ => { }, TaskScheduler.Default);
        }
    }

    /// <summary>Looks after some mailboxes. True when there may be more to do at once.</summary>
    private async Task<bool> WorkAsync(CancellationToken cancellationToken)
    {
        if (await settings.MailboxServerAsync(cancellationToken) is not { } where) return false;
        if (where.Revision != sessionRevision)
        {
            (session, sessionRevision, discoverAt) = (null, where.Revision, default);
            proven.Clear();
        }

        var jmap = new JmapClient(https.CreateClient(HttpName), new Uri(where.SessionUrl), where.Secret.Length > 0 ? protection.CreateProtector(ClientEndpoints.SecretPurpose).Unprotect(where.Secret) : "");
        session ??= await jmap.SessionAsync(cancellationToken);
        if (clock.GetUtcNow() >= discoverAt)
        {
            var before = session;
            session = await jmap.SessionAsync(cancellationToken);
            var isNew = discoverAt == default || !before.Accounts.Keys.SequenceEqual(session.Accounts.Keys) || clock.GetUtcNow() >= discoverAllAt;
            discoverAt = clock.GetUtcNow() + DiscoverEvery;
            if (isNew && await DiscoverAsync(jmap, session, cancellationToken)) discoverAllAt = clock.GetUtcNow() + DiscoverAllEvery;
            await settings.LookedAsync("", cancellationToken);
        }

        var did = false;
        foreach (var kind in Kinds)
        {
            var taken = await deliveries.LeaseAsync(kind.Kind, Batch, owner, Lease, server.MailboxLookEvery, cancellationToken);
            if (taken.Count == 0) continue;
            var areLookedAt = false;
            try
            {
                await LookAfterAsync(jmap, session, taken, cancellationToken);
                areLookedAt = true;
                did |= taken.Count == Batch;
            }
            finally
            {
                await deliveries.ReleaseAsync([.. taken.Select(one => one.Client.Id)], owner, areLookedAt, CancellationToken.None);
            }
        }

        return did;
    }

    /// <summary>Finds whose the mailboxes are: by the addresses of their identities, then by their name. False when some could not be read; of those what is known stays.</summary>
    private async Task<bool> DiscoverAsync(JmapClient jmap, JmapSession found, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var place = await placing.ReadAsync(cancellationToken);
        var identities = await jmap.GetAsync(found, [.. found.Accounts.Keys], cancellationToken);
        if (identities.Values.Any(one => one.Identities is null))
        {
            // Tried again: a mailbox that cannot be read for a moment is not one that is gone.
            foreach (var (account, again) in await jmap.GetAsync(found, [.. identities.Where(one => one.Value.Identities is null).Select(one => one.Key)], cancellationToken)) identities[account] = again;
            discoverAllAt = default;
        }

        var known = (await clients.MailboxesAsync(Kinds[0].Kind, cancellationToken)).ToDictionary(client => client.OutsideId);
        var there = new List<Client>(found.Accounts.Count);
        foreach (var (account, name) in found.Accounts)
        {
            if (identities[account].Identities is not { } readable)
            {
                if (known.TryGetValue(account, out var kept)) there.Add(kept);
                continue;
            }

            var addresses = readable.List.Select(identity => identity.Email).ToArray();
            var row = addresses.Append(name).Select(roster.FindByAddress).FirstOrDefault(row => row is { Person.IsRetired: false });
            if (row is null) continue;
            var own = row.Person.Accounts.Select(one => one.Address).Where(address => addresses.Contains(address, StringComparer.OrdinalIgnoreCase)).Order(StringComparer.Ordinal).ToArray();
            there.Add(new Client(Guid.CreateVersion7(), Kinds[0].Kind, name.Length is > 0 and <= 200 ? name : account, row.Person.Id, account) { Addresses = [.. own] });
        }

        await clients.KeepMailboxesAsync(Kinds[0].Kind, there, place, cancellationToken);
        return identities.Values.All(one => one.Identities is not null);
    }

    private async Task LookAfterAsync(JmapClient jmap, JmapSession found, List<ClientDelivery> taken, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var said = (await settings.ReadAsync(cancellationToken)).Settings;
        taken = await ThoseToReadAsync(jmap, found, taken, cancellationToken);
        if (taken.Count == 0) return;
        var read = await jmap.GetAsync(found, [.. taken.Select(one => one.Client.OutsideId)], cancellationToken);
        var patches = new List<(string, string, IReadOnlyList<JmapIdentity>)>();
        var wanted = new Dictionary<string, (ClientDelivery Client, Delivery Delivery)>();
        var moves = new List<KeyValuePair<Guid, Func<DeliveryStanding, DeliveryStanding>>>(); // written together: one wait for the disk
        foreach (var one in taken)
        {
            var (identities, trouble) = read[one.Client.OutsideId];
            if (identities is null)
            {
                moves.Add(Fail(one, $"The mailbox could not be read: {trouble.TrimEnd('.')}."));
                continue;
            }

            seen.Note(one.Client.Id);
            var delivery = await FitAsync(one, roster, said, cancellationToken);
            var tag = delivery.Manifest.Tag();
            var changes = Changes(one.Client, identities, delivery).ToList();
            var report = Report(identities, delivery, tag);
            if (changes.Count == 0)
            {
                proven[one.Client.Id] = (identities.State, tag);
                if (one.Standing.State != DeliveryState.InPlace || one.Standing.WantedTag != tag)
                    moves.Add(Move(one, before => (before.WantedTag == tag && before.ToldTag == tag ? before : before.Told(delivery.Wanted)).Reported(report, delivery.Manifest, Now, Random.Shared.NextDouble(), BackOff.Standard)));
                continue;
            }

            // What was in place and is no more has drifted; whether it is put right depends on the kind and on whether the person may choose.
            if (one.Standing.State is DeliveryState.InPlace or DeliveryState.Drifted && one.Standing.WantedTag == tag)
            {
                moves.Add(Move(one, before => before.Reported(report, delivery.Manifest, Now, Random.Shared.NextDouble(), BackOff.Standard)));
                if (one.Standing.State == DeliveryState.InPlace) await deliveries.KeepFoundAsync(one.Client.Id, Contents(identities, delivery), cancellationToken);
                var answer = said.Of(one.Client.Kind).AnswerTo(one.IsFixed);
                if (answer == DriftAnswer.Leave || (answer == DriftAnswer.NextContact && one.Standing.State == DeliveryState.InPlace)) continue;
            }

            moves.Add(Move(one, before => before.Told(delivery.Wanted)));
            patches.Add((one.Client.OutsideId, identities.State, changes));
            wanted[one.Client.OutsideId] = (one, delivery);
        }

        await deliveries.MoveAsync(moves, cancellationToken);
        if (patches.Count == 0) return;
        moves.Clear();
        foreach (var (account, became) in await jmap.SetAsync(found, patches, cancellationToken))
        {
            var (one, delivery) = wanted[account];
            if (became.Trouble.Length > 0 || became.After is null) moves.Add(Fail(one, became.Trouble));
            else moves.Add(Move(one, before => before.Reported(Report(became.After, delivery, delivery.Manifest.Tag()), delivery.Manifest, Now, Random.Shared.NextDouble(), BackOff.Standard)));
        }

        await deliveries.MoveAsync(moves, cancellationToken);
    }

    /// <summary>All but those that are in place and in which nothing changed since that was seen.</summary>
    private async Task<List<ClientDelivery>> ThoseToReadAsync(JmapClient jmap, JmapSession found, List<ClientDelivery> taken, CancellationToken cancellationToken)
    {
        var known = taken.Where(one => one.Standing.State == DeliveryState.InPlace && proven.TryGetValue(one.Client.Id, out var seenIn) && seenIn.Tag == one.Standing.WantedTag).ToList();
        if (known.Count == 0) return taken;
        var unchanged = await jmap.UnchangedAsync(found, [.. known.Select(one => (one.Client.OutsideId, proven[one.Client.Id].State))], cancellationToken);
        foreach (var one in known.Where(one => unchanged.Contains(one.Client.OutsideId))) seen.Note(one.Client.Id);
        return [.. taken.Where(one => !unchanged.Contains(one.Client.OutsideId))];
    }

    private Instant Now => Instant.FromDateTimeOffset(clock.GetUtcNow());

    private async Task<Delivery> FitAsync(ClientDelivery one, PeopleRoster roster, ClientSettings said, CancellationToken cancellationToken) =>
        await holdings.FitAsync(one.Client, await holdings.SlottingAsync(one.Edition!.Value, roster, said, cancellationToken), roster, cancellationToken);

    private static KeyValuePair<Guid, Func<DeliveryStanding, DeliveryStanding>> Move(ClientDelivery one, Func<DeliveryStanding, DeliveryStanding> step) => KeyValuePair.Create(one.Client.Id, step);

    private KeyValuePair<Guid, Func<DeliveryStanding, DeliveryStanding>> Fail(ClientDelivery one, string trouble) => Move(one, before => before.Failed(trouble, Now, Random.Shared.NextDouble(), BackOff.Standard));

    /// <summary>Identities that are to be set: those of the person's accounts that hold something else. Others are nobody's business here.</summary>
    private static IEnumerable<JmapIdentity> Changes(Client client, JmapIdentities identities, Delivery delivery)
    {
        foreach (var identity in identities.List.Where(identity => client.Addresses.Contains(identity.Email, StringComparer.OrdinalIgnoreCase)))
        {
            var (html, text) = (Wanted(identity, delivery, ".html"), Wanted(identity, delivery, ".txt"));
            if (identity.HtmlSignature != html || identity.TextSignature != text) yield return identity with { HtmlSignature = html, TextSignature = text };
        }
    }

    /// <summary>What an identity is to hold; empty where its account carries nothing.</summary>
    private static string Wanted(JmapIdentity identity, Delivery delivery, string ending) =>
        delivery.Signatures.FirstOrDefault(file => file.Entry.Path.EndsWith(ending, StringComparison.Ordinal) && string.Equals(file.Entry.Address, identity.Email, StringComparison.OrdinalIgnoreCase)) is { } file
            ? Encoding.UTF8.GetString(file.Bytes.Span)
            : "";

    /// <summary>What the identities hold, as a client of files would say it.</summary>
    private static DeliveryReport Report(JmapIdentities identities, Delivery delivery, string tag) => new(
        tag,
        [.. delivery.Manifest.Files.Select(file => new FoundFile(file.Path, Held(identities, file) is { } held ? RenderedSignature.Sha256(Encoding.UTF8.GetBytes(held)) : ""))],
        "");

    private static List<FoundContent> Contents(JmapIdentities identities, Delivery delivery) =>
    [
        .. from file in delivery.Manifest.Files
           let held = Held(identities, file)
           where held is not null && RenderedSignature.Sha256(Encoding.UTF8.GetBytes(held)) != file.Sha256
           select new FoundContent(file.Path, held.Length > AgentProtocol.MostContent ? held[..AgentProtocol.MostContent] : held),
    ];

    private static string? Held(JmapIdentities identities, ManifestFile file) => identities.List.FirstOrDefault(identity => string.Equals(identity.Email, file.Address, StringComparison.OrdinalIgnoreCase)) is { } identity
        ? file.Path.EndsWith(".html", StringComparison.Ordinal) ? identity.HtmlSignature : identity.TextSignature
        : null;

    /// <summary>The server as a whole is in trouble: it is left alone for a while, and nobody's delivery counts it as a failure.</summary>
    private async Task RestAsync(JmapException trouble, CancellationToken cancellationToken)
    {
        leftAloneUntil = clock.GetUtcNow() + (trouble.RetryAfter ?? TimeSpan.FromSeconds(5));
        session = null;
        LogAway(trouble.Message);
        try
        {
            await settings.LookedAsync(trouble.Message, cancellationToken);
        }
        catch (Exception away) when (away is NpgsqlException or TimeoutException)
        {
            LogAway(away.Message);
        }
    }

    [LoggerMessage(LogLevel.Warning, "Mailboxes wait: {Reason}")]
    private partial void LogAway(string reason);

    [LoggerMessage(LogLevel.Error, "Mailbox work stumbled and goes on")]
    private partial void LogTrouble(Exception trouble);
}
