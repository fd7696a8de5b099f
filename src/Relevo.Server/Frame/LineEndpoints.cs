using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Editions;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.Rollout;
using Relevo.Server.Rules;

namespace Relevo.Server.Frame;

/// <summary>The live figures under the legs' names, and what the joints between them need.</summary>
/// <param name="People">People who are not retired.</param>
/// <param name="Designs">Designs.</param>
/// <param name="EditedDesigns">Designs that differ from the latest edition.</param>
/// <param name="Rules">Rules that are on.</param>
/// <param name="RulesOff">Rules that are off.</param>
/// <param name="Holes">Kinds of message that some accounts have no signature in.</param>
/// <param name="DeadRules">Rules that never win.</param>
/// <param name="FailedTests">Expectations that are not met.</param>
/// <param name="RuleChanges">Changes of rules since the latest edition.</param>
/// <param name="Changes">All changes since the latest edition.</param>
/// <param name="LatestEdition">The newest edition, 0 before the first.</param>
/// <param name="RolledOutEdition">The edition being rolled out, 0 before the first.</param>
/// <param name="Clients">Installed clients there are.</param>
/// <param name="InPlace">Those that hold what they should and were heard of lately.</param>
public sealed record LineAnswer(
    int People, int Designs, int EditedDesigns, int Rules, int RulesOff, int Holes, int DeadRules, int FailedTests, int RuleChanges, int Changes, int LatestEdition, int RolledOutEdition, int Clients, int InPlace);

/// <summary>The line at the top of every screen.</summary>
public static class LineEndpoints
{
    /// <summary>Maps the endpoint.</summary>
    public static void MapLine(this IEndpointRouteBuilder routes) => routes.MapGet("/api/line", ReadAsync).WithName("ReadLine");

    private static async Task<Ok<LineAnswer>> ReadAsync(CurrentRoster rosters, Drafts drafts, EditionStore editions, RolloutStore rollouts, DeliveryStore deliveries, ClientSettingsStore settings, CurrentReach reach, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var content = await drafts.ReadAsync(cancellationToken);
        var latest = (await editions.LatestAsync(cancellationToken))?.Number ?? 0;
        var changes = EditionDifference.Compare(await editions.FindAsync(latest, cancellationToken) ?? EditionContent.Empty, content, new EditionNames(id => roster.Find(id)?.Name, field => roster.Records.Fields.Find(field)?.Label));
        var wrong = reach.FiguresOf(reach.Of(roster, content), RuleEndpoints.Names(content, roster));
        var rollout = await rollouts.NewestAsync(cancellationToken);
        var counts = RolloutWork.CountsOf(await deliveries.CountAsync(rollout?.Id, RolloutWork.Limits, cancellationToken), (await settings.ReadAsync(cancellationToken)).Settings, hasNotBegun: false);
        return TypedResults.Ok(new LineAnswer(
            roster.ActiveCount,
            content.Designs.Length,
            changes.Where(change => change.Subject == ChangeSubject.Design).Select(change => change.Name).Distinct().Count(),
            All(content.Rules).Count(rule => rule.IsOn),
            All(content.Rules).Count(rule => !rule.IsOn),
            wrong.Holes,
            wrong.DeadRules,
            wrong.FailedTests,
            changes.Count(change => change.Subject == ChangeSubject.Rules),
            changes.Length,
            latest,
            rollout?.Edition ?? 0,
            counts.Clients,
            counts.InPlace));
    }

    private static IEnumerable<Rule> All(RuleSet rules) => Enum.GetValues<Track>().SelectMany(track => rules.On(track));
}
