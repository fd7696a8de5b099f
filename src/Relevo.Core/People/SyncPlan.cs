using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>One field that a sync would change. Null stands for "no value".</summary>
public sealed record FieldChange(string Field, string? Before, string? After);

/// <summary>A person whose facts or addresses a sync would change.</summary>
public sealed record ChangedPerson(Person Before, ListedPerson After, ImmutableArray<FieldChange> Fields);

/// <summary>What a sync would do.</summary>
/// <param name="Joining">People the source lists and Relevo does not have.</param>
/// <param name="Returning">People Relevo has as retired and the source lists again.</param>
/// <param name="Changed">People with another fact or address.</param>
/// <param name="Leaving">People Relevo has and the source no longer lists; they are retired, never deleted.</param>
/// <param name="Unchanged">How many stay as they are.</param>
public sealed record SyncPlan(
    ImmutableArray<ListedPerson> Joining,
    ImmutableArray<ChangedPerson> Returning,
    ImmutableArray<ChangedPerson> Changed,
    ImmutableArray<Person> Leaving,
    int Unchanged)
{
    /// <summary>Compares what Relevo has with what the source lists. Pure; people are matched by the source's key, without regard to case.</summary>
    public static SyncPlan Plan(IReadOnlyCollection<Person> current, IReadOnlyCollection<ListedPerson> listed)
    {
        var known = current.ToDictionary(person => person.SourceKey, StringComparer.OrdinalIgnoreCase);
        var joining = ImmutableArray.CreateBuilder<ListedPerson>();
        var returning = ImmutableArray.CreateBuilder<ChangedPerson>();
        var changed = ImmutableArray.CreateBuilder<ChangedPerson>();
        var seen = new HashSet<Guid>();
        var unchanged = 0;
        foreach (var person in listed)
        {
            if (!known.TryGetValue(person.SourceKey, out var before))
            {
                joining.Add(person);
                continue;
            }

            seen.Add(before.Id);
            var fields = Compare(before, person);
            if (before.IsRetired) returning.Add(new ChangedPerson(before, person, fields));
            else if (fields.IsEmpty) unchanged++;
            else changed.Add(new ChangedPerson(before, person, fields));
        }

        return new SyncPlan(
            joining.ToImmutable(),
            returning.ToImmutable(),
            changed.ToImmutable(),
            [.. current.Where(person => !person.IsRetired && !seen.Contains(person.Id))],
            unchanged);
    }

    private static ImmutableArray<FieldChange> Compare(Person before, ListedPerson after)
    {
        var changes = before.Facts.Values.Keys.Union(after.Facts.Values.Keys)
            .Order(StringComparer.Ordinal)
            .Where(field => before.Facts[field] != after.Facts[field])
            .Select(field => new FieldChange(field, before.Facts[field], after.Facts[field]))
            .ToList();
        var addressesBefore = string.Join(", ", before.Addresses);
        var addressesAfter = string.Join(", ", after.Addresses);
        if (addressesBefore != addressesAfter) changes.Add(new FieldChange("addresses", addressesBefore, addressesAfter));
        if (!string.Equals(before.DistinguishedName, after.DistinguishedName, StringComparison.Ordinal))
            changes.Add(new FieldChange("distinguishedName", before.DistinguishedName, after.DistinguishedName));
        return [.. changes];
    }
}
