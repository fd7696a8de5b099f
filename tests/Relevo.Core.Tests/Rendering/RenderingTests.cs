using System.Buffers;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>HTML is read back with AngleSharp, an HTML5 parser that is not ours, in its strict mode, which throws on any parse error.</summary>
public sealed class RenderingTests
{
    private const string Hostile = "<script>alert(1)</script> & Söhne \"x\"";

    private static readonly (string, string)[] Everything =
    [
        ("displayName", "Dr Maren Holtkamp"), ("postNominals", "Dipl. ECVS"), ("title", "Leitende Chirurgin"), ("department", "Kleintierklinik Berlin"),
        ("telephone", "+49 30 23125 118"), ("mobile", "+49 30 23125 904"), ("webAddress", "https://brackenfold.example/berlin"), ("organisation", "Brackenfold Tiermedizin GmbH"), ("location", "Berlin"),
    ];

    /// <summary>Ten thousand characters of everything: right-to-left text, combining marks, emoji, control characters, line breaks, markup.</summary>
    [Fact]
    public void A_value_of_ten_thousand_awkward_characters_is_one_line_of_text_and_nothing_else()
    {
        var awkward = string.Concat(Enumerable.Repeat("שלום \u202Eabc e\u0301\u0327 👩‍🔬 \u0007\r\n<b onclick=x>&\"' ", 250));
        var rendered = Build.Render(Build.Full(), ("displayName", awkward), ("title", "Vet"));
        var page = Parse(rendered.Html.Text());
        Assert.Empty(page.QuerySelectorAll("b, [onclick]"));
        Assert.Contains(FieldValue.OneLine(awkward), page.Body!.TextContent, StringComparison.Ordinal);
        Assert.DoesNotContain(rendered.Text.Text(), character => char.IsControl(character) && character != '\n');
    }

    [Fact]
    public void Every_value_of_a_full_person_is_in_the_HTML_and_in_the_text()
    {
        var rendered = Build.Render(Build.Full(), Everything);
        var read = Parse(rendered.Html.Text()).Body!.TextContent;
        Assert.Contains("Dr Maren Holtkamp, Dipl. ECVS", read, StringComparison.Ordinal);
        Assert.Contains("Leitende Chirurgin, Kleintierklinik Berlin", read, StringComparison.Ordinal);
        Assert.Equal("""
            -- 
            Dr Maren Holtkamp, Dipl. ECVS
            Leitende Chirurgin, Kleintierklinik Berlin

            T +49 30 23125 118
            M +49 30 23125 904
            W https://brackenfold.example/berlin
            ------------------------
            Brackenfold Tiermedizin GmbH, Berlin

            """.ReplaceLineEndings("\n"), rendered.Text.Text());
    }

    [Fact]
    public void A_theme_gives_more_or_less_room_and_what_is_measured_follows()
    {
        var design = Build.Design(
            ["c", "d", "g", "z"], ("c", new Columns(16, [["p"], ["a"]])), ("p", new Picture(Build.Logo, 40, 40, "Mark", "")), ("a", Build.Line("displayName")), ("d", new Divider()), ("g", new Gap(7)), ("z", Build.Line("title")));
        var wide = design with { Theme = design.Theme with { Spacing = 150 } };
        (string, string)[] facts = [("displayName", "Mia"), ("title", "Vet")];
        var (plain, roomy) = (Build.Render(design, facts).Html.Text(), Build.Render(wide, facts).Html.Text());
        Assert.Equal(
            plain.Replace("0 0 0 16px", "0 0 0 24px", StringComparison.Ordinal).Replace("padding:6px 0 0 0", "padding:9px 0 0 0", StringComparison.Ordinal).Replace("padding:0 0 5px 0", "padding:0 0 8px 0", StringComparison.Ordinal)
                .Replace("height=\"7\"", "height=\"11\"", StringComparison.Ordinal).Replace("font-size:7px;line-height:7px", "font-size:11px;line-height:11px", StringComparison.Ordinal),
            roomy);
        double Width(DesignDocument of) => SignatureMeasure.Of(of, FieldCatalogue.Standard).Measure(FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(facts), ""), Circumstances.Plain).Width;
        Assert.Equal(8, Width(wide) - Width(design), 3);
        Assert.Equal(Build.Render(design, facts).Text.Text(), Build.Render(wide, facts).Text.Text());
        Assert.Equal("spacing-range", Assert.Single(DesignCheck.CheckTheme("x", design.Theme with { Spacing = 20 })).Code);
    }

    [Fact]
    public void A_field_has_its_case_its_label_and_its_link_and_all_of_it_goes_with_the_value()
    {
        var line = new TextLine(TextRole.Text, " | ",
        [
            new Part([new FieldRun("displayName") { Case = LetterCase.Names }]), new Part([new FieldRun("title") { Case = LetterCase.Capitals, Label = "as" }]),
            new Part([new FieldRun("mobile") { LinkField = "mobile" }]), new Part([new FieldRun("webAddress") { LinkField = "webAddress" }]),
        ]);
        var full = Build.Render(Build.Design(["a"], ("a", line)), ("displayName", "MAREN VAN DER MCKAY"), ("title", "Ärztin"), ("mobile", "+44 20 7946 0001"), ("webAddress", "https://brackenfold.example/berlin"));
        Assert.Equal("-- \nMaren van der McKay | as ÄRZTIN | +44 20 7946 0001 |\nhttps://brackenfold.example/berlin\n", full.Text.Text());
        Assert.Equal(["tel:+442079460001", "https://brackenfold.example/berlin"], Parse(full.Html.Text()).QuerySelectorAll("a").Select(link => link.GetAttribute("href")!));
        Assert.Equal("-- \nMia\n", Build.Render(Build.Design(["a"], ("a", line)), ("displayName", "Mia")).Text.Text());
    }

    [Fact]
    public void Words_that_lead_to_a_field_go_where_it_leads_nowhere_and_to_an_address_they_always_stand()
    {
        var design = Build.Design(["a"], ("a", new TextLine(TextRole.Text, ", ", [new Part([new LiteralRun("Book a visit") { LinkField = "webAddress" }]), new Part([new LiteralRun("Our clinics") { LinkAddress = "https://brackenfold.example/clinics?a=1&b=2" }])])));
        var there = Build.Render(design, ("webAddress", "https://brackenfold.example/book"));
        Assert.Equal("-- \nBook a visit <https://brackenfold.example/book>, Our clinics\n<https://brackenfold.example/clinics?a=1&b=2>\n", there.Text.Text());
        Assert.Equal(["https://brackenfold.example/book", "https://brackenfold.example/clinics?a=1&b=2"], Parse(there.Html.Text()).QuerySelectorAll("a").Select(link => link.GetAttribute("href")!));
        // A line whose only field is gone is gone, as with any other field.
        Assert.Equal("", Build.Render(design, ("title", "Vet")).Text.Text());
    }

    /// <summary>For an editor alone: mail never says which block a row is of.</summary>
    [Fact]
    public void An_editor_is_told_which_texts_can_be_typed_over_and_mail_is_not()
    {
        var design = Build.Design(
            ["t", "c", "l", "b"],
            ("t", new TextLine(TextRole.Text, "", [new Part([new LiteralRun("Dr "), new FieldRun("displayName"), new FieldRun("title") { Label = "as" }])])),
            ("c", new ContactList(TextRole.Text, ContactArrangement.Stacked, "", [new("", "fax"), new("M", "mobile")])),
            ("l", new LinkRow(TextRole.Text, " ", [new("Our clinics", "", "https://brackenfold.example/clinics"), new("", "webAddress", "")])),
            ("b", new Button(new LinkItem("Book", "", "https://brackenfold.example/book")))) with
        { Languages = Build.Languages(("de", "Book", "Termin")) };
        (string, string)[] facts = [("displayName", "Mia"), ("title", "Vet"), ("mobile", "1"), ("webAddress", "https://brackenfold.example/a")];
        var values = FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(facts), "");
        var marked = Parse(CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form with { MarksBlocks = true }).Render(values, Circumstances.Plain).Html.Text());
        Assert.Equal(
            [("t", "0.0", "Dr "), ("t", "0.2", "as"), ("c", "1", "M"), ("l", "0", "Our clinics")],
            marked.QuerySelectorAll("[data-text]").Select(text => (text.Closest("[data-block]")!.GetAttribute("data-block")!, text.GetAttribute("data-text")!, text.TextContent)));
        var plain = Build.Render(design, facts).Html.Text();
        Assert.DoesNotContain("data-", plain, StringComparison.Ordinal);
        Assert.Equal(Parse(plain).Body!.TextContent, marked.Body!.TextContent);
    }

    [Fact]
    public void A_person_without_a_mobile_shows_no_trace_of_it()
    {
        var without = Everything.Where(pair => pair.Item1 != "mobile").ToArray();
        var rendered = Build.Render(Build.Full(), without);
        var page = Parse(rendered.Html.Text());
        Assert.Equal(["tel:+493023125118", "https://brackenfold.example/berlin"], page.QuerySelectorAll("td a[style]").Select(link => link.GetAttribute("href")));
        Assert.DoesNotContain("M ", page.Body!.TextContent, StringComparison.Ordinal);
        Assert.DoesNotContain("M ", rendered.Text.Text(), StringComparison.Ordinal);
        AssertNothingIsEmpty(page);
    }

    [Fact]
    public void A_hostile_name_reads_as_exactly_itself_as_text_and_in_an_attribute()
    {
        var design = Build.Design(["p", "n"], ("p", new Picture(Build.Logo, 10, 10, Hostile, "")), ("n", Build.Line("displayName")));
        var rendered = Build.Render(design, ("displayName", Hostile));
        var page = Parse(rendered.Html.Text());
        Assert.Empty(page.QuerySelectorAll("script"));
        Assert.Equal(Hostile, page.QuerySelectorAll("td")[1].TextContent);
        Assert.Equal(Hostile, page.QuerySelector("img")!.GetAttribute("alt"));
        Assert.Equal($"-- \n{Hostile}\n", rendered.Text.Text());
    }

    [Theory]
    [InlineData("\" onmouseover=\"alert(1)", null)]
    [InlineData("https://brackenfold.example/?a=1&b=\"2\"", "https://brackenfold.example/?a=1&b=%222%22")]
    [InlineData("data:text/html,hello", null)]
    public void A_web_address_becomes_a_link_only_when_it_is_one(string stored, string? link)
    {
        var page = Parse(Build.Render(Build.Short(), ("displayName", "Mia"), ("webAddress", stored)).Html.Text());
        Assert.Equal(link, page.QuerySelector("a")?.GetAttribute("href"));
        Assert.Empty(page.QuerySelectorAll("[onmouseover]"));
    }

    [Fact]
    public void The_text_form_begins_with_the_signature_separator_of_RFC_3676()
    {
        // RFC 3676 section 4.3: "-- " followed by a line break, the space included.
        Assert.StartsWith("-- \n", Build.Render(Build.Short(), Everything).Text.Text(), StringComparison.Ordinal);
        var without = CompiledDesign.Compile(Build.Short(), FieldCatalogue.Standard, Build.Form with { HasTextSeparator = false });
        Assert.StartsWith("Dr Maren", without.Render(FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(Everything), "a@b.example"), Circumstances.Plain).Text.Text(), StringComparison.Ordinal);
    }

    [Fact]
    public void Long_text_lines_break_at_spaces_and_a_long_word_stays_whole()
    {
        var word = new string('x', 100);
        var text = Build.Render(Build.Design(["a"], ("a", Build.Line("title"))), ("title", $"{string.Join(' ', Enumerable.Repeat("Tierärztin", 12))} {word} end")).Text.Text();
        var lines = text.Split('\n', StringSplitOptions.RemoveEmptyEntries);
        Assert.All(lines.Where(line => line != word), line => Assert.InRange(line.Length, 1, 72));
        Assert.Contains(word, lines);
    }

    [Fact]
    public void Dividers_and_gaps_go_with_what_they_part()
    {
        var design = Build.Design(
            ["a", "g1", "d1", "g2", "b", "d2", "c"],
            ("a", Build.Line("title")), ("g1", new Gap(4)), ("d1", new Divider()), ("g2", new Gap(4)), ("b", Build.Line("department")), ("d2", new Divider()), ("c", Build.Line("location")));
        Assert.Equal(2, Dividers(design, ("title", "A"), ("department", "B"), ("location", "C")));
        Assert.Equal(1, Dividers(design, ("title", "A"), ("location", "C")));
        Assert.Equal(1, Dividers(design, ("department", "B"), ("location", "C")));
        Assert.Equal(0, Dividers(design, ("department", "B")));
        Assert.Equal("", Build.Render(design).Html.Text());
        Assert.Equal("", Build.Render(design).Text.Text());
    }

    [Fact]
    public void A_picture_between_two_dividers_leaves_one_in_the_text_form()
    {
        var design = Build.Design(
            ["a", "d1", "p", "d2", "b"],
            ("a", Build.Line("title")), ("d1", new Divider()), ("p", new Picture(Build.Logo, 4, 4, "x", "")), ("d2", new Divider()), ("b", Build.Line("department")));
        Assert.Equal("-- \nA\n------------------------\nB\n", Build.Render(design, ("title", "A"), ("department", "B")).Text.Text());
    }

    [Fact]
    public void A_collapsed_column_gives_its_room_away()
    {
        var design = Build.Design(["c"], ("c", new Columns(16, [["a"], ["b"]])), ("a", Build.Line("title")), ("b", Build.Line("department")));
        Assert.DoesNotContain("16px", Build.Render(design, ("department", "B")).Html.Text(), StringComparison.Ordinal);
        Assert.Contains("0 0 0 16px", Build.Render(design, ("title", "A"), ("department", "B")).Html.Text(), StringComparison.Ordinal);
    }

    [Theory]
    [MemberData(nameof(Starters))]
    public void Every_starter_is_whole_on_a_full_person_and_leaves_nothing_empty_on_one_with_a_name_alone(string key)
    {
        var design = Starter.All.Single(starter => starter.Key == key).Open("x", new StarterLogo(Build.Logo, 64, 64, "Brackenfold", ""));
        var full = Build.Render(design, Everything);
        var page = Parse(full.Html.Text());
        AssertNothingIsEmpty(page);
        Assert.Contains("Maren Holtkamp", page.Body!.TextContent, StringComparison.Ordinal);
        Assert.Contains("+49 30 23125 118", full.Text.Text(), StringComparison.Ordinal);
        var bare = Build.Render(design, ("displayName", "Mia"));
        AssertNothingIsEmpty(Parse(bare.Html.Text()));
        // The account's own address is there for everybody, whatever a directory says.
        Assert.Equal("Mia", bare.Text.Text().Replace("-- \n", "", StringComparison.Ordinal).Replace("mia@brackenfold.example\n", "", StringComparison.Ordinal).Trim());
    }

    /// <summary>The keys of the starters.</summary>
    public static TheoryData<string> Starters => [.. Starter.All.Select(starter => starter.Key)];

    [Fact]
    public void Marks_stand_round_what_they_mark_and_never_round_nothing()
    {
        var part = new Part([new FieldRun("title") { IsBold = true, IsItalic = true }, new LiteralRun(" of "), new FieldRun("department") { Role = TextRole.Small }]);
        var design = Build.Design(["a"], ("a", new TextLine(TextRole.Text, ", ", [part])));
        var page = Parse(Build.Render(design, ("title", "Vet"), ("department", "Surgery")).Html.Text());
        Assert.Equal(("Vet", "Vet", "Vet of Surgery"), (page.QuerySelector("b i")!.TextContent, page.QuerySelector("b")!.TextContent, page.Body!.TextContent));
        Assert.Contains("font-size:11px", page.QuerySelector("span")!.GetAttribute("style"), StringComparison.Ordinal);
        page = Parse(Build.Render(design, ("department", "Surgery")).Html.Text());
        Assert.Empty(page.QuerySelectorAll("b, i"));
        Assert.Equal("-- \nVet of \n", Build.Render(design, ("title", "Vet")).Text.Text());
    }

    [Fact]
    public void A_field_without_a_value_gives_way_to_its_fallback()
    {
        var design = Build.Design(["a"], ("a", new TextLine(TextRole.Text, ", ", [new Part([new LiteralRun("at "), new FieldRun("department", "organisation")])])));
        Assert.Equal("-- \nat A\n", Build.Render(design, ("department", "A"), ("organisation", "B")).Text.Text());
        Assert.Equal("-- \nat B\n", Build.Render(design, ("organisation", "B")).Text.Text());
        Assert.Equal("", Build.Render(design, ("title", "C")).Text.Text());
        Assert.Equal("at B", Parse(Build.Render(design, ("organisation", "B")).Html.Text()).Body!.TextContent);
    }

    [Fact]
    public void Links_whose_field_leads_nowhere_disappear_and_the_others_have_one_separator()
    {
        var design = Build.Design(["a"], ("a", new LinkRow(TextRole.Soft, " | ", [new("", "webAddress", ""), new("Write <to> us", "mail", ""), new("Book", "", "https://book.example/?a=1&b=2")])));
        var page = Parse(Build.Render(design, ("webAddress", "no address")).Html.Text());
        Assert.Equal("Write <to> us | Book", page.Body!.TextContent);
        Assert.Equal(["mailto:mia@brackenfold.example", "https://book.example/?a=1&b=2"], page.QuerySelectorAll("a").Select(link => link.GetAttribute("href")));
        Assert.Equal("-- \nWeb address: https://x.example/\nWrite <to> us: mia@brackenfold.example\nBook: https://book.example/?a=1&b=2\n", Build.Render(design, ("webAddress", "https://x.example/")).Text.Text());
    }

    [Theory]
    [InlineData("#1f6b52", "#ffffff")]
    [InlineData("#f2d16b", "#000000")]
    public void A_button_is_a_cell_in_the_colour_of_names_with_text_that_stands_out(string ground, string text)
    {
        var design = Build.Design(["b"], ("b", new Button(new LinkItem("Book a visit", "webAddress", ""))));
        design = design with { Theme = design.Theme with { Colours = design.Theme.Colours with { Name = ground } } };
        var link = Parse(Build.Render(design, ("webAddress", "https://book.example/")).Html.Text()).QuerySelector("a")!;
        Assert.Equal(("Book a visit", "https://book.example/"), (link.TextContent, link.GetAttribute("href")));
        Assert.Equal(ground, link.ParentElement!.GetAttribute("bgcolor"));
        Assert.Contains($"background-color:{ground};", link.ParentElement.GetAttribute("style"), StringComparison.Ordinal);
        Assert.Contains($"color:{text};", link.GetAttribute("style"), StringComparison.Ordinal);
        Assert.Equal("", Build.Render(design, ("webAddress", "nowhere")).Html.Text());
    }

    [Property(MaxTest = 200)]
    public Property Any_values_give_well_formed_HTML_with_all_values_intact_and_the_same_bytes_again() => Prop.ForAll(
        ArbMap.Default.ArbFor<string?[]>(),
        values =>
        {
            var facts = Shown.Zip(values, (field, value) => (field, FieldValue.OneLine(Clean(value)))).Where(pair => pair.Item2.Length > 0).ToArray();
            var rendered = Build.Render(Build.Full(), facts);
            var page = Parse(rendered.Html.Text());
            AssertNothingIsEmpty(page);
            var read = page.Body!.TextContent;
            foreach (var (field, value) in facts) Assert.Contains(field == "webAddress" ? FieldValue.From(value, FieldKind.Web).Text : value, read, StringComparison.Ordinal);
            Assert.Equal(rendered.HtmlSha256, Build.Render(Build.Full(), facts).HtmlSha256);
        });

    /// <summary>Blanks and lines that are too long among them.</summary>
    [Property(MaxTest = 200)]
    public Property HTML_and_text_written_from_one_look_are_what_each_is_by_itself() => Prop.ForAll(
        Gen.Elements("", "Ada", "Jörn & Söhne", "twelve words that come to far more than the seventy-two characters which a line may have", "https://a.example/?a=1&b=2").ArrayOf(9).ToArbitrary(),
        values =>
        {
            var resolved = FieldResolution.Resolve(FieldCatalogue.Standard, new Facts(Shown.Zip(values, KeyValuePair.Create)), "ada@brackenfold.example");
            foreach (var design in new[] { Build.Full(), Build.Short(), Build.Design(["l"], ("l", new TextLine(TextRole.Text, "", [new Part([new FieldRun("webAddress")])]))) })
            {
                var compiled = CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form);
                var (html, text, both) = (new ArrayBufferWriter<byte>(), new ArrayBufferWriter<byte>(), new ArrayBufferWriter<byte>());
                compiled.Html.Render(resolved, Circumstances.Plain, html);
                compiled.RenderText(resolved, Circumstances.Plain, text);
                Assert.Equal(html.WrittenCount, compiled.Render(resolved, Circumstances.Plain, both));
                Assert.Equal([.. html.WrittenSpan, .. text.WrittenSpan], both.WrittenSpan.ToArray());
            }
        });

    [Fact]
    public void Writing_a_signature_allocates_nothing_once_its_pattern_is_known()
    {
        var compiled = CompiledDesign.Compile(Build.Full(), FieldCatalogue.Standard, Build.Form);
        var people = Enumerable.Range(0, 50).Select(number => FieldResolution.Resolve(
            FieldCatalogue.Standard, new Facts(Shown.Select((field, place) => KeyValuePair.Create(field, (number >> (place % 3)) % 2 == 0 ? $"Jörn & Söhne {number}" : ""))), "ada@brackenfold.example")).ToArray();
        var room = new ArrayBufferWriter<byte>(1 << 16);
        Write();
        var before = GC.GetAllocatedBytesForCurrentThread();
        Write();
        Assert.Equal(0, GC.GetAllocatedBytesForCurrentThread() - before);
        Assert.True(room.WrittenCount > 0);

        void Write()
        {
            foreach (var values in people)
            {
                room.ResetWrittenCount();
                compiled.Render(values, Circumstances.Plain, room);
            }
        }
    }

    [Fact]
    public void Unpaired_surrogates_become_the_replacement_character() =>
        Assert.Contains("a\uFFFDb", Build.Render(Build.Short(), ("displayName", "a\uD800b")).Html.Text(), StringComparison.Ordinal);

    private static readonly string[] Shown = ["displayName", "postNominals", "title", "department", "organisation", "location", "telephone", "mobile", "webAddress"];

    /// <summary>Two things a parser changes by the HTML Standard itself, so they cannot be compared: NUL and unpaired surrogates.</summary>
    private static string Clean(string? value) => new((value ?? "").Where(character => !char.IsSurrogate(character)).ToArray());

    private static int Dividers(DesignDocument design, params (string, string)[] values) =>
        Build.Render(design, values).Html.Text().Split("border-top").Length - 1;

    private static void AssertNothingIsEmpty(IDocument page)
    {
        Assert.All(page.QuerySelectorAll("td"), cell => Assert.True(cell.TextContent.Length > 0 || cell.QuerySelector("img") is not null, "an empty cell"));
        Assert.All(page.QuerySelectorAll("tr"), row => Assert.NotEmpty(row.Children));
        Assert.All(page.QuerySelectorAll("img"), image => Assert.True(image.HasAttribute("width") && image.HasAttribute("height") && image.HasAttribute("alt")));
    }

    private static IDocument Parse(string fragment) =>
        new HtmlParser(new HtmlParserOptions { IsStrictMode = true }).ParseDocument($"<!doctype html><html lang=\"en\"><head><title>x</title></head><body>{fragment}</body></html>");
}
