using System.Collections.Immutable;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Checks;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;

namespace Relevo.Server.Designs;

/// <summary>Somebody named with a finding.</summary>
public sealed record ConcernedAccount(Guid Person, string Name, string Address);

/// <summary>A finding with the accounts it names.</summary>
public sealed record FindingAnswer(string Code, string Message, string Block, int People, ImmutableArray<ConcernedAccount> First);

/// <summary>The signature of the account at an edge. Width in pixels; Sharing: accounts at the same edge.</summary>
public sealed record ExtremeAnswer(ConcernedAccount Account, int Width, int Lines, int TextLines, int Collapsed, int Facts, int Sharing, LensSignature Signature);

/// <summary>What signatures weigh, in bytes. Each: the heaviest HTML and the longest one's pictures, in base64 where they travel in the message.</summary>
public sealed record WeightAnswer(int Html, int Pictures, int Each, int Hundred);

/// <summary>A design over everybody.</summary>
public sealed record ReviewAnswer(int Accounts, ExtremeAnswer? Longest, ExtremeAnswer? Emptiest, WeightAnswer Weight, ImmutableArray<FindingAnswer> Findings);

/// <summary>A design looked at over everybody: who is at its edges and what to mind.</summary>
public static class ReviewEndpoints
{
    /// <summary>Maps the endpoint.</summary>
    public static void MapReviews(this IEndpointRouteBuilder routes) => routes.MapGet("/api/designs/{id:guid}/review", ReviewAsync).WithName("ReviewDesign");

    private static async Task<Results<Ok<ReviewAnswer>, ProblemHttpResult>> ReviewAsync(
        Guid id, CurrentRoster rosters, CurrentAccounts accounts, Drafts drafts, CompiledDesigns compiled, PictureCuts cuts, CancellationToken cancellationToken)
    {
        if ((await drafts.ReadAsync(cancellationToken)).Find(id) is not { } design) return Problems.NotFound("design");
        var everybody = accounts.Of(await rosters.GetAsync(cancellationToken));
        var fields = everybody.Roster.Records.Fields;
        var program = compiled.Get(design, ClientKind.DeskApp, fields);
        everybody.Prepare(program.FieldsRead(fields));
        var review = DesignReview.Of(design, fields, program, everybody.Count, everybody.Values);
        var longest = Edge(id, design, review.Longest, everybody, program);
        var emptiest = Edge(id, design, review.Emptiest, everybody, program);
        var kept = await cuts.EnsureAsync([.. (longest?.Signature.Pictures ?? []).Union(emptiest?.Signature.Pictures ?? [])], cancellationToken);
        var pictures = (longest?.Signature.Pictures ?? []).Sum(name => kept.TryGetValue(name, out var cut) ? cut.Bytes : 0);
        var each = review.MostHtmlBytes + Weight.Base64(pictures);
        return TypedResults.Ok(new ReviewAnswer(
            review.Accounts, longest, emptiest, new WeightAnswer(review.MostHtmlBytes, pictures, each, 100 * each),
            [.. review.Findings.Select(finding => new FindingAnswer(finding.Code, finding.Message, finding.Block, finding.People, [.. finding.First.Select(place => Concerned(everybody, place))]))]));
    }

    private static ExtremeAnswer? Edge(Guid id, DesignDocument design, Extreme? extreme, ReachedAccounts everybody, CompiledDesign program)
    {
        if (extreme is not { } edge) return null;
        var rendered = program.Render(everybody.Values(edge.Place), Circumstances.Plain);
        var measured = edge.Measurement;
        return new ExtremeAnswer(
            Concerned(everybody, edge.Place), (int)Math.Ceiling(measured.Width), measured.Lines, edge.TextLines, measured.Collapsed, measured.Facts, edge.Sharing, LensSignature.Of(id, design.Name, rendered));
    }

    private static ConcernedAccount Concerned(ReachedAccounts everybody, int place) => new(everybody[place].Row.Person.Id, everybody[place].Row.Name, everybody[place].Account.Address);
}
