using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Security.Cryptography;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;

namespace Relevo.Agent;

/// <summary>What one poll came to.</summary>
public enum PollOutcome
{
    /// <summary>There is no rollout yet.</summary>
    NothingRolledOut,

    /// <summary>The folder holds what it should.</summary>
    InPlace,

    /// <summary>New files were written and reported.</summary>
    Written,

    /// <summary>A file was changed by somebody else; it was reported, and is put right at the next poll or left, as the server says.</summary>
    Drifted,

    /// <summary>A file was changed by somebody else; it was reported, and the server wants it put right now: poll again.</summary>
    PutRightNow,

    /// <summary>The files could not be written; the reason was reported.</summary>
    Failed,

    /// <summary>The server did not answer, or not usefully; the folder stays as it is.</summary>
    NoAnswer,

    /// <summary>The server does not know this agent's token.</summary>
    Refused,
}

/// <summary>
/// Keeps one computer's signature folder. Each poll asks with the ETag of what the folder holds, and looks at the disk. Works with what it has
/// while the server is away.
/// </summary>
public sealed class SignatureAgent(HttpClient server, SignatureFolder folder)
{
    private bool asksForAll;

    /// <summary>How long the server asked to be left alone at the last poll, or null. Source: RFC 9110 section 10.2.3.</summary>
    public TimeSpan? AskedToWait { get; private set; }

    /// <summary>Asks once, writes what is new, and reports what the disk holds. server: its base address and bearer token are set by the caller.</summary>
    public async Task<PollOutcome> PollAsync(CancellationToken cancellationToken)
    {
        try
        {
            return await AskAsync(cancellationToken);
        }
        catch (Exception away) when (away is HttpRequestException or System.Text.Json.JsonException || (away is OperationCanceledException && !cancellationToken.IsCancellationRequested))
        {
            return PollOutcome.NoAnswer;
        }
    }

    private async Task<PollOutcome> AskAsync(CancellationToken cancellationToken)
    {
        var held = folder.ReadManifest();
        using var request = new HttpRequestMessage(HttpMethod.Get, AgentProtocol.SignaturesPath);
        if (held is not null && !asksForAll) request.Headers.IfNoneMatch.Add(new EntityTagHeaderValue($"\"{held.Tag()}\""));
        using var response = await server.SendAsync(request, cancellationToken);
        AskedToWait = response.StatusCode is HttpStatusCode.TooManyRequests or HttpStatusCode.ServiceUnavailable
            ? response.Headers.RetryAfter?.Delta ?? (response.Headers.RetryAfter?.Date - response.Headers.Date)
            : null;
        var wantsReport = response.Headers.Contains(AgentProtocol.ReportHeader);
        switch (response.StatusCode)
        {
            case HttpStatusCode.NoContent:
                return PollOutcome.NothingRolledOut;
            case HttpStatusCode.Unauthorized:
                return PollOutcome.Refused;
            case HttpStatusCode.NotModified when held is not null:
                return await LookAsync(held, wantsReport, cancellationToken);
            case HttpStatusCode.OK:
                var delivery = await response.Content.ReadFromJsonAsync<AgentDelivery>(RelevoJson.Options, cancellationToken);
                return delivery is null ? PollOutcome.NoAnswer : await TakeAsync(delivery, cancellationToken);
            default:
                return PollOutcome.NoAnswer;
        }
    }

    private async Task<PollOutcome> LookAsync(Manifest held, bool wantsReport, CancellationToken cancellationToken)
    {
        var isRight = folder.Holds(held);
        var answer = !isRight || wantsReport ? await ReportAsync(held, "", cancellationToken) : "";
        asksForAll = !isRight && answer != AgentProtocol.LeaveAlone;
        return isRight ? PollOutcome.InPlace : answer == AgentProtocol.PutRightNow ? PollOutcome.PutRightNow : PollOutcome.Drifted;
    }

    private async Task<PollOutcome> TakeAsync(AgentDelivery delivery, CancellationToken cancellationToken)
    {
        var trouble = "";
        try
        {
            var files = delivery.Files.ToDictionary(file => file.Path, file => file.Bytes, StringComparer.Ordinal);
            await folder.WriteAsync(
                delivery.Manifest,
                async file => Checked(file, files.TryGetValue(file.Path, out var bytes) ? bytes : await server.GetByteArrayAsync(new Uri($"pictures/{file.Sha256}.png", UriKind.Relative), cancellationToken)),
                cancellationToken);
        }
        catch (Exception refused) when (refused is IOException or UnauthorizedAccessException)
        {
            trouble = refused.Message.Length > 500 ? refused.Message[..500] : refused.Message;
        }

        asksForAll = trouble.Length > 0;
        await ReportAsync(delivery.Manifest, trouble, cancellationToken);
        return trouble.Length > 0 ? PollOutcome.Failed : PollOutcome.Written;
    }

    /// <summary>Reports what the folder holds, with what stands in files that differ. What the server says about drift, or empty.</summary>
    private async Task<string> ReportAsync(Manifest manifest, string trouble, CancellationToken cancellationToken)
    {
        var found = folder.Look(manifest);
        var report = new DeliveryReport(manifest.Tag(), found, trouble) { Contents = trouble.Length > 0 ? [] : folder.Contents(manifest, found) };
        using var response = await server.PostAsJsonAsync(AgentProtocol.ReportPath, report, RelevoJson.Options, cancellationToken);
        response.EnsureSuccessStatusCode();
        return response.Headers.TryGetValues(AgentProtocol.DriftHeader, out var answers) ? answers.First() : "";
    }

    private static byte[] Checked(ManifestFile file, byte[] bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes)) == file.Sha256
        ? bytes
        : throw new IOException($"What arrived for \"{file.Path}\" is not what the manifest names.");
}
