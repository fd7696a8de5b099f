using System.Collections.Immutable;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>One value of a record as text on one line, with the line it stands on (0 when the source has no lines).</summary>
public readonly record struct RecordValue(string Attribute, string Text, long Line);

/// <summary>One record of a source, whatever form it came in.</summary>
/// <param name="Name">The source's name for it: a distinguished name, or empty.</param>
/// <param name="Line">Line it starts on, or 0.</param>
/// <param name="Values">Its values in their order; attributes may repeat.</param>
public sealed record DirectoryRecord(string Name, long Line, ImmutableArray<RecordValue> Values)
{
    /// <summary>The texts of an attribute, without regard to the case of its name.</summary>
    public IEnumerable<string> Texts(string attribute) => Values.Where(value => Is(value, attribute)).Select(value => value.Text);

    /// <summary>True when the attribute is there.</summary>
    public bool Has(string attribute)
    {
        foreach (var value in Values)
        {
            if (Is(value, attribute)) return true;
        }

        return false;
    }

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

/// <summary>A person as a source states them, with the line the record starts on.</summary>
public sealed record ListedPerson(string SourceKey, string DistinguishedName, Facts Facts, ImmutableArray<string> Addresses, long Line)
{
    /// <summary>The key as it is compared and kept: sources disagree about its case.</summary>
    public string Key { get; } = SourceKey.ToLowerInvariant();

    /// <summary>What the person is called in lists.</summary>
    public string Name => Facts["displayName"] ?? SourceKey;
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
    ImmutableArray<ListedPerson> People, int OtherEntries, ImmutableArray<LdifProblem> Problems, ImmutableArray<RefusedValue> Refused, int RefusedCount);

/// <summary>
/// Collects a source's records and turns them into people: keys, fields and addresses by the mapping, each key once, each address once.
/// Memory follows the number of people, not the size of what was read.
/// </summary>
public sealed class Listing(Mapping mapping, FieldCatalogue catalogue, int maxProblems)
{
    /// <summary>Refused values kept by name; the rest is counted. Nobody reads a thousand.</summary>
    public const int MaxRefused = 500;

    private const int MaxKeyCharacters = 1000; // an id, not a text
    private readonly MappedFields fields = MappedFields.Compile(mapping, catalogue);
    private readonly ImmutableArray<ListedPerson>.Builder people = ImmutableArray.CreateBuilder<ListedPerson>();
    private readonly List<LdifProblem> problems = [];
    private readonly List<RefusedValue> refused = [];
    private readonly Dictionary<string, long> keys = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, long> addresses = new(StringComparer.OrdinalIgnoreCase);
    private readonly StringPool pool = new();
    private readonly Dictionary<string, List<string>> groupsByMember = new(StringComparer.Ordinal);
    private int refusedCount;
    private int others;
    private bool sawRecord;

    /// <summary>True when reading on would only add to too many problems.</summary>
    public bool IsFull => problems.Count > maxProblems;

    /// <summary>Where values that people share are kept once.</summary>
    public StringPool Pool => pool;

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

    /// <summary>Takes a person's record.</summary>
    public void Take(DirectoryRecord record)
    {
        sawRecord = true;
        var key = KeyOf(record);
        var facts = new List<KeyValuePair<string, string>>();
        foreach (var (field, text, line) in fields.Read(record))
        {
            if (FieldCheck.Refuse(field, text) is { } reason) Refuse(line, NameOf(record, key), field.Label, text, reason);
            else facts.Add(KeyValuePair.Create(field.Name, pool.Keep(text)));
        }

        if (key.Length is 0 or > MaxKeyCharacters)
        {
            Fail(record.Line, key.Length == 0 ? $"The person has no value in {string.Join(" or ", mapping.Key)}, by which they would be known again." : $"The id has {key.Length} characters; at most {MaxKeyCharacters} are taken.");
            return;
        }

        if (!facts.Exists(static pair => pair.Key == "displayName"))
        {
            Fail(record.Line, "The person has no name: neither displayName nor cn, or what they are mapped from.");
            return;
        }

        if (!keys.TryAdd(key, record.Line))
        {
            Fail(record.Line, keys[key] > 0 ? $"The id \"{key}\" belongs to the person on line {keys[key]} already." : $"The id \"{key}\" stands twice.");
            return;
        }

        if (record.Has("memberOf") && GroupNames.Join(record.Texts("memberOf").Select(GroupNames.OfDistinguishedName)) is { } groups) facts.Add(KeyValuePair.Create(GroupNames.Field, pool.Keep(groups)));
        people.Add(new ListedPerson(key, record.Name, new Facts(facts), ReadAddresses(record, key), record.Line));
    }

    /// <summary>What was listed. emptyMessage: said when there was nothing at all.</summary>
    public DirectoryContent Finish(string emptyMessage)
    {
        if (!sawRecord) Fail(1, emptyMessage);
        else if (people.Count == 0 && problems.Count == 0) Fail(1, $"There are {others} entries and none of them is a person (object class person or inetOrgPerson).");
        for (var index = 0; index < people.Count && groupsByMember.Count > 0; index++)
        {
            if (!groupsByMember.TryGetValue(DirectoryNames.Normalise(people[index].DistinguishedName), out var groups)) continue;
            var all = GroupNames.Join(groups.Concat(GroupNames.Split(people[index].Facts[GroupNames.Field])))!;
            people[index] = people[index] with { Facts = people[index].Facts.With(GroupNames.Field, pool.Keep(all)) };
        }

        return new DirectoryContent(people.ToImmutable(), others, [.. problems], [.. refused], refusedCount);
    }

    private ImmutableArray<string> ReadAddresses(DirectoryRecord record, string key)
    {
        var listed = new List<string>();
        foreach (var attribute in mapping.Addresses)
        {
            foreach (var value in record.Values)
            {
                if (string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase)) Take(value);
            }
        }

        return [.. listed];

        void Take(RecordValue value)
        {
            foreach (var address in MailAddress.ReadList(value.Text))
            {
                if (listed.Contains(address, StringComparer.OrdinalIgnoreCase)) continue;
                if (!MailAddress.IsOne(address)) Refuse(value.Line, NameOf(record, key), "Addresses", address, "This is not a mail address.");
                else if (addresses.TryAdd(address, value.Line)) listed.Add(address);
                else Refuse(value.Line, NameOf(record, key), "Addresses", address, addresses[address] > 0 ? $"The address belongs to the person on line {addresses[address]} already." : "The address belongs to another person of this source already.");
            }
        }
    }

    private string KeyOf(DirectoryRecord record)
    {
        foreach (var attribute in mapping.Key)
        {
            foreach (var value in record.Values)
            {
                if (value.Text.Length > 0 && string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase)) return value.Text;
            }
        }

        return DirectoryNames.Normalise(record.Name);
    }

    private void Refuse(long line, string person, string field, string value, string reason)
    {
        refusedCount++;
        if (refused.Count < MaxRefused) refused.Add(new RefusedValue(line, person, field, LdifReader.Shorten(FieldValue.OneLine(value)), reason));
    }

    private static string NameOf(DirectoryRecord record, string key) =>
        record.Texts("displayName").Concat(record.Texts("cn")).FirstOrDefault(text => text.Length > 0) is { } name ? LdifReader.Shorten(FieldValue.OneLine(name)) : key;
}

/// <summary>Values that many people share are kept once: titles, places, names of departments.</summary>
public sealed class StringPool
{
    private const int MaxKept = 50_000; // distinct texts; past this the values are mostly one person's own
    private const int MaxCharacters = 100; // a longer value is hardly shared
    private readonly HashSet<string> kept = new(StringComparer.Ordinal);
    private readonly HashSet<string>.AlternateLookup<ReadOnlySpan<char>> lookup;

    /// <summary>An empty pool.</summary>
    public StringPool() => lookup = kept.GetAlternateLookup<ReadOnlySpan<char>>();

    /// <summary>The text as a string, the same one for the same text.</summary>
    public string Keep(ReadOnlySpan<char> text)
    {
        if (text.IsEmpty) return "";
        if (lookup.TryGetValue(text, out var same)) return same;
        var fresh = text.ToString();
        if (text.Length <= MaxCharacters && kept.Count < MaxKept) kept.Add(fresh);
        return fresh;
    }

    /// <summary>The same for a text that is a string already.</summary>
    public string Keep(string text)
    {
        if (kept.TryGetValue(text, out var same)) return same;
        if (kept.Count < MaxKept) kept.Add(text);
        return text;
    }
}
