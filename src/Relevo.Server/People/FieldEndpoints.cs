using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>A field designs may use. Profile: what a profile link leads to. Attributes: what it is read from unless a source says otherwise. IsOfMailbox: a shared mailbox may say something in it.</summary>
public sealed record FieldAnswer(string Name, string Label, FieldKind Kind, bool IsCompanyMade, ImmutableArray<FieldHolder> Holders, FieldRule Rule, PhoneDisplay Display, ImmutableArray<string> Attributes, bool IsOfMailbox, ProfileKind? Profile);

/// <summary>The field set with its revision.</summary>
public sealed record FieldSetAnswer(int Revision, FieldSet Fields);

/// <summary>Fields: the standard ones with the company's settings, and its own.</summary>
public static class FieldEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapFields(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/fields", ListAsync).WithName("ListFields");
        routes.MapGet("/api/field-set", ReadAsync).WithName("ReadFieldSet");
        routes.MapPut("/api/field-set", SaveAsync).WithName("SaveFieldSet");
    }

    private static async Task<Ok<FieldAnswer[]>> ListAsync(FieldSetStore store, CancellationToken cancellationToken)
    {
        var set = (await store.ReadAsync(cancellationToken)).Fields;
        var retired = set.Own.Where(field => field.IsRetired).Select(field => field.Name).ToHashSet(StringComparer.Ordinal);
        return TypedResults.Ok(set.ToCatalogue().Fields.Where(field => !retired.Contains(field.Name))
            .Select(field => new FieldAnswer(field.Name, field.Label, field.Kind, field.IsCompanyMade, field.Holders, field.Rule, field.Display, field.Attributes, Mailbox.MayHold(field), field.Profile)).ToArray());
    }

    private static async Task<Ok<FieldSetAnswer>> ReadAsync(FieldSetStore store, HttpContext context, CancellationToken cancellationToken)
    {
        var stored = await store.ReadAsync(cancellationToken);
        Revision.Show(context, stored.Revision);
        return TypedResults.Ok(new FieldSetAnswer(stored.Revision, stored.Fields));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(FieldSet fields, FieldSetStore store, HttpContext context, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        var before = await store.ReadAsync(cancellationToken);
        if (fields.Check(before.Fields) is { IsEmpty: false } problems)
            return Problems.Invalid("The fields have faults and were not saved.", problems.Select(problem => new Fault(problem.Pointer, 0, problem.Code, problem.Message)));
        if (await store.SaveAsync(seen, fields, user.Actor(), cancellationToken) != SaveOutcome.Saved) return Problems.LostUpdate("fields");
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }
}
