using System.Collections.Immutable;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Clients;
using Relevo.Core.Editions;
using Relevo.Core.People.Roster;
using Relevo.Core.Rules;
using Relevo.Core.Rules.Reach;
using Relevo.Data;
using Relevo.Server.Hosting;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.Rules;

namespace Relevo.Server.Rollout;

/// <summary>What each client kind can honour of the drafts as they are, or of an edition. Helpers: names of the kinds that would set right what the others cannot.</summary>
public sealed record FittingAnswer(int Edition, ImmutableArray<KindFitting> Kinds, ImmutableArray<string> Helpers);

/// <summary>What a client kind can honour, in figures and in sentences.</summary>
public sealed record KindFitting(string Kind, string Name, string Limits, FittingReport Report, ImmutableArray<string> Sentences);

/// <summary>What client kinds can honour.</summary>
public static class FittingEndpoints
{
    /// <summary>Maps the endpoint.</summary>
    public static void MapFitting(this IEndpointRouteBuilder routes) => routes.MapGet("/api/fitting", ReadAsync).WithName("ReadFitting");

    /// <summary>edition: 0 for the drafts.</summary>
    private static async Task<Ok<FittingAnswer>> ReadAsync(
        Drafts drafts, PublishedEditions editions, CurrentRoster rosters, ClientSettingsStore settings, CurrentReach reach, ServerSettings server, CancellationToken cancellationToken, int edition = 0)
    {
        var content = edition > 0 ? await editions.GetAsync(edition, cancellationToken) : await drafts.ReadAsync(cancellationToken);
        var roster = await rosters.GetAsync(cancellationToken);
        var said = (await settings.ReadAsync(cancellationToken)).Settings;
        var signing = new SigningAt(content, content.RecordsFrom(roster.Records), reach.Now);
        var slotting = new Slotting(edition, signing, server.PublicAddress, kind => said.Of(kind).Caution);
        var people = roster.Rows.ToArray().Where(row => !row.Person.IsRetired).Select(row => Holdings.AccountsOf(row, signing.Records)).Where(accounts => accounts.Length > 0).ToArray();
        var map = ReachMap.Of(AccountTable.Of(signing.Records, [.. people.SelectMany(accounts => accounts).Select(account => account.Sender)]), content.RulesInForce(), Cell.All(content.Audiences.Keys, ClientKind.All.Where(kind => !kind.IsPerMessage).Select(kind => kind.Kind)), signing.Moment);
        var names = RuleEndpoints.Names(content, roster);
        var kinds = ClientKind.All.AsParallel().AsOrdered().Select(kind =>
        {
            var count = new FittingCount(kind, content);
            foreach (var accounts in people)
            {
                var fitted = slotting.Fit(kind, accounts, isForAll: false, tellsLosses: true, (sender, cell) => map.Decide(map.Accounts.Find(sender.Person, sender.Address), map.PlaceOf(cell)));
                count.Add(accounts, fitted.Slots);
            }

            var report = count.Report();
            return new KindFitting(kind.Kind, kind.Name, Limits(kind), report, [.. report.Losses.Select(loss => FittingWords.Of(loss, key => names.Audience(key) ?? key)), .. report.Lengths.Select(length => FittingWords.Of(length, kind))]);
        });
        return TypedResults.Ok(new FittingAnswer(edition, [.. kinds], [.. ClientKind.All.Where(kind => kind.IsPerMessage).Select(kind => kind.Name)]));
    }

    private static string Limits(ClientKind kind)
    {
        var holds = kind.HoldsHtml ? kind.HoldsRtf ? "HTML, rich text and text" : "HTML and text" : "plain text";
        var most = kind.HoldsHtml ? kind.MaxHtmlCharacters : kind.MaxTextCharacters;
        var slots = kind.IsPerMessage ? "asked for each message" : string.Join(", ", kind.Slots.Select(slot => slot.Label.ToLowerInvariant()));
        return FormattableString.Invariant($"{holds}{(most > 0 ? $", at most {most:N0} characters" : "")}; {slots}");
    }
}
