using System.Collections.Immutable;

namespace Relevo.Core.People.Sources;

/// <summary>When a run waits for a person's yes.</summary>
/// <param name="LeavingPercent">More leavers than this share of the people the source listed before, and at least <paramref name="AtLeast"/>.</param>
/// <param name="EmptiedPercent">More people losing one field than this share of those who had it, and at least <paramref name="AtLeast"/>.</param>
/// <param name="AtLeast">People; fewer never hold a run, so that small companies can work.</param>
public sealed record BrakeSettings(int LeavingPercent, int EmptiedPercent, int AtLeast)
{
    /// <summary>Five in a hundred, and five at least.</summary>
    public static BrakeSettings Default { get; } = new(5, 5, 5);

    /// <summary>What is wrong with them, or null.</summary>
    public string? Refuse() => LeavingPercent is < 0 or > 100 || EmptiedPercent is < 0 or > 100 || AtLeast is < 1 or > 100_000
        ? "Shares are 0 to 100 in a hundred, and the least number is 1 to 100,000." : null;
}

/// <summary>How many people had a field before a run, and how many of them lose it.</summary>
public sealed record EmptiedField(string Field, int Had, int Lose);

/// <summary>Holds a run that looks like an accident.</summary>
public static class Brake
{
    /// <summary>Why the run should wait, as sentences; none when it may go on. before: people the source listed; listed: people it lists now.</summary>
    public static ImmutableArray<string> Reasons(BrakeSettings settings, int before, int listed, int leaving, IEnumerable<EmptiedField> emptied, Func<string, string> label)
    {
        var reasons = ImmutableArray.CreateBuilder<string>();
        if (listed == 0 && before > 0) reasons.Add($"The source lists nobody; it listed {before} before.");
        else if (IsTooMany(leaving, before, settings.LeavingPercent, settings.AtLeast)) reasons.Add($"{leaving} of {before} people would leave, more than {settings.LeavingPercent} %.");
        foreach (var field in emptied.Where(field => IsTooMany(field.Lose, field.Had, settings.EmptiedPercent, settings.AtLeast)))
            reasons.Add($"{field.Lose} of {field.Had} people would lose \"{label(field.Field)}\", more than {settings.EmptiedPercent} %.");
        return reasons.ToImmutable();
    }

    private static bool IsTooMany(int affected, int whole, int percent, int atLeast) => affected >= atLeast && (long)affected * 100 > (long)whole * percent;
}
