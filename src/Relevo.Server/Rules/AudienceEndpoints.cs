using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;

namespace Relevo.Server.Rules;

/// <summary>The audience book with its revision.</summary>
public sealed record AudiencesAnswer(int Revision, AudienceBook Book);

/// <summary>Members read from a table.</summary>
public sealed record MembersAnswer(ImmutableArray<string> Members);

/// <summary>What a list of recipients comes to: the audience, the address that decides, and each recipient with its own.</summary>
public sealed record RecipientsAnswer(string Audience, string Deciding, string Reason, ImmutableArray<RecipientAnswer> Recipients);

/// <summary>A recipient with its audience.</summary>
public sealed record RecipientAnswer(string Address, string Audience);

/// <summary>Who will read: own domains and named audiences.</summary>
public static class AudienceEndpoints
{
    private const int MaxRecipientCharacters = 200_000, MostRecipientsShown = 200;

    /// <summary>Maps the endpoints.</summary>
    public static void MapAudiences(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/audiences", ReadAsync).WithName("ReadAudiences");
        routes.MapPut("/api/audiences", SaveAsync).WithName("SaveAudiences");
        routes.MapPost("/api/audiences/members", ReadMembersAsync).WithName("ReadMembers").Accepts<string>("text/csv");
        routes.MapPost("/api/audiences/recipients", AskAsync).WithName("AskRecipients");
    }

    private static async Task<Ok<AudiencesAnswer>> ReadAsync(Documents documents, HttpContext context, CancellationToken cancellationToken)
    {
        var (revision, book) = (await documents.FindAsync<AudienceBook>(DocumentKind.Audiences, DocumentStore.AudienceBook, context, cancellationToken))!.Value;
        return TypedResults.Ok(new AudiencesAnswer(revision, book));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(AudienceBook book, Documents documents, HttpContext context, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        RuleCheck.Check(book) is { IsEmpty: false } problems
            ? RuleEndpoints.Invalid("The audiences have faults and were not saved.", problems)
            : await documents.SaveAsync(DocumentKind.Audiences, DocumentStore.AudienceBook, book, context, user, cancellationToken);

    /// <summary>Reads members from a CSV table, and keeps nothing.</summary>
    private static async Task<Results<Ok<MembersAnswer>, ProblemHttpResult>> ReadMembersAsync(HttpRequest request, CancellationToken cancellationToken)
    {
        using var text = new StreamReader(request.Body);
        var (members, problems) = AudienceMember.ReadTable(new StringReader(await text.ReadToEndAsync(cancellationToken)));
        if (!problems.IsEmpty) return RuleEndpoints.Invalid("The table has faulty lines and nothing of it was taken.", problems.Take(100));
        if (members.Length > AudienceBook.MaxMembers) return RuleEndpoints.Invalid("The table is too long.", [new RuleProblem("", "too-many-members", $"An audience has at most {AudienceBook.MaxMembers} members.")]);
        return TypedResults.Ok(new MembersAnswer(members));
    }

    /// <summary>Says what a list of recipients, as it stands in a header, comes to.</summary>
    private static async Task<Results<Ok<RecipientsAnswer>, ProblemHttpResult>> AskAsync(RecipientsRequest request, Drafts drafts, CancellationToken cancellationToken)
    {
        if (request.Recipients.Length > MaxRecipientCharacters) return Problems.Of(StatusCodes.Status413PayloadTooLarge, "too-large", "The list of recipients is too long.", $"At most {MaxRecipientCharacters} characters are read here.");
        var index = new AudienceIndex(await drafts.ReadAudiencesAsync(cancellationToken));
        var list = RecipientList.Read(request.Recipients);
        var answer = index.Of(list);
        return TypedResults.Ok(new RecipientsAnswer(answer.Key, answer.Deciding, answer.Reason, [.. list.Addresses.Take(MostRecipientsShown).Select(address => new RecipientAnswer(address, index.Of(address)))]));
    }
}

/// <summary>A list of recipients as it stands in a header (RFC 5322 section 3.4).</summary>
public sealed record RecipientsRequest(string Recipients);
