using FsCheck.Xunit;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Xunit;

namespace Relevo.Core.Tests.Designs;

/// <summary>Ready-made texts with fields and the subject they suggest.</summary>
public sealed class ReadyAnswerTests
{
    private static readonly FieldCatalogue Fields = FieldCatalogue.Standard;

    [Fact]
    public void Fields_are_filled_in_and_a_line_whose_fields_are_all_empty_goes_without_a_trace()
    {
        var answer = new ReadyAnswer("Confirmed", "Visit at {organisation}", "Hello,\n\nit is in our book.\n\nRing {telephone} or {mobile}\nOut of hours: {mobile}\n\n{fax}\n\nUntil then {nobody knows} {}");
        var written = Write(answer, ("organisation", "Söhne & Co"), ("telephone", "+44 20 7946 0001"));
        Assert.Equal("Visit at Söhne & Co", written.Subject);
        Assert.Equal("Hello,\n\nit is in our book.\n\nRing +44 20 7946 0001 or\n\nUntil then {nobody knows} {}\n", written.Text);
        Assert.Equal("<p>Hello,</p><p>it is in our book.</p><p>Ring <a href=\"tel:+442079460001\">+44 20 7946 0001</a> or</p><p>Until then {nobody knows} {}</p>", written.Html);
        Assert.Equal(["organisation", "telephone", "mobile", "fax"], answer.Fields);
    }

    [Fact]
    public void Values_are_escaped_and_lines_of_a_paragraph_stay_together() =>
        Assert.Equal("<p>&lt;b&gt; &amp; &quot;x&quot;<br>second</p>", Write(new ReadyAnswer("a", "", "{title}\nsecond"), ("title", "<b> & \"x\"")).Html);

    [Fact]
    public void A_web_address_is_written_whole_in_text_and_leads_there_in_HTML()
    {
        var written = Write(new ReadyAnswer("a", "", "See {webAddress}."), ("webAddress", "https://brackenfold.example/a?b=1&c=2"));
        Assert.Equal("See https://brackenfold.example/a?b=1&c=2.\n", written.Text);
        Assert.Equal("<p>See <a href=\"https://brackenfold.example/a?b=1&amp;c=2\">brackenfold.example/a?b=1&amp;c=2</a>.</p>", written.Html);
    }

    [Theory]
    [InlineData("", "s", "t", "/name name-length")]
    [InlineData("a", "s\n", "t", "/subject text-length")]
    [InlineData("a", "", " ", "/text text-length")]
    [InlineData("a", "", "x\u0007", "/text text-control")]
    [InlineData("a", "{shoeSize}", "x", "/subject field-unknown")]
    [InlineData("a", "", "{portrait}", "/text field-picture")]
    public void What_is_wrong_is_named_with_its_place(string name, string subject, string text, string expected)
    {
        var problem = Assert.Single(new ReadyAnswer(name, subject, text).Check(Fields));
        Assert.Equal(expected, $"{problem.Pointer} {problem.Code}");
    }

    /// <summary>Whatever stands in it and in the values: no two empty lines, none at the ends, and the values as they are.</summary>
    [Property(MaxTest = 300)]
    public void A_written_answer_has_no_gap_where_something_was_left_out(bool[]? shape, string? title)
    {
        var value = FieldValue.OneLine(title);
        var text = string.Join('\n', (shape ?? []).Select((isField, index) => isField ? "{title}" : index % 3 == 0 ? "" : "words"));
        var lines = Write(new ReadyAnswer("a", "", text), ("title", value)).Text.Split('\n');
        Assert.Equal("", lines[^1]);
        Assert.DoesNotContain(lines.SkipLast(1).Zip(lines.Skip(1).SkipLast(1)), pair => pair.First.Length == 0 && pair.Second.Length == 0);
        Assert.True(lines.Length == 1 || lines[0].Length > 0);
        if (value is not ("" or "words")) Assert.Equal((shape ?? []).Count(isField => isField), lines.Count(line => line == value));
    }

    private static WrittenAnswer Write(ReadyAnswer answer, params (string, string)[] facts) => answer.Write(Fields, FieldResolution.Resolve(Fields, Build.Facts([.. facts.Where(fact => fact.Item2.Length > 0)]), ""));
}
