using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Editions;
using Relevo.Core.People.Roster;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.Rules;
using Relevo.Server.SignIn;

namespace Relevo.Server.Proof;

/// <summary>What would go into the next edition. Latest is 0 before the first; MayPublish is false when nothing changed, there is nothing to publish, or something stops it. Stops: what, as sentences.</summary>
public sealed record ProofAnswer(int Latest, ImmutableArray<EditionChange> Changes, bool MayPublish, List<EditionHead> Editions, ImmutableArray<string> Stops);

/// <summary>Publishes the drafts. Latest: the newest edition the publisher saw.</summary>
public sealed record PublishRequest(int Latest);

/// <summary>A published edition.</summary>
public sealed record PublishAnswer(int Number);

/// <summary>The Proof leg.</summary>
public static class ProofEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapProof(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/proof", ReadAsync).WithName("ReadProof");
        routes.MapPost("/api/editions", PublishAsync).WithName("PublishEdition");
    }

    private static async Task<Ok<ProofAnswer>> ReadAsync(Drafts drafts, EditionStore editions, CurrentRoster rosters, CurrentReach reach, CancellationToken cancellationToken)
    {
        var all = await editions.ListAsync(cancellationToken);
        var latest = all.FirstOrDefault()?.Number ?? 0;
        var before = await editions.FindAsync(latest, cancellationToken) ?? EditionContent.Empty;
        var (content, roster) = (await drafts.ReadAsync(cancellationToken), await rosters.GetAsync(cancellationToken));
        var changes = EditionDifference.Compare(before, content, Names(roster));
        var stops = Stops(content, roster, reach);
        return TypedResults.Ok(new ProofAnswer(latest, changes, !changes.IsEmpty && stops.IsEmpty, all, stops));
    }

    private static async Task<Results<Created<PublishAnswer>, ProblemHttpResult>> PublishAsync(
        PublishRequest request, Drafts drafts, EditionStore editions, CurrentRoster rosters, CurrentReach reach, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var content = await drafts.ReadAsync(cancellationToken);
        var before = await editions.FindAsync(request.Latest, cancellationToken) ?? EditionContent.Empty;
        var roster = await rosters.GetAsync(cancellationToken);
        if (Stops(content, roster, reach) is { IsEmpty: false } stops)
            return Problems.Of(StatusCodes.Status409Conflict, "rules-stop", "The rules do not do what they say or what is expected of them.", "Mend what is named, on the Rules leg, then publish.", stops.Select(stop => new Fault("", 0, "rules-stop", stop)));
        if (EditionDifference.Compare(before, content, Names(roster)).IsEmpty)
            return Problems.Of(StatusCodes.Status409Conflict, "nothing-changed", "Nothing has changed since the last edition.", "Change a design or a rule first.");
        if (await editions.PublishAsync(content, request.Latest, user.Actor(), cancellationToken) is not { } number)
            return Problems.Of(StatusCodes.Status409Conflict, "published-meanwhile", "Somebody else published an edition in the meantime.", "Look at what still differs from it, then publish.");
        return TypedResults.Created($"/api/editions/{number}", new PublishAnswer(number));
    }

    private static EditionNames Names(PeopleRoster roster) => new(id => roster.Find(id)?.Name, field => roster.Records.Fields.Find(field)?.Label);

    /// <summary>What must be mended before anything is published: rules that name what is gone, and expectations that are not met, each with why.</summary>
    private static ImmutableArray<string> Stops(EditionContent content, PeopleRoster roster, CurrentReach reach)
    {
        var map = reach.Of(roster, content);
        var names = RuleEndpoints.Names(content, roster);
        var tests = content.Rules.Tests.Zip(RuleTesting.Check(map, names)).Where(pair => !pair.Second.IsMet).Select(pair => pair.Second.First is { } first
            ? $"The expectation \"{pair.First.Name}\" fails in {pair.Second.Failed} of {pair.Second.Situations} situations: {first.Situation.Sender.Address} gets {(first.Decision.Design is { } design ? names.Design(design) : "no signature")}{(first.Decision.Trace.FirstOrDefault(step => step is { Track: Track.Signature, Outcome: TraceOutcome.Matched }) is { } step ? $" by rule {step.Number}, because {step.Reason}" : "")}."
            : $"The expectation \"{pair.First.Name}\" is of nobody: no account meets it.");
        return [.. ReachFindings.Of(map, content, names).Where(finding => finding.Weight == FindingWeight.Stops).Select(finding => finding.Message), .. tests];
    }
}
