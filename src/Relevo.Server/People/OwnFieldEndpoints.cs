using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>A field an employee may set. Own: what they set, null for nothing. Shown: what signatures show. Waiting: a wish that waits for a yes.</summary>
public sealed record OpenField(string Name, string Label, FieldKind Kind, ImmutableArray<string> Choices, string? Own, string Shown, bool NeedsApproval, bool IsWaiting, string? Waiting);

/// <summary>What an employee sets. Null takes it back.</summary>
public sealed record SetOwnRequest(string? Value);

/// <summary>A wish that waits, with whose it is.</summary>
public sealed record WaitingWish(Guid PersonId, string Person, string Field, string Label, FieldKind Kind, string? Value, string Shown, DateTimeOffset RequestedAt);

/// <summary>The answer to a wish.</summary>
public sealed record AnswerWish(bool IsGranted);

/// <summary>Fields opened to employees: set on their own page, or asked for and answered by an administrator.</summary>
public static class OwnFieldEndpoints
{
    /// <summary>Maps the employee's side.</summary>
    public static void MapOwnFields(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/own/fields", ListAsync).WithName("ListOwnFields");
        routes.MapPut("/api/own/fields/{name}", SetAsync).WithName("SetOwnField");
    }

    /// <summary>Maps the administrator's side.</summary>
    public static void MapWishes(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/wishes", WishesAsync).WithName("ListWishes");
        routes.MapPost("/api/wishes/{person:guid}/{field}", AnswerAsync).WithName("AnswerWish");
    }

    private static async Task<Results<Ok<List<OpenField>>, ProblemHttpResult>> ListAsync(ClaimsPrincipal principal, UserStore users, CurrentRoster rosters, OwnRequestStore requests, CancellationToken cancellationToken)
    {
        if (await PersonOfAsync(principal, users, cancellationToken) is not { } id) return NoPerson();
        var roster = await rosters.GetAsync(cancellationToken);
        if (roster.Find(id)?.Person is not { } person) return NoPerson();
        var shown = FieldResolution.Explain(roster.Records, person, person.FindAccount(null)).ToDictionary(field => field.Name, field => field.Value.IsEmpty ? field.Stored : field.Value.Text, StringComparer.Ordinal);
        var waiting = (await requests.ListAsync(id, cancellationToken)).ToDictionary(request => request.Field, StringComparer.Ordinal);
        return TypedResults.Ok(roster.Records.Fields.Fields.Where(person.MaySet).Select(field => new OpenField(
            field.Name, field.Label, field.Kind, field.Rule.Choices, person.Own[field.Name], shown.GetValueOrDefault(field.Name, ""), field.Rule.NeedsApproval,
            waiting.ContainsKey(field.Name), waiting.GetValueOrDefault(field.Name)?.Value)).ToList());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SetAsync(
        string name, SetOwnRequest request, ClaimsPrincipal principal, UserStore users, CurrentRoster rosters, PersonStore people, OwnRequestStore requests, CancellationToken cancellationToken)
    {
        if (await PersonOfAsync(principal, users, cancellationToken) is not { } id) return NoPerson();
        var roster = await rosters.GetAsync(cancellationToken);
        var fields = roster.Records.Fields;
        if (fields.Find(name) is not { } field || roster.Find(id)?.Person.MaySet(field) != true)
            return Problems.Of(StatusCodes.Status403Forbidden, "field-fixed", "This field is set by your company.", "Ask your administrator to change it.");
        if (PersonEndpoints.Refuse(fields, name, request.Value) is { } refusal) return refusal;
        var value = request.Value is { } text ? FieldValue.OneLine(text) : null;
        if (field.Rule.NeedsApproval) await requests.AskAsync(id, name, value, principal.Actor(), cancellationToken);
        else await people.SetAsync(id, null, isOwn: true, name, value, principal.Actor(), cancellationToken);
        return TypedResults.NoContent();
    }

    private static async Task<Ok<List<WaitingWish>>> WishesAsync(CurrentRoster rosters, OwnRequestStore requests, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        return TypedResults.Ok((await requests.ListAsync(null, cancellationToken)).ConvertAll(request =>
        {
            var row = roster.Find(request.PersonId);
            var shown = row is not null && roster.Records.Fields.TryFind(request.Field, out var index) ? row.Stored(index) ?? "" : "";
            return new WaitingWish(request.PersonId, row?.Name ?? "", request.Field, roster.Records.Fields.Label(request.Field), roster.Records.Fields.Find(request.Field)?.Kind ?? FieldKind.Text, request.Value, shown, request.RequestedAt);
        }));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> AnswerAsync(
        Guid person, string field, AnswerWish answer, OwnRequestStore requests, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        await requests.AnswerAsync(person, field, answer.IsGranted, user.Actor(), cancellationToken) ? TypedResults.NoContent() : Problems.NotFound("wish");

    private static async Task<Guid?> PersonOfAsync(ClaimsPrincipal principal, UserStore users, CancellationToken cancellationToken) => (await users.FindAsync(principal.UserId(), cancellationToken))?.PersonId;

    private static ProblemHttpResult NoPerson() => Problems.Of(StatusCodes.Status404NotFound, "no-person", "This sign-in belongs to nobody in the directory.", "Ask your administrator to link it to your directory entry.");
}
