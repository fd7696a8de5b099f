using PhoneNumbers;
using Relevo.Core.People;
using Xunit;

namespace Relevo.Core.Tests.People;

public sealed class TelephoneTests
{
    /// <summary>The library's own example number of every region it knows, written in four ways: at home, abroad, by digits, as a URI.</summary>
    [Fact]
    public void The_example_number_of_every_region_is_understood()
    {
        var library = PhoneNumberUtil.GetInstance();
        var regions = library.GetSupportedRegions().ToArray();
        Assert.True(regions.Length > 200);
        foreach (var region in regions)
        {
            var example = library.GetExampleNumber(region);
            var digits = library.Format(example, PhoneNumberFormat.E164);
            foreach (var typed in new[] { digits, library.Format(example, PhoneNumberFormat.INTERNATIONAL), library.Format(example, PhoneNumberFormat.NATIONAL) })
            {
                Assert.True(Telephone.TryParse(typed, region, out var telephone), $"{region}: {typed}");
                Assert.Equal(digits, telephone!.E164);
                Assert.Equal($"tel:{digits}", telephone.Link);
            }
        }
    }

    /// <summary>ITU-T E.123: international notation has a plus sign, the country's number, and spaces between groups. Examples in ranges set aside for fiction.</summary>
    [Theory]
    [InlineData("+44 20 7946 0958", "", "+44 20 7946 0958", "tel:+442079460958")]
    [InlineData("020 7946 0958", "GB", "+44 20 7946 0958", "tel:+442079460958")]
    [InlineData("(020) 7946-0958", "GB", "+44 20 7946 0958", "tel:+442079460958")]
    [InlineData("+44 (0)20 7946 0958", "", "+44 20 7946 0958", "tel:+442079460958")]
    [InlineData("0044 20 7946 0958", "DE", "+44 20 7946 0958", "tel:+442079460958")]
    [InlineData("+49 30 23125 118", "", "+49 30 23125 118", "tel:+493023125118")]
    [InlineData("030/23125-118", "DE", "+49 30 23125118", "tel:+493023125118")]
    [InlineData("+442079460958 ext. 12", "", "+44 20 7946 0958 ext. 12", "tel:+442079460958;ext=12")]
    [InlineData("020 7946 0958 x12", "gb", "+44 20 7946 0958 ext. 12", "tel:+442079460958;ext=12")]
    public void A_number_is_kept_as_E164_and_shown_internationally(string typed, string region, string shown, string link)
    {
        Assert.True(Telephone.TryParse(typed, region, out var telephone));
        Assert.Equal(shown, telephone!.Show(PhoneDisplay.International, typed, ""));
        Assert.Equal(link, telephone.Link);
    }

    [Theory]
    [InlineData("ask reception", "GB")]
    [InlineData("020 7946 0958", "")] // at home where?
    [InlineData("call 020 7946 0958 after six", "GB")]
    [InlineData("1-800-FLOWERS", "US")] // letters are no number in a signature
    [InlineData("12", "GB")]
    [InlineData("+44 20 7946 0958 4711 0815 9999", "")] // longer than E.164 allows
    [InlineData("", "GB")]
    [InlineData("+", "")]
    public void What_is_not_a_number_is_not_taken_for_one(string typed, string region) => Assert.False(Telephone.TryParse(typed, region, out _));

    [Fact]
    public void Readers_at_home_see_the_home_form_when_the_field_says_so()
    {
        Assert.True(Telephone.TryParse("020 7946 0958", "GB", out var telephone));
        Assert.Equal("020 7946 0958", telephone!.Show(PhoneDisplay.NationalAtHome, "020 7946 0958", "GB"));
        Assert.Equal("+44 20 7946 0958", telephone.Show(PhoneDisplay.NationalAtHome, "020 7946 0958", "DE"));
        Assert.Equal("020/79460958", telephone.Show(PhoneDisplay.AsTyped, "020/79460958", "DE"));
    }
}
