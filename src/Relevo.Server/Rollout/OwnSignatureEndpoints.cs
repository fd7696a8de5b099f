using System.Collections.Immutable;
using System.Security.Claims;
using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.People.Roster;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Rollout;

/// <summary>An employee's own signature for one account and slot, as it is put in by hand. Name: the design's; empty for no signature. Pictures in the HTML are linked.</summary>
public sealed record OwnSignature(string Address, string Slot, string Name, string Html, string Text);

/// <summary>
/// An employee's signatures as they are rolled out; Edition is 0 before anything is. IsPlaced: whether the person ever said that they were put in by hand; State: where that
/// stands now. Clients: the person's clients that get them by themselves.
/// </summary>
public sealed record OwnSignatures(int Edition, ImmutableArray<OwnSignature> Signatures, bool IsPlaced, DeliveryState State, ImmutableArray<string> Clients);

/// <summary>The employee's own page: signatures to put in by hand, and saying so.</summary>
public static class OwnSignatureEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapOwn(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/own/signatures", ReadAsync).WithName("ReadOwnSignatures");
        routes.MapPost("/api/own/signatures/placed", PlaceAsync).WithName("PlaceOwnSignatures");
    }

    private static async Task<Results<Ok<OwnSignatures>, ProblemHttpResult>> ReadAsync(
        ClaimsPrincipal principal, UserStore users, CurrentRoster rosters, Placing placing, ClientStore clients, DeliveryStore deliveries, ClientSettingsStore settings, Holdings holdings, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        if (await FindAsync(principal, users, roster, cancellationToken) is not { } row) return Nobody();
        var known = await clients.FindByHandAsync(row.Person.Id, cancellationToken);
        var delivery = known is null ? null : await deliveries.FindAsync(known.Id, cancellationToken);
        if ((delivery?.Edition ?? (await placing.ReadAsync(cancellationToken))(row.Person.Id).Edition) is not { } edition) return TypedResults.Ok(new OwnSignatures(0, [], false, DeliveryState.Waits, []));
        var slotting = await holdings.SlottingAsync(edition, roster, (await settings.ReadAsync(cancellationToken)).Settings, cancellationToken);
        var fitting = slotting.Fill(Holdings.Choose(known ?? ByHand(row), slotting, roster));
        var files = (await holdings.DeliverAsync(fitting, cancellationToken)).Signatures;
        string Text(string address, string slot, string ending) =>
            files.FirstOrDefault(file => file.Entry.Address == address && file.Entry.Slot == slot && file.Entry.Path.EndsWith(ending, StringComparison.Ordinal)) is { } file ? Encoding.UTF8.GetString(file.Bytes.Span) : "";
        return TypedResults.Ok(new OwnSignatures(
            edition,
            [.. fitting.Slots.Select(slot => new OwnSignature(slot.Choice.Address, slot.Choice.Slot.Label, slot.Tried, Text(slot.Choice.Address, slot.Choice.Slot.Name, ".html"), Text(slot.Choice.Address, slot.Choice.Slot.Name, ".txt")))],
            known is not null,
            delivery?.Standing.State ?? DeliveryState.Waits,
            [.. (await deliveries.ListAsync("", "", null, null, [row.Person.Id], 0, 20, RolloutWork.Limits, cancellationToken)).Where(client => !client.IsByHand).Select(NameOf)]));
    }

    private static string NameOf(ClientStanding client)
    {
        var kind = ClientKind.Find(client.Kind)?.Name ?? client.Kind;
        return string.Equals(kind, client.Client, StringComparison.OrdinalIgnoreCase) ? kind : $"{kind} {client.Client}";
    }

    /// <summary>The person says that all of them were put in. Counts as reported by a person, and is marked so.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> PlaceAsync(
        ClaimsPrincipal principal, UserStore users, CurrentRoster rosters, Placing placing, ClientStore clients, DeliveryStore deliveries, ClientSettingsStore settings, Holdings holdings, TimeProvider clock, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        if (await FindAsync(principal, users, roster, cancellationToken) is not { } row) return Nobody();
        var placement = (await placing.ReadAsync(cancellationToken))(row.Person.Id);
        var client = await clients.FindByHandAsync(row.Person.Id, cancellationToken);
        if (client is null && placement.Edition is not null) await clients.AddAsync(client = ByHand(row), null, null, placement, principal.Actor(), cancellationToken);
        if (client is null || await deliveries.FindAsync(client.Id, cancellationToken) is not { Edition: { } edition })
            return Problems.Of(StatusCodes.Status409Conflict, "nothing-rolled-out", "There is nothing to put in yet.", "Your company has not rolled out any signatures.");
        var delivery = await holdings.FitAsync(client, await holdings.SlottingAsync(edition, roster, (await settings.ReadAsync(cancellationToken)).Settings, cancellationToken), roster, cancellationToken);
        var manifest = delivery.Manifest;
        var report = new DeliveryReport(manifest.Tag(), [.. manifest.Files.Select(file => new FoundFile(file.Path, file.Sha256))], "");
        await deliveries.MoveAsync(client.Id, before => before.Told(delivery.Wanted).Reported(report, manifest, Instant.FromDateTimeOffset(clock.GetUtcNow()), 0.5, BackOff.Standard), cancellationToken);
        return TypedResults.NoContent();
    }

    private static async Task<RosterRow?> FindAsync(ClaimsPrincipal principal, UserStore users, PeopleRoster roster, CancellationToken cancellationToken) =>
        (await users.FindAsync(principal.UserId(), cancellationToken))?.PersonId is { } id ? roster.Find(id) : null;

    private static Client ByHand(RosterRow row) => new(Guid.CreateVersion7(), ClientKind.DeskApp.Kind, "put in by hand", row.Person.Id) { IsByHand = true };

    private static ProblemHttpResult Nobody() =>
        Problems.Of(StatusCodes.Status404NotFound, "no-person", "This sign-in belongs to nobody in the directory.", "Ask your administrator to link it to your directory entry.");
}
