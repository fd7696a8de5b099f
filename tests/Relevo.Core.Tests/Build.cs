using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Tests;

/// <summary>Small builders: a test names only what it is about.</summary>
internal static class Build
{
    public const string Logo = "00000000000000000000000000000000000000000000000000000000000000aa";

    public static RenderingForm Form { get; } = new("pictures", HasTextSeparator: true);

    public static Facts Facts(params (string Field, string Value)[] values) => new(values.Select(pair => KeyValuePair.Create(pair.Field, pair.Value)));

    public static Person Person(string key, params (string Field, string Value)[] values) =>
        new(Guid.NewGuid(), key, $"uid={key}", Facts([.. values, .. values.Any(value => value.Field == "displayName") ? Array.Empty<(string, string)>() : [("displayName", key)]]), [$"{key}@brackenfold.example"], IsRetired: false);

    public static ListedPerson Listed(string key, params (string Field, string Value)[] values)
    {
        var person = Person(key.ToLowerInvariant(), values);
        return new ListedPerson(key, person.DistinguishedName, person.Facts, person.Addresses, 1);
    }

    public static DesignDocument Full(string name = "Full") => Starter.All[0].Open(name, new StarterLogo(Logo, 64, 64, "Brackenfold", "https://brackenfold.example"));

    public static DesignDocument Short(string name = "Short") => Starter.All[1].Open(name, new StarterLogo(Logo, 64, 64, "Brackenfold", ""));

    public static DesignDocument Design(string[] root, params (string Key, Block Block)[] blocks) => Full() with
    {
        Root = [.. root],
        Blocks = System.Collections.Immutable.ImmutableSortedDictionary.CreateRange(StringComparer.Ordinal, blocks.Select(pair => KeyValuePair.Create(pair.Key, pair.Block))),
    };

    public static TextLine Line(params string[] fields) => new(TextRole.Text, ", ", [.. fields.Select(field => new Part([new FieldRun(field)]))]);

    public static RenderedSignature Render(DesignDocument design, params (string Field, string Value)[] values) =>
        CompiledDesign.Compile(design, FieldCatalogue.Standard, Form).Render(FieldResolution.Resolve(FieldCatalogue.Standard, Facts(values), "mia@brackenfold.example"));

    public static Rule Rule(Guid? design, params Occasion[] occasions) =>
        new(Guid.NewGuid(), true, occasions.Length == 0 ? [] : [new OccasionCondition([.. occasions])], design);

    public static string Text(this ReadOnlyMemory<byte> bytes) => System.Text.Encoding.UTF8.GetString(bytes.Span);
}
