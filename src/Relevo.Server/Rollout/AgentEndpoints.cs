using Microsoft.Net.Http.Headers;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.People.Sources;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;

namespace Relevo.Server.Rollout;

/// <summary>
/// What agents ask. A poll with nothing new is one small query and 304 (RFC 9110 section 13). The header Relevo-Report asks the agent to say what it holds, until it
/// has said so: that is how a report lost to a crash on either side is made good.
/// </summary>
public static class AgentEndpoints
{
    private const int MaxReportedFiles = 10_000; // files of one computer: accounts times slots times three, offers, answers and pictures

    /// <summary>Maps the endpoints.</summary>
    public static void MapAgent(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/" + AgentProtocol.SignaturesPath, AskAsync).AllowAnonymous().WithName("AskForSignatures");
        routes.MapPost("/" + AgentProtocol.ReportPath, ReportAsync).AllowAnonymous().WithName("ReportSignatures");
        routes.MapPost("/" + AgentProtocol.EnrolPath, EnrolAsync).AllowAnonymous().WithName("EnrolClient");
        routes.MapPost("/" + AgentProtocol.TokenPath, RotateAsync).AllowAnonymous().WithName("RotateToken");
    }

    /// <summary>The client whose token a request carries, or null. It was heard of.</summary>
    internal static async Task<ClientDelivery?> IdentifyAsync(HttpContext context, DeliveryStore deliveries, ClientStore clients, SeenClients seen, CancellationToken cancellationToken)
    {
        var header = context.Request.Headers.Authorization.ToString();
        if (!header.StartsWith("Bearer ", StringComparison.Ordinal)) return null;
        var hash = Tokens.Hash(header["Bearer ".Length..].Trim());
        if (await deliveries.FindByTokenAsync(hash, cancellationToken) is not { } found) return null;
        seen.Note(found.Client.Id);
        if (found.HasNextToken) await clients.PromoteAsync(found.Client.Id, hash, cancellationToken);
        return found;
    }

    /// <summary>No client has the token.</summary>
    internal static IResult Unknown(HttpContext context)
    {
        context.Response.Headers.WWWAuthenticate = "Bearer error=\"invalid_token\""; // RFC 6750 section 3
        return Problems.Of(StatusCodes.Status401Unauthorized, "token-unknown", "No client has this token.", "It was taken out, or the token was replaced. Add it again and give it the new code.");
    }

    /// <summary>True when what the client says it has is what is wanted. Source: RFC 9110 section 13.1.2.</summary>
    internal static bool Has(HttpContext context, string tag) => tag.Length > 0 && context.Request.GetTypedHeaders().IfNoneMatch.Contains(new EntityTagHeaderValue($"\"{tag}\""));

    private static async Task<IResult> AskAsync(
        HttpContext context, DeliveryStore deliveries, ClientStore clients, SeenClients seen, CurrentRoster rosters, ClientSettingsStore settings, Holdings holdings, CancellationToken cancellationToken)
    {
        if (await IdentifyAsync(context, deliveries, clients, seen, cancellationToken) is not { } agent) return Unknown(context);
        var standing = agent.Standing;
        if (agent.Edition is not { } edition) return TypedResults.NoContent();
        if (Has(context, standing.WantedTag) && !standing.IsAgain)
        {
            if (standing.State == DeliveryState.Waits) standing = await deliveries.MoveAsync(agent.Client.Id, before => before.Told(before.WantedTag), cancellationToken) ?? standing;
            return Unchanged(context, standing, standing.WantedTag);
        }

        // While its rollout is paused nobody is told anything new.
        if (agent.IsPaused && standing.State == DeliveryState.Waits) return context.Request.Headers.IfNoneMatch.Count > 0 ? TypedResults.StatusCode(StatusCodes.Status304NotModified) : TypedResults.NoContent();
        var roster = await rosters.GetAsync(cancellationToken);
        var slotting = await holdings.SlottingAsync(edition, roster, (await settings.ReadAsync(cancellationToken)).Settings, cancellationToken);
        var delivery = await holdings.FitAsync(agent.Client, slotting, roster, cancellationToken);
        var tag = delivery.Manifest.Tag();
        var isAgain = standing.IsAgain && standing.WantedTag == tag;
        standing = await deliveries.MoveAsync(agent.Client.Id, before => before.Told(tag), cancellationToken) ?? standing;
        if (Has(context, tag) && !isAgain) return Unchanged(context, standing, tag);
        Mark(context, standing, tag);
        return TypedResults.Ok(new AgentDelivery(delivery.Manifest, [.. delivery.Signatures.Select(file => new AgentFile(file.Entry.Path, file.Bytes.ToArray()))]));
    }

    private static IResult Unchanged(HttpContext context, DeliveryStanding standing, string tag)
    {
        Mark(context, standing, tag);
        return TypedResults.StatusCode(StatusCodes.Status304NotModified);
    }

    private static void Mark(HttpContext context, DeliveryStanding standing, string tag)
    {
        if (standing.State != DeliveryState.InPlace) context.Response.Headers[AgentProtocol.ReportHeader] = "wanted";
        context.Response.Headers.ETag = $"\"{tag}\"";
    }

    private static async Task<IResult> ReportAsync(
        DeliveryReport report, HttpContext context, DeliveryStore deliveries, ClientStore clients, SeenClients seen, CurrentRoster rosters, ClientSettingsStore settings, Holdings holdings, TimeProvider clock, CancellationToken cancellationToken)
    {
        if (await IdentifyAsync(context, deliveries, clients, seen, cancellationToken) is not { } agent) return Unknown(context);
        if (report.Found.Length > MaxReportedFiles || report.Trouble.Length > 500 || report.Contents.Any(content => content.Path.Length > 1000 || content.Text.Length > AgentProtocol.MostContent))
            return Problems.Invalid("The report is too long.", [new Fault("", 0, "report-length", $"At most {MaxReportedFiles} files, 500 characters of trouble and {AgentProtocol.MostContent} characters of each file are taken.")]);
        if (agent.Edition is not { } edition || report.Tag != agent.Standing.WantedTag) return TypedResults.NoContent(); // about something else by now
        var roster = await rosters.GetAsync(cancellationToken);
        var said = (await settings.ReadAsync(cancellationToken)).Settings;
        var wanted = (await holdings.FitAsync(agent.Client, await holdings.SlottingAsync(edition, roster, said, cancellationToken), roster, cancellationToken)).Manifest;
        var now = Instant.FromDateTimeOffset(clock.GetUtcNow());
        var standing = await deliveries.MoveAsync(agent.Client.Id, before => before.Reported(report, wanted, now, Random.Shared.NextDouble(), BackOff.Standard), cancellationToken);
        if (standing?.State != DeliveryState.Drifted) return TypedResults.NoContent();
        if (!report.Contents.IsEmpty) await deliveries.KeepFoundAsync(agent.Client.Id, report.Contents, cancellationToken);
        context.Response.Headers[AgentProtocol.DriftHeader] = said.Of(agent.Client.Kind) is var kind && (agent.IsFixed ? kind.Fixed : kind.Open) is var answer && answer == DriftAnswer.AtOnce
            ? AgentProtocol.PutRightNow
            : answer == DriftAnswer.NextContact ? AgentProtocol.PutRightNext : AgentProtocol.LeaveAlone;
        return TypedResults.NoContent();
    }

    private static async Task<IResult> EnrolAsync(EnrolRequest request, ClientStore clients, CancellationToken cancellationToken)
    {
        var (token, hash) = Tokens.New();
        return await clients.EnrolAsync(Tokens.Hash(request.Code.Trim()), hash, cancellationToken) is null
            ? Problems.Of(StatusCodes.Status403Forbidden, "code-unknown", "This code is not good.", "It was used, its time is over, or it was mistyped. Ask an administrator for a new one.")
            : TypedResults.Ok(new TokenAnswer(token));
    }

    private static async Task<IResult> RotateAsync(HttpContext context, DeliveryStore deliveries, ClientStore clients, SeenClients seen, CancellationToken cancellationToken)
    {
        if (await IdentifyAsync(context, deliveries, clients, seen, cancellationToken) is not { } agent) return Unknown(context);
        var (token, hash) = Tokens.New();
        await clients.RotateAsync(agent.Client.Id, hash, cancellationToken);
        return TypedResults.Ok(new TokenAnswer(token));
    }
}
