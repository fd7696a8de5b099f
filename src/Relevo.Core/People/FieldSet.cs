using System.Collections.Immutable;
using System.Text.RegularExpressions;

namespace Relevo.Core.People;

/// <summary>A field the company made.</summary>
/// <param name="Name">Stable name, lower-case letters, digits and capitals inside; never changes.</param>
/// <param name="Label">What people read.</param>
/// <param name="Kind">Its type; never changes.</param>
/// <param name="Attributes">Directory attributes it is read from.</param>
/// <param name="Holders">Where a value may stand.</param>
/// <param name="Rule">Checks, and whether employees may set it.</param>
/// <param name="Display">For telephone numbers.</param>
/// <param name="IsRetired">A retired field is offered no more and stays known to designs and editions that use it.</param>
/// <param name="Profile">For a web address that is a profile link: what it leads to.</param>
public sealed record OwnField(
    string Name,
    string Label,
    FieldKind Kind,
    ImmutableArray<string> Attributes,
    ImmutableArray<FieldHolder> Holders,
    FieldRule Rule,
    PhoneDisplay Display,
    bool IsRetired,
    ProfileKind? Profile = null);

/// <summary>What a company sets for a standard field.</summary>
public sealed record StandardFieldSetting(FieldRule Rule, PhoneDisplay Display);

/// <summary>Something wrong with a field set. Pointer is a JSON Pointer (RFC 6901).</summary>
public sealed record FieldSetProblem(string Pointer, string Code, string Message);

/// <summary>The company's own fields, and its settings for standard ones.</summary>
public sealed partial record FieldSet(ImmutableArray<OwnField> Own, ImmutableSortedDictionary<string, StandardFieldSetting> Standard)
{
    /// <summary>Fields a company may make; past this nobody finds the one that is meant.</summary>
    public const int MaxOwnFields = 100;

    /// <summary>Nothing of one's own.</summary>
    public static FieldSet Empty { get; } = new([], ImmutableSortedDictionary<string, StandardFieldSetting>.Empty);

    /// <summary>The catalogue: standard fields first, then own ones in the order they were made, retired ones included so that places never move.</summary>
    public FieldCatalogue ToCatalogue() => new(
    [
        .. FieldCatalogue.Standard.Fields.Select(field => Standard.TryGetValue(field.Name, out var setting) ? field with { Rule = setting.Rule, Display = setting.Display } : field),
        .. Own.Select(own => new Field(own.Name, own.Label, own.Kind, own.Attributes, own.Holders, own.IsRetired ? FieldRule.Closed : own.Rule, own.Display, "company", own.Profile)),
    ]);

    /// <summary>What is wrong with it as the successor of the one before: own fields keep their place, name and kind.</summary>
    public ImmutableArray<FieldSetProblem> Check(FieldSet before)
    {
        var problems = ImmutableArray.CreateBuilder<FieldSetProblem>();
        if (Own.Length > MaxOwnFields) problems.Add(new("/own", "too-many-fields", $"There are at most {MaxOwnFields} fields of one's own."));
        var names = FieldCatalogue.Standard.Fields.Select(field => field.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);
        for (var index = 0; index < Own.Length; index++)
        {
            var (field, place) = (Own[index], $"/own/{index}");
            if (!NamePattern().IsMatch(field.Name)) problems.Add(new($"{place}/name", "field-name", "A name is a small letter and then letters or digits, 40 at most."));
            else if (!names.Add(field.Name)) problems.Add(new($"{place}/name", "field-twice", $"There is a field \"{field.Name}\" already."));
            if (field.Label.Trim().Length is 0 or > 60) problems.Add(new($"{place}/label", "field-label", "A label has 1 to 60 characters."));
            if (field.Holders.IsDefaultOrEmpty) problems.Add(new($"{place}/holders", "field-holders", "Say where the field may hold a value."));
            if (field.Attributes.Any(attribute => attribute.Length is 0 or > 100)) problems.Add(new($"{place}/attributes", "field-attribute", "An attribute's name has 1 to 100 characters."));
            if (field.Profile is not null && field.Kind != FieldKind.Web) problems.Add(new($"{place}/profile", "field-profile", "Only a web address can be a profile link."));
            CheckRule(place, field.Kind, field.Rule, problems);
        }

        for (var index = 0; index < before.Own.Length; index++)
        {
            if (index >= Own.Length || Own[index].Name != before.Own[index].Name || Own[index].Kind != before.Own[index].Kind)
                problems.Add(new($"/own/{index}", "field-kept", $"\"{before.Own[index].Label}\" keeps its place, name and kind, because designs and editions refer to it; retire it instead."));
        }

        foreach (var (name, setting) in Standard)
        {
            if (FieldCatalogue.Standard.Find(name) is not { } field) problems.Add(new($"/standard/{name}", "field-unknown", $"There is no standard field \"{name}\"."));
            else CheckRule($"/standard/{name}", field.Kind, setting.Rule, problems);
        }

        return problems.ToImmutable();
    }

    private static void CheckRule(string place, FieldKind kind, FieldRule rule, ImmutableArray<FieldSetProblem>.Builder problems)
    {
        if (rule.MaxLength is < 0 or > FieldCheck.MaxCharacters) problems.Add(new($"{place}/rule/maxLength", "field-length", $"A limit is 1 to {FieldCheck.MaxCharacters} characters, or 0 for none of its own."));
        if (rule.Pattern.Length > 0 && FieldCheck.RefusePattern(rule.Pattern) is { } reason) problems.Add(new($"{place}/rule/pattern", "field-pattern", reason));
        if (kind == FieldKind.Choice && rule.Choices.IsDefaultOrEmpty) problems.Add(new($"{place}/rule/choices", "field-choices", "A choice needs texts to choose from."));
    }

    [GeneratedRegex("^[a-z][A-Za-z0-9]{0,39}$", RegexOptions.CultureInvariant)]
    private static partial Regex NamePattern();
}
