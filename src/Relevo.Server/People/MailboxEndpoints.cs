using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>Somebody who sends from a shared mailbox. IsByHand: named one by one; otherwise a group brings them.</summary>
public sealed record MailboxSender(Guid Id, string Name, bool IsByHand);

/// <summary>A shared mailbox. Senders: everybody who sends from it now, by name, and those named by hand who are retired.</summary>
public sealed record MailboxAnswer(Guid Id, string Address, ImmutableSortedDictionary<string, string> Facts, ImmutableArray<string> Groups, ImmutableArray<MailboxSender> Senders, int Revision);

/// <summary>A shared mailbox as it should be. Facts: an empty one is an explicit blank. Senders: people named by hand.</summary>
public sealed record MailboxRequest(string Address, ImmutableSortedDictionary<string, string> Facts, ImmutableArray<string> Groups, ImmutableArray<Guid> Senders);

/// <summary>A group that sources name, with how many people who are not retired are in it.</summary>
public sealed record GroupAnswer(string Name, int People);

/// <summary>Shared mailboxes and the groups that may send from them.</summary>
public static class MailboxEndpoints
{
    private const int MaxGroups = 50; // of one mailbox
    private const int MaxSenders = 2000; // named by hand; more are a group

    /// <summary>Maps the endpoints.</summary>
    public static void MapMailboxes(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/mailboxes", ListAsync).WithName("ListMailboxes");
        routes.MapPost("/api/mailboxes", AddAsync).WithName("AddMailbox");
        routes.MapPut("/api/mailboxes/{id:guid}", SaveAsync).WithName("SaveMailbox");
        routes.MapDelete("/api/mailboxes/{id:guid}", RetireAsync).WithName("RetireMailbox");
        routes.MapGet("/api/groups", GroupsAsync).WithName("ListGroups");
    }

    private static async Task<Ok<List<MailboxAnswer>>> ListAsync(CurrentRoster rosters, MailboxStore mailboxes, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        return TypedResults.Ok((await mailboxes.ListAsync(cancellationToken)).ConvertAll(stored =>
        {
            var mailbox = stored.Mailbox;
            var senders = stored.People.Union(mailbox.Senders).Select(roster.Find).OfType<RosterRow>().OrderBy(row => row.Name, StringComparer.OrdinalIgnoreCase)
                .Select(row => new MailboxSender(row.Person.Id, row.Name, mailbox.Senders.Contains(row.Person.Id)));
            return new MailboxAnswer(mailbox.Id, mailbox.Address, mailbox.Facts.Pairs.ToArray().ToImmutableSortedDictionary(StringComparer.Ordinal), mailbox.Groups, [.. senders], mailbox.Revision);
        }));
    }

    private static async Task<Results<Created<CountAnswer>, ProblemHttpResult>> AddAsync(MailboxRequest request, CurrentRoster rosters, MailboxStore mailboxes, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var mailbox = Clean(Guid.CreateVersion7(), request, 1);
        if (Check(mailbox, (await rosters.GetAsync(cancellationToken)).Records.Fields) is { Count: > 0 } faults) return Problems.Invalid("This mailbox cannot be added.", faults);
        return Answer(await mailboxes.AddAsync(mailbox, user.Actor(), cancellationToken)) is { } refusal ? refusal : TypedResults.Created($"/api/mailboxes/{mailbox.Id}", new CountAnswer(1));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(
        Guid id, MailboxRequest request, HttpContext context, CurrentRoster rosters, MailboxStore mailboxes, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        var mailbox = Clean(id, request, seen);
        if (Check(mailbox, (await rosters.GetAsync(cancellationToken)).Records.Fields) is { Count: > 0 } faults) return Problems.Invalid("This mailbox was not saved.", faults);
        if (Answer(await mailboxes.SaveAsync(mailbox, user.Actor(), cancellationToken)) is { } refused) return refused;
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RetireAsync(Guid id, HttpContext context, MailboxStore mailboxes, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        return Answer(await mailboxes.RetireAsync(id, seen, user.Actor(), cancellationToken)) is { } refused ? refused : TypedResults.NoContent();
    }

    private static async Task<Ok<GroupAnswer[]>> GroupsAsync(CurrentRoster rosters, CancellationToken cancellationToken) => TypedResults.Ok((await rosters.GetAsync(cancellationToken)).Rows.ToArray()
        .Where(row => !row.Person.IsRetired)
        .SelectMany(row => row.Person.Entries.SelectMany(entry => GroupNames.Split(entry.Facts[GroupNames.Field])).Distinct(StringComparer.OrdinalIgnoreCase))
        .CountBy(name => name, StringComparer.OrdinalIgnoreCase)
        .Select(pair => new GroupAnswer(pair.Key, pair.Value)).OrderBy(group => group.Name, StringComparer.OrdinalIgnoreCase).ToArray());

    private static Mailbox Clean(Guid id, MailboxRequest request, int revision) => new(
        id,
        FieldValue.OneLine(request.Address),
        new Facts(request.Facts.Where(pair => pair.Value is not null).Select(pair => KeyValuePair.Create(pair.Key, FieldValue.OneLine(pair.Value)))),
        [.. request.Groups.Select(FieldValue.OneLine).Where(name => name.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase)],
        [.. request.Senders.Distinct()],
        revision);

    private static List<Fault> Check(Mailbox mailbox, FieldCatalogue fields)
    {
        var faults = new List<Fault>();
        if (!MailAddress.IsOne(mailbox.Address)) faults.Add(new Fault("/address", 0, "mailbox-address", "This is not a mail address."));
        if (mailbox.Groups.Length > MaxGroups) faults.Add(new Fault("/groups", 0, "mailbox-groups", $"A mailbox has at most {MaxGroups} groups."));
        if (mailbox.Senders.Length > MaxSenders) faults.Add(new Fault("/senders", 0, "mailbox-senders", $"At most {MaxSenders} people are named by hand; take a group for more."));
        foreach (var pair in mailbox.Facts.Pairs)
        {
            if (fields.Find(pair.Key) is not { } field || !Mailbox.MayHold(field)) faults.Add(new Fault($"/facts/{pair.Key}", 0, "field-unknown", $"\"{pair.Key}\" is no field that a mailbox has."));
            else if (FieldCheck.Refuse(field, pair.Value) is { } reason) faults.Add(new Fault($"/facts/{pair.Key}", 0, "value-refused", reason));
        }

        return faults;
    }

    private static ProblemHttpResult? Answer(MailboxOutcome outcome) => outcome switch
    {
        MailboxOutcome.Saved => null,
        MailboxOutcome.NotFound => Problems.NotFound("shared mailbox"),
        MailboxOutcome.Conflict => Problems.LostUpdate("shared mailbox"),
        MailboxOutcome.SenderUnknown => Problems.Invalid("This mailbox was not saved.", [new Fault("/senders", 0, "sender-unknown", "Somebody named as a sender is not there.")]),
        _ => Problems.Of(StatusCodes.Status409Conflict, "address-taken", "A person or another mailbox has this address.", "Take the address away there first, or choose another."),
    };
}
