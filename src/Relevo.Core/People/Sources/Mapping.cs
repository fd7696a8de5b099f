using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;

namespace Relevo.Core.People.Sources;

/// <summary>How one field is read from a source's attributes.</summary>
/// <param name="Field">The field's name.</param>
/// <param name="Attributes">Attributes it is read from, in order.</param>
/// <param name="Joiner">Null: the first attribute with a value is taken. Otherwise all values are joined by this text.</param>
/// <param name="Transforms">What is done to the text, in order.</param>
public sealed record FieldMapping(string Field, ImmutableArray<string> Attributes, string? Joiner, ImmutableArray<Transform> Transforms);

/// <summary>How a source's records become people.</summary>
/// <param name="Key">Attributes of the stable id, the first with a value wins.</param>
/// <param name="Addresses">Attributes that hold mail addresses; the first address is the person's own.</param>
/// <param name="Fields">Fields that are read in a way of their own; the others are read from their standard attributes when <paramref name="HasStandardFields"/> is set.</param>
/// <param name="HasStandardFields">False for sources whose attributes have no standard names, such as the columns of a table.</param>
public sealed record Mapping(ImmutableArray<string> Key, ImmutableArray<string> Addresses, ImmutableArray<FieldMapping> Fields, bool HasStandardFields)
{
    /// <summary>Fields one source may map; no catalogue is as large.</summary>
    public const int MaxFields = 200;

    /// <summary>Directories with the standard schema: entryUUID (RFC 4530) or uid (RFC 4519) as id, addresses from mail.</summary>
    public static Mapping Standard { get; } = new(["entryUUID", "uid"], ["mail"], [], HasStandardFields: true);

    /// <summary>The attributes that are named in the mapping itself.</summary>
    public IEnumerable<string> Columns => Key.Concat(Addresses).Concat(Fields.SelectMany(mapped => mapped.Attributes)).Distinct(StringComparer.OrdinalIgnoreCase);

    /// <summary>Every attribute that is looked at.</summary>
    public IEnumerable<string> Attributes(FieldCatalogue catalogue) =>
        Key.Concat(Addresses).Append("memberOf").Concat(Complete(catalogue).SelectMany(field => field.Attributes)).Distinct(StringComparer.OrdinalIgnoreCase);

    /// <summary>The mapping of every field that has one, own ways before standard ones.</summary>
    public IEnumerable<FieldMapping> Complete(FieldCatalogue catalogue)
    {
        if (!HasStandardFields) return Fields;
        var own = Fields.Select(mapping => mapping.Field).ToHashSet(StringComparer.Ordinal);
        return Fields.Concat(catalogue.Fields.Where(field => !own.Contains(field.Name) && !field.Attributes.IsEmpty).Select(field => new FieldMapping(field.Name, field.Attributes, null, [])));
    }

    /// <summary>What is wrong with it, each with a JSON Pointer; nothing when it can be used.</summary>
    public IEnumerable<(string Pointer, string Message)> Check(FieldCatalogue catalogue)
    {
        if (Key.IsEmpty) yield return ("/key", "No attribute is named as the stable id, so nobody would be known again.");
        if (Fields.Length > MaxFields) yield return ("/fields", $"A mapping has at most {MaxFields} fields.");
        if (!Complete(catalogue).Any(field => field.Field == "displayName" && !field.Attributes.IsEmpty)) yield return ("/fields", "Nothing is mapped to the name.");
        var seen = new HashSet<string>(StringComparer.Ordinal);
        for (var index = 0; index < Fields.Length; index++)
        {
            var field = Fields[index];
            if (catalogue.Find(field.Field) is null) yield return ($"/fields/{index}/field", $"There is no field \"{field.Field}\".");
            if (!seen.Add(field.Field)) yield return ($"/fields/{index}/field", $"\"{field.Field}\" is mapped twice.");
            for (var step = 0; step < field.Transforms.Length; step++)
            {
                if (field.Transforms[step].Refuse() is { } reason) yield return ($"/fields/{index}/transforms/{step}", reason);
            }
        }
    }
}

/// <summary>A mapping made ready for many records: each attribute knows which fields it may give a value, and in which rank.</summary>
internal sealed class MappedFields
{
    private readonly MappedField[] fields;
    private readonly Dictionary<string, (int Field, int Rank)[]> byAttribute;
    private readonly AttributePlaces<(int Field, int Rank)[]> targets;

    // Used again for every record, so one reading at a time.
    private readonly (ReadOnlyMemory<byte> Utf8, long Line, int Rank)[] found;
    private readonly (int Field, ReadOnlyMemory<byte> Utf8, long Line)[] read;

    private MappedFields(MappedField[] fields)
    {
        this.fields = fields;
        found = new (ReadOnlyMemory<byte>, long, int)[fields.Length];
        read = new (int, ReadOnlyMemory<byte>, long)[fields.Length];
        byAttribute = fields
            .SelectMany((field, place) => field.Mapping.Joiner is null ? field.Mapping.Attributes.Select((attribute, rank) => (attribute, place, rank)) : [])
            .GroupBy(entry => entry.attribute, StringComparer.OrdinalIgnoreCase)
            .ToDictionary(group => group.Key, group => group.Select(entry => (entry.place, entry.rank)).ToArray(), StringComparer.OrdinalIgnoreCase);
        targets = new AttributePlaces<(int, int)[]>(attribute => byAttribute.GetValueOrDefault(attribute, []));
    }

    /// <summary>A field by its place.</summary>
    public MappedField this[int place] => fields[place];

    public static MappedFields Compile(Mapping mapping, FieldCatalogue catalogue) =>
        new([.. mapping.Complete(catalogue).Where(field => catalogue.Find(field.Field) is not null).OrderBy(field => field.Field, StringComparer.Ordinal).Select(field => new MappedField(catalogue.Find(field.Field)!, field))]);

    /// <summary>
    /// The fields a record has a value for, by their place, in the order of their names, each with the line it comes from. Of an attribute that repeats the first value counts, of several
    /// attributes the first that has one. The answer holds until the next record is read.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public ReadOnlySpan<(int Field, ReadOnlyMemory<byte> Utf8, long Line)> Read(DirectoryRecord record)
    {
        Array.Clear(found);
        for (var index = 0; index < record.Values.Length; index++)
        {
            ref readonly var value = ref record.Values.ItemRef(index);
            if (value.IsEmpty) continue;
            foreach (var (place, rank) in targets.Of(index, value.Attribute))
            {
                if (found[place].Utf8.IsEmpty || rank < found[place].Rank) found[place] = (value.Utf8, value.Line, rank);
            }
        }

        var count = 0;
        for (var place = 0; place < fields.Length; place++)
        {
            var mapping = fields[place].Mapping;
            var (utf8, line, _) = found[place];
            if (mapping.Joiner is not null || !mapping.Transforms.IsEmpty) (utf8, line) = Changed(record, mapping, utf8, line);
            if (!utf8.IsEmpty) read[count++] = (place, utf8, line);
        }

        return read.AsSpan(0, count);
    }

    /// <summary>What is joined and transformed: rare, and done in strings.</summary>
    private static (ReadOnlyMemory<byte> Utf8, long Line) Changed(DirectoryRecord record, FieldMapping mapping, ReadOnlyMemory<byte> utf8, long line)
    {
        var text = Encoding.UTF8.GetString(utf8.Span);
        if (mapping.Joiner is { } joiner) (text, line) = Join(record, mapping.Attributes, joiner);
        foreach (var transform in mapping.Transforms)
        {
            if (text.Length > 0) text = transform.Apply(text).Trim();
        }

        return (Encoding.UTF8.GetBytes(text), line);
    }

    private static (string Text, long Line) Join(DirectoryRecord record, ImmutableArray<string> attributes, string joiner)
    {
        var texts = attributes.SelectMany(record.Texts).Where(text => text.Length > 0);
        return (string.Join(joiner, texts), attributes.IsEmpty ? record.Line : record.LineOf(attributes[0]));
    }
}

/// <summary>A field, how it is read and how its name is written down.</summary>
internal sealed record MappedField(Field Field, FieldMapping Mapping)
{
    /// <summary>Its name, ready to be written.</summary>
    public JsonEncodedText Name { get; } = JsonEncodedText.Encode(Field.Name, Facts.WriterOptions.Encoder);

    /// <summary>See <see cref="FieldCheck.FreeBytes"/>.</summary>
    public int FreeBytes { get; } = FieldCheck.FreeBytes(Field);
}

/// <summary>
/// What is known of attributes, found by the place they stand at: the records of a source mostly have the same attributes in the same order, and each attribute's name
/// is one string for all of them. For one reading at a time. find: asked where the guess is wrong.
/// </summary>
internal sealed class AttributePlaces<T>(Func<string, T> find)
{
    private const int Places = 64; // further values of a record are looked for each time

    private readonly (string? Attribute, T Known)[] seen = new (string?, T)[Places];

    /// <summary>What is known of the attribute of a record's value. place: which value it is, from 0.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public T Of(int place, string attribute)
    {
        if (place >= Places) return find(attribute);
        ref var guess = ref seen[place];
        if (!ReferenceEquals(guess.Attribute, attribute)) guess = (attribute, find(attribute));
        return guess.Known;
    }
}
