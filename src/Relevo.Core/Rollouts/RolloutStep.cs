using System.Collections.Immutable;
using NodaTime;

namespace Relevo.Core.Rollouts;

/// <summary>Where a wave stands.</summary>
public enum WaveState
{
    /// <summary>It has not begun.</summary>
    Waits,

    /// <summary>Its clients are being told.</summary>
    Open,

    /// <summary>Its gate was met.</summary>
    Passed,

    /// <summary>Somebody went on without it being met.</summary>
    Skipped,
}

/// <summary>How many clients of a wave stand where. Silent: those not heard of for their kind's interval, who are in none of the others.</summary>
public sealed record WaveCounts(int Waits, int OnItsWay, int InPlace, int Drifted, int Failed, int Silent)
{
    /// <summary>Nobody.</summary>
    public static WaveCounts None { get; } = new(0, 0, 0, 0, 0, 0);

    /// <summary>All of them.</summary>
    public int Clients => Waits + OnItsWay + InPlace + Drifted + Failed + Silent;

    /// <summary>Failed and drifted ones.</summary>
    public int Trouble => Drifted + Failed;

    /// <summary>Of the failed and drifted ones, those nothing more is done about by itself: set aside after too many failures, or drift that is left as it is.</summary>
    public int Left { get; init; }

    /// <summary>True while a client that is not in place may still come to it by itself.</summary>
    public bool IsAnyStillComing => Waits + OnItsWay + Silent + Trouble - Left > 0;

    /// <summary>Both together.</summary>
    public static WaveCounts operator +(WaveCounts one, WaveCounts other) => new(
        one.Waits + other.Waits, one.OnItsWay + other.OnItsWay, one.InPlace + other.InPlace, one.Drifted + other.Drifted, one.Failed + other.Failed, one.Silent + other.Silent)
    { Left = one.Left + other.Left };
}

/// <summary>A wave with what has become of it.</summary>
public sealed record WaveStatus(WavePlan Plan, WaveState State, Instant? OpenedAt, Instant? EndedAt, WaveCounts Counts);

/// <summary>What is to be done next about a rollout.</summary>
public abstract record RolloutStep
{
    /// <summary>A wave begins. Number: from 0.</summary>
    public sealed record Open(int Number) : RolloutStep;

    /// <summary>A wave's gate is met.</summary>
    public sealed record Pass(int Number) : RolloutStep;

    /// <summary>A gate was missed: nothing goes on until somebody says so.</summary>
    public sealed record Pause(int Number, string Reason) : RolloutStep;

    /// <summary>Every wave has passed.</summary>
    public sealed record Finish : RolloutStep;
}

/// <summary>Decides how a running rollout goes on.</summary>
public static class RolloutSteps
{
    /// <summary>The next step of a rollout that runs and is not paused, or null while there is nothing to do. isForgiven: somebody went on although the gate of the open wave was missed, which holds until it is met.</summary>
    public static RolloutStep? Next(ImmutableArray<WaveStatus> waves, Instant now, bool isForgiven)
    {
        for (var number = 0; number < waves.Length; number++)
        {
            var wave = waves[number];
            if (wave.State is WaveState.Passed or WaveState.Skipped) continue;
            if (wave.State == WaveState.Open) return Look(number, wave, now, isForgiven);
            return MayBegin(wave.Plan.Start, number == 0 ? null : waves[number - 1], now) ? new RolloutStep.Open(number) : null;
        }

        return new RolloutStep.Finish();
    }

    /// <summary>When a wave that waits will begin, as far as that is known; null when that hangs on the wave before it.</summary>
    public static Instant? BeginsAt(ImmutableArray<WaveStatus> waves, int number) => waves[number].Plan.Start switch
    {
        StartAt at => Instant.FromDateTimeOffset(at.At),
        StartAfter after => number == 0 ? null : waves[number - 1].EndedAt + Duration.FromMinutes(after.Minutes),
        _ => null,
    };

    private static bool MayBegin(WaveStart start, WaveStatus? before, Instant now) => start switch
    {
        StartAt at => Instant.FromDateTimeOffset(at.At) <= now,
        StartAfter after => before?.EndedAt is not { } ended || ended + Duration.FromMinutes(after.Minutes) <= now,
        _ => true,
    };

    private static RolloutStep? Look(int number, WaveStatus wave, Instant now, bool isForgiven)
    {
        var (gate, counts) = (wave.Plan.Gate, wave.Counts);
        if (counts.Clients == 0) return new RolloutStep.Pass(number);
        if (!isForgiven && counts.Trouble * 100L > (long)gate.MostTrouble * counts.Clients)
            return new RolloutStep.Pause(number, $"{counts.Trouble} of {counts.Clients} clients have failed or drifted; at most {gate.MostTrouble} % may.");
        if (counts.InPlace * 100L >= (long)gate.LeastInPlace * counts.Clients && counts.Trouble * 100L <= (long)gate.MostTrouble * counts.Clients) return new RolloutStep.Pass(number);
        if (isForgiven) return null;
        var missing = $"{counts.InPlace} of {counts.Clients} clients are in place; at least {gate.LeastInPlace} % must be";
        if (!counts.IsAnyStillComing) return new RolloutStep.Pause(number, $"{missing}, and none is still on its way.");
        return gate.WithinMinutes > 0 && wave.OpenedAt is { } opened && opened + Duration.FromMinutes(gate.WithinMinutes) <= now
            ? new RolloutStep.Pause(number, $"{missing} within {gate.WithinMinutes} minutes.")
            : null;
    }
}
