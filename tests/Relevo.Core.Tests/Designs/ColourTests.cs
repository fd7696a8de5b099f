using FsCheck.Xunit;
using Relevo.Core.Designs;
using Xunit;

namespace Relevo.Core.Tests.Designs;

/// <summary>Colours: how they look, and what a picture's colours make of a theme.</summary>
public sealed class ColourTests
{
    /// <summary>CSS Color 4's own examples of one colour in two forms (section 9.4 and the conversions of section 17), rounded there to three or four digits.</summary>
    [Theory]
    [InlineData("#ffffff", 1.0, 0.0, 0.0)]
    [InlineData("#000000", 0.0, 0.0, 0.0)]
    [InlineData("#ff0000", 0.62796, 0.22486, 0.12585)]
    [InlineData("#00ff00", 0.86644, -0.23389, 0.17950)]
    [InlineData("#0000ff", 0.45201, -0.03246, -0.31153)]
    [InlineData("#7d2329", 0.40101, 0.1147, 0.0453)]
    public void Conversions_are_those_of_the_standard(string colour, double lightness, double a, double b)
    {
        var converted = Oklab.From(colour);
        Assert.Equal(lightness, converted.Lightness, 0.001);
        Assert.Equal(a, converted.A, 0.001);
        Assert.Equal(b, converted.B, 0.001);
    }

    [Property]
    public void Every_colour_comes_back(byte red, byte green, byte blue) =>
        Assert.Equal($"#{red:x2}{green:x2}{blue:x2}", Oklab.From(red, green, blue).ToHex());

    [Property]
    public void A_proposal_can_always_be_read(byte[]? channels)
    {
        var picked = (channels ?? []).Chunk(3).Where(three => three.Length == 3).Select((three, index) => new PictureColour(three[0], three[1], three[2], index + 1)).ToArray();
        var proposal = ThemeProposal.From(picked).Colours;
        Assert.True(Contrast.Ratio(proposal.Name, "#ffffff") >= 4.5);
        Assert.True(Contrast.Ratio(proposal.Text, "#ffffff") >= 10);
        Assert.True(Contrast.Ratio(proposal.Soft, "#ffffff") >= 4.5);
        Assert.True(Contrast.Ratio(proposal.Line, "#ffffff") < 2);
    }

    [Fact]
    public void Names_take_the_marks_own_colour_not_its_black_or_white()
    {
        var proposal = ThemeProposal.From([new(255, 255, 255, 5000), new(20, 20, 20, 900), new(180, 30, 40, 700), new(182, 33, 41, 300), new(60, 90, 200, 10)]);
        Assert.InRange(Oklab.From(proposal.Colours.Name).Distance(Oklab.From("#b41f29")), 0, 0.03);
        Assert.Equal("#ffffff", proposal.Palette[0]);
        Assert.Equal(4, proposal.Palette.Length);
    }

    [Fact]
    public void A_light_colour_is_darkened_and_a_picture_without_colour_gives_ink()
    {
        var yellow = Oklab.From(ThemeProposal.From([new(250, 220, 20, 100)]).Colours.Name);
        Assert.True(yellow.Lightness < 0.65 && yellow.B > 0.05);
        Assert.True(Oklab.From(ThemeProposal.From([new(90, 90, 90, 100)]).Colours.Name).Chroma < 0.01);
    }

    [Fact]
    public void Black_text_becomes_white_in_dark_mail() => Assert.Equal("#ffffff", DarkMail.Recolour("#000000"));

    [Property]
    public void Dark_mail_turns_over_what_it_would_swallow_and_makes_nothing_darker(byte red, byte green, byte blue)
    {
        var colour = $"#{red:x2}{green:x2}{blue:x2}";
        var shown = DarkMail.Recolour(colour);
        Assert.True(Contrast.Ratio(shown, DarkMail.Ground) >= Contrast.Ratio(colour, DarkMail.Ground) - 0.01);
        if (Contrast.Ratio(colour, DarkMail.Ground) >= 4.5) Assert.Equal(colour, shown);
    }
}
