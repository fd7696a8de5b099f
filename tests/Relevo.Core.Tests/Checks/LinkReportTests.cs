using Relevo.Core.Checks;
using Xunit;

namespace Relevo.Core.Tests.Checks;

public sealed class LinkReportTests
{
    [Theory]
    [InlineData("<a href=\"https://brackenfold.example/a?b=1&amp;c=2\">x</a>", "")]
    [InlineData("<a href=\"mailto:mia@brackenfold.example?subject=x\">x</a>", "")]
    [InlineData("<a href=\"tel:+493023125010\">x</a>", "")]
    [InlineData("<a href=\"https://brackenfold.example\"><img alt=\"Mark\"></a>", "")]
    [InlineData("<a href=\"www.brackenfold.example\">x</a>", "no whole address")]
    [InlineData("<a href=\"javascript:alert(1)\">x</a>", "\"javascript:\"")]
    [InlineData("<a href=\"http://brackenfold.example\">x</a>", "not secured")]
    [InlineData("<a href=\"https://intranet/x\">x</a>", "your own network")]
    [InlineData("<a href=\"mailto:nobody\">x</a>", "no mail address")]
    [InlineData("<a href=\"tel:030123\">x</a>", "country code")]
    [InlineData("<a href=\"https://brackenfold.example\"><img alt=\"\"></a>", "no words")]
    public void Each_link_is_looked_at_for_its_form(string html, string trouble)
    {
        var line = Assert.Single(LinkReport.Of(html));
        if (trouble.Length == 0) Assert.Equal("", line.Trouble);
        else Assert.Contains(trouble, line.Trouble, StringComparison.Ordinal);
    }
}
