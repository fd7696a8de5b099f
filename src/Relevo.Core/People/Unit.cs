using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>What a unit of the company is.</summary>
public enum UnitKind
{
    /// <summary>The company itself; there is one.</summary>
    Company,

    /// <summary>A legal entity.</summary>
    Entity,

    /// <summary>A place of work.</summary>
    Office,

    /// <summary>A team, possibly inside another.</summary>
    Team,
}

/// <summary>A part of the company that holds facts once for everybody in it.</summary>
/// <param name="Id">Relevo's key.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Name">Its name; people belong to it by naming it in their legal entity, location or department.</param>
/// <param name="Parent">For a team: the team it is in.</param>
/// <param name="Facts">What it says for its people.</param>
/// <param name="Revision">Counts its changes; an update made on an older one is refused.</param>
public sealed record Unit(Guid Id, UnitKind Kind, string Name, Guid? Parent, Facts Facts, int Revision)
{
    /// <summary>Kinds that people belong to by naming them.</summary>
    public static ImmutableArray<UnitKind> Named { get; } = [UnitKind.Entity, UnitKind.Office, UnitKind.Team];

    /// <summary>The field in which people name a unit of a kind.</summary>
    public static string FieldNaming(UnitKind kind) => kind switch { UnitKind.Entity => "organisation", UnitKind.Office => "location", _ => "department" };
}

/// <summary>The units of a company, found by the names people use for them.</summary>
public sealed class UnitChart
{
    /// <summary>Teams above each other; deeper is a loop or a mistake.</summary>
    public const int MaxDepth = 20;

    private readonly Dictionary<(UnitKind, string), Unit> byName = [];
    private readonly Dictionary<Guid, Unit> byId = [];
    private readonly Dictionary<Guid, int> places = [];

    /// <summary>Keeps the units. Of two of one kind and name the first is found by name.</summary>
    public UnitChart(ImmutableArray<Unit> units)
    {
        Units = units;
        for (var place = 0; place < units.Length; place++) places[units[place].Id] = place;
        foreach (var unit in units)
        {
            byId[unit.Id] = unit;
            byName.TryAdd((unit.Kind, Fold(unit.Name)), unit);
            if (unit.Kind == UnitKind.Company) Company = unit;
        }
    }

    /// <summary>A company without any parts.</summary>
    public static UnitChart Empty { get; } = new([]);

    /// <summary>Every unit.</summary>
    public ImmutableArray<Unit> Units { get; }

    /// <summary>The company, or null when nothing is known of it.</summary>
    public Unit? Company { get; }

    /// <summary>The unit of that id, or null.</summary>
    public Unit? Find(Guid id) => byId.GetValueOrDefault(id);

    /// <summary>The unit of that kind and name, without regard to case, or null.</summary>
    public Unit? Find(UnitKind kind, string? name) => string.IsNullOrEmpty(name) ? null : byName.GetValueOrDefault((kind, Fold(name)));

    /// <summary>A unit's place among <see cref="Units"/>, -1 for none.</summary>
    public int PlaceOf(Unit? unit) => unit is null ? -1 : places.GetValueOrDefault(unit.Id, -1);

    /// <summary>A team and the teams it is in, nearest first. A loop ends where it closes.</summary>
    public IEnumerable<Unit> Upward(Unit team)
    {
        var seen = new HashSet<Guid>();
        for (var next = team; next is not null && seen.Count < MaxDepth && seen.Add(next.Id); next = next.Parent is { } parent ? Find(parent) : null) yield return next;
    }

    /// <summary>True when setting this parent would close a loop.</summary>
    public bool WouldLoop(Guid team, Guid parent) => Find(parent) is { } above && Upward(above).Any(unit => unit.Id == team);

    private static string Fold(string name) => name.ToLowerInvariant();
}
