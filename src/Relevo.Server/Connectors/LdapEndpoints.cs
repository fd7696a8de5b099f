using System.Collections.Immutable;
using System.Security.Claims;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Connectors;

/// <summary>A directory server as a source. Secret: null leaves the one that is kept; it is never answered.</summary>
public sealed record LdapSourceRequest(SourceRequest Source, LdapSettings Settings, string? Secret);

/// <summary>A directory server's settings, without the secret.</summary>
public sealed record LdapSourceAnswer(Guid Id, int Revision, LdapSettings Settings, bool HasSecret);

/// <summary>Asks a server for its first entries. Source: whose kept secret to use when none is given.</summary>
public sealed record TryLdapRequest(LdapSettings Settings, string? Secret, Guid? Source, Mapping? Mapping);

/// <summary>What the first page of a server's entries becomes.</summary>
public sealed record TryLdapAnswer(int Count, bool IsWhole, int OtherEntries, ImmutableArray<PreviewPerson> People, ImmutableArray<RefusedValue> Refused, ImmutableArray<string> Problems);

/// <summary>A run that was begun.</summary>
public sealed record BegunRun(Guid Id);

/// <summary>Directory servers: settings, a try, a reading by hand.</summary>
public static class LdapEndpoints
{
    private const int FirstPage = 500; // entries of a try; fewer is the whole
    private const int Shown = 5; // people of a try

    /// <summary>Maps the endpoints.</summary>
    public static void MapLdap(this IEndpointRouteBuilder routes)
    {
        routes.MapPost("/api/ldap", AddAsync).WithName("AddLdapSource");
        routes.MapGet("/api/ldap/{id:guid}", FindAsync).WithName("ReadLdapSource");
        routes.MapPut("/api/ldap/{id:guid}", SaveAsync).WithName("SaveLdapSource");
        routes.MapPost("/api/ldap/try", TryAsync).WithName("TryLdap");
        routes.MapPost("/api/sources/{id:guid}/runs", BeginAsync).WithName("ReadSourceNow");
    }

    private static async Task<Results<Created<LdapSourceAnswer>, ProblemHttpResult>> AddAsync(
        LdapSourceRequest request, SourceStore sources, SourceReading reading, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(request, rosters, cancellationToken) is { } refusal) return refusal;
        var source = Apply(request, new Source(Guid.CreateVersion7(), SourceKind.Ldap, "", 0, "{}", null, BrakeSettings.Default, [], false, null, 1));
        await sources.AddAsync(source, reading.Protect(request.Secret ?? ""), user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/ldap/{source.Id}", new LdapSourceAnswer(source.Id, 1, request.Settings, request.Secret is { Length: > 0 }));
    }

    private static async Task<Results<Ok<LdapSourceAnswer>, ProblemHttpResult>> FindAsync(Guid id, SourceStore sources, HttpContext context, CancellationToken cancellationToken)
    {
        if (await sources.FindAsync(id, cancellationToken) is not { Kind: SourceKind.Ldap } source) return Problems.NotFound("directory server");
        Revision.Show(context, source.Revision);
        return TypedResults.Ok(new LdapSourceAnswer(id, source.Revision, LdapSettings.Read(source.Settings), source.HasSecret));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(
        Guid id, LdapSourceRequest request, HttpContext context, SourceStore sources, SourceReading reading, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var missing)) return missing!;
        if (await RefuseAsync(request, rosters, cancellationToken) is { } refusal) return refusal;
        if (await sources.FindAsync(id, cancellationToken) is not { Kind: SourceKind.Ldap } source) return Problems.NotFound("directory server");
        var secret = request.Secret is { } given ? reading.Protect(given) : null;
        if (await sources.SaveAsync(Apply(request, source) with { Revision = seen }, secret, user.Actor(), cancellationToken) != SaveOutcome.Saved) return Problems.LostUpdate("source");
        Revision.Show(context, seen + 1);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<TryLdapAnswer>, ProblemHttpResult>> TryAsync(TryLdapRequest request, SourceReading reading, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        if (request.Settings.Check().ToArray() is { Length: > 0 } faults) return Problems.Invalid("The server cannot be asked like this.", faults);
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        var secret = request.Secret ?? (request.Source is { } id ? await reading.SecretAsync(id, cancellationToken) : "");
        try
        {
            var content = await LdapDirectory.TryAsync(request.Settings, secret, request.Mapping ?? Mapping.Standard, fields, cancellationToken);
            var count = content.People.Length + content.OtherEntries;
            return TypedResults.Ok(new TryLdapAnswer(
                content.People.Length, count < FirstPage, content.OtherEntries,
                [.. content.People.Take(Shown).Select(PreviewPerson.Of)],
                [.. content.Refused.Take(Shown)],
                [.. content.Problems.Take(Shown).Select(problem => problem.Message)]));
        }
        catch (SourceUnreachableException trouble)
        {
            return Problems.Of(StatusCodes.Status502BadGateway, "source-unreachable", trouble.Message, "Nothing was changed. Check the settings and try again.");
        }
    }

    private static async Task<Results<Accepted<BegunRun>, ProblemHttpResult>> BeginAsync(Guid id, SourceStore sources, SourceReading reading, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await sources.FindAsync(id, cancellationToken) is not { Kind: SourceKind.Ldap } source) return Problems.NotFound("source that can be asked");
        var run = await reading.BeginAsync(source, RunKind.ByHand, user.Actor(), cancellationToken);
        return TypedResults.Accepted($"/api/runs/{run}", new BegunRun(run));
    }

    private static async Task<ProblemHttpResult?> RefuseAsync(LdapSourceRequest request, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        Fault[] faults = [.. request.Settings.Check(), .. SourceEndpoints.Check(request.Source, fields)];
        return faults.Length == 0 ? null : Problems.Invalid("The source was not saved.", faults);
    }

    private static Source Apply(LdapSourceRequest request, Source source) => source with
    {
        Name = request.Source.Name.Trim(),
        Settings = JsonSerializer.Serialize(request.Settings, RelevoJson.Options),
        Mapping = request.Source.Mapping,
        Brake = request.Source.Brake,
        JoinBy = request.Source.JoinBy,
        EveryMinutes = request.Source.EveryMinutes,
    };
}
