using System.Collections.Immutable;
using System.Text.Json;
using NodaTime;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.Particulars;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Designs;

public sealed class FurnishingTests
{
    private static readonly Disclaimer Notice = new("Notice", DisclaimerLanguage.Person, "en", Texts(("en", "For **you** alone, says {displayName}.\nRead [more](https://brackenfold.example/more)."), ("de", "Nur für Sie.")));
    private static readonly Banner Ticks = new("Ticks", BannerLayout.Stacked, "Ticks are about.", "We check.", "Book", "https://brackenfold.example/ticks");
    private static readonly DesignDocument Bare = Build.Design(["a"], ("a", Build.Line("displayName")));

    [Fact]
    public void A_disclaimer_stands_at_the_end_set_apart_by_a_line_where_a_design_has_no_place_for_it()
    {
        var rendered = Render(Furnish(Bare, Notice.Texts["en"]));
        Assert.Equal("-- \nMia\n------------------------\nFor you alone, says Mia.\nRead more <https://brackenfold.example/more>.\n", rendered.Text.Text());
        Assert.Contains("For <b>you</b> alone, says Mia.", rendered.Html.Text(), StringComparison.Ordinal);
        Assert.Contains("<a href=\"https://brackenfold.example/more\"", rendered.Html.Text(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(NoticeStyle.Line, "-- \nMia\n------------------------\nHello\n")]
    [InlineData(NoticeStyle.Room, "-- \nMia\n\nHello\n")]
    [InlineData(NoticeStyle.Plain, "-- \nMia\nHello\n")]
    public void The_theme_says_how_it_is_set_apart(NoticeStyle style, string text) =>
        Assert.Equal(text, Render(Furnish(Bare with { Theme = Bare.Theme with { Notice = style } }, new DisclaimerText("Hello"))).Text.Text());

    [Fact]
    public void It_stands_in_its_place_inside_columns_under_the_places_conditions()
    {
        var design = Build.Design(["c"], ("c", new Columns(8, [["a", "n"], ["b"]])), ("a", Build.Line("displayName")), ("b", Build.Line("title")), ("n", new NoticePlace(TextRole.Small) { When = [new OccasionIs([Occasion.New])] }));
        var furnished = Furnish(design, new DisclaimerText("Hello"));
        Assert.Equal("-- \nMia\n------------------------\nHello\nVet\n", Render(furnished).Text.Text());
        Assert.DoesNotContain("Hello", Program(furnished).Render(Values, new Circumstances(Occasion.Reply, Audiences.Outside)).Text.Text(), StringComparison.Ordinal);
    }

    [Fact]
    public void A_line_whose_fields_are_all_empty_disappears_and_a_plain_form_stands_for_all_of_it_in_text()
    {
        Assert.Equal("-- \nMia\n", Render(Furnish(Bare, new DisclaimerText("Room {street}"))).Text.Text());
        var rendered = Render(Furnish(Bare, new DisclaimerText("First\nSecond", "In short, {displayName}")));
        Assert.EndsWith("---\nIn short, Mia\n", rendered.Text.Text(), StringComparison.Ordinal);
        Assert.Contains("First", rendered.Html.Text(), StringComparison.Ordinal);
        Assert.DoesNotContain("In short", rendered.Html.Text(), StringComparison.Ordinal);
    }

    [Fact]
    public void A_design_that_shows_as_many_fields_as_it_can_takes_a_disclaimer_with_more()
    {
        var names = FieldCatalogue.Standard.Fields.Where(field => field.Kind != FieldKind.Picture && field.Name != "displayName").Take(DesignCheck.MaxFields).Select(field => field.Name).ToArray();
        var design = Build.Design(["a"], ("a", Build.Line(names)));
        var furnished = Furnish(design, new DisclaimerText("Says **{displayName}**\nRoom {chair}"));
        Assert.Contains("Says <b>Mia</b>", Render(furnished).Html.Text(), StringComparison.Ordinal);
        Assert.DoesNotContain("Room", Render(furnished).Text.Text(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(DisclaimerLanguage.Person, "de-AT", "", "de")]
    [InlineData(DisclaimerLanguage.Person, "sv", "de", "en")]
    [InlineData(DisclaimerLanguage.Audience, "sv", "de", "de")]
    [InlineData(DisclaimerLanguage.Audience, "de", "", "de")]
    [InlineData(DisclaimerLanguage.Both, "de", "en-GB", "de en")]
    [InlineData(DisclaimerLanguage.Both, "de", "de", "de")]
    [InlineData(DisclaimerLanguage.Both, "", "", "en")]
    public void The_language_is_the_persons_the_audiences_or_both(DisclaimerLanguage choice, string person, string audience, string languages) =>
        Assert.Equal(languages, string.Join(' ', (Notice with { Language = choice }).LanguagesFor(person, audience)));

    [Fact]
    public void What_a_decision_adds_is_put_in_while_it_is_valid_and_running()
    {
        var (design, disclaimer, banner) = (Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid());
        var place = Build.Design(["a", "p"], ("a", Build.Line("displayName")), ("p", new BannerPlace(1, 300)));
        var content = EditionContent.From([new EditionDesign(design, place)], RuleSet.Empty, []) with
        {
            Disclaimers = [new EditionDisclaimer(disclaimer, Notice with { Valid = new TimeCondition("UTC") { Until = "2026-12-01T00:00" } })],
            Banners = [new EditionBanner(banner, Ticks with { Runs = new TimeCondition("UTC") { From = "2026-11-01T00:00", Until = "2026-12-01T00:00" } })],
        };
        var decision = new Decision(null, design, [disclaimer], [new ShowBanner(banner, "https://brackenfold.example/other")], []);
        string Text(Instant moment) => Render(Signing.Furnish(content, CompanyRecords.Plain, new Situation(Build.Sender("mia@brackenfold.example", ("language", "de")), Audiences.Outside, Occasion.New, "desk-app", moment), decision, Values)!).Text.Text();
        Assert.Equal("-- \nMia\nTicks are about.\nWe check.\nBook: https://brackenfold.example/other\n------------------------\nNur für Sie.\n", Text(Instant.FromUtc(2026, 11, 30, 23, 59)));
        Assert.Equal("-- \nMia\n", Text(Instant.FromUtc(2026, 12, 1, 0, 0)));
    }

    [Fact]
    public void As_many_banners_show_as_the_place_holds_and_none_without_a_place()
    {
        var place = Build.Design(["a", "p"], ("a", Build.Line("displayName")), ("p", new BannerPlace(2, 300)));
        PlacedBanner Placed(string words) => new(Ticks with { Headline = words, Text = "" }, Ticks.Link);
        ImmutableArray<PlacedBanner> three = [Placed("One"), Placed("Two"), Placed("Three")];
        var text = Render(Furnishing.Furnish(place, [], three, FieldCatalogue.Standard, Values)).Text.Text();
        Assert.Contains("Two", text, StringComparison.Ordinal);
        Assert.DoesNotContain("Three", text, StringComparison.Ordinal);
        Assert.Equal(Bare, Furnishing.Furnish(Bare, [], [], FieldCatalogue.Standard, Values));
        Assert.Equal("-- \nMia\n", Render(Furnishing.Furnish(Bare, [], three, FieldCatalogue.Standard, Values)).Text.Text());
    }

    [Theory]
    [InlineData(BannerLayout.Stacked)]
    [InlineData(BannerLayout.OneLine)]
    [InlineData(BannerLayout.ButtonBeside)]
    [InlineData(BannerLayout.ButtonBelow)]
    [InlineData(BannerLayout.BetweenLines)]
    [InlineData(BannerLayout.OnColour)]
    [InlineData(BannerLayout.WithBar)]
    public void Every_drawn_layout_says_its_words_and_leads_to_its_target_in_HTML_and_text(BannerLayout layout)
    {
        var place = Build.Design(["p"], ("p", new BannerPlace(1, 300)));
        var rendered = Render(Furnishing.Furnish(place, [], [new PlacedBanner(Ticks with { Layout = layout, Text = "5 < 6 {title}" }, Ticks.Link)], FieldCatalogue.Standard, Values));
        Assert.Empty(Ticks.Check(new HashSet<string>()));
        Assert.All(new[] { "Ticks are about.", "5 &lt; 6 {title}", "Book", "href=\"https://brackenfold.example/ticks\"" }, words => Assert.Contains(words, rendered.Html.Text().Replace("<span></span>", "", StringComparison.Ordinal), StringComparison.Ordinal));
        Assert.All(new[] { "Ticks are about.", "5 < 6 {title}", "Book", "https://brackenfold.example/ticks" }, words => Assert.Contains(words, rendered.Text.Text().ReplaceLineEndings(" "), StringComparison.Ordinal));
    }

    [Fact]
    public void A_picture_banner_is_made_as_narrow_as_its_place_and_keeps_its_shape()
    {
        var banner = new Banner("Wide", BannerLayout.Picture, "", "", "", "https://brackenfold.example") { Sha256 = Build.Logo, Width = 600, Height = 120, AltText = "Ticks are about" };
        var rendered = Render(Furnishing.Furnish(Build.Design(["p"], ("p", new BannerPlace(1, 300))), [], [new PlacedBanner(banner, banner.Link)], FieldCatalogue.Standard, Values));
        Assert.Contains("width=\"300\" height=\"60\"", rendered.Html.Text(), StringComparison.Ordinal);
        Assert.Equal($"{Build.Logo}-300x60", Assert.Single(rendered.Pictures));
    }

    [Fact]
    public void Faulty_disclaimers_and_banners_are_refused_with_the_place_of_every_fault()
    {
        var disclaimer = new Disclaimer("", DisclaimerLanguage.Person, "sv", Texts(("en", "{shoeSize} [x](javascript:1)"), ("not a language", " "))) { Valid = new TimeCondition("UTC") { From = "2026-12-01T00:00", Until = "2026-11-01T00:00" } };
        Assert.Equal(
            ["/mainLanguage language-missing", "/name name-length", "/texts/en field-unknown", "/texts/en link-form", "/texts/not a language language-form", "/texts/not a language text-length", "/valid time-form"],
            disclaimer.Check(FieldCatalogue.Standard).Select(problem => $"{problem.Pointer} {problem.Code}").Order(StringComparer.Ordinal));
        var banner = new Banner("", BannerLayout.Picture, "", "", "", "ftp://x.example") { Runs = new TimeCondition("Nowhere") };
        Assert.Equal(
            ["/altText alt-missing", "/link link-form", "/name name-length", "/runs time-form", "/sha256 picture-missing", "/width picture-size"],
            banner.Check(new HashSet<string>()).Select(problem => $"{problem.Pointer} {problem.Code}").Order(StringComparer.Ordinal));
        Assert.Equal(["/headline text-missing", "/linkLabel label-missing"], (Ticks with { Headline = "", Text = " ", LinkLabel = "" }).Check(new HashSet<string>()).Select(problem => $"{problem.Pointer} {problem.Code}"));
    }

    [Fact]
    public void Documents_read_back_from_their_JSON_as_they_were()
    {
        var (notice, banner) = (Notice with { Valid = new TimeCondition("UTC") { Days = [DayOfWeek.Monday] } }, Ticks with { Runs = new TimeCondition("UTC") });
        Assert.Equal(Json(notice), Json(JsonSerializer.Deserialize<Disclaimer>(Json(notice), RelevoJson.Options)));
        Assert.Equal(Json(banner), Json(JsonSerializer.Deserialize<Banner>(Json(banner), RelevoJson.Options)));
    }

    [Theory]
    [InlineData("plain", "plain")]
    [InlineData("a **b** *c* d", "a |b:b| |c:i| d")]
    [InlineData("one\ntwo\n\nthree", "one/two/three")]
    [InlineData("<b>not HTML</b> &amp; {title}", "<b>not HTML</b> |&| |{title}")]
    [InlineData("# heading\n- item\n    code", "# heading/item/code")]
    [InlineData("\\*no\\* [l](https://x.example)", "*no*| |l>https://x.example")]
    [InlineData("**{displayName}**", "{displayName}:b")]
    [InlineData("", "")]
    public void Rich_text_is_read_as_people_type_it(string text, string runs) => Assert.Equal(runs.Replace("|", "", StringComparison.Ordinal), string.Join('/', RichText.Lines(text).Select(line => string.Concat(line.Runs.Select(Shown)))));

    private static string Shown(Run run) => $"{(run is FieldRun field ? $"{{{field.Field}}}" : ((LiteralRun)run).Text)}{(run.IsBold ? ":b" : "")}{(run.IsItalic ? ":i" : "")}{(run.LinkAddress.Length > 0 ? $">{run.LinkAddress}" : "")}";

    private static FieldValue[] Values { get; } = FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(("displayName", "Mia"), ("title", "Vet")), "mia@brackenfold.example");

    private static DesignDocument Furnish(DesignDocument design, params DisclaimerText[] texts) => Furnishing.Furnish(design, [new PlacedDisclaimer("", [.. texts])], [], FieldCatalogue.Standard, Values);

    private static CompiledDesign Program(DesignDocument design) => CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form);

    private static RenderedSignature Render(DesignDocument design) => Program(design).Render(Values, Circumstances.Plain);

    private static string Json<T>(T document) => JsonSerializer.Serialize(document, RelevoJson.Options);

    private static ImmutableSortedDictionary<string, DisclaimerText> Texts(params (string Language, string Text)[] texts) =>
        texts.ToImmutableSortedDictionary(text => text.Language, text => new DisclaimerText(text.Text), StringComparer.Ordinal);
}

/// <summary>What business mail must state. The lists are from memory of the laws named in each scheme; no text of them was at hand.</summary>
public sealed class ParticularsTests
{
    private static readonly Dictionary<string, string> Gmbh = new() { ["legalName"] = "Brackenfold Tiermedizin GmbH", ["legalForm"] = "GmbH", ["seat"] = "Berlin", ["register"] = "Musterstadt", ["registerNumber"] = "HRB 000000", ["officers"] = "Ines Albrecht, Tomas Wendt" };

    [Theory]
    [InlineData("DE", "Brackenfold Tiermedizin GmbH, Sitz Berlin, Registergericht Musterstadt, HRB 000000, Geschäftsführung: Ines Albrecht, Tomas Wendt")]
    [InlineData("se", "Brackenfold Tiermedizin GmbH, säte: Berlin, org.nr HRB 000000")]
    [InlineData("FR", "Brackenfold Tiermedizin GmbH, GmbH, Berlin, Musterstadt HRB 000000")]
    [InlineData("GB", "Brackenfold Tiermedizin GmbH, registered in Musterstadt, number HRB 000000")]
    public void The_line_is_written_as_the_countrys_scheme_has_it(string country, string line) => Assert.Equal(line, ParticularsScheme.For(country).Write(Value(Gmbh)));

    [Fact]
    public void The_check_says_which_item_is_missing_for_the_legal_form()
    {
        Assert.Empty(ParticularsScheme.For("DE").Missing(Value(Gmbh)));
        Assert.Equal(["chair"], ParticularsScheme.For("DE").Missing(Value(new(Gmbh) { ["legalForm"] = "AG" })).Select(item => item.Code));
        Assert.Equal(["office"], ParticularsScheme.For("GB").Missing(Value(Gmbh)).Select(item => item.Code));
        Assert.Equal(["register", "number", "form", "seat"], ParticularsScheme.For("").Missing(_ => "").Select(item => item.Code));
    }

    [Fact]
    public void Every_item_names_its_source_and_fields_that_there_are()
    {
        Assert.All(ParticularsScheme.All.SelectMany(scheme => scheme.Items), item => Assert.False(string.IsNullOrWhiteSpace(item.Source)));
        Assert.All(ParticularsScheme.All.SelectMany(scheme => scheme.Fields), field => Assert.NotNull(FieldCatalogue.Standard.Find(field)));
    }

    private static Func<string, string> Value(Dictionary<string, string> facts) => field => facts.GetValueOrDefault(field, "");
}
