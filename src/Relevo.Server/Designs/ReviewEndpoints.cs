using System.Collections.Immutable;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Checks;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.Rules;

namespace Relevo.Server.Designs;

/// <summary>Somebody named with a finding.</summary>
public sealed record ConcernedAccount(Guid Person, string Name, string Address);

/// <summary>A finding with the accounts it names.</summary>
public sealed record FindingAnswer(string Code, string Message, string Block, int People, ImmutableArray<ConcernedAccount> First);

/// <summary>The signature of the account at an edge. Width in pixels; Sharing: accounts at the same edge.</summary>
public sealed record ExtremeAnswer(ConcernedAccount Account, int Width, int Lines, int TextLines, int Collapsed, int Facts, int Sharing, LensSignature Signature);

/// <summary>What signatures weigh, in bytes. Each: the heaviest HTML and the heaviest pictures, in base64 where they travel in the message.</summary>
public sealed record WeightAnswer(int Html, int Pictures, int Each, int Hundred);

/// <summary>Whose own pictures weigh most. Measured: accounts whose pictures are made and so known, of those that have one.</summary>
public sealed record HeaviestAnswer(ConcernedAccount Account, int Bytes, int Measured, int Of);

/// <summary>A design over everybody.</summary>
public sealed record ReviewAnswer(int Accounts, ExtremeAnswer? Longest, ExtremeAnswer? Emptiest, HeaviestAnswer? Heaviest, WeightAnswer Weight, ImmutableArray<FindingAnswer> Findings);

/// <summary>A design looked at over everybody: who is at its edges and what to mind.</summary>
public static class ReviewEndpoints
{
    private const int MostMade = 50; // pictures made for one look: about a quarter of a second

    /// <summary>Maps the endpoint.</summary>
    public static void MapReviews(this IEndpointRouteBuilder routes) => routes.MapGet("/api/designs/{id:guid}/review", ReviewAsync).WithName("ReviewDesign");

    /// <summary>Looks at everybody, or at those who have a value in a field: a group.</summary>
    private static async Task<Results<Ok<ReviewAnswer>, ProblemHttpResult>> ReviewAsync(
        Guid id, HttpRequest request, CurrentRoster rosters, CurrentAccounts accounts, CurrentReach reach, Situations situations, Drafts drafts, CompiledDesigns compiled, PictureCuts cuts, CancellationToken cancellationToken, string field = "", string value = "")
    {
        var content = await drafts.ReadAsync(cancellationToken);
        if (content.Find(id) is not { } design) return Problems.NotFound("design");
        var everybody = accounts.Of(await rosters.GetAsync(cancellationToken));
        var fields = everybody.Roster.Records.Fields;
        var asked = -1;
        if (field.Length > 0 && !fields.TryFind(field, out asked)) return Problems.NotFound("field");
        var program = compiled.Get(design, ClientKind.DeskApp, fields);
        everybody.Prepare(asked < 0 ? program.FieldsRead() : program.FieldsRead().Append(asked));
        var reached = new ReachedGroup(everybody, accounts.ReachedBy(id, reach.Of(everybody.Roster, content), everybody), asked, value);
        var forms = ClientKind.All.Select(kind => new HeldForm(kind, compiled.Get(design, kind.FormUnder($"{request.Scheme}://{request.Host}"), fields))).ToImmutableArray();
        var review = DesignReview.Of(design, fields, program, forms, reached.Count, reached.Values);
        (RenderedSignature Rendered, Measurement Measured) Carried(RosterRow row, Account account)
        {
            var read = situations.Plain(everybody.Roster.Records, row, account, ClientKind.DeskApp, Occasion.New);
            var furnished = Signing.Furnish(design, content, everybody.Roster.Records, read.Situation, Decision.Decide(content.Rules, everybody.Roster.Records, read.Situation), read.Values);
            return (compiled.Get(furnished, ClientKind.DeskApp, fields).Render(read.Values, read.Circumstances), SignatureMeasure.Of(furnished, fields).Measure(read.Values, read.Circumstances));
        }

        var longest = Edge(id, design, review.Longest, reached, Carried);
        var emptiest = Edge(id, design, review.Emptiest, reached, Carried);
        var added = review.Longest is { } edge ? (longest?.Signature.Bytes ?? 0) - program.Render(reached.Values(edge.Place), Circumstances.Plain).Html.Length : 0;
        var kept = await cuts.EnsureAsync([.. (longest?.Signature.Pictures ?? []).Union(emptiest?.Signature.Pictures ?? [])], cancellationToken);
        var heaviest = await HeaviestAsync(reached, program, cuts, cancellationToken);
        int Bytes(IEnumerable<string> names) => names.Sum(name => kept.TryGetValue(name, out var cut) ? cut.Bytes : 0);
        var suffixes = program.FieldPictures.Select(picture => picture.Suffix).ToArray();
        var common = Bytes((longest?.Signature.Pictures ?? []).Where(name => !suffixes.Any(suffix => name.EndsWith(suffix, StringComparison.Ordinal))));
        var pictures = Math.Max(Bytes(longest?.Signature.Pictures ?? []), common + (heaviest?.Bytes ?? 0));
        // What rules add to the longest stands for what they add to anybody.
        var html = review.MostHtmlBytes + Math.Max(0, added);
        var each = html + Weight.Base64(pictures);
        return TypedResults.Ok(new ReviewAnswer(
            review.Accounts, longest, emptiest, heaviest, new WeightAnswer(html, pictures, each, 100 * each),
            [.. DesignFindings.Among(design, content.Designs.Select(other => other.Document)).Concat(review.Findings).Select(finding => new FindingAnswer(finding.Code, finding.Message, finding.Block, finding.People, [.. finding.First.Select(place => Concerned(reached, place))]))]));
    }

    private static ExtremeAnswer? Edge(Guid id, DesignDocument design, Extreme? extreme, ReachedGroup reached, Func<RosterRow, Account, (RenderedSignature Rendered, Measurement Measured)> carried)
    {
        if (extreme is not { } edge) return null;
        // As it goes out, with the disclaimers that rules add.
        var (rendered, measured) = carried(reached[edge.Place].Row, reached[edge.Place].Account);
        var textLines = rendered.Text.Span.Count((byte)'\n') - (rendered.Text.Span.StartsWith("-- \n"u8) ? 1 : 0);
        return new ExtremeAnswer(
            Concerned(reached, edge.Place), (int)Math.Ceiling(measured.Width), measured.Lines, textLines, measured.Collapsed, measured.Facts, edge.Sharing, LensSignature.Of(id, design.Name, rendered));
    }

    /// <summary>Whose pictures of their own weigh most, among those whose pictures are made; a few more are made each time.</summary>
    private static async Task<HeaviestAnswer?> HeaviestAsync(ReachedGroup reached, CompiledDesign program, PictureCuts cuts, CancellationToken cancellationToken)
    {
        var uses = program.FieldPictures.ToArray();
        if (uses.Length == 0) return null;
        var names = new List<(int Place, string Name)>();
        for (var place = 0; place < reached.Count; place++)
        {
            foreach (var (picture, suffix) in uses)
            {
                if (reached.Value(place, picture).Text is { Length: > 0 } source) names.Add((place, source + suffix));
            }
        }

        var found = await cuts.FindAsync(names.Select(one => one.Name).ToHashSet(StringComparer.Ordinal), MostMade, cancellationToken);
        var weighed = names.GroupBy(one => one.Place).Where(own => own.All(one => found.ContainsKey(one.Name))).Select(own => (Place: own.Key, Bytes: own.Sum(one => found[one.Name].Bytes))).ToArray();
        if (weighed.Length == 0) return null;
        var (heaviest, bytes) = weighed.MaxBy(own => own.Bytes);
        return new HeaviestAnswer(Concerned(reached, heaviest), bytes, weighed.Length, names.DistinctBy(one => one.Place).Count());
    }

    private static ConcernedAccount Concerned(ReachedGroup reached, int place) => new(reached[place].Row.Person.Id, reached[place].Row.Name, reached[place].Account.Address);
}
