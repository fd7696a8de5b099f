using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>How wide text is and how much room a signature takes.</summary>
public sealed class MeasureTests
{
    /// <summary>Widths in thousandths of the size from Adobe's Core 14 metrics of Helvetica and Helvetica-Bold, which Arial was made to match.</summary>
    [Theory]
    [InlineData(" ", 278, 278)]
    [InlineData("A", 667, 722)]
    [InlineData("W", 944, 944)]
    [InlineData("i", 222, 278)]
    [InlineData("m", 833, 889)]
    [InlineData("0", 556, 556)]
    [InlineData("@", 1015, 975)]
    [InlineData("ß", 611, 611)]
    [InlineData("Å", 667, 722)]
    public void Letters_are_as_wide_as_published(string letter, int regular, int bold)
    {
        Assert.Equal(regular, Thousandths("Arial, Helvetica, sans-serif", isBold: false, letter));
        Assert.Equal(bold, Thousandths("Arial, Helvetica, sans-serif", isBold: true, letter));
    }

    /// <summary>Adobe's Core 14 metrics of Times-Roman and Times-Bold.</summary>
    [Theory]
    [InlineData("A", 722, 722)]
    [InlineData("i", 278, 278)]
    [InlineData("m", 778, 833)]
    [InlineData("W", 944, 1000)]
    public void So_are_those_of_the_serif_family(string letter, int regular, int bold)
    {
        Assert.Equal(regular, Thousandths("'Times New Roman', Times, serif", isBold: false, letter));
        Assert.Equal(bold, Thousandths("'Times New Roman', Times, serif", isBold: true, letter));
    }

    [Fact]
    public void Every_font_stack_has_metrics_and_marks_and_joiners_take_no_room()
    {
        foreach (var stack in Theme.FontStacks) Assert.True(FontMetrics.Of(stack, isBold: false).Measure("Relevo") > 0);
        var arial = FontMetrics.Of(Theme.FontStacks[0], isBold: false);
        Assert.Equal(arial.Measure("e"), arial.Measure("e\u0301\u200D"));
    }

    [Fact]
    public void Columns_add_up_and_an_empty_one_takes_nothing()
    {
        var design = Build.Design(["c"], ("c", new Columns(16, [["p"], ["t"]])), ("p", new Picture("", 96, 57, "x", "") { Field = "portrait" }), ("t", Build.Line("title")));
        var text = 8 * FontMetrics.Of(design.Theme.FontStack, isBold: false).Measure("W") * 13 / 2048.0;
        Assert.Equal(96 + 16 + text, Measure(design, ("title", "WWWWWWWW"), ("portrait", Build.Logo)).Width, 6);
        Assert.Equal(3, Measure(design, ("portrait", Build.Logo)).Lines); // 57 px at 18.85 px a line
        Assert.Equal((text, 1, 1), (Measure(design, ("title", "WWWWWWWW")).Width, Measure(design, ("title", "WWWWWWWW")).Lines, Measure(design, ("title", "WWWWWWWW")).Collapsed));
    }

    [Fact]
    public void A_fallback_and_a_translation_are_measured_as_they_are_shown()
    {
        var design = Build.Design(["a"], ("a", new TextLine(TextRole.Text, "", [new Part([new LiteralRun("i"), new FieldRun("title", "department")])]))) with { Languages = Build.Languages(("de", "i", "WW")) };
        var w = FontMetrics.Of(design.Theme.FontStack, isBold: false).Measure("W") * 13 / 2048.0;
        var i = FontMetrics.Of(design.Theme.FontStack, isBold: false).Measure("i") * 13 / 2048.0;
        Assert.Equal(i + w, Measure(design, ("department", "W")).Width, 6);
        Assert.Equal(i + (2 * w), Measure(design, ("title", "WW"), ("department", "W")).Width, 6);
        Assert.Equal(3 * w, Measure(design, ("title", "W"), ("language", "de")).Width, 6);
    }

    /// <summary>RFC 2045 section 6.8: four characters for three bytes, lines of 76 and a line break of two after each.</summary>
    [Theory]
    [InlineData(0, 0)]
    [InlineData(1, 6)]
    [InlineData(57, 78)]
    [InlineData(58, 84)]
    [InlineData(5700, 7800)]
    public void Embedded_pictures_weigh_what_base64_makes_of_them(int bytes, int expected)
    {
        Assert.Equal(expected, Weight.Base64(bytes));
        // The same count from the framework's own encoder, which leaves out the last line's break.
        var lines = Convert.ToBase64String(new byte[bytes], Base64FormattingOptions.InsertLineBreaks);
        Assert.Equal(lines.Length + (lines.Length > 0 ? 2 : 0), Weight.Base64(bytes));
    }

    private static int Thousandths(string stack, bool isBold, string letter) => (int)Math.Round(FontMetrics.Of(stack, isBold).Measure(letter) * 1000 / 2048.0);

    private static Measurement Measure(DesignDocument design, params (string, string)[] facts) =>
        SignatureMeasure.Of(design, FieldCatalogue.Standard).Measure(FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(facts), ""), Circumstances.Plain);
}
