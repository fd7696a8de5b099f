using System.Collections.Immutable;
using System.Security.Claims;
using System.Text;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Clients;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Rollout;

/// <summary>Adds a client of a kind that asks. IsForAll: one signature for every account, for a kind that may have it either way.</summary>
public sealed record AddClientRequest(string Kind, string Name, Guid PersonId, bool IsForAll = false);

/// <summary>A new client with its token and a code with which it may fetch another one itself; both shown this once and kept as hashes.</summary>
public sealed record AddClientAnswer(Guid Id, string Token, string Code, DateTimeOffset CodeUntil);

/// <summary>A page of clients, trouble first. Next: how many to pass over for the next page, or null on the last.</summary>
public sealed record ClientPage(ImmutableArray<ClientStanding> Clients, int? Next);

/// <summary>What should be in a place and what was found there. Found: null where nothing was reported but a hash.</summary>
public sealed record PlaceDifference(string Path, string Wanted, string? Found, DateTimeOffset? FoundAt);

/// <summary>How clients are treated, by kind and in all.</summary>
public sealed record ClientSettingsAnswer(ImmutableArray<KindChoice> Kinds, Flow Flow);

/// <summary>A kind's settings. HasSlots: false for one that asks for each message.</summary>
public sealed record KindChoice(string Kind, string Name, bool HasSlots, KindSettings Settings);

/// <summary>The server of the mailboxes, without its secret. Url: empty while there is none.</summary>
public sealed record MailboxServerAnswer(string Url, DateTimeOffset? LookedAt, string Trouble, int Mailboxes);

/// <summary>Sets the mailbox server. Token: null to keep the one there is.</summary>
public sealed record MailboxServerRequest(string Url, string? Token);

/// <summary>Installed clients: adding, looking into one, settings.</summary>
public static class ClientEndpoints
{
    /// <summary>Guards the token of the mailbox server.</summary>
    public const string SecretPurpose = "Relevo.MailboxServer.Secret";

    private const int PageSize = 100;
    private static readonly TimeSpan CodeLasts = TimeSpan.FromDays(7);

    /// <summary>Maps the endpoints.</summary>
    public static void MapClients(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/clients", ListAsync).WithName("ListClients");
        routes.MapPost("/api/clients", AddAsync).WithName("AddClient");
        routes.MapDelete("/api/clients/{id:guid}", RetireAsync).WithName("RetireClient");
        routes.MapPost("/api/clients/{id:guid}/again", AgainAsync).WithName("DeliverAgain");
        routes.MapGet("/api/clients/{id:guid}/story", async (Guid id, DeliveryStore deliveries, CancellationToken cancellationToken) => TypedResults.Ok(await deliveries.StoryAsync(id, cancellationToken))).WithName("ReadClientStory");
        routes.MapGet("/api/clients/{id:guid}/difference", DifferenceAsync).WithName("ReadClientDifference");
        routes.MapGet("/api/client-settings", ReadSettingsAsync).WithName("ReadClientSettings");
        routes.MapPut("/api/client-settings", SaveSettingsAsync).WithName("SaveClientSettings");
        routes.MapGet("/api/mailbox-server", ReadMailboxServerAsync).WithName("ReadMailboxServer");
        routes.MapPut("/api/mailbox-server", SaveMailboxServerAsync).WithName("SaveMailboxServer");
    }

    private static async Task<Ok<ClientPage>> ListAsync(
        DeliveryStore deliveries, RolloutStore rollouts, CurrentRoster rosters, CancellationToken cancellationToken, string kind = "", string state = "", int? wave = null, string search = "", int after = 0)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var people = search.Trim().Length == 0 ? null : RosterSearch.Answer(roster, RosterQuery.Everybody with { Search = search }, []).Rows.Select(row => row.Person.Id).ToArray();
        var found = await deliveries.ListAsync(kind, state, wave, (await rollouts.NewestAsync(cancellationToken))?.Id, people, Math.Max(0, after), PageSize + 1, RolloutWork.Limits, cancellationToken);
        var page = found.Take(PageSize).Select(client => client with { Person = roster.Find(client.PersonId)?.Name ?? "" });
        return TypedResults.Ok(new ClientPage([.. page], found.Count > PageSize ? after + PageSize : null));
    }

    private static async Task<Results<Created<AddClientAnswer>, ProblemHttpResult>> AddAsync(
        AddClientRequest request, ClientStore clients, CurrentRoster rosters, Placing placing, ClaimsPrincipal user, TimeProvider clock, CancellationToken cancellationToken)
    {
        var name = FieldValue.OneLine(request.Name);
        if (name.Length is 0 or > 200) return Problems.Invalid("The client cannot be added like this.", [new Fault("/name", 0, "name-length", "A client needs a name of 1 to 200 characters.")]);
        if (ClientKind.Find(request.Kind) is not { Reached: ClientWay.Agent or ClientWay.Profile or ClientWay.Asks })
            return Problems.Invalid("The client cannot be added like this.", [new Fault("/kind", 0, "kind-unknown", $"\"{request.Kind}\" is not a kind of client that asks with a token of its own; those are {string.Join(", ", ClientKind.All.Where(kind => kind.Reached is ClientWay.Agent or ClientWay.Profile or ClientWay.Asks).Select(kind => kind.Kind))}.")]);
        if ((await rosters.GetAsync(cancellationToken)).Find(request.PersonId)?.Person is not { IsRetired: false }) return Problems.NotFound("person");
        var ((token, hash), (code, codeHash), until) = (Tokens.New(), Tokens.NewCode(), clock.GetUtcNow() + CodeLasts);
        var client = new Client(Guid.NewGuid(), request.Kind, name, request.PersonId, "", request.IsForAll);
        await clients.AddAsync(client, hash, (codeHash, until), (await placing.ReadAsync(cancellationToken))(client.PersonId), user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/clients/{client.Id}", new AddClientAnswer(client.Id, token, code, until));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RetireAsync(Guid id, ClientStore clients, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        await clients.RetireAsync(id, user.Actor(), cancellationToken) ? TypedResults.NoContent() : Problems.NotFound("client");

    private static async Task<Results<NoContent, ProblemHttpResult>> AgainAsync(Guid id, DeliveryStore deliveries, CancellationToken cancellationToken) =>
        await deliveries.MoveAsync(id, before => before.Again(), cancellationToken) is null ? Problems.NotFound("client") : TypedResults.NoContent();

    private static async Task<Results<Ok<ImmutableArray<PlaceDifference>>, ProblemHttpResult>> DifferenceAsync(
        Guid id, DeliveryStore deliveries, CurrentRoster rosters, ClientSettingsStore settings, Holdings holdings, CancellationToken cancellationToken)
    {
        if (await deliveries.FindAsync(id, cancellationToken) is not { } client) return Problems.NotFound("client");
        if (client.Edition is not { } edition || client.Standing.Differing.IsEmpty) return TypedResults.Ok(ImmutableArray<PlaceDifference>.Empty);
        var roster = await rosters.GetAsync(cancellationToken);
        var wanted = await holdings.FitAsync(client.Client, await holdings.SlottingAsync(edition, roster, (await settings.ReadAsync(cancellationToken)).Settings, cancellationToken), roster, cancellationToken);
        var texts = wanted.Signatures.ToDictionary(file => file.Entry.Path, file => Encoding.UTF8.GetString(file.Bytes.Span), StringComparer.Ordinal);
        var found = (await deliveries.FoundAsync(id, cancellationToken)).ToDictionary(one => one.Path, StringComparer.Ordinal);
        return TypedResults.Ok<ImmutableArray<PlaceDifference>>(
        [
            .. client.Standing.Differing.Select(path => found.TryGetValue(path, out var one)
                ? new PlaceDifference(path, texts.GetValueOrDefault(path, ""), one.Text, one.At)
                : new PlaceDifference(path, texts.GetValueOrDefault(path, ""), null, null)),
        ]);
    }

    private static async Task<Ok<ClientSettingsAnswer>> ReadSettingsAsync(HttpContext context, ClientSettingsStore settings, CancellationToken cancellationToken)
    {
        var (read, revision) = await settings.ReadAsync(cancellationToken);
        Revision.Show(context, revision);
        return TypedResults.Ok(new ClientSettingsAnswer([.. ClientKind.All.Select(kind => new KindChoice(kind.Kind, kind.Name, !kind.IsPerMessage, read.Of(kind.Kind)))], read.Flow));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveSettingsAsync(ClientSettings saved, HttpContext context, ClientSettingsStore settings, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        var faults = saved.Kinds.Keys.Where(kind => ClientKind.Find(kind) is null).Select(kind => new Fault($"/kinds/{kind}", 0, "kind-unknown", $"\"{kind}\" is not a client kind.")).ToList();
        if (saved.Flow.MostPerMinute is < 1 or > 1_000_000) faults.Add(new Fault("/flow/mostPerMinute", 0, "flow-range", "Between 1 and 1,000,000 clients may change in a minute."));
        if (saved.Flow.BrakePercent is < 1 or > 100) faults.Add(new Fault("/flow/brakePercent", 0, "flow-range", "The brake is between 1 and 100 percent."));
        if (faults.Count > 0) return Problems.Invalid("The settings cannot be kept like this.", faults);
        return await settings.SaveAsync(saved, seen, user.Actor(), cancellationToken) ? TypedResults.NoContent() : Problems.LostUpdate("settings");
    }

    private static async Task<Ok<MailboxServerAnswer>> ReadMailboxServerAsync(ClientSettingsStore settings, ClientStore clients, CancellationToken cancellationToken)
    {
        var server = await settings.MailboxServerAsync(cancellationToken);
        return TypedResults.Ok(new MailboxServerAnswer(server?.SessionUrl ?? "", server?.LookedAt, server?.Trouble ?? "", await clients.CountMailboxesAsync(cancellationToken)));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveMailboxServerAsync(MailboxServerRequest request, ClientSettingsStore settings, IDataProtectionProvider protection, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Uri.TryCreate(request.Url, UriKind.Absolute, out var address) || address.Scheme is not ("http" or "https") || request.Url.Length > 2000)
            return Problems.Invalid("The mailbox server cannot be set like this.", [new Fault("/url", 0, "address", "The address of a session looks like \"https://mail.company.example/.well-known/jmap\".")]);
        await settings.SaveMailboxServerAsync(request.Url, request.Token is { Length: > 0 } token ? protection.CreateProtector(SecretPurpose).Protect(token) : null, user.Actor(), cancellationToken);
        return TypedResults.NoContent();
    }
}
