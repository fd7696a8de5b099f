using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>Pictures by what they are made of: library, field, icon.</summary>
public sealed class PictureTests
{
    private const string Portrait = "00000000000000000000000000000000000000000000000000000000000000bb";

    private static readonly FieldCatalogue Fields = FieldCatalogue.Standard;

    [Fact]
    public void A_portrait_comes_from_its_field_in_the_shape_of_the_design()
    {
        var design = Build.Design(["p"], ("p", new Picture("", 96, 96, "Portrait of", "") { Field = "portrait", AltField = "displayName", Shape = PictureShape.Circle }));
        var rendered = Build.Render(design, ("portrait", Portrait), ("displayName", "Mia \"M\" Ek"));
        var image = Image(rendered);
        Assert.Equal(($"pictures/{Portrait}-96x96-circle.png", "96", "96", "Portrait of Mia \"M\" Ek"), (image.GetAttribute("src"), image.GetAttribute("width"), image.GetAttribute("height"), image.GetAttribute("alt")));
        Assert.Equal([$"{Portrait}-96x96-circle"], rendered.Pictures);
        Assert.Equal(("", 0), (Build.Render(design, ("displayName", "Mia")).Html.Text(), Build.Render(design).Pictures.Length));
    }

    [Theory]
    [InlineData("../../etc/passwd")]
    [InlineData("00aa")]
    [InlineData("javascript:alert(1)")]
    public void A_field_that_names_no_picture_shows_none(string value) =>
        Assert.Equal("", Build.Render(Build.Design(["p"], ("p", new Picture("", 96, 96, "x", "") { Field = "portrait" })), ("portrait", value)).Html.Text());

    [Fact]
    public void A_picture_links_where_its_field_leads_and_stands_unlinked_without()
    {
        var design = Build.Design(["p"], ("p", new Picture(Build.Logo, 40, 20, "Mark", "") { LinkField = "webAddress" }));
        Assert.Equal("https://x.example/", Image(Build.Render(design, ("webAddress", "https://x.example"))).ParentElement!.GetAttribute("href"));
        Assert.Equal("TD", Image(Build.Render(design, ("webAddress", "nowhere"))).ParentElement!.TagName);
    }

    [Fact]
    public void Contact_items_and_links_have_icons_at_their_final_size_in_the_colour_of_their_role()
    {
        var design = Build.Design(
            ["c", "l"],
            ("c", new ContactList(TextRole.Soft, ContactArrangement.Stacked, "", [new("", "telephone"), new("", "mobile")]) { IconSize = 16 }),
            ("l", new LinkRow(TextRole.Text, " ", [new("", "webAddress", ""), new("Diary", "", "https://book.example/")]) { IconSize = 24 }));
        var rendered = Build.Render(design, ("telephone", "+44 20 7946 0001"), ("webAddress", "https://x.example"));
        Assert.Equal(["icon-telephone-556168-16x16", "icon-web-23343c-24x24"], rendered.Pictures);
        var images = new HtmlParser().ParseDocument(rendered.Html.Text()).QuerySelectorAll("img");
        Assert.Equal(["Telephone", "Web address", "Diary"], images.Select(image => image.GetAttribute("alt")));
        Assert.Equal(["16", "24", "24"], images.Select(image => image.GetAttribute("height")));
        Assert.Contains("icon-mobile-556168-16x16", Build.Render(design, ("mobile", "+44 7700 900123")).Pictures);
    }

    [Fact]
    public void Every_name_of_a_cut_reads_back_as_the_cut()
    {
        foreach (var shape in Enum.GetValues<PictureShape>())
        {
            foreach (var ground in new[] { "", "#a1b2c3" })
            {
                foreach (var source in Enum.GetValues<IconKind>().Select(kind => PictureCut.IconSource(kind, "#1d2a33")).Append(Build.Logo))
                {
                    var cut = new PictureCut(source, 96, 48, shape, ground);
                    Assert.Equal(cut, PictureCut.Parse(cut.Name));
                    var part = cut with { Crop = new PictureCrop(0, 125, 1000), IsDouble = true };
                    Assert.Equal(part, PictureCut.Parse(part.Name));
                }
            }
        }
    }

    [Theory]
    [InlineData("icon-mail-1d2a33-0x16")]
    [InlineData("icon-mail-1d2a33-900x16")]
    [InlineData("icon-mail-1d2a33-16x16-star")]
    [InlineData("icon-mail-1d2a33-16x16-crop500.0.501")]
    [InlineData("icon-mail-1d2a33-16x16-crop0.0.19")]
    [InlineData("icon-mail-1d2a33-16x16-2x-circle")]
    [InlineData("00aa-16x16")]
    [InlineData("../icon-mail-1d2a33-16x16")]
    [InlineData("")]
    public void Any_other_name_is_none(string name) => Assert.Null(PictureCut.Parse(name));

    /// <summary>A linked picture weighs nothing in the message, so dense screens get twice the pixels on the same room.</summary>
    [Fact]
    public void Linked_pictures_have_twice_the_pixels_of_their_room_and_those_that_travel_do_not()
    {
        var design = Build.Design(["l", "f"], ("l", new Picture(Build.Logo, 40, 30, "Mark", "")), ("f", new Picture("", 96, 96, "Portrait of", "") { Field = "portrait", Shape = PictureShape.Circle }));
        RenderedSignature In(string kind) => CompiledDesign.Compile(design, Fields, ClientKind.All.Single(one => one.Kind == kind).FormUnder("https://signatures.brackenfold.example"))
            .Render(FieldResolution.Resolve(Fields, Build.Facts(("portrait", Build.Logo)), ""), Circumstances.Plain);
        Assert.Equal([$"{Build.Logo}-40x30-2x", $"{Build.Logo}-96x96-circle-2x"], In("browser-mailbox").Pictures);
        Assert.Equal([$"{Build.Logo}-40x30", $"{Build.Logo}-96x96-circle"], In("desk-app").Pictures);
        var images = new HtmlParser().ParseDocument(In("browser-mailbox").Html.Text()).QuerySelectorAll("img");
        Assert.Equal([($"https://signatures.brackenfold.example/pictures/{Build.Logo}-40x30-2x.png", "40"), ($"https://signatures.brackenfold.example/pictures/{Build.Logo}-96x96-circle-2x.png", "96")], images.Select(image => (image.GetAttribute("src")!, image.GetAttribute("width")!)));
    }

    [Fact]
    public void A_link_may_have_an_icon_of_its_own_from_the_library()
    {
        var row = new LinkRow(TextRole.Text, " ", [new LinkItem("Club", "", "https://club.example/brackenfold") { Icon = Build.Logo }, new LinkItem("", "webAddress", "")]) { IconSize = 24 };
        var rendered = Build.Render(Build.Design(["l"], ("l", row)), ("webAddress", "https://brackenfold.example/a"));
        Assert.Equal([$"{Build.Logo}-24x24", "icon-web-23343c-24x24"], rendered.Pictures);
        Assert.Equal("picture-missing", Assert.Single(DesignCheck.Check(Build.Design(["l"], ("l", row)), Fields, new HashSet<string>())).Code);
    }

    [Theory]
    [InlineData("title", "field-no-picture")]
    [InlineData("nothing", "field-no-picture")]
    public void A_picture_from_a_field_that_holds_none_is_refused(string field, string code) =>
        Assert.Equal(code, Assert.Single(DesignCheck.Check(Build.Design(["p"], ("p", new Picture("", 9, 9, "x", "") { Field = field })), Fields, new HashSet<string>())).Code);

    /// <summary>Two lists name the same kinds of profile links: what leads somewhere, and what stands for it.</summary>
    [Fact]
    public void Every_kind_of_profile_link_has_the_icon_of_its_own_name()
    {
        var field = FieldCatalogue.Standard.Find("webAddress")!;
        foreach (var profile in Enum.GetValues<ProfileKind>()) Assert.Equal(profile.ToString(), Icons.Of(field with { Profile = profile }).ToString());
        Assert.Equal(IconKind.Web, Icons.Of(field));
        Assert.Equal(IconKind.Mail, Icons.Of(FieldCatalogue.Standard.Find("mail")!));
        Assert.Equal(IconKind.Address, Icons.Of(FieldCatalogue.Standard.Find("street")!));
    }

    [Fact]
    public void The_notice_stands_where_its_place_is_and_nowhere_without_one()
    {
        var design = Build.Design(["a", "d", "n", "b"], ("a", Build.Line("displayName")), ("d", new Divider()), ("n", new NoticePlace(TextRole.Small)), ("b", new BannerPlace(1, 400)));
        var said = Furnishing.Furnish(design, [new PlacedDisclaimer("", [new DisclaimerText("Keep <this> to yourself")])], [], FieldCatalogue.Standard, []);
        Assert.Equal("-- \nMia\n------------------------\nKeep <this> to yourself\n", Build.Render(said, ("displayName", "Mia")).Text.Text());
        Assert.Equal("-- \nMia\n", Build.Render(design, ("displayName", "Mia")).Text.Text());
    }

    private static IElement Image(RenderedSignature rendered) => Assert.Single(new HtmlParser().ParseDocument(rendered.Html.Text()).QuerySelectorAll("img"));
}
