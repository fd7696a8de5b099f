using AngleSharp.Html.Parser;
using FsCheck;
using FsCheck.Xunit;
using Relevo.Core.Checks;
using Relevo.Core.Designs;
using Xunit;

namespace Relevo.Core.Tests.Designs;

/// <summary>HTML of one's own: what is left of it, and what is said about the rest.</summary>
public sealed class MarkupCleaningTests
{
    [Theory]
    [InlineData("<script>alert(1)</script>", "\"script\"")]
    [InlineData("<b onclick='alert(1)'>x</b>", "\"onclick\" of \"b\": mail runs nothing")]
    [InlineData("<a href='javascript:alert(1)'>x</a>", "The address of a link")]
    [InlineData("<a href='JaVa&#x0A;Script:alert(1)'>x</a>", "The address of a link")]
    [InlineData("<a href='/about'>x</a>", "The address of a link")]
    [InlineData("<form action='https://brackenfold.example'><input></form>", "\"form\"")]
    [InlineData("<style>td { color: red }</style>", "\"style\"")]
    [InlineData("<iframe src='https://brackenfold.example'></iframe>", "\"iframe\"")]
    [InlineData("<img src='https://brackenfold.example/x.png'>", "\"img\"")]
    [InlineData("<svg><a href='javascript:alert(1)'>x</a></svg>", "\"svg\"")]
    [InlineData("<p style='position:fixed'>x</p>", "The style \"position\" of \"p\"")]
    [InlineData("<p style='background-image:url(https://brackenfold.example/x.png)'>x</p>", "The style \"background-image\" of \"p\"")]
    [InlineData("<p style='width:expression(alert(1))'>x</p>", "The style \"width\" of \"p\"")]
    [InlineData("<!-- hidden --><p class='x'>x</p>", "\"class\" of \"p\"")]
    public void What_could_run_or_fetch_or_is_not_had_in_common_is_taken_out_and_said_so(string markup, string words)
    {
        var clean = MarkupCleaning.Clean(markup);
        Assert.Contains(clean.Removed, sentence => sentence.Contains(words, StringComparison.Ordinal));
        var left = string.Concat(clean.Pieces.Select(piece => piece.Html));
        foreach (var gone in new[] { "script", "onclick", "expression", "url(", "alert", "brackenfold", "position", "class", "<!--" }) Assert.DoesNotContain(gone, left, StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>A large family of mail programs drops a whole style for one colour it cannot read (npm caniemail), so each is written as #rrggbb.</summary>
    [Theory]
    [InlineData("color:rgb(31 107 82)", "color: #1f6b52")]
    [InlineData("color:teal", "color: #008080")]
    [InlineData("background-color:rgba(0,0,0,.5)", "background-color: #808080")]
    [InlineData("border:1px solid #0af", "border: 1px solid #00aaff")]
    [InlineData("border-top:2px dashed red", "border-top: 2px dashed #ff0000")]
    [InlineData("text-decoration:none", "text-decoration: none")]
    public void Styles_are_written_in_the_forms_that_every_program_reads(string given, string written)
    {
        var clean = MarkupCleaning.Clean($"<p style=\"{given}\">x</p>");
        Assert.Equal($"<p style=\"{written}\">x</p>", string.Concat(clean.Pieces.Select(piece => piece.Html)));
        Assert.Equal([], clean.Removed.ToArray());
        Assert.Equal([written.Split(':')[0]], clean.Properties.ToArray());
    }

    [Fact]
    public void What_mail_programs_have_in_common_stays_as_it_was()
    {
        var clean = MarkupCleaning.Clean("<table cellpadding=\"0\"><tr><td align=\"left\" style=\"color: #1f6b52; padding: 4px\"><a href=\"https://brackenfold.example/a?b=1&amp;c=2\">Söhne &amp; <b>Co</b></a><br>second</td></tr></table>");
        Assert.Equal([], clean.Removed.ToArray());
        Assert.Equal("<table cellpadding=\"0\"><tbody><tr><td align=\"left\" style=\"color: #1f6b52; padding: 4px\"><a href=\"https://brackenfold.example/a?b=1&amp;c=2\">S&#246;hne &amp; <b>Co</b></a><br>second</td></tr></tbody></table>", string.Concat(clean.Pieces.Select(piece => piece.Html)));
    }

    [Fact]
    public void A_field_in_braces_is_the_persons_value_escaped_where_it_stands()
    {
        var design = Build.Design(["h"], ("h", new OwnMarkup { Markup = "<p>Call <b>{telephone}</b></p><p>or {title} {not a field}</p>" }));
        var rendered = Build.Render(design, ("telephone", "+49 30 23125 010"), ("title", "<script>alert(1)</script>"));
        Assert.Contains("<p>Call <b>+49 30 23125 010</b></p><p>or &lt;script&gt;alert(1)&lt;/script&gt; {not a field}</p>", rendered.Html.Text(), StringComparison.Ordinal);
        Assert.Equal("-- \nCall +49 30 23125 010\nor <script>alert(1)</script> {not a field}\n", rendered.Text.Text());
        Assert.Equal("", Build.Render(design, ("displayName", "Mia")).Html.Text()); // none of its fields has a value
        Assert.Contains(DesignCheck.Check(Build.Design(["h"], ("h", new OwnMarkup { Markup = "{shoeSize}" })), Core.People.FieldCatalogue.Standard, new HashSet<string>()), problem => problem is { Code: "field-unknown", Pointer: "/blocks/h/markup" });
    }

    [Fact]
    public void Its_lines_are_read_as_text_with_links_written_out()
    {
        var design = Build.Design(["h"], ("h", new OwnMarkup { Markup = "<div>One<br>two</div><table><tr><td>a</td><td>b</td></tr></table><ul><li>x</li></ul><a href='https://brackenfold.example/visit'>Visit</a> <a href='https://brackenfold.example'>brackenfold.example</a>" }));
        Assert.Equal("-- \nOne\ntwo\na b\nx\nVisit https://brackenfold.example/visit brackenfold.example\n", Build.Render(design, ("displayName", "Mia")).Text.Text());
    }

    [Theory]
    [InlineData("<b>", 200_000)]
    [InlineData("<b>", 1001)]
    [InlineData("x", 20_001)]
    public void What_is_too_large_is_refused_without_being_read(string piece, int times)
    {
        var own = new OwnMarkup { Markup = string.Concat(Enumerable.Repeat(piece, times)) };
        Assert.Equal(CleanMarkup.Nothing, own.Clean);
        Assert.Contains(DesignCheck.Check(Build.Design(["h"], ("h", own)), Core.People.FieldCatalogue.Standard, new HashSet<string>()), problem => problem.Code == "markup-size");
    }

    [Theory]
    [InlineData("<b>")]
    [InlineData("<table><td>")]
    [InlineData("<p><x y='1' style='position:fixed'>")]
    [InlineData("<a href='x'>")]
    public void What_goes_as_deep_as_it_may_is_read(string piece)
    {
        var clean = MarkupCleaning.Clean(string.Concat(Enumerable.Repeat(piece, MarkupCleaning.MaxTags / piece.Count(unit => unit == '<'))) + "end");
        Assert.True(clean.Pieces.Length > 0 || clean.Removed.Length > 0);
    }

    [Fact]
    public void What_was_taken_out_is_found_at_its_block()
    {
        var design = Build.Design(["h"], ("h", new OwnMarkup { Markup = "<p onclick='x'>y</p>" }));
        Assert.Contains(DesignFindings.Of(design), finding => finding is { Code: "markup-removed", Block: "h" } && finding.Message.Contains("\"onclick\"", StringComparison.Ordinal));
    }

    [Fact]
    public void It_goes_through_json_as_it_was_given()
    {
        var design = Build.Design(["h"], ("h", new OwnMarkup { Markup = "<p onclick='x'>y</p>" }));
        var read = DesignDocument.Restore(design.ToJson()).Document!;
        Assert.Equal(design.Blocks["h"], read.Blocks["h"]);
        Assert.Equal(design.ToJson(), read.ToJson());
    }

    /// <summary>Whatever comes in, an HTML parser that is not ours reads out of the result nothing but what is allowed.</summary>
    [Property(MaxTest = 300)]
    public void Nothing_that_runs_is_ever_left(NonNull<string> noise, int seed)
    {
        string[] bits = ["<script>", "</script>", "<b ", "onload=", "'", "\"", ">", "<", "javascript:", "<a href=", "<svg>", "<math>", "<style>", "</style>", "<!--", "-->", "<![CDATA[", "&#x3c;", "<table>", "<td>", "<template>", "<noscript>", "<p style='x:url(", "\0", "/", noise.Get];
        var random = new Random(seed);
        var markup = string.Concat(Enumerable.Range(0, 30).Select(_ => bits[random.Next(bits.Length)]));
        var left = string.Concat(MarkupCleaning.Clean(markup).Pieces.Select(piece => piece.Html));
        foreach (var element in new HtmlParser().ParseDocument($"<body>{left}").Body!.QuerySelectorAll("*"))
        {
            Assert.DoesNotContain(element.LocalName, new[] { "script", "style", "iframe", "svg", "math", "template", "form", "img", "object" });
            Assert.All(element.Attributes, attribute => Assert.False(attribute.Name.StartsWith("on", StringComparison.OrdinalIgnoreCase) || attribute.Value.Contains("url(", StringComparison.OrdinalIgnoreCase)));
            Assert.DoesNotContain("javascript:", element.GetAttribute("href") ?? "", StringComparison.OrdinalIgnoreCase);
        }
    }
}
