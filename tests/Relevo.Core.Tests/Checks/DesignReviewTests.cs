using FsCheck.Xunit;
using Relevo.Core.Checks;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Checks;

/// <summary>Who is at a design's edges, and what an editor is told to mind.</summary>
public sealed class DesignReviewTests
{
    private static readonly FieldCatalogue Fields = FieldCatalogue.Standard;

    private static ClientKind Mailbox => ClientKind.All.Single(kind => kind.Kind == "browser-mailbox");

    [Fact]
    public void The_longest_is_the_widest_line_and_the_emptiest_has_the_fewest_facts()
    {
        var design = Build.Design(["n", "t", "p"], ("n", Build.Line("displayName")), ("t", Build.Line("title", "department")), ("p", Build.Line("telephone")));
        var review = Review(
            design,
            [("displayName", "Mia Ek"), ("title", "Vet"), ("telephone", "1")],
            [("displayName", "Ann"), ("title", "Head of small animal surgery and orthopaedics"), ("department", "Surgery")],
            [("displayName", "Bo")],
            [("displayName", "Cy")]);
        Assert.Equal((1, 2), (review.Longest!.Value.Place, review.Emptiest!.Value.Place));
        Assert.Equal((1, 2), (review.Longest.Value.Sharing, review.Emptiest.Value.Sharing));
        Assert.Equal((1, 2, 1), (review.Emptiest.Value.Measurement.Facts, review.Emptiest.Value.Measurement.Collapsed, review.Emptiest.Value.Measurement.Lines));
        Assert.Equal(4, review.Accounts);
    }

    [Fact]
    public void Those_who_are_shown_nothing_are_at_no_edge()
    {
        var review = Review(Build.Design(["n"], ("n", Build.Line("title"))), [("displayName", "Mia")], [("title", "Vet")]);
        Assert.Equal((1, 1), (review.Longest!.Value.Place, review.Emptiest!.Value.Place));
        Assert.Null(Review(Build.Design(["n"], ("n", Build.Line("title")))).Longest);
    }

    [Fact]
    public void A_signature_too_wide_or_too_long_is_found_with_the_people_and_the_reason()
    {
        var stack = new ContactList(TextRole.Text, ContactArrangement.Stacked, "", [.. new[] { "givenName", "surname", "department", "location", "street", "postalCode", "country", "title" }.Select(field => new ContactItem("", field))]);
        var everything = stack.Items.Select(item => (item.Field, "x")).ToArray();
        var review = Review(Build.Design(["s"], ("s", stack)), everything, [("title", new string('W', 60))], [("title", "Vet")]);
        Assert.Equal(1, Find(review, "too-many-lines").People);
        Assert.Equal([1], Find(review, "too-wide").First);
        Assert.Contains("up to 737 px", Find(review, "too-wide").Message, StringComparison.Ordinal); // 60 x 944/1000 em of 13 px
        Assert.Equal(1, Find(review, "text-too-long").People);
        Assert.Equal("Most have no street: 2 of 3.", review.Findings.Single(finding => finding.Message.Contains("street", StringComparison.Ordinal)).Message);
    }

    [Fact]
    public void A_field_only_few_have_and_the_senders_own_address_are_said_with_their_block()
    {
        var review = Review(Build.Design(["a", "b"], ("a", Build.Line("displayName")), ("b", Build.Line("mail"))), [("displayName", "Mia")]);
        Assert.Equal("b", Find(review, "own-address").Block);
        Assert.DoesNotContain(review.Findings, finding => finding.Code == "mostly-lacking" && finding.Block == "a");
    }

    [Fact]
    public void Those_whose_signature_a_client_kind_does_not_hold_are_counted_with_the_most_it_has()
    {
        var design = Build.Design(["n", "t"], ("n", Build.Line("displayName")), ("t", Build.Line("title")));
        (string, string)[] Titled(int length) => [("displayName", "Mia"), ("title", new string('ä', length))];
        // "Mia", its line's end, the title and its line's end.
        var review = Review(design, Titled(495), Titled(496), Titled(9700));
        var text = Find(review, "client-text");
        Assert.Equal((2, "A pocket app holds 500 characters of plain text, and this has up to 9,705: give blocks a shorter form in text, or leave some out."), (text.People, text.Message));
        Assert.Equal([1, 2], text.First);
        var html = Find(review, "client-html");
        Assert.Equal([2], html.First);
        Assert.StartsWith("A browser mailbox holds 10,000 characters of HTML", html.Message, StringComparison.Ordinal);
    }

    /// <summary>A picture by its whole address is longer than one beside the file, and that can be what is too much.</summary>
    [Fact]
    public void The_length_of_linked_pictures_counts()
    {
        var design = Build.Design(["n", "p"], ("n", Build.Line("title")), ("p", new Picture(Build.Logo, 9, 9, "x", "")));
        var linked = CompiledDesign.Compile(design, Fields, Mailbox.FormUnder("https://signatures.brackenfold.example"));
        var files = CompiledDesign.Compile(design, Fields, ClientKind.DeskApp.Form);
        int Characters(CompiledDesign compiled, int length) => compiled.CountHtmlCharacters(Values([("title", new string('x', length))]), Circumstances.Plain);
        var least = 10_001 - Characters(linked, 1) + 1;
        Assert.True(Characters(files, least) <= 10_000);
        Assert.Equal(1, Find(Review(design, [("title", new string('x', least))]), "client-html").People);
        Assert.DoesNotContain(Review(design, [("title", new string('x', least - 1))]).Findings, finding => finding.Code == "client-html");
    }

    [Fact]
    public void A_style_of_ones_own_that_some_pass_over_is_said_with_its_block()
    {
        var review = Review(Build.Design(["o"], ("o", new OwnMarkup { Markup = "<p style=\"white-space:nowrap;color:#112233\">Hello</p>" })), [("displayName", "Mia")]);
        var finding = Find(review, "client-drops");
        Assert.Equal("o", finding.Block);
        Assert.Contains("\"white-space\" is passed over", finding.Message, StringComparison.Ordinal);
        Assert.Contains("desk app", finding.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("Georgia, serif", "Arial", false)]
    [InlineData("Georgia, serif", "'Courier New', monospace", true)]
    public void More_than_two_font_families_are_said(string one, string other, bool isFound)
    {
        var design = Build.Design(["o"], ("o", new OwnMarkup { Markup = $"<p style=\"font-family:{one}\">a</p><p style=\"color:red;font-family:{other}\">b</p>" }));
        Assert.Equal(isFound, DesignFindings.Of(design).Any(finding => finding.Code == "fonts-many"));
    }

    [Theory]
    [InlineData("", false)]
    [InlineData("Short", false)]
    [InlineData("Shorter", true)]
    [InlineData("Full", true)]
    public void A_design_that_is_to_stand_in_and_is_not_there_is_told(string smaller, bool isFound) =>
        Assert.Equal(isFound, DesignFindings.Among(Build.Full() with { Smaller = smaller }, [Build.Full(), Build.Short()]).Any(finding => finding.Code == "smaller-gone"));

    /// <summary>Lines counted from lengths alone are the lines that are written.</summary>
    [Property(MaxTest = 200)]
    public void Lines_of_text_are_counted_as_they_are_written(string[]? words, bool isLong)
    {
        var title = FieldValue.OneLine(string.Join(' ', words ?? []) + (isLong ? new string('w', 30) + " " + new string('w', 30) : ""));
        var compiled = CompiledDesign.Compile(Build.Full(), Fields, Build.Form);
        var values = Values([("displayName", "Mia"), ("title", title), ("webAddress", "https://x.example/ä")]);
        var written = compiled.Render(values, Circumstances.Plain).Text.Text();
        var (lines, characters) = compiled.CountText(values, Circumstances.Plain, new System.Buffers.ArrayBufferWriter<byte>());
        Assert.Equal(written.Split('\n').Length - 2, lines);
        Assert.InRange(written.EnumerateRunes().Count(), 0, characters);
        Assert.Equal(written.EnumerateRunes().Count(), compiled.CountTextCharacters(values, Circumstances.Plain));
    }

    [Fact]
    public void Pictures_that_say_it_all_are_said()
    {
        var review = Review(Build.Design(["p"], ("p", new Picture(Build.Logo, 10, 10, "All our words", ""))), [("displayName", "Mia")]);
        Assert.Equal(1, Find(review, "pictures-only").People);
    }

    /// <summary>Ratios as computed from WCAG 2.2's formula: #767676 is the lightest grey that passes on white, at 4.54 to 1.</summary>
    [Theory]
    [InlineData("#767676", false)]
    [InlineData("#777777", true)]
    public void Text_that_is_hard_to_read_is_said(string colour, bool isFound)
    {
        var design = Build.Full();
        design = design with { Theme = design.Theme with { Colours = design.Theme.Colours with { Text = colour } } };
        Assert.Equal(isFound, DesignFindings.Of(design).Any(finding => finding.Code == "contrast-light"));
    }

    [Fact]
    public void The_plain_theme_can_be_read_in_light_and_in_dark_mail() =>
        Assert.DoesNotContain(DesignFindings.Of(Build.Full()), finding => finding.Code.StartsWith("contrast", StringComparison.Ordinal));

    /// <summary>WCAG 2.2 success criterion 1.4.11 wants 3 to 1 of signs; pictures keep their colours in dark mail.</summary>
    [Theory]
    [InlineData(0, "#23343c", false)]
    [InlineData(16, "#23343c", true)]
    [InlineData(16, "#7a8a92", false)]
    public void Icons_that_dark_mail_swallows_are_said(int size, string colour, bool isFound)
    {
        var design = Build.Design(["c"], ("c", new ContactList(TextRole.Text, ContactArrangement.Stacked, "", [new("", "telephone")]) { IconSize = size }));
        design = design with { Theme = design.Theme with { Colours = design.Theme.Colours with { Text = colour } } };
        Assert.Equal(isFound, DesignFindings.Of(design).Any(finding => finding.Code == "icons-dark" && finding.Block == "c"));
    }

    [Fact]
    public void A_link_to_a_front_page_and_an_unused_translation_are_said()
    {
        var design = Build.Design(["l"], ("l", new LinkRow(TextRole.Text, " ", [new("Films", "", "https://films.example"), new("Ours", "", "https://films.example/@brackenfold")]))) with { Languages = Build.Languages(("de", "Fotos", "Bilder")) };
        Assert.Equal(["front-page", "translation-unused"], DesignFindings.Of(design).Select(finding => finding.Code));
    }

    /// <summary>However the accounts are cut up among cores, the outcome is that of looking at one after the other.</summary>
    [Property(MaxTest = 60)]
    public void Many_accounts_give_what_one_after_the_other_would(byte[]? lengths)
    {
        var people = (lengths ?? []).Select(length => new[] { ("displayName", new string('n', 1 + (length % 7))), ("title", new string('t', length % 3)) }).ToArray();
        var design = Build.Design(["n", "t"], ("n", Build.Line("displayName")), ("t", Build.Line("title")));
        var review = Review(design, people);
        var measure = SignatureMeasure.Of(design, Fields);
        var all = people.Select(person => measure.Measure(Values(person), Circumstances.Plain)).ToArray();
        Assert.Equal(all.Select(one => Math.Round(one.Width)).DefaultIfEmpty(-1).Max(), Math.Round(review.Longest?.Measurement.Width ?? -1));
        Assert.Equal(all.Select(one => one.Facts).DefaultIfEmpty(-1).Min(), review.Emptiest?.Measurement.Facts ?? -1);
        Assert.Equal(all.Count(one => one.Facts == review.Emptiest?.Measurement.Facts), review.Emptiest?.Sharing ?? 0);
    }

    /// <summary>A width that does not matter may be given too wide, never too narrow, and one that does is exact.</summary>
    [Property(MaxTest = 200)]
    public void A_width_below_the_limit_is_no_less_than_it_is(string? name, byte limit)
    {
        var measure = SignatureMeasure.Of(Build.Full(), Fields);
        var values = Values([("displayName", FieldValue.OneLine(name)), ("title", "Vet"), ("telephone", "+44 20 7946 0001")]);
        var exact = measure.Measure(values, Circumstances.Plain);
        var bounded = measure.Measure(values, Circumstances.Plain, exactFrom: limit * 4);
        Assert.Equal(exact with { Width = 0 }, bounded with { Width = 0 });
        Assert.True(bounded.Width == exact.Width || (bounded.Width >= exact.Width && bounded.Width < limit * 4));
    }

    /// <summary>The count of bytes is that of the bytes.</summary>
    [Property(MaxTest = 100)]
    public void The_heaviest_html_is_as_heavy_as_it_is_rendered(string[]? names)
    {
        var people = (names ?? []).Select(name => new[] { ("displayName", FieldValue.OneLine(name)), ("webAddress", "https://x.example/?a=" + Uri.EscapeDataString(name ?? "") + "&b"), ("title", "\"<&>\u00A0ä") }).ToArray();
        var compiled = CompiledDesign.Compile(Build.Full(), Fields, Build.Form);
        var rendered = people.Select(person => compiled.Render(Values(person), Circumstances.Plain).Html.Length);
        Assert.Equal(rendered.DefaultIfEmpty(0).Max(), Review(Build.Full(), people).MostHtmlBytes);
    }

    private static Finding Find(DesignReview review, string code) => Assert.Single(review.Findings, finding => finding.Code == code);

    private static FieldValue[] Values((string, string)[] facts) => FieldResolution.Resolve(Fields, Build.Facts([.. facts.Where(fact => fact.Item2.Length > 0)]), "a@b.example");

    private static DesignReview Review(DesignDocument design, params (string, string)[][] people)
    {
        var values = people.Select(Values).ToArray();
        var forms = ClientKind.All.Select(kind => new HeldForm(kind, CompiledDesign.Compile(design, Fields, kind.FormUnder("https://signatures.brackenfold.example"))));
        return DesignReview.Of(design, Fields, CompiledDesign.Compile(design, Fields, Build.Form), [.. forms], values.Length, place => values[place]);
    }
}
