using System.Buffers;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>One value of a record as text on one line in UTF-8, with the line it stands on (0 when the source has no lines).</summary>
public readonly record struct RecordValue(string Attribute, ReadOnlyMemory<byte> Utf8, long Line)
{
    /// <summary>A value that is a string already.</summary>
    public RecordValue(string attribute, string text, long line)
        : this(attribute, Encoding.UTF8.GetBytes(text), line)
    {
    }

    /// <summary>True when there is nothing in it.</summary>
    public bool IsEmpty => Utf8.IsEmpty;

    /// <summary>The text, made anew each time it is asked for.</summary>
    public string Text => Encoding.UTF8.GetString(Utf8.Span);
}

/// <summary>One record of a source, whatever form it came in.</summary>
/// <param name="Name">The source's name for it: a distinguished name, or empty.</param>
/// <param name="Line">Line it starts on, or 0.</param>
/// <param name="Values">Its values in their order; attributes may repeat.</param>
public sealed record DirectoryRecord(string Name, long Line, ImmutableArray<RecordValue> Values)
{
    /// <summary>The texts of an attribute, without regard to the case of its name.</summary>
    public IEnumerable<string> Texts(string attribute) => Values.Where(value => Is(value, attribute)).Select(value => value.Text);

    /// <summary>The line of an attribute's first value, or the record's.</summary>
    public long LineOf(string attribute)
    {
        foreach (var value in Values)
        {
            if (Is(value, attribute)) return value.Line;
        }

        return Line;
    }

    private static bool Is(RecordValue value, string attribute) => string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase);
}

/// <summary>
/// A person as a source states them: one piece of UTF-8, taken apart when somebody looks at it. Most people go as they are into the database, and what is no object is nothing
/// to be carried along.
/// </summary>
public sealed record ListedPerson
{
    private const byte End = 0xFF; // after each text; no UTF-8 holds it
    private readonly ReadOnlyMemory<byte> said; // facts as an object; then key, name and addresses, each ended
    private readonly int factsEnd;
    private readonly int keyEnd;
    private readonly int nameEnd;

    /// <summary>A person whose texts are strings.</summary>
    public ListedPerson(string key, string distinguishedName, Facts facts, ImmutableArray<string> addresses, long line)
    {
        var written = new ArrayBufferWriter<byte>(1024);
        facts.Write(written);
        factsEnd = written.WrittenCount;
        WriteTexts(written, key, distinguishedName, addresses.AsSpan());
        (said, Line) = (written.WrittenSpan.ToArray(), line);
        (keyEnd, nameEnd) = Ends(said.Span, factsEnd);
    }

    private ListedPerson(ReadOnlyMemory<byte> said, int factsEnd, long line)
    {
        (this.said, this.factsEnd, Line) = (said, factsEnd, line);
        (keyEnd, nameEnd) = Ends(said.Span, factsEnd);
    }

    /// <summary>The stable id in small letters, as it is compared and kept: sources disagree about its case.</summary>
    public string Key => Encoding.UTF8.GetString(Utf8Key.Span);

    /// <summary>The same in UTF-8.</summary>
    public ReadOnlyMemory<byte> Utf8Key => said[factsEnd..keyEnd];

    /// <summary>The source's name for the entry, or empty.</summary>
    public string DistinguishedName => Encoding.UTF8.GetString(Utf8DistinguishedName.Span);

    /// <summary>The same in UTF-8.</summary>
    public ReadOnlyMemory<byte> Utf8DistinguishedName => said[(keyEnd + 1)..nameEnd];

    /// <summary>Mail addresses, the person's own first.</summary>
    public ImmutableArray<string> Addresses
    {
        get
        {
            var rest = EndedAddresses;
            var addresses = ImmutableArray.CreateBuilder<string>(rest.Count(End));
            for (var end = rest.IndexOf(End); end >= 0; end = rest.IndexOf(End))
            {
                addresses.Add(Encoding.UTF8.GetString(rest[..end]));
                rest = rest[(end + 1)..];
            }

            return addresses.MoveToImmutable();
        }
    }

    /// <summary>What the source says, by field; made anew each time it is asked for.</summary>
    public Facts Facts
    {
        get => Facts.Written(Utf8Facts);
        init
        {
            var written = new ArrayBufferWriter<byte>(said.Length);
            value.Write(written);
            var grown = written.WrittenCount - factsEnd;
            written.Write(said.Span[factsEnd..]);
            (said, factsEnd, keyEnd, nameEnd) = (written.WrittenSpan.ToArray(), factsEnd + grown, keyEnd + grown, nameEnd + grown);
        }
    }

    /// <summary>The same as a JSON object in UTF-8.</summary>
    public ReadOnlyMemory<byte> Utf8Facts => said[..factsEnd];

    /// <summary>All that is said, line aside.</summary>
    internal ReadOnlySpan<byte> Said => said.Span;

    /// <summary>Line the record starts on, or 0.</summary>
    public long Line { get; }

    /// <summary>What the person is called in lists.</summary>
    public string Name => Facts["displayName"] ?? Key;

    /// <summary>True when all of the addresses are ASCII.</summary>
    internal bool HasPlainAddresses => EndedAddresses.IndexOfAnyInRange((byte)0x80, (byte)(End - 1)) < 0;

    /// <summary>The addresses in UTF-8, each ended by a byte 0xFF.</summary>
    public ReadOnlySpan<byte> EndedAddresses => said.Span[(nameEnd + 1)..];

    /// <summary>A person whose facts were written by <see cref="FactsWriter"/>, in so many bytes, and then their texts by <see cref="WriteTexts"/>.</summary>
    internal static ListedPerson Written(ReadOnlyMemory<byte> said, int factsBytes, long line) => new(said, factsBytes, line);

    /// <summary>Writes the texts of a person one after the other.</summary>
    internal static void WriteTexts(IBufferWriter<byte> target, string key, string distinguishedName, ReadOnlySpan<string> addresses)
    {
        WriteEnded(target, key.ToLowerInvariant());
        WriteEnded(target, distinguishedName);
        foreach (var address in addresses) WriteEnded(target, address);
    }

    private static (int Key, int Name) Ends(ReadOnlySpan<byte> said, int factsEnd)
    {
        var key = factsEnd + said[factsEnd..].IndexOf(End);
        return (key, key + 1 + said[(key + 1)..].IndexOf(End));
    }

    private static void WriteEnded(IBufferWriter<byte> target, string text)
    {
        Encoding.UTF8.GetBytes(text, target);
        target.Write([End]);
    }
}

/// <summary>A value that is not taken over. The person is taken over without it.</summary>
/// <param name="Line">Line it stands on, or 0.</param>
/// <param name="Person">Whose value it is.</param>
/// <param name="Field">Label of the field.</param>
/// <param name="Value">The value, shortened.</param>
/// <param name="Reason">A sentence.</param>
public sealed record RefusedValue(long Line, string Person, string Field, string Value, string Reason);

/// <summary>What a source lists.</summary>
/// <param name="People">Everybody, in its order.</param>
/// <param name="OtherEntries">Records that are not people: units, groups, the suffix itself.</param>
/// <param name="Problems">What could not be read; with one or more of them nothing may be applied.</param>
/// <param name="Refused">Values left out, the first <see cref="Listing.MaxRefused"/> of them.</param>
/// <param name="RefusedCount">How many values were left out in all.</param>
public sealed record DirectoryContent(
    ImmutableArray<ListedPerson> People, int OtherEntries, ImmutableArray<LdifProblem> Problems, ImmutableArray<RefusedValue> Refused, int RefusedCount)
{
    /// <summary>Changes to what the source listed before, in place of a list; <see cref="LdifChanges"/> makes one of them.</summary>
    public ImmutableArray<LdifChange> Changes { get; init; } = [];
}

/// <summary>
/// Collects a source's records and turns them into people: keys, fields and addresses by the mapping, each key once, each address once.
/// Memory follows the number of people, not the size of what was read.
/// </summary>
public sealed class Listing
{
    /// <summary>Refused values kept by name; the rest is counted. Nobody reads a thousand.</summary>
    public const int MaxRefused = 500;

    private const int MaxKeyCharacters = 1000; // an id, not a text
    private const string Manager = "manager";
    private const string MemberOf = "memberOf";
    private static readonly JsonEncodedText GroupsName = JsonEncodedText.Encode(GroupNames.Field, Facts.WriterOptions.Encoder);
    private readonly Mapping mapping;
    private readonly FieldCatalogue catalogue;
    private readonly int maxProblems;
    private readonly MappedFields fields;
    private readonly ImmutableArray<ListedPerson>.Builder people = ImmutableArray.CreateBuilder<ListedPerson>();
    private readonly List<LdifProblem> problems = [];
    private readonly List<RefusedValue> refused = [];
    private readonly TextPlaces keys = new(ignoresCase: true);
    private readonly TextPlaces addresses = new(ignoresCase: true);
    private readonly AttributePlaces<AttributeUse> uses;
    private readonly List<(int Rank, int Place)> addressed = []; // values of the record that is being taken that hold addresses
    private readonly List<string> listed = []; // its addresses
    private readonly SharedPieces pieces = new();
    private readonly FactsWriter facts;
    private readonly Dictionary<string, List<string>> groupsByMember = new(StringComparer.Ordinal);
    private int refusedCount;
    private int others;
    private bool sawRecord;
    private bool sawManager;

    /// <summary>Begins a list. maxProblems: named; with more of them it is full.</summary>
    public Listing(Mapping mapping, FieldCatalogue catalogue, int maxProblems)
    {
        (this.mapping, this.catalogue, this.maxProblems) = (mapping, catalogue, maxProblems);
        fields = MappedFields.Compile(mapping, catalogue);
        uses = new(attribute => new AttributeUse(Rank(mapping.Key, attribute), Rank(mapping.Addresses, attribute), string.Equals(attribute, MemberOf, StringComparison.OrdinalIgnoreCase)));
        facts = new FactsWriter(pieces);
    }

    /// <summary>True when reading on would only add to too many problems.</summary>
    public bool IsFull => problems.Count > maxProblems;

    /// <summary>How many people there are so far.</summary>
    public int Count => people.Count;

    /// <summary>Counts a record that is not a person.</summary>
    public void PassOver()
    {
        sawRecord = true;
        others++;
    }

    /// <summary>Notes a group and its members by their distinguished names; it is no person itself.</summary>
    public void Group(string name, IEnumerable<string> members)
    {
        PassOver();
        foreach (var member in members)
        {
            var key = DirectoryNames.Normalise(member);
            if (!groupsByMember.TryGetValue(key, out var groups)) groupsByMember[key] = groups = [];
            groups.Add(name);
        }
    }

    /// <summary>Names something that could not be read.</summary>
    public void Fail(long line, string message)
    {
        sawRecord = true;
        if (problems.Count < maxProblems && !problems.Exists(problem => problem.Line == line && problem.Message == message)) problems.Add(new LdifProblem(line, message));
        else if (problems.Count == maxProblems) problems.Add(new LdifProblem(line, $"Reading stopped here after {maxProblems} problems."));
    }

    /// <summary>Names a value that is left out.</summary>
    public void Refuse(long line, string person, string field, string value, string reason)
    {
        refusedCount++;
        if (refused.Count < MaxRefused) refused.Add(new RefusedValue(line, person, field, LdifReader.Shorten(FieldValue.OneLine(value)), reason));
    }

    /// <summary>Takes a person's record.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Take(DirectoryRecord record)
    {
        sawRecord = true;
        var (key, hasGroups) = Look(record);
        var groups = hasGroups ? GroupNames.Join(record.Texts(MemberOf).Select(GroupNames.OfDistinguishedName)) : null;
        var isNamed = false;
        facts.Begin();
        foreach (var (place, utf8, line) in fields.Read(record))
        {
            var field = fields[place].Field;
            if (groups is not null && field.Name == GroupNames.Field) continue; // what the directory itself says goes before
            if (utf8.Length > fields[place].FreeBytes && FieldCheck.Refuse(field, Encoding.UTF8.GetString(utf8.Span)) is { } reason)
            {
                Refuse(line, NameOf(record, key), field.Label, Encoding.UTF8.GetString(utf8.Span), reason);
                continue;
            }

            if (groups is not null && string.CompareOrdinal(field.Name, GroupNames.Field) > 0) AddGroups();
            facts.Write(fields[place].Name, utf8.Span);
            isNamed |= field.Name == "displayName";
            sawManager |= field.Name == Manager;
        }

        if (groups is not null) AddGroups();
        var factsBytes = facts.End();
        if (key.Length is 0 or > MaxKeyCharacters)
        {
            Fail(record.Line, key.Length == 0 ? $"The person has no value in {string.Join(" or ", mapping.Key)}, by which they would be known again." : $"The id has {key.Length} characters; at most {MaxKeyCharacters} are taken.");
            return;
        }

        if (!isNamed)
        {
            Fail(record.Line, "The person has no name: neither displayName nor cn, or what they are mapped from.");
            return;
        }

        if (!keys.TryAdd(key, record.Line, out var first))
        {
            Fail(record.Line, first > 0 ? $"The id \"{key}\" belongs to the person on line {first} already." : $"The id \"{key}\" stands twice.");
            return;
        }

        ReadAddresses(record, key);
        ListedPerson.WriteTexts(pieces, key, record.Name, CollectionsMarshal.AsSpan(listed));
        people.Add(ListedPerson.Written(pieces.Take(), factsBytes, record.Line));

        void AddGroups()
        {
            facts.Write(GroupsName, Encoding.UTF8.GetBytes(groups));
            groups = null;
        }
    }

    /// <summary>What was listed. emptyMessage: said when there was nothing at all; null when nobody need be there.</summary>
    public DirectoryContent Finish(string? emptyMessage)
    {
        if (emptyMessage is not null && !sawRecord) Fail(1, emptyMessage);
        else if (emptyMessage is not null && people.Count == 0 && problems.Count == 0) Fail(1, $"There are {others} entries and none of them is a person (object class person or inetOrgPerson).");
        for (var index = 0; index < people.Count && groupsByMember.Count > 0; index++)
        {
            if (!groupsByMember.TryGetValue(DirectoryNames.Normalise(people[index].DistinguishedName), out var groups)) continue;
            var all = GroupNames.Join(groups.Concat(GroupNames.Split(people[index].Facts[GroupNames.Field])))!;
            people[index] = people[index] with { Facts = people[index].Facts.With(GroupNames.Field, all) };
        }

        BreakCircles();
        return new DirectoryContent(people.ToImmutable(), others, [.. problems], [.. refused], refusedCount);
    }

    /// <summary>Leaves out managers who stand in a circle: whoever follows them upwards would never arrive.</summary>
    private void BreakCircles()
    {
        if (!sawManager) return;
        var byName = new TextPlaces(ignoresCase: false);
        for (var index = 0; index < people.Count; index++) byName.TryAdd(DirectoryNames.Normalise(people[index].DistinguishedName), index, out _);
        var above = people.Select(person => person.Facts[Manager] is { Length: > 0 } name && byName.TryFind(DirectoryNames.Normalise(name), out var place) ? (int)place : -1).ToArray();
        var seenFrom = new int[people.Count]; // 1 + where the walk began that came by first
        for (var start = 0; start < above.Length; start++)
        {
            var at = start;
            while (at >= 0 && seenFrom[at] == 0)
            {
                seenFrom[at] = start + 1;
                at = above[at];
            }

            // A walk that meets itself has gone round.
            if (at < 0 || seenFrom[at] != start + 1) continue;
            var circle = new List<int>();
            for (var next = at; circle.Count == 0 || next != at; next = above[next]) circle.Add(next);
            var names = string.Join(", ", circle.Take(5).Append(at).Select(place => people[place].Name));
            foreach (var place in circle)
            {
                Refuse(people[place].Line, people[place].Name, catalogue.Label(Manager), people[place].Facts[Manager]!, $"These are managers of one another in a circle: {names}.");
                people[place] = people[place] with { Facts = people[place].Facts.With(Manager, null) };
            }
        }
    }

    /// <summary>What is told by the attributes themselves, in one look: the key, whether groups are named, and in <see cref="addressed"/> where addresses stand.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private (string Key, bool HasGroups) Look(DirectoryRecord record)
    {
        addressed.Clear();
        var (keyRank, keyPlace, hasGroups) = (int.MaxValue, -1, false);
        for (var place = 0; place < record.Values.Length; place++)
        {
            ref readonly var value = ref record.Values.ItemRef(place);
            var use = uses.Of(place, value.Attribute);
            if (use.KeyRank < keyRank && !value.IsEmpty) (keyRank, keyPlace) = (use.KeyRank, place);
            if (use.AddressRank < int.MaxValue) addressed.Add((use.AddressRank, place));
            hasGroups |= use.NamesGroup;
        }

        return (keyPlace >= 0 ? record.Values[keyPlace].Text : DirectoryNames.Normalise(record.Name), hasGroups);
    }

    /// <summary>Notes the record's addresses in <see cref="listed"/>, each once, those that others have already left out.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void ReadAddresses(DirectoryRecord record, string key)
    {
        listed.Clear();
        for (var rank = 0; rank < mapping.Addresses.Length; rank++)
        {
            foreach (var (ranked, place) in addressed)
            {
                if (ranked == rank) Take(record.Values[place]);
            }
        }

        void Take(RecordValue value)
        {
            var text = value.Text;
            if (MailAddress.IsPlain(text)) TakeOne(text, value.Line);
            else
            {
                foreach (var address in MailAddress.ReadList(text)) TakeOne(address, value.Line);
            }
        }

        void TakeOne(string address, long line)
        {
            if (listed.Count > 0 && listed.Contains(address, StringComparer.OrdinalIgnoreCase)) return;
            if (!MailAddress.IsOne(address)) Refuse(line, NameOf(record, key), "Addresses", address, "This is not a mail address.");
            else if (addresses.TryAdd(address, line, out var first)) listed.Add(address);
            else Refuse(line, NameOf(record, key), "Addresses", address, first > 0 ? $"The address belongs to the person on line {first} already." : "The address belongs to another person of this source already.");
        }
    }

    private static int Rank(ImmutableArray<string> attributes, string attribute)
    {
        for (var rank = 0; rank < attributes.Length; rank++)
        {
            if (string.Equals(attributes[rank], attribute, StringComparison.OrdinalIgnoreCase)) return rank;
        }

        return int.MaxValue;
    }

    private static string NameOf(DirectoryRecord record, string key) =>
        record.Texts("displayName").Concat(record.Texts("cn")).FirstOrDefault(text => text.Length > 0) is { } name ? LdifReader.Shorten(FieldValue.OneLine(name)) : key;

    /// <summary>What an attribute tells beside fields: in which rank a key or addresses, if at all, and groups.</summary>
    private readonly record struct AttributeUse(int KeyRank, int AddressRank, bool NamesGroup);
}
