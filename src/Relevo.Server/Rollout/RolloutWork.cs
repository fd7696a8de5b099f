using NodaTime;
using Npgsql;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Hosting;

namespace Relevo.Server.Rollout;

/// <summary>
/// Plans and takes rollouts from wave to wave. Of several server processes one does it at a time: whoever holds the lock in the database, which a process that
/// dies gives back by dying.
/// </summary>
public sealed partial class RolloutWork(NpgsqlDataSource database, Planner planner, RolloutStore rollouts, DeliveryStore deliveries, ClientSettingsStore clientSettings, ServerSettings settings, TimeProvider clock, ILogger<RolloutWork> log) : BackgroundService
{
    private const int RestAfterCounting = 4; // times as long as it took, so that the database has time for others

    private static readonly TimeSpan ProgressEvery = TimeSpan.FromSeconds(2);

    /// <summary>After how long each kind is silent, as its profile says.</summary>
    public static SilenceLimits Limits { get; } = new([.. ClientKind.All.Select(kind => kind.Kind)], [.. ClientKind.All.Select(kind => kind.SilentAfterMinutes)]);

    /// <summary>A rollout's waves with the counts of their clients.</summary>
    public static WaveStatus[] StatusOf(Data.Rollout rollout, IReadOnlyCollection<StandingCount> counts, ClientSettings said) =>
    [
        .. rollout.Waves.Select((wave, number) => new WaveStatus(wave.Plan, wave.State, At(wave.OpenedAt), At(wave.EndedAt), CountsOf(counts.Where(count => count.Wave == number), said, wave.State == WaveState.Waits))),
    ];

    /// <summary>Counts by state. A wave that has not begun waits, whatever its clients hold from before.</summary>
    public static WaveCounts CountsOf(IEnumerable<StandingCount> counts, ClientSettings said, bool hasNotBegun)
    {
        var all = counts.ToList();
        int Sum(Func<StandingCount, bool> holds) => all.Where(holds).Sum(count => count.Clients);
        if (hasNotBegun) return WaveCounts.None with { Waits = Sum(_ => true) };
        // Failed and drifted clients have been heard of; their trouble is told before their silence.
        bool IsQuiet(StandingCount count) => count.IsSilent && count.State is not (DeliveryState.Failed or DeliveryState.Drifted);
        return new WaveCounts(
            Sum(count => count.State == DeliveryState.Waits && !IsQuiet(count)),
            Sum(count => count.State == DeliveryState.OnItsWay && !IsQuiet(count)),
            Sum(count => count.State == DeliveryState.InPlace && !IsQuiet(count)),
            Sum(count => count.State == DeliveryState.Drifted),
            Sum(count => count.State == DeliveryState.Failed),
            Sum(IsQuiet))
        {
            Left = Sum(count => (count.State == DeliveryState.Failed && count.IsSetAside) || (count.State == DeliveryState.Drifted && said.Of(count.Kind).AnswerTo(count.IsFixed) == DriftAnswer.Leave)),
        };
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await using var connection = await database.OpenConnectionAsync(stoppingToken);
                await using var take = new NpgsqlCommand("select pg_try_advisory_lock(hashtext('relevo rollout work'))", connection);
                if (await take.ExecuteScalarAsync(stoppingToken) is true) await WorkAsync(connection, stoppingToken);
            }
            catch (Exception) when (stoppingToken.IsCancellationRequested)
            {
                return; // what was left of the work is done at the next start
            }
            catch (Exception away) when (away is NpgsqlException or TimeoutException or IOException)
            {
                LogAway(away.Message);
            }
            catch (Exception trouble)
            {
                LogTrouble(trouble);
            }

            await Task.Delay(settings.WorkEvery, clock, stoppingToken).ContinueWith(_ => { }, TaskScheduler.Default);
        }
    }

    private async Task WorkAsync(NpgsqlConnection connection, CancellationToken cancellationToken)
    {
        planner.Forget();
        var (restsFrom, rest) = (clock.GetTimestamp(), TimeSpan.Zero);
        while (!cancellationToken.IsCancellationRequested)
        {
            await using (var alive = new NpgsqlCommand("select 1", connection)) await alive.ExecuteScalarAsync(cancellationToken); // the lock is ours as long as this answers
            await planner.PlanAsync(cancellationToken);
            if (clock.GetElapsedTime(restsFrom) >= rest)
            {
                var began = clock.GetTimestamp();
                await StepAsync(cancellationToken);
                (restsFrom, rest) = (clock.GetTimestamp(), RestAfterCounting * clock.GetElapsedTime(began)); // hundreds of thousands of clients take the database a while to count
            }

            await Task.Delay(settings.WorkEvery, clock, cancellationToken);
        }
    }

    private async Task StepAsync(CancellationToken cancellationToken)
    {
        for (var steps = 0; steps < 3 * Waves.Most; steps++)
        {
            if (await rollouts.NewestAsync(cancellationToken) is not { EndedAt: null } rollout) return;
            var waves = StatusOf(rollout, await deliveries.CountAsync(rollout.Id, Limits, cancellationToken), (await clientSettings.ReadAsync(cancellationToken)).Settings);
            await rollouts.NoteProgressAsync(rollout.Id, Total(waves), ProgressEvery, cancellationToken);
            if (rollout.State != RolloutState.Running || RolloutSteps.Next([.. waves], Instant.FromDateTimeOffset(clock.GetUtcNow()), rollout.IsForgiven) is not { } step) return;
            await rollouts.StepAsync(rollout.Id, step, cancellationToken);
            LogStep(rollout.Id, step.ToString());
            if (step is RolloutStep.Open) await planner.PlanAsync(cancellationToken); // so that nobody who holds the new edition already is counted as waiting
            if (step is RolloutStep.Finish) await rollouts.NoteProgressAsync(rollout.Id, Total(waves), TimeSpan.Zero, cancellationToken);
        }
    }

    /// <summary>All waves together.</summary>
    public static WaveCounts Total(IEnumerable<WaveStatus> waves) => waves.Select(wave => wave.Counts).Aggregate(WaveCounts.None, (sum, one) => sum + one);

    private static Instant? At(DateTimeOffset? moment) => moment is { } given ? Instant.FromDateTimeOffset(given) : null;

    [LoggerMessage(LogLevel.Warning, "Rollout work waits: {Reason}")]
    private partial void LogAway(string reason);

    [LoggerMessage(LogLevel.Error, "Rollout work stumbled and goes on")]
    private partial void LogTrouble(Exception trouble);

    [LoggerMessage(LogLevel.Information, "Rollout {Rollout}: {Step}")]
    private partial void LogStep(long rollout, string step);
}
