using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.People;

namespace Relevo.Server.Rollout;

/// <summary>What a client that asks is to be answered.</summary>
/// <param name="Client">Who asked.</param>
/// <param name="Standing">Where its delivery stands now.</param>
/// <param name="Tag">The tag of what it is to hold; empty for nothing yet.</param>
/// <param name="Delivery">What it is to hold, or null when it has it already.</param>
public sealed record AskAnswer(ClientDelivery Client, DeliveryStanding Standing, string Tag, Delivery? Delivery);

/// <summary>Answers clients that poll. A poll with nothing new is one small query or a part of one.</summary>
public sealed class ClientAsking(TokenQuestions tokens, DeliveryStore deliveries, ClientStore clients, SeenClients seen, CurrentRoster rosters, ClientSettingsStore settings, Holdings holdings)
{
    /// <summary>The client whose token a request carries, or null. It was heard of.</summary>
    public async Task<ClientDelivery?> IdentifyAsync(HttpContext context, CancellationToken cancellationToken)
    {
        var header = context.Request.Headers.Authorization.ToString();
        if (!header.StartsWith("Bearer ", StringComparison.Ordinal)) return null;
        var hash = Tokens.Hash(header["Bearer ".Length..].Trim());
        if (await tokens.FindAsync(hash, cancellationToken) is not { } found) return null;
        seen.Note(found.Client.Id);
        if (found.HasNextToken) await clients.PromoteAsync(found.Client.Id, hash, cancellationToken);
        return found;
    }

    /// <summary>What a client is answered. has: whether it says that it has what a tag names.</summary>
    public async Task<AskAnswer> AskAsync(ClientDelivery client, Func<string, bool> has, CancellationToken cancellationToken)
    {
        var standing = client.Standing;
        if (client.Edition is null) return new AskAnswer(client, standing, "", null);
        if (client.IsPlanned && has(standing.WantedTag) && !standing.IsAgain) return new AskAnswer(client, standing, standing.WantedTag, null);

        // While its rollout is paused nobody is told anything new.
        if (client.IsPaused && (standing.State == DeliveryState.Waits || !client.IsPlanned)) return new AskAnswer(client, standing, "", null);
        var delivery = await FitAsync(client, cancellationToken);
        var wanted = delivery.Wanted;
        var isKept = has(wanted.Tag) && !(standing.IsAgain && standing.WantedTag == wanted.Tag);
        standing = await deliveries.MoveAsync(client.Client.Id, before => isKept ? before.Has(wanted) : before.Told(wanted), cancellationToken) ?? standing;
        return new AskAnswer(client, standing, wanted.Tag, isKept ? null : delivery);
    }

    /// <summary>What a client is to hold now.</summary>
    public async Task<Delivery> FitAsync(ClientDelivery client, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        return await holdings.FitAsync(client.Client, await holdings.SlottingAsync(client.Edition!.Value, roster, (await settings.ReadAsync(cancellationToken)).Settings, cancellationToken), roster, cancellationToken);
    }
}
