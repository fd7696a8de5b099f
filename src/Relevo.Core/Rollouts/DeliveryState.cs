using System.Collections.Immutable;

namespace Relevo.Core.Rollouts;

/// <summary>Where a computer stands in a rollout.</summary>
public enum DeliveryState
{
    /// <summary>It has not asked since the rollout began.</summary>
    Waits,

    /// <summary>It was told what to hold and has not yet reported holding it.</summary>
    OnItsWay,

    /// <summary>It reported exactly the files it was told.</summary>
    InPlace,

    /// <summary>It held them once and now holds something else.</summary>
    Drifted,

    /// <summary>It could not put them in place, and said why.</summary>
    Failed,
}

/// <summary>What a computer reports: which manifest it holds, what it found on its disk, and its trouble if it had any.</summary>
/// <param name="Tag">The manifest it was told last, by its tag.</param>
/// <param name="Found">The manifest's files as they are on the disk.</param>
/// <param name="Trouble">Why it could not write, or empty.</param>
public sealed record DeliveryReport(string Tag, ImmutableArray<FoundFile> Found, string Trouble);

/// <summary>A computer's standing in a rollout, with the paths that differ and what went wrong.</summary>
public sealed record DeliveryStanding(DeliveryState State, string WantedTag, ImmutableArray<string> Differing, string Trouble)
{
    /// <summary>Where every computer begins.</summary>
    public static DeliveryStanding Start { get; } = new(DeliveryState.Waits, "", [], "");

    /// <summary>
    /// The computer was told a manifest. Being told the same again changes nothing, so a restart of either side counts nothing twice; a drifted
    /// computer stays drifted until it reports otherwise.
    /// </summary>
    public DeliveryStanding Told(string tag) => State == DeliveryState.Drifted || (State == DeliveryState.InPlace && tag == WantedTag)
        ? this with { WantedTag = tag }
        : new(DeliveryState.OnItsWay, tag, [], "");

    /// <summary>
    /// The computer reported. A report for another manifest than the wanted one is stale and changes nothing. Files that differ are drift when they were in place
    /// before, and a failure when they never were.
    /// </summary>
    public DeliveryStanding Reported(DeliveryReport report, Manifest wanted)
    {
        if (report.Tag != wanted.Tag()) return this;
        var differing = Differences(report, wanted);
        if (report.Trouble.Length > 0) return new(DeliveryState.Failed, report.Tag, differing, report.Trouble);
        if (differing.IsEmpty) return new(DeliveryState.InPlace, report.Tag, [], "");
        return State is DeliveryState.InPlace or DeliveryState.Drifted
            ? new(DeliveryState.Drifted, report.Tag, differing, "")
            : new(DeliveryState.Failed, report.Tag, differing, "The files on the disk are not the ones that were delivered.");
    }

    private static ImmutableArray<string> Differences(DeliveryReport report, Manifest wanted)
    {
        var found = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var file in report.Found) found[file.Path] = file.Sha256;
        return [.. wanted.Files.Where(file => found.GetValueOrDefault(file.Path) != file.Sha256).Select(file => file.Path)];
    }
}
