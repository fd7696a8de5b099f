using System.Collections.Immutable;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.People.Sources;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Tests;

/// <summary>Small builders: a test names only what it is about.</summary>
internal static class Build
{
    public const string Logo = "00000000000000000000000000000000000000000000000000000000000000aa";

    public static Guid Source { get; } = Guid.Parse("00000000-0000-4000-8000-000000000001");

    public static RenderingForm Form { get; } = new("pictures", HasTextSeparator: true);

    public static Facts Facts(params (string Field, string Value)[] values) => new(values.Select(pair => KeyValuePair.Create(pair.Field, pair.Value)));

    public static Person Person(string key, params (string Field, string Value)[] values) =>
        new(Guid.NewGuid(), [new Entry(Source, key, $"uid={key}", Named(key, values))], Core.People.Facts.None, Core.People.Facts.None, [Account.Plain($"{key}@brackenfold.example", AccountKind.Own)], IsRetired: false);

    public static ListedPerson Listed(string key, params (string Field, string Value)[] values) =>
        new(key, $"uid={key.ToLowerInvariant()}", Named(key.ToLowerInvariant(), values), [$"{key.ToLowerInvariant()}@brackenfold.example"], 1);

    /// <summary>The entry a sync would have kept of this person.</summary>
    public static KnownEntry Known(ListedPerson person, bool isListed = true) =>
        new(person.Key, Guid.NewGuid(), EntryContent.Hash(person), isListed);

    private static Facts Named(string key, (string Field, string Value)[] values) =>
        Facts([.. values, .. values.Any(value => value.Field == "displayName") ? Array.Empty<(string, string)>() : [("displayName", key)]]);

    public static DesignDocument Full(string name = "Full") => Starter.All[0].Open(name, new StarterLogo(Logo, 64, 64, "Brackenfold", "https://brackenfold.example"));

    public static DesignDocument Short(string name = "Short") => Starter.All[1].Open(name, new StarterLogo(Logo, 64, 64, "Brackenfold", ""));

    public static DesignDocument Design(string[] root, params (string Key, Block Block)[] blocks) => Full() with
    {
        Root = [.. root],
        Blocks = ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal, blocks.Select(pair => KeyValuePair.Create(pair.Key, pair.Block))),
    };

    public static TextLine Line(params string[] fields) => new(TextRole.Text, ", ", [.. fields.Select(field => new Part([new FieldRun(field)]))]);

    public static ImmutableSortedDictionary<string, ImmutableSortedDictionary<string, string>> Languages(params (string Language, string Text, string Translated)[] texts) =>
        ImmutableSortedDictionary.CreateRange(texts.GroupBy(text => text.Language).Select(language =>
            KeyValuePair.Create(language.Key, ImmutableSortedDictionary.CreateRange(language.Select(text => KeyValuePair.Create(text.Text, text.Translated))))));

    public static RenderedSignature Render(DesignDocument design, params (string Field, string Value)[] values) =>
        CompiledDesign.Compile(design, FieldCatalogue.Standard, Form).Render(FieldResolution.Resolve(FieldCatalogue.Standard, Facts(values), "mia@brackenfold.example"), Circumstances.Plain);

    public static Rule Rule(Guid? design) => Rule(design, Array.Empty<Condition>());

    public static Rule Rule(Guid? design, params Occasion[] occasions) =>
        Rule(design, occasions.Length == 0 ? [] : [new OccasionCondition([.. occasions])]);

    public static Rule Rule(Guid? design, params Condition[] conditions) =>
        new(Guid.NewGuid(), true, [.. conditions], design is { } carried ? new CarryDesigns([carried]) : new CarryNothing());

    /// <summary>An account with these values, of a person of its own.</summary>
    public static Sender Sender(string address, params (string Field, string Value)[] values) => Sender(Guid.NewGuid(), address, AccountKind.Own, values);

    public static Sender Sender(Guid person, string address, AccountKind kind, params (string Field, string Value)[] values) =>
        new(person, values.FirstOrDefault(value => value.Field == "displayName").Value ?? address, address, kind, [.. FieldCatalogue.Standard.Fields.Select(field => values.FirstOrDefault(value => value.Field == field.Name).Value)]);

    public static string Text(this ReadOnlyMemory<byte> bytes) => System.Text.Encoding.UTF8.GetString(bytes.Span);
}
