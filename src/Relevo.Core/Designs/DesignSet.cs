using System.Collections.Immutable;

namespace Relevo.Core.Designs;

/// <summary>Designs that belong together, such as the full, the short and the mailbox's one of a brand. They share the theme; the company's facts they share with everybody.</summary>
/// <param name="Name">The set's name.</param>
/// <param name="Theme">The theme of all of them.</param>
/// <param name="Designs">Their ids, in the order they were made.</param>
public sealed record DesignSet(string Name, Theme Theme, ImmutableArray<Guid> Designs)
{
    private const int MaxName = 100; // characters of a design's name and of a set's

    /// <summary>The sets of some designs, in the order of their first one.</summary>
    public static ImmutableArray<DesignSet> Of(IEnumerable<(Guid Id, DesignDocument Design)> designs) =>
        [.. designs.Where(pair => pair.Design.Set.Length > 0).GroupBy(pair => pair.Design.Set, StringComparer.Ordinal).Select(set => new DesignSet(set.Key, set.First().Design.Theme, [.. set.Select(pair => pair.Id)]))];

    /// <summary>
    /// What another design becomes when one is changed: with the same theme when both are of one set, otherwise null for nothing new.
    /// </summary>
    public static DesignDocument? Follow(DesignDocument changed, DesignDocument other) =>
        changed.Set.Length > 0 && other.Set == changed.Set && other.Theme != changed.Theme ? other with { Theme = changed.Theme } : null;

    /// <summary>Whether a design may join a set as it is: a set that has designs keeps its own theme.</summary>
    public static DesignProblem? CheckJoining(DesignDocument before, DesignDocument after, IEnumerable<DesignSet> sets) =>
        after.Set != before.Set && sets.FirstOrDefault(set => set.Name == after.Set) is { } joined && joined.Theme != after.Theme
            ? new DesignProblem("/theme", "theme-of-set", $"The set \"{after.Set}\" has another theme. Take its theme to join it.")
            : null;

    /// <summary>The name itself when none has it, otherwise that of a copy.</summary>
    public static string FreeName(string name, IReadOnlyCollection<string> taken) => taken.Contains(name, StringComparer.OrdinalIgnoreCase) ? CopyName(name, taken) : name;

    /// <summary>A name that none has: with ", copy", and a number from the second copy on.</summary>
    public static string CopyName(string name, IReadOnlyCollection<string> taken)
    {
        var stem = name[..Math.Min(name.Length, MaxName - 12)];
        return Enumerable.Range(1, taken.Count + 1).Select(number => number == 1 ? $"{stem}, copy" : $"{stem}, copy {number}").First(candidate => !taken.Contains(candidate, StringComparer.OrdinalIgnoreCase));
    }

    /// <summary>A second set: the same designs under names that no other has. names: of every design; sets: of every set.</summary>
    public static ImmutableArray<DesignDocument> Copy(string set, IEnumerable<DesignDocument> designs, IReadOnlyCollection<string> names, IReadOnlyCollection<string> sets)
    {
        var (taken, name, copies) = (names.ToList(), CopyName(set, sets), ImmutableArray.CreateBuilder<DesignDocument>());
        foreach (var design in designs.Where(design => design.Set == set))
        {
            var copy = design with { Name = CopyName(design.Name, taken), Set = name };
            taken.Add(copy.Name);
            copies.Add(copy);
        }

        return copies.ToImmutable();
    }
}
