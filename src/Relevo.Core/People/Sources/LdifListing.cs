using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Unicode;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>
/// Reads people from LDIF content. A person is an entry with object class person, organizationalPerson or inetOrgPerson. Attributes the
/// mapping does not name are dropped as they pass. A file of change records gives the changes instead of people. Values by URL are refused:
/// Relevo fetches nothing.
/// </summary>
public static class LdifListing
{
    private const string ObjectClass = "objectClass";
    private const int MaxValueBytes = 20_000; // of one value; fields have their own, shorter limit
    private static readonly string[] PersonClasses = ["person", "organizationalPerson", "inetOrgPerson"];

    /// <summary>Attributes that name a group's members. Sources: RFC 4519 sections 2.17 and 2.40.</summary>
    public static ImmutableArray<string> MemberAttributes { get; } = ["member", "uniqueMember"];

    /// <summary>Reads the whole stream. Problems are at most <see cref="LdifLimits.MaxProblems"/> and a closing one. takePicture: keeps the pictures in it; null passes them over.</summary>
    public static async Task<DirectoryContent> ReadAsync(Stream stream, Mapping mapping, FieldCatalogue catalogue, LdifLimits limits, TakePicture? takePicture, CancellationToken cancellationToken)
    {
        var listing = new Listing(mapping, catalogue, limits.MaxProblems);
        var wanted = mapping.Attributes(catalogue).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var pictures = SourcePictures.Attributes(mapping, catalogue);
        if (takePicture is null) wanted.ExceptWith(pictures);
        var reading = new Reading(new Conversion(wanted), pictures, takePicture);
        var names = new TextPlaces(ignoresCase: false);
        var listsContent = false;
        var changes = ImmutableArray.CreateBuilder<LdifChange>();
        await foreach (var part in ConvertAsync(stream, reading, limits, cancellationToken).OnAnotherCore(cancellationToken))
        {
            foreach (var problem in part.Problems) listing.Fail(problem.Line, problem.Message);
            foreach (var refused in part.Refused) listing.Refuse(refused.Line, refused.Person, refused.Field, refused.Value, refused.Reason);
            if (part.Change is { } change) changes.Add(change);
            else if (part.Name is { } name)
            {
                listsContent = true;
                Take(name, part, listing, names);
            }

            if (changes.Count > 0 && listsContent)
            {
                listing.Fail(part.Line, "A file holds a directory's content or changes to it, not both (RFC 2849).");
                break;
            }

            if (listing.IsFull) break;
        }

        // A file of changes lists nobody, and that is no fault of it.
        return listing.Finish(changes.Count > 0 ? null : "The file is empty; it lists nobody.") with { Changes = changes.ToImmutable() };
    }

    /// <summary>One entry read by itself: the person it is, or nobody.</summary>
    internal static DirectoryContent ReadOne(LdifEntry entry, Mapping mapping, FieldCatalogue catalogue)
    {
        var listing = new Listing(mapping, catalogue, LdifLimits.Default.MaxProblems);
        var part = new Conversion(mapping.Attributes(catalogue).ToHashSet(StringComparer.OrdinalIgnoreCase)).Convert(entry);
        if (!part.IsPerson) return new DirectoryContent([], 1, [], [], 0);
        foreach (var problem in part.Problems) listing.Fail(problem.Line, problem.Message);
        if (part.Person is not null) listing.Take(part.Person);
        return listing.Finish(null);
    }

    /// <summary>The first people of a file as they stand in it, with all that is text. isWhole: false when only its beginning is there, whose last record may be cut.</summary>
    public static async Task<ImmutableArray<DirectoryRecord>> SampleAsync(Stream stream, int count, bool isWhole, LdifLimits limits, CancellationToken cancellationToken)
    {
        var sample = ImmutableArray.CreateBuilder<DirectoryRecord>();
        await foreach (var item in LdifReader.ReadAsync(stream, limits, cancellationToken))
        {
            if (item.Record is not LdifEntry entry || !IsPerson(entry)) continue;
            var texts = entry.Values.Where(value => value.Kind != LdifValueKind.Url && value.Options.IsEmpty && value.Bytes.Length <= FieldCheck.MaxCharacters && Utf8.IsValid(value.Bytes.Span));
            sample.Add(new DirectoryRecord(entry.DistinguishedName, entry.Line, [.. texts.Select(value => new RecordValue(value.Attribute, FieldValue.OneLine(value.Bytes), value.Line))]));
            if (sample.Count > count) break;
        }

        if (sample.Count > count || (!isWhole && sample.Count > 1)) sample.RemoveAt(sample.Count - 1);
        return sample.ToImmutable();
    }

    /// <summary>True when the entry is a person.</summary>
    public static bool IsPerson(IEnumerable<string> objectClasses) => objectClasses.Any(text => PersonClasses.Contains(text.Trim(), StringComparer.OrdinalIgnoreCase));

    private static async IAsyncEnumerable<Part> ConvertAsync(Stream stream, Reading reading, LdifLimits limits, [EnumeratorCancellation] CancellationToken cancellationToken)
    {
        await foreach (var item in LdifReader.ReadAsync(stream, limits, lendsValues: true, cancellationToken))
        {
            if (item.Record is null)
            {
                yield return new Part(null, item.Problem!.Line, Problems: [item.Problem]);
                continue;
            }

            var (record, refused) = reading.TakePicture is { } take ? await SourcePictures.TakeAsync(item.Record, reading.Pictures, take, cancellationToken) : (item.Record, []);
            yield return record switch
            {
                LdifChange change => new Part(null, change.Line, Change: change, Refused: refused),
                LdifEntry entry => reading.Conversion.Convert(entry) with { Refused = refused },
                _ => throw new InvalidOperationException("A record is an entry or a change."),
            };
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static void Take(string dn, Part part, Listing listing, TextPlaces names)
    {
        var name = DirectoryNames.Normalise(dn);
        if (!names.TryAdd(name, part.Line, out var first)) listing.Fail(part.Line, $"The dn \"{dn}\" stands a second time; the first is on line {first}.");
        else if (part.Person is not null) listing.Take(part.Person);
        else if (!part.IsPerson && part.Members.IsEmpty) listing.PassOver();
        else if (!part.IsPerson) listing.Group(GroupNames.OfDistinguishedName(dn), part.Members);
    }

    private static bool HasControl(ReadOnlySpan<char> name) => name.ContainsAnyInRange('\0', '\u001F') || name.ContainsAnyInRange('\u007F', '\u009F');

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static bool IsPerson(LdifEntry entry)
    {
        foreach (ref readonly var value in entry.Values.AsSpan())
        {
            if (value.Attribute.Length == ObjectClass.Length && string.Equals(value.Attribute, ObjectClass, StringComparison.OrdinalIgnoreCase) && IsPersonClass(value.Bytes.Span)) return true;
        }

        return false;
    }

    private static bool IsPersonClass(ReadOnlySpan<byte> utf8)
    {
        utf8 = utf8[Ascii.Trim(utf8)];
        foreach (var name in PersonClasses)
        {
            if (Ascii.EqualsIgnoreCase(utf8, name)) return true;
        }

        return false;
    }

    private static IEnumerable<string> Texts(LdifEntry entry, string attribute) =>
        entry.Values.Where(value => string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase)).Select(value => value.TryGetText(out var text) ? text : "");

    /// <summary>What is done with every record. Pictures: attributes that hold pictures.</summary>
    private sealed record Reading(Conversion Conversion, HashSet<string> Pictures, TakePicture? TakePicture);

    /// <summary>Turns entries into the records of people, for one reading at a time. attributes: those that are wanted.</summary>
    private sealed class Conversion(HashSet<string> attributes)
    {
        private readonly AttributePlaces<bool> wanted = new(attributes.Contains);
        private readonly List<RecordValue> values = []; // of the entry that is looked at

        /// <summary>A value without options is the default one; tagged ones (lang-de) wait for their own field rules.</summary>
        [MethodImpl(MethodImplOptions.AggressiveOptimization)]
        public Part Convert(LdifEntry entry)
        {
            if (HasControl(entry.DistinguishedName)) return new Part(null, entry.Line, Problems: [new LdifProblem(entry.Line, "The dn holds a control character.")]);
            if (!IsPerson(entry)) return new Part(entry.DistinguishedName, entry.Line, Members: [.. MemberAttributes.SelectMany(attribute => Texts(entry, attribute))]);
            values.Clear();
            List<LdifProblem>? problems = null;
            for (var index = 0; index < entry.Values.Length; index++)
            {
                ref readonly var value = ref entry.Values.ItemRef(index);
                if (!value.Options.IsEmpty || !wanted.Of(index, value.Attribute)) continue;
                var fault = value.Kind == LdifValueKind.Url ? $"The value of \"{value.Attribute}\" is given by URL, and Relevo fetches nothing; export the value itself."
                    : value.Bytes.Length > MaxValueBytes ? $"The value of \"{value.Attribute}\" has {value.Bytes.Length} bytes; at most {MaxValueBytes} are taken."
                    : value.Kind == LdifValueKind.Base64 && !Utf8.IsValid(value.Bytes.Span) ? $"The value of \"{value.Attribute}\" is not text in UTF-8."
                    : null;
                if (fault is null) values.Add(new RecordValue(value.Attribute, FieldValue.OneLine(value.Bytes), value.Line));
                else (problems ??= []).Add(new LdifProblem(value.Line, fault));
            }

            var person = problems is null ? new DirectoryRecord(entry.DistinguishedName, entry.Line, [.. values]) : null;
            return new Part(entry.DistinguishedName, entry.Line, IsPerson: true, Person: person, Problems: problems is null ? [] : [.. problems]);
        }
    }

    /// <summary>What one record says. Name: null for a change, and for what could not be read at all.</summary>
    private readonly record struct Part(
        string? Name, long Line, bool IsPerson = false, DirectoryRecord? Person = null, LdifChange? Change = null, ImmutableArray<string> Members = default, ImmutableArray<LdifProblem> Problems = default, ImmutableArray<RefusedValue> Refused = default)
    {
        public ImmutableArray<RefusedValue> Refused { get; init; } = Refused.IsDefault ? [] : Refused;

        public ImmutableArray<string> Members { get; } = Members.IsDefault ? [] : Members;

        public ImmutableArray<LdifProblem> Problems { get; } = Problems.IsDefault ? [] : Problems;
    }
}
