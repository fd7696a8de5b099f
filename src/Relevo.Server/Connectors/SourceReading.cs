using Microsoft.AspNetCore.DataProtection;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.People;

namespace Relevo.Server.Connectors;

/// <summary>Reads sources that are asked: by hand or on their schedule. Each reading is a run; a reading on schedule applies itself unless something is odd.</summary>
public sealed partial class SourceReading(SourceStore sources, RunStore runs, CurrentRoster rosters, PictureIntake pictures, IDataProtectionProvider protection, ILogger<SourceReading> log)
{
    private readonly IDataProtector protector = protection.CreateProtector("Relevo.Source.Secret");

    /// <summary>A secret as it is kept.</summary>
    public string Protect(string secret) => secret.Length == 0 ? "" : protector.Protect(secret);

    /// <summary>The secret of a source, or empty.</summary>
    public async Task<string> SecretAsync(Guid source, CancellationToken cancellationToken) =>
        await sources.ReadSecretAsync(source, cancellationToken) is { Length: > 0 } kept ? protector.Unprotect(kept) : "";

    /// <summary>Notes the run and begins to read in the background. Returns the run's id.</summary>
    public async Task<Guid> BeginAsync(Source source, RunKind kind, Actor actor, CancellationToken cancellationToken)
    {
        var run = new NewRun(Guid.CreateVersion7(), source.Id, kind, source.Name);
        await runs.BeginAsync(run, actor, cancellationToken);
        _ = Task.Run(() => ReadAsync(source, run, actor, CancellationToken.None), CancellationToken.None);
        return run.Id;
    }

    /// <summary>Reads a source into a run that was begun. What goes wrong becomes the run's own trouble.</summary>
    public async Task ReadAsync(Source source, NewRun run, Actor actor, CancellationToken cancellationToken)
    {
        try
        {
            var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
            var secret = await SecretAsync(source.Id, cancellationToken);
            var content = await LdapDirectory.ReadAsync(LdapSettings.Read(source.Settings), secret, source.Mapping ?? Mapping.Standard, fields, pictures.TakeAsync, cancellationToken);
            // "Nobody at all" is for the brake to hold, not a file that cannot be read.
            if (content is { People.IsEmpty: true, Problems: [{ Line: 1 }] }) content = content with { Problems = [] };
            await runs.PlanAsync(run, content, fields, actor, cancellationToken);
            if (run.Kind == RunKind.Schedule) await ApplyQuietlyAsync(run.Id, actor, cancellationToken);
        }
        catch (SourceUnreachableException trouble)
        {
            await runs.FailAsync(run.Id, trouble.Message, cancellationToken);
        }
        catch (Exception trouble) when (!cancellationToken.IsCancellationRequested)
        {
            // Nobody awaits a reading in the background: whatever it is, the run says so and the log says why.
            NotRead(log, trouble, run.Id);
            await runs.FailAsync(run.Id, "Something went wrong on our side; the server's log says why.", cancellationToken);
        }
    }

    private async Task ApplyQuietlyAsync(Guid id, Actor actor, CancellationToken cancellationToken)
    {
        var run = await runs.FindAsync(id, cancellationToken);
        if (run is not { State: RunState.Planned, Collisions.IsEmpty: true }) return;
        if (run.Counts == new RunCounts(0, 0, 0, 0)) await runs.PutAwayAsync(id, cancellationToken);
        else await runs.ApplyAsync(id, isAccepted: false, actor, cancellationToken);
    }

    [LoggerMessage(Level = LogLevel.Error, Message = "The run {Run} could not be read.")]
    private static partial void NotRead(ILogger logger, Exception trouble, Guid run);
}

/// <summary>Asks sources when their time has come. Several server processes may run this: each source is claimed by one of them.</summary>
public sealed partial class SourceSchedule(SourceStore sources, RunStore runs, SourceReading reading, ILogger<SourceSchedule> log) : BackgroundService
{
    private static readonly TimeSpan LookEvery = TimeSpan.FromSeconds(20); // far below the shortest schedule of five minutes

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(LookEvery);
        try
        {
            while (await timer.WaitForNextTickAsync(stoppingToken)) await AskDueAsync(stoppingToken);
        }
        catch (Exception) when (stoppingToken.IsCancellationRequested)
        {
            // The server stops.
        }
    }

    /// <summary>Reads every source that is due, one after the other. Whatever goes wrong ends this look, not the schedule: what is due still waits for the next.</summary>
    public async Task AskDueAsync(CancellationToken cancellationToken)
    {
        try
        {
            while (await sources.ClaimDueAsync(cancellationToken) is { } source)
            {
                var run = new NewRun(Guid.CreateVersion7(), source.Id, RunKind.Schedule, source.Name);
                await runs.BeginAsync(run, Actor.Schedule, cancellationToken);
                await reading.ReadAsync(source, run, Actor.Schedule, cancellationToken);
            }
        }
        catch (Exception trouble) when (!cancellationToken.IsCancellationRequested)
        {
            NotAsked(log, trouble);
        }
    }

    [LoggerMessage(Level = LogLevel.Warning, Message = "Sources that are due could not all be asked.")]
    private static partial void NotAsked(ILogger logger, Exception trouble);
}
