using System.Collections.Immutable;
using System.IO.Hashing;
using System.Runtime.CompilerServices;
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
/// <param name="Utf8Key">The stable id in lower case, in UTF-8.</param>
/// <param name="PersonId">Whose it is.</param>
/// <param name="ContentHash">From <see cref="EntryContent.Hash"/>.</param>
/// <param name="IsListed">False when the source had dropped it.</param>
public readonly record struct KnownEntry(ReadOnlyMemory<byte> Utf8Key, Guid PersonId, Guid ContentHash, bool IsListed)
{
    /// <summary>An entry whose key is a string.</summary>
    public KnownEntry(string key, Guid personId, Guid contentHash, bool isListed)
        : this(Encoding.UTF8.GetBytes(key), personId, contentHash, isListed)
    {
    }
}

/// <summary>One step of a plan.</summary>
/// <param name="Action">What is done.</param>
/// <param name="PersonId">To whom.</param>
/// <param name="After">What the source says; null when it says nothing any more.</param>
/// <param name="KnownHash">The hash of what it says, or said last; null of a joiner, where nothing was compared.</param>
/// <param name="IsNew">Nobody was this person before.</param>
/// <param name="LeftKey">The key of an entry the source dropped.</param>
public readonly record struct SyncStep(StepAction Action, Guid PersonId, ListedPerson? After, Guid? KnownHash, bool IsNew = false, string LeftKey = "")
{
    /// <summary>The key of the entry, made anew each time it is asked for.</summary>
    public string Key => After?.Key ?? LeftKey;

    /// <summary>From <see cref="EntryContent.Hash"/>; of a joiner made anew each time it is asked for.</summary>
    public Guid ContentHash => KnownHash ?? EntryContent.Hash(After!);
}

/// <summary>What an entry says, as one hash.</summary>
public static class EntryContent
{
    /// <summary>
    /// XXH3 in 128 bits (the xxHash specification, version 0.8) over all that is said. Enough that two that differ never meet by chance; whoever made facts that meet on purpose would
    /// keep a change of their own from being seen, and gain nothing.
    /// </summary>
    public static Guid Hash(ListedPerson person)
    {
        Span<byte> hash = stackalloc byte[16];
        XxHash128.Hash(person.Said, hash);
        return new Guid(hash);
    }

    /// <summary>The same of many, on all cores.</summary>
    public static Guid[] HashAll(IReadOnlyList<ListedPerson> people)
    {
        var hashes = new Guid[people.Count];
        Parallel.For(0, people.Count, index => hashes[index] = Hash(people[index]));
        return hashes;
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
    public static SyncPlan Plan(IEnumerable<KnownEntry> known, IReadOnlyList<ListedPerson> listed, Func<ListedPerson, Guid?> match, Func<Guid> newId) =>
        Plan([.. known], listed, EntryContent.HashAll(listed), match, newId);

    /// <summary>The same where the hashes of those listed are known already. Where no entry is known, none are needed.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public static SyncPlan Plan(IReadOnlyList<KnownEntry> known, IReadOnlyList<ListedPerson> listed, ReadOnlySpan<Guid> hashes, Func<ListedPerson, Guid?> match, Func<Guid> newId)
    {
        // Keys are told apart by XXH3 in 128 bits, as in TextPlaces.
        var places = new Dictionary<UInt128, int>(known.Count);
        for (var place = 0; place < known.Count; place++) places.Add(XxHash128.HashToUInt128(known[place].Utf8Key.Span), place);
        var isMet = new bool[known.Count];
        var arePlain = true;
        var steps = ImmutableArray.CreateBuilder<SyncStep>(known.Count == 0 ? listed.Count : 0);
        var unchanged = 0;
        for (var index = 0; index < listed.Count; index++)
        {
            var person = listed[index];
            if (known.Count == 0 || !places.TryGetValue(XxHash128.HashToUInt128(person.Utf8Key.Span), out var place))
            {
                var same = match(person);
                arePlain &= same is not null || person.HasPlainAddresses;
                steps.Add(new SyncStep(StepAction.Join, same ?? newId(), person, null, IsNew: same is null));
                continue;
            }

            var (entry, hash) = (known[place], hashes[index]);
            isMet[place] = true;
            if (!entry.IsListed) steps.Add(new SyncStep(StepAction.Return, entry.PersonId, person, hash));
            else if (entry.ContentHash != hash) steps.Add(new SyncStep(StepAction.Change, entry.PersonId, person, hash));
            else unchanged++;
        }

        for (var place = 0; place < known.Count; place++)
        {
            var entry = known[place];
            if (entry.IsListed && !isMet[place]) steps.Add(new SyncStep(StepAction.Leave, entry.PersonId, null, entry.ContentHash, LeftKey: Encoding.UTF8.GetString(entry.Utf8Key.Span)));
        }

        return new SyncPlan(steps.ToImmutable(), unchanged) { HasPlainAddresses = arePlain };
    }

    /// <summary>True when all addresses that new people bring are ASCII. A content has each address once, and then the database cannot see two of them as one either.</summary>
    public bool HasPlainAddresses { get; private init; }
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
