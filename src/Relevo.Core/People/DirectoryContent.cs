using System.Collections.Immutable;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People;

/// <summary>A person as a directory file states them, with the line the entry starts on.</summary>
public sealed record ListedPerson(string SourceKey, string DistinguishedName, Facts Facts, ImmutableArray<string> Addresses, long Line);

/// <summary>What a directory file holds.</summary>
/// <param name="People">Everybody it lists, in file order.</param>
/// <param name="OtherEntries">Entries that are not people: units, groups, the suffix itself.</param>
/// <param name="Problems">What could not be read; with one or more of them nothing may be applied.</param>
public sealed record DirectoryContent(ImmutableArray<ListedPerson> People, int OtherEntries, ImmutableArray<LdifProblem> Problems);

/// <summary>
/// Reads people from LDIF content. A person is an entry with object class person, organizationalPerson or inetOrgPerson. Attributes no
/// field is read from are dropped as they pass, so that memory follows the number of people, not the size of the file.
/// Change records and values by URL are refused: this reads a directory's content and fetches nothing.
/// </summary>
public static class DirectoryReader
{
    private const int MaxValueCharacters = 1000; // no signature field is longer; more is a mistake in the export
    private static readonly ImmutableHashSet<string> PersonClasses =
        ImmutableHashSet.Create(StringComparer.OrdinalIgnoreCase, "person", "organizationalPerson", "inetOrgPerson");

    /// <summary>The source's stable id: entryUUID (RFC 4530), else uid (RFC 4519), else the normalised name.</summary>
    private static readonly ImmutableArray<string> KeyAttributes = ["entryUUID", "uid"];

    /// <summary>Reads the whole stream. Problems are at most <see cref="LdifLimits.MaxProblems"/> and a closing one.</summary>
    public static async Task<DirectoryContent> ReadAsync(Stream stream, FieldCatalogue catalogue, LdifLimits limits, CancellationToken cancellationToken)
    {
        var reading = new Reading(catalogue, limits);
        await foreach (var item in LdifReader.ReadAsync(stream, limits, cancellationToken))
        {
            reading.Take(item);
            if (reading.IsFull) break;
        }

        return reading.Finish();
    }

    private sealed class Reading(FieldCatalogue catalogue, LdifLimits limits)
    {
        private readonly ImmutableArray<ListedPerson>.Builder people = ImmutableArray.CreateBuilder<ListedPerson>();
        private readonly List<LdifProblem> problems = [];
        private readonly Dictionary<string, long> names = new(StringComparer.Ordinal);
        private readonly Dictionary<string, long> keys = new(StringComparer.OrdinalIgnoreCase);
        private readonly Dictionary<string, long> addresses = new(StringComparer.OrdinalIgnoreCase);
        private int others;
        private bool sawRecord;

        public bool IsFull => problems.Count > limits.MaxProblems;

        public void Take(LdifItem item)
        {
            sawRecord = true;
            if (item.Problem is not null) problems.Add(item.Problem);
            else if (item.Record is LdifChange change) Add(change.Line, "This is a change record; drop the directory's content here, not a list of changes.");
            else if (item.Record is LdifEntry entry) Take(entry);
        }

        public DirectoryContent Finish()
        {
            if (!sawRecord) Add(1, "The file is empty; it lists nobody.");
            else if (people.Count == 0 && problems.Count == 0) Add(1, $"The file has {others} entries and none of them is a person (object class person or inetOrgPerson).");
            return new DirectoryContent(people.ToImmutable(), others, [.. problems]);
        }

        private void Take(LdifEntry entry)
        {
            if (entry.DistinguishedName.Any(char.IsControl))
            {
                Add(entry.Line, "The dn holds a control character.");
                return;
            }

            var name = NormaliseName(entry.DistinguishedName);
            if (!IsFirst(names, name, entry.Line, line => $"The dn \"{entry.DistinguishedName}\" stands a second time; the first is on line {line}.")) return;
            if (!entry.Values.Any(value => Is(value, "objectClass") && value.TryGetText(out var text) && PersonClasses.Contains(text.Trim())))
            {
                others++;
                return;
            }

            var before = problems.Count;
            var facts = ReadFacts(entry);
            var key = KeyAttributes.Select(attribute => ReadFirst(entry, attribute)).FirstOrDefault(text => text.Length > 0) ?? name;
            if (!facts.ContainsKey("displayName")) Add(entry.Line, "The person has neither displayName nor cn.");
            var listed = ReadAddresses(entry);
            if (problems.Count > before) return;
            if (!IsFirst(keys, key, entry.Line, line => $"The id \"{key}\" belongs to the person on line {line} already.")) return;
            people.Add(new ListedPerson(key, entry.DistinguishedName, new Facts(facts), listed, entry.Line));
        }

        private Dictionary<string, string> ReadFacts(LdifEntry entry)
        {
            var facts = new Dictionary<string, string>(StringComparer.Ordinal);
            foreach (var field in catalogue.Fields)
            {
                var text = field.Attributes.Select(attribute => ReadFirst(entry, attribute)).FirstOrDefault(value => value.Length > 0);
                if (text is not null) facts[field.Name] = text;
            }

            return facts;
        }

        private ImmutableArray<string> ReadAddresses(LdifEntry entry)
        {
            var listed = new List<string>();
            foreach (var value in entry.Values.Where(value => Is(value, "mail")))
            {
                if (ReadText(value) is not { Length: > 0 } address || listed.Contains(address, StringComparer.OrdinalIgnoreCase)) continue;
                if (!LooksLikeAddress(address)) Add(value.Line, $"\"{LdifReader.Shorten(address)}\" is not a mail address.");
                else if (IsFirst(addresses, address, value.Line, line => $"The address \"{address}\" belongs to the person on line {line} already.")) listed.Add(address);
            }

            return [.. listed];
        }

        private string ReadFirst(LdifEntry entry, string attribute)
        {
            // A value without options is the default one; tagged ones (lang-de) wait for their own field rules.
            var value = entry.Values.FirstOrDefault(candidate => Is(candidate, attribute) && candidate.Options.IsEmpty);
            return value is null ? "" : ReadText(value);
        }

        private string ReadText(LdifValue value)
        {
            if (value.Kind == LdifValueKind.Url) Add(value.Line, $"The value of \"{value.Attribute}\" is given by URL, and Relevo fetches nothing; export the value itself.");
            else if (!value.TryGetText(out var text)) Add(value.Line, $"The value of \"{value.Attribute}\" is not text in UTF-8.");
            else if (text.Length > MaxValueCharacters) Add(value.Line, $"The value of \"{value.Attribute}\" has {text.Length} characters; at most {MaxValueCharacters} are taken.");
            else return FieldValue.OneLine(text);
            return "";
        }

        private bool IsFirst(Dictionary<string, long> seen, string key, long line, Func<long, string> message)
        {
            if (seen.TryAdd(key, line)) return true;
            Add(line, message(seen[key]));
            return false;
        }

        private void Add(long line, string message)
        {
            if (problems.Count < limits.MaxProblems && !problems.Any(problem => problem.Line == line && problem.Message == message)) problems.Add(new LdifProblem(line, message));
            else if (problems.Count == limits.MaxProblems) problems.Add(new LdifProblem(line, $"Reading stopped here after {limits.MaxProblems} problems."));
        }

        private static bool Is(LdifValue value, string attribute) => string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase);

        private static bool LooksLikeAddress(string address)
        {
            var at = address.LastIndexOf('@');
            return at > 0 && at < address.Length - 1 && address.Length <= 254 && !address.Any(char.IsWhiteSpace);
        }

        /// <summary>Names are compared without regard to case and to spaces round commas and equals signs.</summary>
        private static string NormaliseName(string name) =>
            string.Join(',', name.Split(',').Select(part => string.Join('=', part.Split('=', 2).Select(side => side.Trim())))).ToLowerInvariant();
    }
}
