using System.Text;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>
/// The renderer copies blocks of eight and sixteen characters where it can, so every length around those, and a special character at every
/// place in it, is held against the plain wording of the HTML Standard, "Escaping a string", and the framework's UTF-8.
/// </summary>
public sealed class EscapingTests
{
    private const int Longest = 70;

    [Theory]
    [InlineData("&")]
    [InlineData("<")]
    [InlineData(">")]
    [InlineData("\"")]
    [InlineData("'")]
    [InlineData("\u00A0")]
    [InlineData("ß")]
    [InlineData("Ā")]
    [InlineData("汉")]
    [InlineData("\U0001F431")]
    [InlineData("\uD83D")]
    public void A_character_at_any_place_in_text_of_any_length_is_written_as_the_standard_says(string character)
    {
        for (var length = 1; length <= Longest; length++)
        {
            for (var place = 0; place < length; place++)
            {
                var text = Letters(place) + character + Letters(length - place - 1);
                Assert.Equal(Between(Standard(text, inAttribute: false)), Written(text));
            }
        }
    }

    [Fact]
    public void A_link_in_an_attribute_is_escaped_for_the_attribute()
    {
        for (var length = 1; length <= Longest; length++)
        {
            var value = new FieldValue("here", $"https://{Letters(length)}.example/?a=1&b=\"2\"");
            var written = Render(value, Linked);
            Assert.Contains($"href=\"{Standard(value.Link, inAttribute: true)}\"", written, StringComparison.Ordinal);
        }
    }

    [Property(MaxTest = 500)]
    public Property Any_mixture_is_written_as_the_standard_says_in_HTML_and_as_it_is_in_text() => Prop.ForAll(
        Gen.Elements("a", "b", "Maren ", "long plain words ", "&", "<", "\"", "\u00A0", "ß", "ü", "Ā", "汉", "\U0001F431", "\uD83D", "\uDC31", "~", "\u00FF", "\u07FF", "\u0800").ListOf().Select(string.Concat).Where(text => text.Length > 0).ToArbitrary(),
        text =>
        {
            Assert.Equal(Between(Standard(text, inAttribute: false)), Written(text));
            var lines = Compile(Marked).RenderText(Values(new FieldValue(text, "")), Circumstances.Plain).Text().Split('\n');
            Assert.Equal(Between(Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text))).Replace(" ", "", StringComparison.Ordinal), string.Concat(lines).Replace(" ", "", StringComparison.Ordinal)); // lines break at spaces
            Assert.Contains($"href=\"{Standard("https://a.example/" + text, inAttribute: true)}\"", Render(new FieldValue("here", "https://a.example/" + text), Linked), StringComparison.Ordinal);
        });

    [Fact]
    public void Without_anything_special_each_length_is_itself()
    {
        for (var length = 1; length <= Longest; length++) Assert.Equal(Between(Letters(length)), Written(Letters(length)));
    }

    private static string Between(string text) => $"[{text}]";

    private static string Letters(int count) => string.Concat(Enumerable.Range(0, count).Select(index => (char)('a' + (index % 26))));

    private static TextLine Marked { get; } = new(TextRole.Text, "", [new Part([new LiteralRun("[")]), new Part([new FieldRun("webAddress")]), new Part([new LiteralRun("]")])]);

    private static ContactList Linked { get; } = new(TextRole.Text, ContactArrangement.Stacked, "", [new ContactItem("W", "webAddress")]);

    private static string Written(string text)
    {
        var html = Render(new FieldValue(text, ""), Marked);
        return html[html.IndexOf('[', StringComparison.Ordinal)..(html.IndexOf(']', StringComparison.Ordinal) + 1)];
    }

    private static string Render(FieldValue value, Block block) => Compile(block).Render(Values(value), Circumstances.Plain).Html.Text();

    private static CompiledDesign Compile(Block block) => CompiledDesign.Compile(Build.Design(["a"], ("a", block)), FieldCatalogue.Standard, Build.Form with { HasTextSeparator = false });

    private static FieldValue[] Values(FieldValue value)
    {
        var values = new FieldValue[FieldCatalogue.Standard.Fields.Length];
        Array.Fill(values, FieldValue.None);
        Assert.True(FieldCatalogue.Standard.TryFind("webAddress", out var index));
        values[index] = value;
        return values;
    }

    private static string Standard(string text, bool inAttribute)
    {
        var escaped = text.Replace("&", "&amp;", StringComparison.Ordinal).Replace("\u00A0", "&nbsp;", StringComparison.Ordinal)
            .Replace("<", "&lt;", StringComparison.Ordinal).Replace(">", "&gt;", StringComparison.Ordinal);
        if (inAttribute) escaped = escaped.Replace("\"", "&quot;", StringComparison.Ordinal);
        return Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(escaped));
    }
}
