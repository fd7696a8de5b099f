using System.Collections.Immutable;
using System.Text.RegularExpressions;
using Relevo.Core.People;
using Relevo.Core.Rules;

namespace Relevo.Core.Designs;

/// <summary>Finds what is wrong with a design, all of it, each with its place. A design without problems can be compiled.</summary>
public static partial class DesignCheck
{
    /// <summary>Blocks in one design; the largest seen in practice have about 30.</summary>
    public const int MaxBlocks = 200;

    /// <summary>Blocks where disclaimers and banners have been put into a design.</summary>
    public const int MaxFurnishedBlocks = 50_000;

    /// <summary>Columns inside columns; deeper tables break word-processor engines (common practice).</summary>
    public const int MaxDepth = 6;

    /// <summary>Different fields in one design; their presence is kept in the bits of one word.</summary>
    public const int MaxFields = 32;

    /// <summary>Conditions and languages in one design; whether each holds is kept in a bit of one word.</summary>
    public const int MaxConditions = 64;

    private const int MaxTextLength = 2000; // characters of one literal; a longer one is not a signature

    /// <summary>Checks the whole document.</summary>
    /// <param name="document">The design.</param>
    /// <param name="catalogue">The fields it may use.</param>
    /// <param name="pictures">SHA-256 of every picture in the library.</param>
    /// <param name="maxBlocks">Blocks at most: more than people may make where disclaimers and banners have been put in.</param>
    public static ImmutableArray<DesignProblem> Check(DesignDocument document, FieldCatalogue catalogue, IReadOnlySet<string> pictures, int maxBlocks = MaxBlocks)
    {
        var problems = new List<DesignProblem>();
        CheckHead(document, problems);
        CheckTree(document, maxBlocks, problems);
        foreach (var (key, block) in document.Blocks) CheckBlock("/blocks/" + DesignDocument.Escape(key), block, catalogue, pictures, problems);
        var fields = document.Blocks.Values.SelectMany(FieldsOf).Distinct().Count();
        if (fields > MaxFields) problems.Add(new("/blocks", "too-many-fields", $"The design uses {fields} fields; at most {MaxFields} are possible."));
        CheckLanguages(document, problems);
        var conditions = document.Blocks.Values.SelectMany(block => block.When).Distinct<BlockCondition>(ReferenceEqualityComparer.Instance).Count() + document.Languages.Count;
        if (conditions > MaxConditions) problems.Add(new("/blocks", "too-many-conditions", $"The design has {conditions} conditions and languages; at most {MaxConditions} are possible."));
        return [.. problems];
    }

    /// <summary>The fields a block uses, in order, with repeats.</summary>
    public static IEnumerable<string> FieldsOf(Block block) => ContentFieldsOf(block).Concat((block.TextForm ?? []).SelectMany(part => part.Runs).SelectMany(run => run.Mentions));

    private static IEnumerable<string> ContentFieldsOf(Block block) => block switch
    {
        TextLine line => line.Parts.SelectMany(part => part.Runs).SelectMany(run => run.Mentions),
        ContactList list => list.Items.Select(item => item.Field),
        LinkRow row => row.Items.Select(item => item.Field).Where(field => field.Length > 0),
        Button { Item.Field.Length: > 0 } button => [button.Item.Field],
        Picture picture => new[] { picture.Field, picture.AltField, picture.LinkField }.Where(field => field.Length > 0),
        OwnMarkup own => own.Clean.Fields,
        _ => [],
    };

    /// <summary>Checks a theme by itself, under the name it is to have.</summary>
    public static ImmutableArray<DesignProblem> CheckTheme(string name, Theme theme)
    {
        var problems = new List<DesignProblem>();
        if (name.Length is 0 or > 100) problems.Add(new("/name", "name-length", "A theme needs a name of 1 to 100 characters."));
        CheckLength("/name", name, problems);
        CheckTheme(theme, problems);
        return [.. problems];
    }

    private static void CheckHead(DesignDocument document, List<DesignProblem> problems)
    {
        if (string.IsNullOrWhiteSpace(document.Name) || document.Name.Length > 100) problems.Add(new("/name", "name-length", "A design needs a name of 1 to 100 characters."));
        CheckLength("/name", document.Name, problems);
        if (document.Set.Length > 100 || (document.Set.Length > 0 && string.IsNullOrWhiteSpace(document.Set))) problems.Add(new("/set", "name-length", "A set's name has 1 to 100 characters."));
        CheckLength("/set", document.Set, problems);
        if (document.Smaller.Length > 100) problems.Add(new("/smaller", "name-length", "The design that stands in is named by at most 100 characters."));
        CheckLength("/smaller", document.Smaller, problems);
        CheckTheme(document.Theme, problems);
    }

    private static void CheckTheme(Theme theme, List<DesignProblem> problems)
    {
        foreach (var (role, colour) in new[] { ("name", theme.Colours.Name), ("text", theme.Colours.Text), ("soft", theme.Colours.Soft), ("line", theme.Colours.Line) })
        {
            if (!ColourPattern().IsMatch(colour)) problems.Add(new($"/theme/colours/{role}", "colour-form", $"\"{colour}\" is not a colour of the form #1d2a33."));
        }

        foreach (var (role, size) in new[] { ("name", theme.Sizes.Name), ("text", theme.Sizes.Text), ("small", theme.Sizes.Small) })
        {
            if (size is < 9 or > 40) problems.Add(new($"/theme/sizes/{role}", "size-range", "A size is from 9 to 40 px."));
        }

        if (theme.LineHeight is < 100 or > 200) problems.Add(new("/theme/lineHeight", "line-height-range", "The line height is from 100 to 200 percent."));
        if (theme.Spacing is < 50 or > 200) problems.Add(new("/theme/spacing", "spacing-range", "The spacing is from 50 to 200 percent."));
        if (!Theme.FontStacks.Contains(theme.FontStack)) problems.Add(new("/theme/fontStack", "font-unknown", "The font stack is not one that mail programs have."));
    }

    private static void CheckLanguages(DesignDocument document, List<DesignProblem> problems)
    {
        foreach (var (language, texts) in document.Languages)
        {
            var place = "/languages/" + DesignDocument.Escape(language);
            if (!LanguagePattern().IsMatch(language)) problems.Add(new(place, "language-form", $"\"{language}\" is not a language such as de or de-AT."));
            foreach (var (text, translated) in texts) CheckLength($"{place}/{DesignDocument.Escape(text)}", translated, problems);
        }
    }

    private static void CheckConditions(string place, Block block, FieldCatalogue catalogue, List<DesignProblem> problems)
    {
        for (var index = 0; index < block.When.Length; index++)
        {
            var here = $"{place}/when/{index}";
            switch (block.When[index])
            {
                case FieldCondition asked:
                    if (catalogue.Find(asked.Field) is null) problems.Add(new(here + "/field", "field-unknown", $"There is no field \"{asked.Field}\"."));
                    if (asked.Test is FieldTest.OneOf or FieldTest.NoneOf && asked.Values.All(string.IsNullOrWhiteSpace)) problems.Add(new(here + "/values", "values-missing", "Say which values are meant."));
                    foreach (var value in asked.Values) CheckLength(here + "/values", value, problems);
                    break;
                case OccasionIs { Occasions.IsEmpty: true }:
                    problems.Add(new(here + "/occasions", "values-missing", "Say which messages are meant."));
                    break;
                case AudienceIs audience when audience.Audiences.IsEmpty || audience.Audiences.Any(key => !RuleCheck.KeyPattern().IsMatch(key)):
                    problems.Add(new(here + "/audiences", "audience-unknown", "Say which audiences are meant, by their keys, such as outside."));
                    break;
            }
        }
    }

    private static void CheckTree(DesignDocument document, int maxBlocks, List<DesignProblem> problems)
    {
        if (document.Blocks.Count > maxBlocks) problems.Add(new("/blocks", "too-many-blocks", $"The design has {document.Blocks.Count} blocks; at most {maxBlocks} are possible."));
        var used = new HashSet<string>(StringComparer.Ordinal);
        var path = new HashSet<string>(StringComparer.Ordinal);
        Walk(document.Root, "/root", 1);
        foreach (var key in document.Blocks.Keys.Where(key => !used.Contains(key)))
            problems.Add(new("/blocks/" + DesignDocument.Escape(key), "block-unused", $"The block \"{key}\" stands nowhere."));

        void Walk(ImmutableArray<string> keys, string place, int depth)
        {
            for (var index = 0; index < keys.Length; index++)
            {
                var here = $"{place}/{index}";
                var key = keys[index];
                if (path.Contains(key)) problems.Add(new(here, "block-cycle", $"The block \"{key}\" contains itself."));
                else if (!document.Blocks.TryGetValue(key, out var block)) problems.Add(new(here, "block-missing", $"There is no block \"{key}\"."));
                else if (!used.Add(key)) problems.Add(new(here, "block-twice", $"The block \"{key}\" stands in two places."));
                else if (depth > MaxDepth) problems.Add(new(here, "too-deep", $"Blocks stand more than {MaxDepth} deep."));
                else if (block is Columns columns)
                {
                    path.Add(key);
                    for (var column = 0; column < columns.Children.Length; column++)
                        Walk(columns.Children[column], $"/blocks/{DesignDocument.Escape(key)}/children/{column}", depth + 1);
                    path.Remove(key);
                }
            }
        }
    }

    private static void CheckBlock(string place, Block block, FieldCatalogue catalogue, IReadOnlySet<string> pictures, List<DesignProblem> problems)
    {
        CheckConditions(place, block, catalogue, problems);
        if (block.TextForm is { } lines) CheckParts(place + "/textForm", lines, catalogue, problems);
        switch (block)
        {
            case TextLine line:
                CheckTextLine(place, line, catalogue, problems);
                break;
            case ContactList list:
                CheckLength(place + "/separator", list.Separator, problems);
                CheckIconSize(place, list.IconSize, problems);
                for (var index = 0; index < list.Items.Length; index++)
                {
                    CheckField($"{place}/items/{index}/field", list.Items[index].Field, catalogue, problems);
                    CheckLength($"{place}/items/{index}/label", list.Items[index].Label, problems);
                }

                break;
            case Picture picture:
                CheckPicture(place, picture, catalogue, pictures, problems);
                break;
            case LinkRow row:
                CheckLength(place + "/separator", row.Separator, problems);
                CheckIconSize(place, row.IconSize, problems);
                for (var index = 0; index < row.Items.Length; index++)
                {
                    CheckLink($"{place}/items/{index}", row.Items[index], catalogue, problems);
                    if (row.Items[index].Icon is { Length: > 0 } icon && !pictures.Contains(icon)) problems.Add(new($"{place}/items/{index}/icon", "picture-missing", $"The picture \"{icon}\" is not in the library."));
                }

                break;
            case Button button:
                CheckLink(place + "/item", button.Item, catalogue, problems);
                break;
            case Gap gap when gap.Height is < 1 or > 100:
                problems.Add(new(place + "/height", "gap-range", "A gap is from 1 to 100 px."));
                break;
            case Columns columns when columns.Space is < 0 or > 100:
                problems.Add(new(place + "/space", "space-range", "The space between columns is from 0 to 100 px."));
                break;
            case Columns columns when columns.Children.Length is < 1 or > 4:
                problems.Add(new(place + "/children", "columns-count", "There are from 1 to 4 columns."));
                break;
            case Columns columns when columns.Widths.Length > columns.Children.Length || columns.Widths.Any(width => width is < 0 or > 800):
                problems.Add(new(place + "/widths", "column-width", "A column is from 1 to 800 px wide, or 0 for as wide as what stands in it."));
                break;
            case OwnMarkup own:
                if (!MarkupCleaning.IsReadable(own.Markup)) problems.Add(new(place + "/markup", "markup-size", $"HTML of your own has at most {MarkupCleaning.MaxLength} characters and {MarkupCleaning.MaxTags} tags."));
                foreach (var field in own.Clean.Fields.Distinct()) CheckField(place + "/markup", field, catalogue, problems);
                break;
            case BannerPlace banners when banners.Most is < 1 or > 3 || banners.Width is < 100 or > 800:
                problems.Add(new(place, "banner-place", "A banner place holds 1 to 3 banners of 100 to 800 px."));
                break;
        }
    }

    private static void CheckTextLine(string place, TextLine line, FieldCatalogue catalogue, List<DesignProblem> problems)
    {
        CheckLength(place + "/separator", line.Separator, problems);
        CheckParts(place + "/parts", line.Parts, catalogue, problems);
    }

    private static void CheckParts(string place, ImmutableArray<Part> parts, FieldCatalogue catalogue, List<DesignProblem> problems)
    {
        for (var part = 0; part < parts.Length; part++)
        {
            for (var run = 0; run < parts[part].Runs.Length; run++)
            {
                var here = $"{place}/{part}/runs/{run}";
                if (parts[part].Runs[run] is FieldRun field) CheckField(here + "/field", field.Field, catalogue, problems);
                if (parts[part].Runs[run] is FieldRun { Fallback.Length: > 0 } second) CheckField(here + "/fallback", second.Fallback, catalogue, problems);
                CheckRunLink(here, parts[part].Runs[run], catalogue, problems);
                if (parts[part].Runs[run] is FieldRun labelled) CheckLength(here + "/label", labelled.Label, problems);
                if (parts[part].Runs[run] is LiteralRun literal) CheckLength(here + "/text", literal.Text, problems);
            }
        }
    }

    private static void CheckRunLink(string place, Run run, FieldCatalogue catalogue, List<DesignProblem> problems)
    {
        if (run.LinkField.Length > 0) CheckLeads(place + "/linkField", run.LinkField, catalogue, problems);
        if (run.LinkField.Length > 0 && run.LinkAddress.Length > 0) problems.Add(new(place + "/linkAddress", "link-twice", "A text leads to a field's link or to an address, not to both."));
        else if (run.LinkAddress.Length > 0 && FieldValue.From(run.LinkAddress, FieldKind.Web).Link.Length == 0) problems.Add(new(place + "/linkAddress", "link-form", "A link is an http or https address, or a field that holds one."));
        CheckLength(place + "/linkAddress", run.LinkAddress, problems);
    }

    private static void CheckIconSize(string place, int size, List<DesignProblem> problems)
    {
        if (size is not 0 and (< 10 or > 48)) problems.Add(new(place + "/iconSize", "icon-size", "An icon is from 10 to 48 px, or 0 for none."));
    }

    private static void CheckPicture(string place, Picture picture, FieldCatalogue catalogue, IReadOnlySet<string> pictures, List<DesignProblem> problems)
    {
        if (picture.Field.Length > 0)
        {
            if (catalogue.Find(picture.Field)?.Kind != FieldKind.Picture) problems.Add(new(place + "/field", "field-no-picture", $"There is no field \"{picture.Field}\" that holds a picture."));
        }
        else if (!pictures.Contains(picture.Sha256)) problems.Add(new(place + "/sha256", "picture-missing", $"The picture \"{picture.Sha256}\" is not in the library."));
        if (picture.Width is < 1 or > 800) problems.Add(new(place + "/width", "picture-size", "A picture is from 1 to 800 px wide."));
        if (picture.Height is < 1 or > 400) problems.Add(new(place + "/height", "picture-size", "A picture is from 1 to 400 px high."));
        if (string.IsNullOrWhiteSpace(picture.AltText)) problems.Add(new(place + "/altText", "alt-missing", "A picture needs a text for those who do not see it."));
        CheckLength(place + "/altText", picture.AltText, problems);
        if (picture.AltField.Length > 0) CheckField(place + "/altField", picture.AltField, catalogue, problems);
        if (picture.LinkField.Length > 0 && catalogue.Find(picture.LinkField)?.Kind != FieldKind.Web) problems.Add(new(place + "/linkField", "field-no-link", $"There is no field \"{picture.LinkField}\" that holds a web address."));
        if (picture.Crop is { IsWithin: false }) problems.Add(new(place + "/crop", "crop-range", "The part that is shown lies within the picture."));
        if (picture.Ground.Length > 0 && !ColourPattern().IsMatch(picture.Ground)) problems.Add(new(place + "/ground", "colour-form", $"\"{picture.Ground}\" is not a colour of the form #1d2a33."));
        if (picture.Link.Length > 0 && FieldValue.From(picture.Link, FieldKind.Web).Link.Length == 0)
            problems.Add(new(place + "/link", "link-form", "A link is an http or https address."));
    }

    private static void CheckLink(string place, LinkItem item, FieldCatalogue catalogue, List<DesignProblem> problems)
    {
        CheckLength(place + "/label", item.Label, problems);
        CheckLength(place + "/address", item.Address, problems);
        if (item.Field.Length == 0)
        {
            if (FieldValue.From(item.Address, FieldKind.Web).Link.Length == 0) problems.Add(new(place + "/address", "link-form", "A link is an http or https address, or a field that holds one."));
            if (string.IsNullOrWhiteSpace(item.Label)) problems.Add(new(place + "/label", "label-missing", "A link to an address needs a text to read."));
        }
        else CheckLeads(place + "/field", item.Field, catalogue, problems);
    }

    private static void CheckLeads(string place, string name, FieldCatalogue catalogue, List<DesignProblem> problems)
    {
        if (catalogue.Find(name) is not { } field) problems.Add(new(place, "field-unknown", $"There is no field \"{name}\"."));
        else if (field.Kind is not (FieldKind.Web or FieldKind.Mail or FieldKind.Phone)) problems.Add(new(place, "field-no-link", $"\"{field.Label}\" leads nowhere; only web addresses, mail addresses and telephone numbers do."));
    }

    private static void CheckField(string place, string field, FieldCatalogue catalogue, List<DesignProblem> problems)
    {
        if (catalogue.Find(field) is not { } known) problems.Add(new(place, "field-unknown", $"There is no field \"{field}\"."));
        else if (known.Kind == FieldKind.Picture) problems.Add(new(place, "field-picture", $"\"{known.Label}\" is a picture and cannot be read as text."));
    }

    private static void CheckLength(string place, string text, List<DesignProblem> problems)
    {
        if (text.Length > MaxTextLength) problems.Add(new(place, "text-length", $"A text has at most {MaxTextLength} characters."));
        if (text.Any(char.IsControl)) problems.Add(new(place, "text-control", "A text stands on one line, without line breaks or control characters."));
    }

    [GeneratedRegex("^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*$", RegexOptions.CultureInvariant)]
    private static partial Regex LanguagePattern();

    [GeneratedRegex("^#[0-9a-fA-F]{6}$", RegexOptions.CultureInvariant)]
    private static partial Regex ColourPattern();
}
