using System.Buffers;
using System.Collections.Immutable;
using System.IO.Hashing;
using System.Text;

namespace Relevo.Core.People.Sources;

/// <summary>What a sync does with one entry of a source.</summary>
public enum StepAction
{
    /// <summary>The source lists somebody new.</summary>
    Join,

    /// <summary>A fact, an address or the name of the entry is another.</summary>
    Change,

    /// <summary>The source no longer lists somebody; the person is retired when no other source does.</summary>
    Leave,

    /// <summary>The source lists somebody again.</summary>
    Return,
}

/// <summary>An entry Relevo has from the source: enough to see whether the source says something else now.</summary>
/// <param name="Key">The stable id in lower case.</param>
/// <param name="PersonId">Whose it is.</param>
/// <param name="ContentHash">From <see cref="EntryContent.Hash"/>.</param>
/// <param name="IsListed">False when the source had dropped it.</param>
public readonly record struct KnownEntry(string Key, Guid PersonId, Guid ContentHash, bool IsListed);

/// <summary>One step of a plan. After is what the source says, null when it says nothing any more. IsNew: nobody was this person before.</summary>
public sealed record SyncStep(StepAction Action, string Key, Guid PersonId, ListedPerson? After, Guid ContentHash, bool IsNew = false);

/// <summary>What an entry says, as one hash.</summary>
public static class EntryContent
{
    /// <summary>
    /// XXH3 in 128 bits (the xxHash specification, version 0.8) over name, facts and addresses, each ended by a byte no text holds. Enough that two that differ never meet by
    /// chance; whoever made facts that meet on purpose would keep a change of their own from being seen, and gain nothing.
    /// </summary>
    public static Guid Hash(string distinguishedName, Facts facts, ImmutableArray<string> addresses)
    {
        var most = (distinguishedName.Length * 3) + 1 + facts.MostBytes;
        foreach (var address in addresses) most += (address.Length * 3) + 1;
        var bytes = ArrayPool<byte>.Shared.Rent(most);
        var length = Append(bytes, 0, distinguishedName, 0xFE);
        length += facts.WriteEnded(bytes.AsSpan(length), 0xFD, 0xFE);
        foreach (var address in addresses) length = Append(bytes, length, address, 0xFF);
        Span<byte> hash = stackalloc byte[16];
        XxHash128.Hash(bytes.AsSpan(0, length), hash);
        ArrayPool<byte>.Shared.Return(bytes);
        return new Guid(hash);
    }

    private static int Append(byte[] bytes, int at, string text, byte end)
    {
        var length = Encoding.UTF8.GetBytes(text, bytes.AsSpan(at));
        bytes[at + length] = end;
        return at + length + 1;
    }
}

/// <summary>What a sync would do.</summary>
/// <param name="Steps">What changes, in the source's order, leavers last.</param>
/// <param name="Unchanged">How many entries stay as they are.</param>
public sealed record SyncPlan(ImmutableArray<SyncStep> Steps, int Unchanged)
{
    /// <summary>
    /// Compares what Relevo has from the source with what the source lists. Pure. Entries are matched by key, without regard to case. A joiner
    /// becomes the person that <paramref name="match"/> finds (the same one in another source), or a new one with an id from <paramref name="newId"/>.
    /// </summary>
    public static SyncPlan Plan(IEnumerable<KnownEntry> known, IReadOnlyList<ListedPerson> listed, Func<ListedPerson, Guid?> match, Func<Guid> newId)
    {
        var before = known.ToDictionary(entry => entry.Key, StringComparer.Ordinal);
        var seen = new HashSet<string>(listed.Count, StringComparer.Ordinal);
        var steps = ImmutableArray.CreateBuilder<SyncStep>();
        var unchanged = 0;
        var hashes = new Guid[listed.Count];
        Parallel.For(0, listed.Count, index => hashes[index] = EntryContent.Hash(listed[index].DistinguishedName, listed[index].Facts, listed[index].Addresses));
        for (var index = 0; index < listed.Count; index++)
        {
            var (person, hash) = (listed[index], hashes[index]);
            seen.Add(person.Key);
            if (!before.TryGetValue(person.Key, out var entry)) steps.Add(match(person) is { } same ? new SyncStep(StepAction.Join, person.Key, same, person, hash) : new SyncStep(StepAction.Join, person.Key, newId(), person, hash, IsNew: true));
            else if (!entry.IsListed) steps.Add(new SyncStep(StepAction.Return, person.Key, entry.PersonId, person, hash));
            else if (entry.ContentHash != hash) steps.Add(new SyncStep(StepAction.Change, person.Key, entry.PersonId, person, hash));
            else unchanged++;
        }

        foreach (var entry in before.Values)
        {
            if (entry.IsListed && !seen.Contains(entry.Key)) steps.Add(new SyncStep(StepAction.Leave, entry.Key, entry.PersonId, null, entry.ContentHash));
        }

        return new SyncPlan(steps.ToImmutable(), unchanged);
    }

    /// <summary>How many steps there are of one kind.</summary>
    public int Count(StepAction action) => Steps.Count(step => step.Action == action);
}

/// <summary>One field that a sync would change. Null stands for "no value".</summary>
public sealed record FieldChange(string Field, string? Before, string? After)
{
    /// <summary>Names of the two things that are no fields.</summary>
    public const string Addresses = "addresses", DistinguishedName = "distinguishedName";

    /// <summary>What differs between two states of an entry, fields in the order of their names.</summary>
    public static ImmutableArray<FieldChange> Compare(EntryState before, EntryState after)
    {
        var changes = before.Facts.Names.Union(after.Facts.Names)
            .Order(StringComparer.Ordinal)
            .Where(field => before.Facts[field] != after.Facts[field])
            .Select(field => new FieldChange(field, before.Facts[field], after.Facts[field]))
            .ToList();
        if (!before.Addresses.SequenceEqual(after.Addresses, StringComparer.Ordinal)) changes.Add(new FieldChange(Addresses, string.Join(", ", before.Addresses), string.Join(", ", after.Addresses)));
        if (before.DistinguishedName != after.DistinguishedName) changes.Add(new FieldChange(DistinguishedName, before.DistinguishedName, after.DistinguishedName));
        return [.. changes];
    }
}

/// <summary>What an entry says at one time.</summary>
public sealed record EntryState(string DistinguishedName, Facts Facts, ImmutableArray<string> Addresses);
