using Microsoft.Net.Http.Headers;
using NodaTime;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Http;

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

    /// <summary>No client has the token.</summary>
    internal static IResult Unknown(HttpContext context)
    {
        context.Response.Headers.WWWAuthenticate = "Bearer error=\"invalid_token\""; // RFC 6750 section 3
        return Problems.Of(StatusCodes.Status401Unauthorized, "token-unknown", "No client has this token.", "It was taken out, or the token was replaced. Add it again and give it the new code.");
    }

    /// <summary>True when what the client says it has is what is wanted. Source: RFC 9110 section 13.1.2.</summary>
    internal static bool Has(HttpContext context, string tag) => tag.Length > 0 && context.Request.GetTypedHeaders().IfNoneMatch.Contains(new EntityTagHeaderValue($"\"{tag}\""));

    /// <summary>Marks an answer with what it is about, and asks for a report where one is wanted.</summary>
    internal static void Mark(HttpContext context, AskAnswer answer)
    {
        if (answer.Tag.Length == 0) return;
        if (answer.Standing.State != DeliveryState.InPlace) context.Response.Headers[AgentProtocol.ReportHeader] = "wanted";
        context.Response.Headers.ETag = $"\"{answer.Tag}\"";
    }

    /// <summary>What a client that is told nothing new is answered: 304 where it says what it has, otherwise 204.</summary>
    internal static IResult Nothing(HttpContext context) => context.Request.Headers.IfNoneMatch.Count > 0 ? TypedResults.StatusCode(StatusCodes.Status304NotModified) : TypedResults.NoContent();

    private static async Task<IResult> AskAsync(HttpContext context, ClientAsking asking, CancellationToken cancellationToken)
    {
        if (await asking.IdentifyAsync(context, cancellationToken) is not { } agent) return Unknown(context);
        if (agent.Edition is null) return TypedResults.NoContent();
        var answer = await asking.AskAsync(agent, tag => Has(context, tag), cancellationToken);
        Mark(context, answer);
        if (answer.Delivery is not { } delivery) return Nothing(context);
        return TypedResults.Ok(new AgentDelivery(delivery.Manifest, [.. delivery.Signatures.Select(file => new AgentFile(file.Entry.Path, file.Bytes.ToArray()))]));
    }

    /// <summary>Takes a report of any client that asks.</summary>
    internal static async Task<IResult> ReportAsync(DeliveryReport report, HttpContext context, ClientAsking asking, DeliveryStore deliveries, ClientSettingsStore settings, TimeProvider clock, CancellationToken cancellationToken)
    {
        if (await asking.IdentifyAsync(context, cancellationToken) is not { } agent) return Unknown(context);
        if (report.Found.Length > MaxReportedFiles || report.Trouble.Length > 500 || report.Contents.Any(content => content.Path.Length > 1000 || content.Text.Length > AgentProtocol.MostContent))
            return Problems.Invalid("The report is too long.", [new Fault("", 0, "report-length", $"At most {MaxReportedFiles} files, 500 characters of trouble and {AgentProtocol.MostContent} characters of each file are taken.")]);
        if (agent.Edition is null || report.Tag != agent.Standing.WantedTag) return TypedResults.NoContent(); // about something else by now
        if (report.ProvesItself)
        {
            await deliveries.MoveAsync(agent.Client.Id, before => before.Held(report.Tag), cancellationToken);
            return TypedResults.NoContent();
        }

        var wanted = (await asking.FitAsync(agent, cancellationToken)).Manifest;
        var now = Instant.FromDateTimeOffset(clock.GetUtcNow());
        var standing = await deliveries.MoveAsync(agent.Client.Id, before => before.Reported(report, wanted, now, Random.Shared.NextDouble(), BackOff.Standard), cancellationToken);
        if (standing?.State != DeliveryState.Drifted) return TypedResults.NoContent();
        if (!report.Contents.IsEmpty) await deliveries.KeepFoundAsync(agent.Client.Id, report.Contents, cancellationToken);
        var kind = (await settings.ReadAsync(cancellationToken)).Settings.Of(agent.Client.Kind);
        context.Response.Headers[AgentProtocol.DriftHeader] = kind.AnswerTo(agent.IsFixed) switch
        {
            DriftAnswer.AtOnce => AgentProtocol.PutRightNow,
            DriftAnswer.NextContact => AgentProtocol.PutRightNext,
            _ => AgentProtocol.LeaveAlone,
        };
        return TypedResults.NoContent();
    }

    private static async Task<IResult> EnrolAsync(EnrolRequest request, ClientStore clients, CancellationToken cancellationToken)
    {
        var (token, hash) = Tokens.New();
        return await clients.EnrolAsync(Tokens.Hash(request.Code.Trim()), hash, cancellationToken) is null
            ? Problems.Of(StatusCodes.Status403Forbidden, "code-unknown", "This code is not good.", "It was used, its time is over, or it was mistyped. Ask an administrator for a new one.")
            : TypedResults.Ok(new TokenAnswer(token));
    }

    private static async Task<IResult> RotateAsync(HttpContext context, ClientAsking asking, ClientStore clients, CancellationToken cancellationToken)
    {
        if (await asking.IdentifyAsync(context, cancellationToken) is not { } agent) return Unknown(context);
        var (token, hash) = Tokens.New();
        await clients.RotateAsync(agent.Client.Id, hash, cancellationToken);
        return TypedResults.Ok(new TokenAnswer(token));
    }
}
