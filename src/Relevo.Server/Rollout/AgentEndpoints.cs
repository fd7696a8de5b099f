using System.Collections.Immutable;
using Microsoft.Net.Http.Headers;
using Relevo.Core.Clients;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Designs;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.Rules;

namespace Relevo.Server.Rollout;

/// <summary>
/// What agents ask. A poll with nothing new is two small queries and 304. The header Relevo-Report asks the agent to say what it holds, until it has
/// said so for this rollout: that is how a report lost to a crash on either side is made good.
/// </summary>
public static class AgentEndpoints
{
    private const int MaxReportedFiles = 10_000; // files of one computer: accounts times slots times two, and pictures

    /// <summary>Maps the endpoints.</summary>
    public static void MapAgent(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/" + AgentProtocol.SignaturesPath, AskAsync).AllowAnonymous().WithName("AskForSignatures");
        routes.MapPost("/" + AgentProtocol.ReportPath, ReportAsync).AllowAnonymous().WithName("ReportSignatures");
    }

    private static async Task<IResult> AskAsync(
        HttpContext context, ComputerStore computers, RolloutStore rollouts, CurrentRoster rosters, PublishedEditions editions, CompiledDesigns compiled, PictureCuts cuts, CurrentReach reach, CancellationToken cancellationToken)
    {
        if (await IdentifyAsync(context, computers, cancellationToken) is not { } agent) return Unknown();
        await computers.SeenAsync(agent.Computer.Id, cancellationToken);
        if (agent.Rollout is not { } rollout) return TypedResults.NoContent();
        var delivery = await FitAsync(agent, await rosters.GetAsync(cancellationToken), await editions.GetAsync(agent.Edition, cancellationToken), compiled, cuts, reach, cancellationToken);
        var tag = delivery.Manifest.Tag();
        var standing = agent.Standing.Told(tag) == agent.Standing
            ? agent.Standing
            : await rollouts.MoveAsync(rollout, agent.Computer.Id, before => before.Told(tag), cancellationToken);
        if (standing.State != DeliveryState.InPlace) context.Response.Headers[AgentProtocol.ReportHeader] = "wanted";
        context.Response.Headers.ETag = $"\"{tag}\"";
        if (context.Request.GetTypedHeaders().IfNoneMatch.Contains(new EntityTagHeaderValue($"\"{tag}\""))) return TypedResults.StatusCode(StatusCodes.Status304NotModified);
        return TypedResults.Ok(new AgentDelivery(delivery.Manifest, [.. delivery.Signatures.Select(file => new AgentFile(file.Entry.Path, file.Bytes.ToArray()))]));
    }

    private static async Task<IResult> ReportAsync(
        DeliveryReport report, HttpContext context, ComputerStore computers, RolloutStore rollouts, CurrentRoster rosters, PublishedEditions editions, CompiledDesigns compiled, PictureCuts cuts, CurrentReach reach, CancellationToken cancellationToken)
    {
        if (await IdentifyAsync(context, computers, cancellationToken) is not { } agent) return Unknown();
        if (report.Found.Length > MaxReportedFiles || report.Trouble.Length > 500)
            return Problems.Invalid("The report is too long.", [new Fault("", 0, "report-length", $"At most {MaxReportedFiles} files and 500 characters of trouble are taken.")]);
        if (agent.Rollout is not { } rollout) return TypedResults.NoContent();
        var wanted = (await FitAsync(agent, await rosters.GetAsync(cancellationToken), await editions.GetAsync(agent.Edition, cancellationToken), compiled, cuts, reach, cancellationToken)).Manifest;
        await rollouts.MoveAsync(rollout, agent.Computer.Id, before => before.Reported(report, wanted), cancellationToken);
        return TypedResults.NoContent();
    }

    private static async Task<AgentContext?> IdentifyAsync(HttpContext context, ComputerStore computers, CancellationToken cancellationToken)
    {
        var header = context.Request.Headers.Authorization.ToString();
        return header.StartsWith("Bearer ", StringComparison.Ordinal)
            ? await computers.FindByTokenAsync(RolloutEndpoints.HashToken(header["Bearer ".Length..].Trim()), cancellationToken)
            : null;
    }

    private static IResult Unknown() => Problems.Of(
        StatusCodes.Status401Unauthorized, "token-unknown", "No computer has this token.", "Add the computer again and give its agent the new token.");

    /// <summary>Someone who has been retired has no accounts, and so gets nothing.</summary>
    private static async Task<Delivery> FitAsync(AgentContext agent, PeopleRoster roster, EditionContent content, CompiledDesigns compiled, PictureCuts cuts, CurrentReach reach, CancellationToken cancellationToken)
    {
        var person = roster.Find(agent.Computer.PersonId)?.Person;
        var records = content.RecordsFrom(roster.Records);
        var accounts = (person?.Accounts ?? []).Select(account => FittingAccount.Of(records, person!, account));
        var fitting = DeskAppFitting.Fit(agent.Edition, ClientKind.DeskApp, accounts, content, records, reach.Now, (design, form) => compiled.Get(design, form, records.Fields));
        var pictures = await cuts.EnsureAsync(fitting.Pictures, cancellationToken);
        return fitting.Deliver(pictures.ToDictionary(picture => picture.Key, picture => picture.Value.Sha256));
    }
}
