using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>The layer a resolved value came from, strongest first.</summary>
public enum Layer
{
    /// <summary>The account itself: its address.</summary>
    Account,

    /// <summary>The employee, in a field opened to employees.</summary>
    Own,

    /// <summary>An administrator, for one account or person.</summary>
    Override,

    /// <summary>A source.</summary>
    Source,

    /// <summary>The team, or one it is in.</summary>
    Team,

    /// <summary>The office.</summary>
    Office,

    /// <summary>The legal entity.</summary>
    Entity,

    /// <summary>The company.</summary>
    Company,
}

/// <summary>One record that may give values. Record: whose facts these are: a source's or unit's id, or empty.</summary>
public sealed record LayerFacts(Layer Layer, Guid Record, string RecordName, Facts Facts);

/// <summary>A value with its origin. Stored is as the record has it; Value as it is rendered.</summary>
public sealed record ResolvedField(string Name, string Stored, FieldValue Value, Layer Origin, Guid Record, string RecordName);

/// <summary>What resolving needs to know beside the person.</summary>
/// <param name="Fields">The company's fields.</param>
/// <param name="Units">Its units.</param>
/// <param name="SourceNames">Names of the sources.</param>
public sealed record CompanyRecords(FieldCatalogue Fields, UnitChart Units, ImmutableDictionary<Guid, string> SourceNames)
{
    /// <summary>The sources in a fixed order.</summary>
    public ImmutableArray<Guid> Sources { get; } = [.. SourceNames.Keys.Order()];

    /// <summary>A source's place among <see cref="Sources"/>, -1 for none.</summary>
    public int PlaceOfSource(Guid source) => Sources.BinarySearch(source) is >= 0 and var place ? place : -1;

    /// <summary>The standard fields and nothing else.</summary>
    public static CompanyRecords Plain { get; } = new(FieldCatalogue.Standard, UnitChart.Empty, ImmutableDictionary<Guid, string>.Empty);
}

/// <summary>
/// Resolves a person's or account's fields: the first layer with a value wins, and an explicit blank is a value. The order is own, override
/// (account before person), source, team (nearest first), office, entity, company. Which units a person is in follows from what the layers
/// above them say of department, location and legal entity.
/// </summary>
public static class FieldResolution
{
    /// <summary>Every record that may give this person's account a value, strongest first. account: null for the person as such.</summary>
    public static ImmutableArray<LayerFacts> Layers(CompanyRecords records, Person person, Account? account)
    {
        var layers = ImmutableArray.CreateBuilder<LayerFacts>(8);
        Add(layers, Layer.Own, person.Id, "the employee", Opened(records.Fields, person));
        if (account is not null)
        {
            Add(layers, Layer.Override, account.Id, account.Address, account.Override);
            Add(layers, Layer.Override, account.Id, account.Address, account.Mailbox);
        }

        Add(layers, Layer.Override, person.Id, "an administrator", person.Override);
        foreach (var entry in person.Entries) Add(layers, Layer.Source, entry.Source, records.SourceNames.GetValueOrDefault(entry.Source, "directory"), entry.Facts);
        foreach (var unit in Units(records.Units, First(layers, "department"), First(layers, "location"), First(layers, "organisation")))
            Add(layers, LayerOf(unit.Kind), unit.Id, unit.Name, unit.Facts);
        return layers.ToImmutable();
    }

    /// <summary>The units a person of this department, location and legal entity is in: teams nearest first, office, entity, company.</summary>
    public static IEnumerable<Unit> Units(UnitChart chart, string? department, string? location, string? organisation)
    {
        if (chart.Find(UnitKind.Team, department) is { } team)
        {
            foreach (var unit in chart.Upward(team)) yield return unit;
        }

        if (chart.Find(UnitKind.Office, location) is { } office) yield return office;
        if (chart.Find(UnitKind.Entity, organisation) is { } entity) yield return entity;
        if (chart.Company is { } company) yield return company;
    }

    /// <summary>Values in catalogue order, ready for rendering. readerRegion: the reader's country, or empty.</summary>
    public static FieldValue[] Resolve(CompanyRecords records, Person person, Account? account, string readerRegion) =>
        Resolve(records.Fields, Layers(records, person, account), account?.Address ?? "", readerRegion);

    /// <summary>Some values, for readers nobody knows. fields: catalogue indexes; target: takes their values in that order.</summary>
    public static void ResolveSome(CompanyRecords records, Person person, Account? account, ReadOnlySpan<int> fields, Span<FieldValue> target)
    {
        var layers = Layers(records, person, account);
        var region = First(layers, "country") ?? "";
        for (var place = 0; place < fields.Length; place++) target[place] = ResolveOne(records.Fields.Fields[fields[place]], layers, account?.Address ?? "", region, "");
    }

    /// <summary>Values of one record alone, in catalogue order. address: the account's.</summary>
    public static FieldValue[] Resolve(FieldCatalogue catalogue, Facts facts, string address) =>
        Resolve(catalogue, [new LayerFacts(Layer.Source, Guid.Empty, "", facts)], address, "");

    /// <summary>The same values with their origins, without the fields that nobody gives a value; an explicit blank stays, with its origin.</summary>
    public static ImmutableArray<ResolvedField> Explain(CompanyRecords records, Person person, Account? account)
    {
        var layers = Layers(records, person, account);
        var region = First(layers, "country") ?? "";
        var found = ImmutableArray.CreateBuilder<ResolvedField>();
        foreach (var field in records.Fields.Fields)
        {
            if (field.Name == "mail" && account is not null)
            {
                found.Add(new ResolvedField(field.Name, account.Address, FieldValue.From(account.Address, FieldKind.Mail), Layer.Account, account.Id, account.Address));
                continue;
            }

            if (layers.FirstOrDefault(layer => layer.Facts[field.Name] is not null) is not { } winner) continue;
            var stored = winner.Facts[field.Name]!;
            found.Add(new ResolvedField(field.Name, stored, FieldValue.From(stored, field.Kind, field.Display, region, ""), winner.Layer, winner.Record, winner.RecordName));
        }

        return found.ToImmutable();
    }

    /// <summary>The first value of a field among the layers, or null.</summary>
    public static string? First(IReadOnlyList<LayerFacts> layers, string field)
    {
        for (var index = 0; index < layers.Count; index++)
        {
            if (layers[index].Facts[field] is { } value) return value;
        }

        return null;
    }

    /// <summary>Which layer a unit's facts stand on.</summary>
    public static Layer LayerOf(UnitKind kind) => kind switch
    {
        UnitKind.Team => Layer.Team,
        UnitKind.Office => Layer.Office,
        UnitKind.Entity => Layer.Entity,
        _ => Layer.Company,
    };

    private static FieldValue[] Resolve(FieldCatalogue catalogue, IReadOnlyList<LayerFacts> layers, string address, string readerRegion)
    {
        var values = new FieldValue[catalogue.Fields.Length];
        var region = First(layers, "country") ?? "";
        for (var index = 0; index < values.Length; index++) values[index] = ResolveOne(catalogue.Fields[index], layers, address, region, readerRegion);
        return values;
    }

    private static FieldValue ResolveOne(Field field, IReadOnlyList<LayerFacts> layers, string address, string region, string readerRegion) =>
        Prepare(field, First(layers, field.Name), address, region, readerRegion);

    /// <summary>A stored value ready to be rendered. The mail address is the account's, whatever the records say.</summary>
    internal static FieldValue Prepare(Field field, string? stored, string address, string region, string readerRegion) =>
        FieldValue.From(field.Name == "mail" && address.Length > 0 ? address : stored, field.Kind, field.Display, region, readerRegion);

    private static void Add(ImmutableArray<LayerFacts>.Builder layers, Layer layer, Guid record, string name, Facts facts)
    {
        if (facts.Count > 0) layers.Add(new LayerFacts(layer, record, name, facts));
    }

    /// <summary>A field that was closed again keeps what employees wrote, and shows none of it.</summary>
    private static Facts Opened(FieldCatalogue catalogue, Person person)
    {
        if (person.Own.Count == 0) return person.Own;
        var open = new List<KeyValuePair<string, string>>();
        foreach (var pair in person.Own.Pairs)
        {
            if (catalogue.Find(pair.Key) is { } field && person.MaySet(field)) open.Add(pair);
        }

        return new Facts(open);
    }
}
