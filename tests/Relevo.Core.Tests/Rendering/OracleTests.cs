using System.Collections.Immutable;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>
/// A second, naive renderer of the text form: no compiling, no masks, it just looks at each block. The compiled one must say the same for any design and
/// any values.
/// </summary>
public sealed class OracleTests
{
    private static readonly string[] Fields = ["displayName", "title", "department", "organisation", "location", "telephone", "mobile"];

    /// <summary>The field that leads somewhere: its value is an address.</summary>
    private const string Leading = "webAddress";

    [Property(MaxTest = 400)]
    public Property The_compiled_text_is_what_a_naive_renderer_writes() => Prop.ForAll(
        Designs().ToArbitrary(),
        ValueSets().ToArbitrary(),
        (design, values) =>
        {
            var compiled = CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form with { HasTextSeparator = false });
            var rendered = compiled.Render(FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(values), "a@b.example"), Circumstances.Plain).Text.Text();
            var naive = Naive(design, design.Root, values.ToDictionary());
            var expected = string.Concat(naive.Select(line => line + "\n"));
            // Where lines are broken is tested by itself.
            if (naive.Exists(line => line.Length > 72)) (expected, rendered) = (OneSpace(expected), OneSpace(rendered));
            Assert.Equal(expected, rendered);
        });

    [Fact]
    public void More_patterns_of_values_than_are_kept_still_render_right_and_from_many_threads()
    {
        var design = Build.Design(["l"], ("l", new TextLine(TextRole.Text, "+", [.. Enumerable.Range(0, 9).Select(index => new Part([new FieldRun(FieldCatalogue.Standard.Fields[index].Name)]))])));
        var compiled = CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form);
        Parallel.For(0, 2048, pattern =>
        {
            var bits = pattern % 512;
            var facts = Enumerable.Range(0, 9).Where(index => (bits & (1 << index)) != 0).Select(index => (FieldCatalogue.Standard.Fields[index].Name, $"v{index}")).ToArray();
            var text = compiled.Render(FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(facts), ""), Circumstances.Plain).Text.Text();
            Assert.Equal(facts.Length == 0 ? "" : $"-- \n{string.Join('+', facts.Select(fact => fact.Item2))}\n", text);
        });
    }

    [Property(MaxTest = 300)]
    public void Broken_lines_hold_the_same_words_and_are_short_where_they_can_be(string[]? words)
    {
        var clean = (words ?? []).Select(FieldValue.OneLine).SelectMany(word => word.Split(' ', StringSplitOptions.RemoveEmptyEntries)).Where(word => word.All(character => !char.IsSurrogate(character) && !char.IsWhiteSpace(character))).ToArray();
        var text = Build.Render(Build.Design(["a"], ("a", Build.Line("title"))), ("title", string.Join(' ', clean))).Text.Text();
        var lines = text.Split('\n', StringSplitOptions.RemoveEmptyEntries).Skip(1).ToArray();
        Assert.Equal(clean, lines.SelectMany(line => line.Split(' ')));
        Assert.All(lines, line => Assert.True(line.EnumerateRunes().Count() <= 72 || !line.Contains(' ', StringComparison.Ordinal), line));
    }

    /// <summary>A look at the ends of lines, many at once, finds the same as reading line by line.</summary>
    [Property(MaxTest = 500)]
    public void Whether_a_line_may_be_too_long_is_found_at_once(byte[]? lengths)
    {
        var lines = (lengths ?? []).Select(length => new string('x', length % 76)).ToArray();
        foreach (var end in new[] { "", "\n" })
        {
            var text = System.Text.Encoding.UTF8.GetBytes(string.Join('\n', lines) + end);
            Assert.Equal(lines.Any(line => line.Length > LineBreaking.MaxCharacters), LineBreaking.IsNeeded(text));
        }
    }

    private static List<string> Naive(DesignDocument design, ImmutableArray<string> keys, IReadOnlyDictionary<string, string> values)
    {
        var blocks = keys.Select(key => design.Blocks[key]).ToList();
        var written = new List<string>();
        var contents = blocks.Select(block => IsSpacer(block) || !Holds(block, values) ? [] : Content(design, block, values)).ToList();
        var segmentHasContent = false;
        var spacersShow = false;
        var spaced = true;
        for (var index = 0; index < blocks.Count; index++)
        {
            if (!IsSpacer(blocks[index]))
            {
                written.AddRange(contents[index]);
                segmentHasContent |= contents[index].Count > 0;
                continue;
            }

            if (index == 0 || !IsSpacer(blocks[index - 1]))
            {
                // A run of spacers that none of its conditions lets show leaves what stood before it to the next run.
                spacersShow = segmentHasContent;
                spaced = false;
            }

            spaced |= Holds(blocks[index], values);
            if (index + 1 == blocks.Count || !IsSpacer(blocks[index + 1])) segmentHasContent &= !spaced;
            if (Holds(blocks[index], values) && spacersShow && contents.Skip(index + 1).Any(content => content.Count > 0)) written.Add(blocks[index] is Gap ? "" : "------------------------");
        }

        return written;
    }

    private static bool Holds(Block block, IReadOnlyDictionary<string, string> values) => block.When.All(condition => condition switch
    {
        FieldCondition { Test: FieldTest.Present } asked => values.ContainsKey(asked.Field),
        FieldCondition { Test: FieldTest.Absent } asked => !values.ContainsKey(asked.Field),
        FieldCondition asked => asked.Values.Contains(values.GetValueOrDefault(asked.Field, "").ToUpperInvariant()) == (asked.Test == FieldTest.OneOf),
        OccasionIs occasion => occasion.Occasions.Contains(Occasion.New),
        _ => false,
    });

    private static string OneSpace(string text) => string.Join(' ', text.Split([' ', '\n'], StringSplitOptions.RemoveEmptyEntries));

    private static bool IsSpacer(Block block) => block is Gap or Divider;

    private static List<string> Content(DesignDocument design, Block block, IReadOnlyDictionary<string, string> values) => block switch
    {
        TextLine line => line.Parts.Select(part => part.Runs.Where(run => run is FieldRun or { LinkField.Length: > 0 }).All(run => Said(run, values).Length == 0) ? "" : string.Concat(part.Runs.Select(run => Said(run, values)))).Where(text => text.Length > 0).ToList() is { Count: > 0 } parts
            ? [string.Join(line.Separator, parts)]
            : [],
        ContactList { Arrangement: ContactArrangement.Stacked } list => [.. Items(list, values)],
        ContactList list => Items(list, values).ToList() is { Count: > 0 } items ? [string.Join(list.Separator, items)] : [],
        LinkRow row => [.. row.Items.Select(item => Link(item, values)).Where(line => line.Length > 0)],
        Button button => Link(button.Item, values) is { Length: > 0 } line ? [line] : [],
        Columns columns => [.. columns.Children.SelectMany(children => Naive(design, children, values))],
        _ => [],
    };

    private static string Said(Run run, IReadOnlyDictionary<string, string> values)
    {
        if (run is LiteralRun literal) return (literal.LinkField, literal.LinkAddress) switch
        {
            ("", "") => literal.Text,
            ("", var address) => $"{literal.Text} <{address}>",
            var (field, _) => literal.Text.Length > 0 && values.TryGetValue(field, out var link) ? $"{literal.Text} <{link}>" : "",
        };
        var shown = (FieldRun)run;
        var value = Value(shown, values);
        if (value.Length == 0) return "";
        var written = shown.Case switch { LetterCase.Capitals => value.ToUpperInvariant(), LetterCase.Small => value.ToLowerInvariant(), _ => value };
        return (shown.Label.Length > 0 ? shown.Label + " " : "") + written + (values.TryGetValue(shown.LinkField, out var target) ? $" <{target}>" : "");
    }

    private static string Value(FieldRun run, IReadOnlyDictionary<string, string> values) => values.GetValueOrDefault(run.Field, values.GetValueOrDefault(run.Fallback, ""));

    private static string Link(LinkItem item, IReadOnlyDictionary<string, string> values) => (item.Field, values.GetValueOrDefault(item.Field, "")) switch
    {
        ("", _) => $"{item.Label}: {item.Address}",
        (_, "") => "",
        var (_, value) => $"{(item.Label.Length > 0 ? item.Label : "Web address")}: {value}",
    };

    private static IEnumerable<string> Items(ContactList list, IReadOnlyDictionary<string, string> values) =>
        list.Items.Where(item => values.ContainsKey(item.Field)).Select(item => item.Label.Length > 0 ? $"{item.Label} {values[item.Field]}" : values[item.Field]);

    /// <summary>Every part has a field: what a part of literal text alone does is tested by itself.</summary>
    private static Gen<DesignDocument> Designs()
    {
        var field = Gen.Elements(Fields);
        var part = Gen.ListOf(field, 2).SelectMany(fields => Gen.Elements("", "at ", " ~").Select(literal =>
            new Part([new LiteralRun(literal) { LinkField = literal == " ~" ? Leading : "", LinkAddress = literal == "at " ? "https://book.example/a" : "" }, .. fields.Select((name, index) => (Run)new FieldRun(name, index == 0 ? "" : Fields[(Array.IndexOf(Fields, name) + 3) % Fields.Length])
            {
                Case = (LetterCase)(Array.IndexOf(Fields, name) % 3), Label = name == "location" ? "in" : "", LinkField = name == "department" ? Leading : "",
            })])));
        var line = Gen.ListOf(part, 2).Select(parts => (Block)new TextLine(TextRole.Text, ", ", [.. parts]));
        var contact = Gen.ListOf(field, 2).SelectMany(fields => Gen.Elements(ContactArrangement.Stacked, ContactArrangement.Inline).Select(arrangement =>
            (Block)new ContactList(TextRole.Text, arrangement, " | ", [.. fields.Select(name => new ContactItem(name == "mobile" ? "" : name[..1], name))])));
        var link = Gen.Elements(new LinkItem("", Leading, ""), new LinkItem("See", Leading, ""), new LinkItem("Book", "", "https://book.example/a?b=1"));
        var links = Gen.ListOf(link, 2).Select(items => (Block)new LinkRow(TextRole.Text, " | ", [.. items]));
        var leaf = Gen.OneOf(line, contact, links, link.Select(item => (Block)new Button(item)), Gen.Constant<Block>(new Divider()), Gen.Constant<Block>(new Gap(4)), Gen.Constant<Block>(new Picture(Build.Logo, 4, 4, "x", "")));
        var condition = field.SelectMany(name => Gen.Elements<BlockCondition>(
            new FieldCondition(name, FieldTest.Present, []), new FieldCondition(name, FieldTest.Absent, []), new FieldCondition(name, FieldTest.OneOf, [$"{name} Ä".ToUpperInvariant()]),
            new FieldCondition(name, FieldTest.NoneOf, ["X", $"{name} Ä".ToUpperInvariant()]), new OccasionIs([Occasion.New]), new OccasionIs([Occasion.Reply])));
        var conditional = leaf.SelectMany(block => Gen.Frequency((3, Gen.Constant(block)), (1, condition.Select(one => block with { When = [one] }))));
        return Gen.ListOf(conditional, 9).SelectMany(leaves => Gen.Choose(0, 8).SelectMany(at => Gen.Choose(0, 4).Select(inColumns => Assemble([.. leaves], at, inColumns))));
    }

    /// <summary>Puts some of the leaves into two columns in the middle of the rest.</summary>
    private static DesignDocument Assemble(Block[] leaves, int at, int inColumns)
    {
        var keyed = leaves.Select((block, index) => (Key: $"b{index}", Block: block)).ToArray();
        var inner = keyed.Skip(at).Take(inColumns).Select(pair => pair.Key).ToArray();
        var columns = ("c", (Block)new Columns(8, [[.. inner.Take(inner.Length / 2)], [.. inner.Skip(inner.Length / 2)]]));
        string[] root = [.. keyed.Take(at).Select(pair => pair.Key), "c", .. keyed.Skip(at + inColumns).Select(pair => pair.Key)];
        return Build.Design(root, [.. keyed, columns]);
    }

    private static Gen<(string, string)[]> ValueSets() =>
        Gen.ListOf(Gen.Elements(true, false), Fields.Length + 1).Select(present => Fields.Append(Leading).Zip(present, (field, there) => (field, there)).Where(pair => pair.there)
            .Select(pair => (pair.field, pair.field == Leading ? "https://brackenfold.example/x" : $"{pair.field} ä")).ToArray());
}

internal static class PairExtensions
{
    public static Dictionary<string, string> ToDictionary(this (string Key, string Value)[] pairs) => Enumerable.ToDictionary(pairs, pair => pair.Key, pair => pair.Value);
}
