using System.Diagnostics;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>
/// Outside checks of rendered HTML: an open data set of what mail programs support (npm caniemail), the Nu HTML checker (npm vnu-jar, with Java) and
/// an independent reader of HTML as text (npm html-to-text). Every element, attribute and property is read out of real output by a parser.
/// </summary>
public sealed partial class MarkupOracleTests
{
    internal static readonly (string, string)[] Everything =
    [
        ("displayName", "Dr Maren Holtkamp"), ("postNominals", "MRCVS"), ("title", "Head of surgery & care"), ("department", "Small animals"), ("organisation", "Brackenfold GmbH"), ("location", "Berlin"),
        ("telephone", "+49 30 23125 010"), ("mobile", "+49 30 23125 011"), ("mail", "m@brackenfold.example"), ("webAddress", "https://brackenfold.example/a?b=1&c=2"), ("street", "Gasse 1"), ("postalCode", "10115"),
        ("portrait", Build.Logo), ("notice", "For you alone, <please>."), ("language", "de"),
    ];

    /// <summary>The data set's word for what the renderer writes; what is not here has to be an element or property the data set does not have.</summary>
    private static readonly Dictionary<string, string> Features = new()
    {
        ["table"] = "html-table",
        ["tr"] = "html-table",
        ["td"] = "html-table",
        ["tbody"] = "html-table",
        ["img"] = "html-img",
        ["span"] = "html-span",
        ["@width"] = "html-width",
        ["@height"] = "html-height",
        ["@valign"] = "html-valign",
        ["@cellpadding"] = "html-cellpadding",
        ["@cellspacing"] = "html-cellspacing",
        ["@role"] = "html-role",
        ["@style"] = "html-style-attribute",
        ["border-collapse"] = "css-border-collapse",
        ["padding"] = "css-padding",
        ["width"] = "css-width",
        ["height"] = "css-height",
        ["border"] = "css-border",
        ["border-top"] = "css-border",
        ["background-color"] = "css-background-color",
        ["font-weight"] = "css-font-weight",
        ["font-size"] = "css-font-size",
        ["line-height"] = "css-line-height",
        ["vertical-align"] = "css-vertical-align",
        ["text-decoration"] = "css-text-decoration",
        ["mailto:"] = "html-mailto-links",
        ["px"] = "css-unit-px",
        ["png"] = "image-png",
    };

    /// <summary>What the data set says nothing about, and why it may be used all the same.</summary>
    private static readonly Dictionary<string, string> Unlisted = new()
    {
        ["a"] = "what mail is made of",
        ["b"] = "text marks as old as HTML",
        ["i"] = "text marks as old as HTML",
        ["color"] = "the oldest property of all",
        ["font-family"] = "falls back to the reader's own font",
        ["@src"] = "part of img",
        ["@alt"] = "part of img",
        ["@href"] = "part of a",
        ["@border"] = "presentational attribute of HTML 3.2",
        ["@bgcolor"] = "presentational attribute of HTML 3.2, beside background-color",
        ["html-style-attribute"] = "the set lists the style element alone",
    };

    /// <summary>Features that some family has dropped, each with the reason it is written nevertheless.</summary>
    private static readonly Dictionary<string, string> Excepted = new()
    {
        ["html-role"] = "says \"presentation\" to screen readers; a program that drops it shows the same",
        ["html-width"] = "one of 41 drops it, and reads the same size from the style",
        ["html-height"] = "one of 41 drops it, and reads the same size from the style",
        ["css-height"] = "one of 41 drops it, and reads the same size from the attribute",
        ["css-text-decoration"] = "where it is dropped, links look as links look there",
        ["html-mailto-links"] = "one of 41 opens a contact card in its place",
    };

    public static TheoryData<string> Starters() => [.. Starter.All.Select(starter => starter.Key)];

    [Fact]
    public async Task Everything_the_renderer_writes_is_supported_by_the_mail_programs_of_the_data_set()
    {
        var used = Designs().Select(design => Parse(Build.Render(design, Everything))).SelectMany(Used).ToHashSet();
        Assert.Contains("border-collapse", used);
        Assert.Equal([], used.Where(feature => !Features.ContainsKey(feature) && !Unlisted.ContainsKey(feature)).ToArray());
        var slugs = used.Where(Features.ContainsKey).Select(feature => Features[feature]).Distinct().Where(slug => !Unlisted.ContainsKey(slug)).ToArray();
        var answers = await Outside.AskAsync("markup.mjs", new JsonObject { ["features"] = new JsonArray([.. slugs.Select(slug => (JsonNode)slug)]), ["html"] = new JsonArray() });
        var support = answers["support"]!.AsObject();
        Assert.Equal(slugs.Order(), support.Select(pair => pair.Key).Order());
        Assert.Equal([], support.Where(pair => pair.Value!["no"]!.GetValue<int>() > 0 && !Excepted.ContainsKey(pair.Key)).Select(pair => pair.Key).ToArray());
    }

    /// <summary>The profiles say of every style that HTML of one's own may have whether programs on computers, and in browsers, pass over it.</summary>
    [Fact]
    public async Task What_a_client_kind_passes_over_is_what_the_data_set_says()
    {
        string[] properties = ["background-color", "font-size", "font-weight", "line-height", "letter-spacing", "text-align", "text-decoration", "text-transform", "vertical-align", "white-space", "width", "height", "padding", "border", "border-collapse"];
        var clean = MarkupCleaning.Clean($"<p style=\"{string.Join(';', properties.Select(property => $"{property}:{Sample(property)}"))}\">x</p>");
        Assert.Equal(properties.Order(), clean.Properties.Order());
        var answers = await Outside.AskAsync("markup.mjs", new JsonObject { ["features"] = new JsonArray([.. properties.Select(property => (JsonNode)$"css-{property}")]), ["html"] = new JsonArray() });
        string[] PassedOver(params string[] platforms) =>
            [.. answers["support"]!.AsObject().Where(pair => pair.Value!["dropping"]!.AsArray().Any(platform => platforms.Contains(platform!.ToString()))).Select(pair => pair.Key["css-".Length..]).Order()];
        Assert.Equal(PassedOver("windows", "windows-mail", "macos"), ClientKind.DeskApp.Drops.Order());
        Assert.Equal(PassedOver("desktop-webmail"), ClientKind.All.Single(kind => kind.Kind == "browser-mailbox").Drops.Order());
    }

    private static string Sample(string property) => property switch
    {
        "background-color" => "#eeeeee",
        "font-weight" => "bold",
        "text-align" => "left",
        "text-decoration" => "underline",
        "text-transform" => "uppercase",
        "vertical-align" => "top",
        "white-space" => "nowrap",
        "border" => "1px solid #000000",
        "border-collapse" => "collapse",
        _ => "12px",
    };

    /// <summary>The Nu HTML checker finds no error. Without Java there is nothing to ask, and the test says so.</summary>
    [Fact]
    public async Task No_starter_has_an_error_for_the_nu_html_checker()
    {
        if (!File.Exists("/usr/bin/java")) Assert.Skip("There is no Java to run the checker with.");
        var folder = Directory.CreateTempSubdirectory("relevo-markup-");
        foreach (var (design, index) in Designs().Select((design, index) => (design, index)))
        {
            foreach (var (facts, name) in new[] { (Everything, "full"), ([("displayName", "Mia")], "bare") })
                await File.WriteAllTextAsync(Path.Combine(folder.FullName, $"{index}-{name}.html"), $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>Signature</title></head><body>{Build.Render(design, facts).Html.Text()}</body></html>");
        }

        var jar = Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "tests/outside/node_modules/vnu-jar/build/dist/vnu.jar");
        var (code, output, errors) = await Outside.RunAsync("/usr/bin/java", ["-jar", jar, "--errors-only", "--format", "json", "--stdout", .. Directory.GetFiles(folder.FullName)]);
        // Presentational attributes are obsolete in the standard and the only thing that word-processor engines read; they are reported and wanted.
        var found = JsonNode.Parse(output)!["messages"]!.AsArray().Select(message => message!["message"]!.ToString()).Where(message => !ObsoleteAttribute().IsMatch(message)).Distinct().ToArray();
        Assert.Empty(found);
        Assert.True(code is 0 or 1, errors);
        folder.Delete(recursive: true);
    }

    [Theory]
    [MemberData(nameof(Starters))]
    public async Task An_independent_reader_of_the_html_finds_the_values_of_the_text_form_in_their_order(string key)
    {
        var rendered = Build.Render(Open(key), Everything);
        var answers = await Outside.AskAsync("markup.mjs", new JsonObject { ["features"] = new JsonArray(), ["html"] = new JsonArray(rendered.Html.Text()) });
        var read = Words(answers["texts"]![0]!.ToString());
        var at = 0;
        foreach (var (field, value) in Everything.Where(pair => pair.Item1 is not ("webAddress" or "portrait" or "language")))
        {
            Assert.Equal(Words(rendered.Text.Text()).Contains(Words(value), StringComparison.Ordinal), read.Contains(Words(value), StringComparison.Ordinal));
        }

        foreach (var line in rendered.Text.Text().Split('\n').Skip(1).Where(line => line.Any(char.IsLetterOrDigit) && !line.Contains("https://", StringComparison.Ordinal)))
        {
            var found = read.IndexOf(Words(line), at, StringComparison.Ordinal);
            Assert.True(found >= 0, $"\"{line}\" is not found in its place in \"{read}\".");
            at = found;
        }
    }

    internal static IEnumerable<DesignDocument> Designs()
    {
        foreach (var starter in Starter.All) yield return Open(starter.Key);
        yield return Build.Design(
            ["t", "c", "l", "i", "b", "d", "g", "p", "n"],
            ("t", new TextLine(TextRole.Name, ", ", [new Part([new FieldRun("displayName") { IsItalic = true }, new LiteralRun(" & ") { Role = TextRole.Small }, new FieldRun("title") { IsBold = true, Role = TextRole.Soft }])])),
            ("c", new ContactList(TextRole.Soft, ContactArrangement.Inline, " | ", [new("T", "telephone"), new("", "mail")]) { IconSize = 16 }),
            ("l", new LinkRow(TextRole.Text, " ", [new("", "webAddress", "")])), ("i", new LinkRow(TextRole.Name, " ", [new("", "webAddress", "")]) { IconSize = 24 }),
            ("b", new Button(new LinkItem("Book", "webAddress", ""))), ("d", new Divider()), ("g", new Gap(7)),
            ("p", new Columns(9, [["one"], ["two"]]) { Alignment = ColumnAlignment.Bottom, Widths = [90, 0] }), ("one", new Picture("", 90, 90, "Portrait of", "") { Field = "portrait", AltField = "displayName", LinkField = "webAddress", Shape = PictureShape.Circle }),
            ("two", new Picture(Build.Logo, 40, 30, "Mark", "https://brackenfold.example")), ("n", new NoticePlace(TextRole.Small)));
    }

    private static DesignDocument Open(string key) => Starter.All.Single(starter => starter.Key == key).Open("Checked", new StarterLogo(Build.Logo, 100, 50, "Brackenfold", "https://brackenfold.example"));

    private static IDocument Parse(RenderedSignature rendered) => new HtmlParser().ParseDocument(rendered.Html.Text());

    /// <summary>Elements, attributes, properties, units, kinds of links and of pictures.</summary>
    private static IEnumerable<string> Used(IDocument page)
    {
        foreach (var element in page.Body!.QuerySelectorAll("*"))
        {
            yield return element.LocalName;
            foreach (var attribute in element.Attributes) yield return "@" + attribute.Name;
            if (element.GetAttribute("href") is { } link && link.StartsWith("mailto:", StringComparison.Ordinal)) yield return "mailto:";
            if (element.GetAttribute("src") is { } picture) yield return Path.GetExtension(picture)[1..];
            foreach (var declaration in (element.GetAttribute("style") ?? "").Split(';', StringSplitOptions.RemoveEmptyEntries))
            {
                yield return declaration.Split(':')[0].Trim();
                foreach (Match unit in Unit().Matches(declaration)) yield return unit.Groups[1].Value;
            }
        }
    }

    private static string Words(string text) => Spaces().Replace(text, " ").Trim();

    [GeneratedRegex("[0-9](px|pt|em|rem|%)")]
    private static partial Regex Unit();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();

    [GeneratedRegex("attribute on the .* element is obsolete")]
    private static partial Regex ObsoleteAttribute();
}
