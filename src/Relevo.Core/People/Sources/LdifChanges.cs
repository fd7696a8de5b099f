using System.Collections.Immutable;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>
/// Applies LDIF change records (RFC 2849) to the people a source has, and gives the people it would list then. Only mapped values are kept of
/// a source, not its attributes; so a change whose outcome hangs on an attribute that is neither kept nor in the file is a problem that says so.
/// An attribute that loses its value is taken to have none left.
/// </summary>
public static class LdifChanges
{
    /// <summary>What the source lists after the changes that were read. before: everybody it lists now. What was left out while reading stays left out. Pure.</summary>
    public static DirectoryContent Apply(DirectoryContent read, IEnumerable<ListedPerson> before, Mapping mapping, FieldCatalogue catalogue, int maxProblems)
    {
        var work = new Work(before, mapping, catalogue, maxProblems);
        foreach (var value in read.Refused) work.Refuse(value);
        foreach (var change in read.Changes) work.Apply(change);
        return work.Finish();
    }

    private sealed class Work
    {
        private readonly Mapping mapping;
        private readonly FieldCatalogue catalogue;
        private readonly int maxProblems;
        private readonly (Field Field, FieldMapping Mapping)[] fields;
        private readonly List<ListedPerson?> people = [];
        private readonly Dictionary<string, int> byName = new(StringComparer.Ordinal);
        private readonly Dictionary<string, int> byKey = new(StringComparer.Ordinal);
        private readonly Dictionary<string, int> byAddress = new(StringComparer.OrdinalIgnoreCase);
        private readonly List<LdifProblem> problems = [];
        private readonly List<RefusedValue> refused = [];
        private int refusedCount;
        private int others;

        public Work(IEnumerable<ListedPerson> before, Mapping mapping, FieldCatalogue catalogue, int maxProblems)
        {
            this.mapping = mapping;
            this.catalogue = catalogue;
            this.maxProblems = maxProblems;
            fields = [.. mapping.Complete(catalogue).Where(field => catalogue.Find(field.Field) is not null).Select(field => (catalogue.Find(field.Field)!, field))];
            foreach (var person in before) Keep(person);
        }

        public void Apply(LdifChange change)
        {
            var isKnown = byName.TryGetValue(DirectoryNames.Normalise(change.DistinguishedName), out var place);
            switch (change.ChangeType)
            {
                case "add" when isKnown:
                    Fail(change.Line, $"\"{change.DistinguishedName}\" is to be added and is there already.");
                    break;
                case "add":
                    Add(change);
                    break;
                case "delete" when isKnown:
                    Forget(place);
                    break;
                case "modify" when isKnown:
                    Modify(place, change);
                    break;
                case "modify" when change.Modifications.Any(IsOfMembers):
                    others++;
                    foreach (var modification in change.Modifications.Where(IsOfMembers)) ChangeGroup(GroupNames.OfDistinguishedName(change.DistinguishedName), modification);
                    break;
                case "modrdn" or "moddn" when isKnown:
                    Rename(place, change);
                    break;
                default:
                    others++; // units, and entries that are nobody's here
                    break;
            }
        }

        public DirectoryContent Finish() => new([.. people.OfType<ListedPerson>()], others, [.. problems.Take(maxProblems)], [.. refused.Take(Listing.MaxRefused)], refusedCount);

        private void Keep(ListedPerson person)
        {
            byName[DirectoryNames.Normalise(person.DistinguishedName)] = people.Count;
            byKey[person.Key] = people.Count;
            foreach (var address in person.Addresses) byAddress.TryAdd(address, people.Count);
            people.Add(person);
        }

        private void Forget(int place)
        {
            var person = people[place]!;
            byName.Remove(DirectoryNames.Normalise(person.DistinguishedName));
            byKey.Remove(person.Key);
            foreach (var address in person.Addresses) byAddress.Remove(address);
            people[place] = null;
        }

        private void Add(LdifChange change)
        {
            var content = LdifListing.ReadOne(new LdifEntry(change.DistinguishedName, change.Line, change.Values), mapping, catalogue);
            if (content.People.IsEmpty && content.Problems.IsEmpty)
            {
                others++;
                Join(GroupNames.OfDistinguishedName(change.DistinguishedName), change.Values.Where(value => IsMember(value.Attribute)));
                return;
            }

            foreach (var problem in content.Problems) Fail(problem.Line, problem.Message);
            foreach (var value in content.Refused) Refuse(value);
            if (content.People.IsEmpty) return;
            var person = content.People[0];
            if (byKey.ContainsKey(person.Key)) Fail(change.Line, $"The id \"{person.Key}\" belongs to another person of this source already.");
            else Keep(new ListedPerson(person.Key, person.DistinguishedName, person.Facts, [.. person.Addresses.Where(address => IsFree(address, people.Count, change.Line, person.Name))], person.Line));
        }

        private void Rename(int place, LdifChange change)
        {
            string Value(string attribute) => change.Values.Where(value => Is(value.Attribute, attribute)).Select(value => value.TryGetText(out var text) ? text.Trim() : "").FirstOrDefault("");
            var (person, first) = (people[place]!, Value("newrdn"));
            var above = Value("newsuperior") is { Length: > 0 } superior ? superior : person.DistinguishedName[(person.DistinguishedName.IndexOf(',', StringComparison.Ordinal) + 1)..];
            var name = $"{first},{above}";
            byName.Remove(DirectoryNames.Normalise(person.DistinguishedName));
            byName[DirectoryNames.Normalise(name)] = place;
            people[place] = new ListedPerson(person.Key, name, person.Facts, person.Addresses, change.Line);
            // The first part of a name is a value of the entry as well (RFC 4511 section 4.9).
            var attribute = first.Split('=', 2)[0].Trim();
            var now = new Touched(attribute);
            now.Replace([new RecordValue(attribute, FieldValue.OneLine(GroupNames.OfDistinguishedName(first)), change.Line)]);
            if (mapping.Key.Any(key => Is(key, attribute)) && !string.Equals(person.Key, now.Known![0].Text, StringComparison.OrdinalIgnoreCase) && !mapping.Key[0].Equals("entryUUID", StringComparison.OrdinalIgnoreCase))
                Fail(change.Line, $"This renames {attribute}, by which the person is known again; drop the directory's content instead.");
            else Change(place, change.Line, [now]);
        }

        private void Modify(int place, LdifChange change)
        {
            var touched = new Dictionary<string, Touched>(StringComparer.OrdinalIgnoreCase);
            foreach (var modification in change.Modifications)
            {
                // A value with options (lang-de) is not the plain one.
                if (modification.Attribute.Contains(';', StringComparison.Ordinal)) continue;
                if (!touched.TryGetValue(modification.Attribute, out var attribute)) touched[modification.Attribute] = attribute = new Touched(modification.Attribute);
                if (!TryRead(modification, change.Line, out var values)) return;
                switch (modification.Operation)
                {
                    case "replace":
                        attribute.Replace(values);
                        break;
                    case "delete":
                        attribute.Delete(values);
                        break;
                    default:
                        attribute.Add(values);
                        break;
                }
            }

            if (mapping.Key.FirstOrDefault(touched.ContainsKey) is { } key)
            {
                Fail(change.Line, $"This changes {key}, by which the person is known again; drop the directory's content instead.");
                return;
            }

            Change(place, change.Line, [.. touched.Values]);
        }

        private bool TryRead(LdifModification modification, long line, out List<RecordValue> values)
        {
            values = [];
            if (!mapping.Attributes(catalogue).Contains(modification.Attribute, StringComparer.OrdinalIgnoreCase)) return true;
            foreach (var value in modification.Values)
            {
                if (value.Kind != LdifValueKind.Url && value.TryGetText(out var text))
                {
                    values.Add(new RecordValue(modification.Attribute, FieldValue.OneLine(text), value.Line > 0 ? value.Line : line));
                    continue;
                }

                Fail(value.Line, value.Kind == LdifValueKind.Url ? $"The value of \"{value.Attribute}\" is given by URL, and Relevo fetches nothing; export the value itself." : $"The value of \"{value.Attribute}\" is not text in UTF-8.");
                return false;
            }

            return true;
        }

        private void Change(int place, long line, Touched[] touched)
        {
            var person = people[place]!;
            var facts = person.Facts;
            foreach (var (field, way) in fields)
            {
                if (!way.Attributes.Any(name => Array.Exists(touched, one => Is(one.Attribute, name)))) continue;
                if (!TryResolve(field, way, touched, facts[field.Name], out var text))
                {
                    Fail(line, $"\"{field.Label}\" is read from {string.Join(", ", way.Attributes)}, and this change does not tell all that decides it; drop the directory's content instead.");
                    continue;
                }

                if (text.Length > 0 && FieldCheck.Refuse(field, text) is { } reason) Refuse(new RefusedValue(line, person.Name, field.Label, LdifReader.Shorten(text), reason));
                else facts = facts.With(field.Name, text.Length > 0 ? text : null);
            }

            if (Array.Find(touched, one => Is(one.Attribute, "memberOf")) is { } groups) facts = facts.With(GroupNames.Field, Groups(facts[GroupNames.Field], groups));
            if (facts["displayName"] is null) Fail(line, "The person would have no name.");
            people[place] = new ListedPerson(person.Key, person.DistinguishedName, facts, Addresses(place, person, touched, line), line);
        }

        /// <summary>False when an attribute that could decide was not told whole, and there was a value before that it may have given.</summary>
        private static bool TryResolve(Field field, FieldMapping way, Touched[] touched, string? before, out string text)
        {
            text = "";
            var told = new List<RecordValue>();
            var found = "";
            foreach (var name in way.Attributes)
            {
                var one = Array.Find(touched, candidate => Is(candidate.Attribute, name));
                // Without a value before, an attribute that is not in the file has none.
                List<RecordValue>? values = one is null ? before is null ? [] : null : one.Resolve(way.Attributes.Length == 1, before, value => Transformed(value, way));
                if (values is null) return false;
                told.AddRange(values);
                if (way.Joiner is null && told.Find(value => value.Text.Length > 0) is { Text.Length: > 0 } first)
                {
                    found = first.Text;
                    break;
                }
            }

            if (way.Joiner is { } joiner) found = string.Join(joiner, told.Where(value => value.Text.Length > 0).Select(value => value.Text));
            // What was there stays as it was kept: it went through the transforms once.
            text = found == before ? found : Transformed(found, way);
            return true;
        }

        private static string Transformed(string text, FieldMapping way)
        {
            foreach (var transform in way.Transforms)
            {
                if (text.Length > 0) text = transform.Apply(text).Trim();
            }

            return text;
        }

        private ImmutableArray<string> Addresses(int place, ListedPerson person, Touched[] touched, long line)
        {
            var changed = mapping.Addresses.Select(name => Array.Find(touched, one => Is(one.Attribute, name))).ToArray();
            if (Array.TrueForAll(changed, one => one is null)) return person.Addresses;
            var isWhole = Array.TrueForAll(changed, one => one?.Known is not null);
            if (!isWhole && Array.Exists(changed, one => one?.Known is not null))
            {
                Fail(line, $"Addresses are read from {string.Join(", ", mapping.Addresses)}, and this change does not tell all of them; drop the directory's content instead.");
                return person.Addresses;
            }

            static IEnumerable<string> Read(IEnumerable<RecordValue> values) => values.SelectMany(value => MailAddress.ReadList(value.Text));
            var wanted = isWhole
                ? changed.SelectMany(one => Read(one!.Known!))
                : person.Addresses.Except(changed.OfType<Touched>().SelectMany(one => Read(one.Removed)), StringComparer.OrdinalIgnoreCase).Concat(changed.OfType<Touched>().SelectMany(one => Read(one.Added)));
            var next = wanted.Distinct(StringComparer.OrdinalIgnoreCase).ToList();
            foreach (var gone in person.Addresses.Except(next, StringComparer.OrdinalIgnoreCase)) byAddress.Remove(gone);
            return [.. next.Where(address => IsFree(address, place, line, person.Name))];
        }

        private bool IsFree(string address, int place, long line, string person)
        {
            if (!MailAddress.IsOne(address)) Refuse(new RefusedValue(line, person, "Addresses", LdifReader.Shorten(address), "This is not a mail address."));
            else if (!byAddress.TryAdd(address, place) && byAddress[address] != place) Refuse(new RefusedValue(line, person, "Addresses", LdifReader.Shorten(address), "The address belongs to another person of this source already."));
            else return true;
            return false;
        }

        private void ChangeGroup(string group, LdifModification modification)
        {
            if (modification.Operation == "replace" || (modification.Operation == "delete" && modification.Values.IsEmpty))
            {
                for (var place = 0; place < people.Count; place++)
                {
                    if (people[place] is not null) Belong(place, group, isMember: false);
                }
            }

            if (modification.Operation == "delete")
            {
                foreach (var place in Members(modification.Values)) Belong(place, group, isMember: false);
            }
            else Join(group, modification.Values);
        }

        private void Join(string group, IEnumerable<LdifValue> members)
        {
            foreach (var place in Members(members)) Belong(place, group, isMember: true);
        }

        private IEnumerable<int> Members(IEnumerable<LdifValue> values) =>
            values.Select(value => value.TryGetText(out var name) && byName.TryGetValue(DirectoryNames.Normalise(name), out var place) ? place : -1).Where(place => place >= 0);

        private void Belong(int place, string group, bool isMember)
        {
            var person = people[place]!;
            var rest = GroupNames.Split(person.Facts[GroupNames.Field]).Where(name => !string.Equals(name, group, StringComparison.OrdinalIgnoreCase)).ToArray();
            people[place] = person with { Facts = person.Facts.With(GroupNames.Field, GroupNames.Join(isMember ? rest.Append(group) : rest)) };
        }

        private static string? Groups(string? before, Touched memberOf)
        {
            static IEnumerable<string> Names(IEnumerable<RecordValue> values) => values.Select(value => GroupNames.OfDistinguishedName(value.Text));
            return memberOf.Known is { } whole
                ? GroupNames.Join(Names(whole))
                : GroupNames.Join(GroupNames.Split(before).Except(Names(memberOf.Removed), StringComparer.OrdinalIgnoreCase).Concat(Names(memberOf.Added)));
        }

        private void Fail(long line, string message)
        {
            if (problems.Count < maxProblems) problems.Add(new LdifProblem(line, message));
        }

        public void Refuse(RefusedValue value)
        {
            refusedCount++;
            if (refused.Count < Listing.MaxRefused) refused.Add(value);
        }

        private static bool IsOfMembers(LdifModification modification) => IsMember(modification.Attribute);

        private static bool IsMember(string attribute) => LdifListing.MemberAttributes.Contains(attribute, StringComparer.OrdinalIgnoreCase);

        private static bool Is(string left, string right) => string.Equals(left, right, StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>What a change says of one attribute: all its values then, or some more and some less than there were.</summary>
    private sealed class Touched(string attribute)
    {
        public string Attribute { get; } = attribute;

        public List<RecordValue>? Known { get; private set; }

        public List<RecordValue> Added { get; } = [];

        public List<RecordValue> Removed { get; } = [];

        public void Replace(List<RecordValue> values) => Known = [.. values];

        public void Add(List<RecordValue> values) => (Known ?? Added).AddRange(values);

        public void Delete(List<RecordValue> values)
        {
            if (values.Count == 0) Known = [];
            else if (Known is not null) Known.RemoveAll(known => values.Exists(value => value.Text == known.Text));
            else Removed.AddRange(values);
        }

        /// <summary>The values in the order in which they count, or null when they are not told. isAlone: no other attribute may have given what was there before.</summary>
        public List<RecordValue>? Resolve(bool isAlone, string? before, Func<string, string> transformed)
        {
            if (Known is not null) return Known;
            if (before is null) return Added;
            if (!isAlone) return null;
            return Removed.Exists(value => transformed(value.Text) == before) ? Added : [new RecordValue(Attribute, before, 0), .. Added];
        }
    }
}
