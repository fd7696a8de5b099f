using System.Collections.Immutable;
using System.Text;
using System.Text.Unicode;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>
/// Reads people from LDIF content. A person is an entry with object class person, organizationalPerson or inetOrgPerson. Attributes the
/// mapping does not name are dropped as they pass. Change records and values by URL are refused: this reads a directory's content and
/// fetches nothing.
/// </summary>
public static class LdifListing
{
    private const int MaxValueBytes = 20_000; // of one value; fields have their own, shorter limit
    private static readonly ImmutableHashSet<string> PersonClasses =
        ImmutableHashSet.Create(StringComparer.OrdinalIgnoreCase, "person", "organizationalPerson", "inetOrgPerson");

    /// <summary>Attributes that name a group's members. Sources: RFC 4519 sections 2.17 and 2.40.</summary>
    public static ImmutableArray<string> MemberAttributes { get; } = ["member", "uniqueMember"];

    /// <summary>Reads the whole stream. Problems are at most <see cref="LdifLimits.MaxProblems"/> and a closing one.</summary>
    public static async Task<DirectoryContent> ReadAsync(Stream stream, Mapping mapping, FieldCatalogue catalogue, LdifLimits limits, CancellationToken cancellationToken)
    {
        var listing = new Listing(mapping, catalogue, limits.MaxProblems);
        var wanted = mapping.Attributes(catalogue).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var names = new Dictionary<string, long>(StringComparer.Ordinal);
        await foreach (var item in LdifReader.ReadAsync(stream, limits, cancellationToken))
        {
            if (item.Problem is { } problem) listing.Fail(problem.Line, problem.Message);
            else if (item.Record is LdifChange change) listing.Fail(change.Line, "This is a change record; drop the directory's content here, not a list of changes.");
            else if (item.Record is LdifEntry entry) Take(entry, listing, wanted, names);
            if (listing.IsFull) break;
        }

        return listing.Finish("The file is empty; it lists nobody.");
    }

    /// <summary>True when the entry is a person.</summary>
    public static bool IsPerson(IEnumerable<string> objectClasses) => objectClasses.Any(text => PersonClasses.Contains(text.Trim()));

    private static void Take(LdifEntry entry, Listing listing, HashSet<string> wanted, Dictionary<string, long> names)
    {
        if (entry.DistinguishedName.Any(char.IsControl))
        {
            listing.Fail(entry.Line, "The dn holds a control character.");
            return;
        }

        var name = DirectoryNames.Normalise(entry.DistinguishedName);
        if (!names.TryAdd(name, entry.Line))
        {
            listing.Fail(entry.Line, $"The dn \"{entry.DistinguishedName}\" stands a second time; the first is on line {names[name]}.");
            return;
        }

        if (!IsPerson(Texts(entry, "objectClass")))
        {
            var members = MemberAttributes.SelectMany(attribute => Texts(entry, attribute)).ToArray();
            if (members.Length == 0) listing.PassOver();
            else listing.Group(GroupNames.OfDistinguishedName(entry.DistinguishedName), members);
            return;
        }

        if (TryConvert(entry, wanted, listing, out var record)) listing.Take(record!);
    }

    private static IEnumerable<string> Texts(LdifEntry entry, string attribute) =>
        entry.Values.Where(value => string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase)).Select(value => value.TryGetText(out var text) ? text : "");

    /// <summary>A value without options is the default one; tagged ones (lang-de) wait for their own field rules.</summary>
    private static bool TryConvert(LdifEntry entry, HashSet<string> wanted, Listing listing, out DirectoryRecord? record)
    {
        var values = ImmutableArray.CreateBuilder<RecordValue>(entry.Values.Length);
        var isGood = true;
        foreach (var value in entry.Values)
        {
            if (!value.Options.IsEmpty || !wanted.Contains(value.Attribute)) continue;
            var fault = value.Kind == LdifValueKind.Url ? $"The value of \"{value.Attribute}\" is given by URL, and Relevo fetches nothing; export the value itself."
                : value.Bytes.Length > MaxValueBytes ? $"The value of \"{value.Attribute}\" has {value.Bytes.Length} bytes; at most {MaxValueBytes} are taken."
                : !Utf8.IsValid(value.Bytes.AsSpan()) ? $"The value of \"{value.Attribute}\" is not text in UTF-8."
                : null;
            if (fault is null) values.Add(new RecordValue(value.Attribute, Text(value.Bytes.AsSpan(), listing.Pool), value.Line));
            else listing.Fail(value.Line, fault);
            isGood &= fault is null;
        }

        record = isGood ? new DirectoryRecord(entry.DistinguishedName, entry.Line, values.DrainToImmutable()) : null;
        return isGood;
    }

    private static string Text(ReadOnlySpan<byte> bytes, StringPool pool)
    {
        const int maxShort = 256; // bytes; nearly every value
        if (bytes.Length > maxShort) return FieldValue.OneLine(Encoding.UTF8.GetString(bytes));
        Span<char> characters = stackalloc char[maxShort];
        var text = characters[..Encoding.UTF8.GetChars(bytes, characters)].Trim();
        return FieldValue.IsOneLine(text) ? pool.Keep(text) : FieldValue.OneLine(text.ToString());
    }
}
