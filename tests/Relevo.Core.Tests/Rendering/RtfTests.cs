using System.Collections.Immutable;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using FsCheck;
using FsCheck.Fluent;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Rendering;

/// <summary>Rich text as readers that are not ours understand it: the npm package rtf-parser, and a word processor where one is installed.</summary>
public sealed partial class RtfTests
{
    private static readonly Dictionary<string, byte[]> NoPictures = [];

    [Fact]
    public async Task A_reader_that_is_not_ours_finds_the_values_of_the_text_form_in_their_order()
    {
        var rendered = MarkupOracleTests.Designs().SelectMany(design => new[] { MarkupOracleTests.Everything, [("displayName", "Mia")] }.Select(facts => (Text: Build.Render(design, facts).Text.Text(), Rtf: Render(design, NoPictures, facts)))).ToArray();
        var read = await ReadAsync([.. rendered.Select(pair => pair.Rtf)]);
        foreach (var ((text, _), paragraphs) in rendered.Zip(read))
        {
            var (all, at) = (Words(string.Join(' ', paragraphs)), 0);
            foreach (var line in text.Split('\n').Skip(1).Where(line => line.Any(char.IsLetterOrDigit) && !line.Contains("https://", StringComparison.Ordinal)))
            {
                var found = all.IndexOf(Words(line), at, StringComparison.Ordinal);
                Assert.True(found >= 0, $"\"{line}\" is not found in its place in \"{all}\".");
                at = found;
            }
        }
    }

    [Fact]
    public void Every_place_for_a_picture_is_filled_with_its_digits_and_everything_round_it_stays() => Prop.ForAll(
        Gen.Choose(0, 3).ListOf().ToArbitrary(),
        pieces =>
        {
            var pictures = Enumerable.Range(0, 3).ToDictionary(number => $"picture {number}", number => Enumerable.Range(0, 100 * number).Select(at => (byte)(at * 7)).ToArray());
            var (rtf, expected) = (new StringBuilder("{\\rtf1 "), new StringBuilder("{\\rtf1 "));
            foreach (var piece in pieces)
            {
                rtf.Append("\\pict").Append(RtfPictures.Place).Append("picture ").Append(piece).Append('}');
                expected.Append("\\pict");
                // Picture 3 could not be made; what stands for it is one pixel of nothing. Digits come in lines of 64 bytes.
                if (pictures.TryGetValue($"picture {piece}", out var bytes)) foreach (var line in bytes.Chunk(64)) expected.Append(Convert.ToHexStringLower(line)).Append('\n');
                else expected.Append("NOTHING");
            }

            var filled = RtfPictures.Fill(Encoding.ASCII.GetBytes(rtf.Append('}').ToString()), pictures).Text();
            Assert.Equal(expected.Append('}').ToString(), OnePixel().Replace(filled, "NOTHING"));
        }).QuickCheckThrowOnFailure();

    // The signature that every PNG file begins with (PNG specification, section 5.2), and no longer than one pixel needs.
    [GeneratedRegex("89504e470d0a1a0a[0-9a-f\\n]{100,200}?(?=\\\\pict|})")]
    private static partial Regex OnePixel();

    [Fact]
    public async Task Whatever_stands_in_a_value_is_read_as_exactly_that()
    {
        string[] values = [@"{\b x}", @"C:\new\par", "<script>alert(1)</script> & Söhne \"x\"", "𝔐aren 🐎", "\uFFFEodd\uD800", "naïve\u00A0 Ω", "1\\'e9}", .. Gen.Sample(ArbMap.Default.GeneratorFor<NonNull<string>>(), 50, 100).Select(value => value.Get)];
        var design = Build.Design(["t"], ("t", new TextLine(TextRole.Text, "", [new Part([new LiteralRun("["), new FieldRun("title"), new LiteralRun("]")])])));
        var resolved = values.Select(value => FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(("title", value)), "mia@brackenfold.example")).ToArray();
        FieldCatalogue.Standard.TryFind("title", out var title);
        var read = await ReadAsync([.. resolved.Where(all => all[title].Text.Length > 0).Select(all => Render(design, NoPictures, all))]);
        var wanted = resolved.Select(all => all[title].Text).Where(text => text.Length > 0).Select(text => $"[{new string([.. Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text)).Where(unit => unit >= ' ' && unit != '\u007F')])}]");
        Assert.Equal(wanted, read.Select(paragraphs => Assert.Single(paragraphs)));
    }

    [Fact]
    public void Links_are_fields_whose_quotes_nothing_can_leave()
    {
        var rtf = Render(Build.Design(["l"], ("l", new LinkRow(TextRole.Text, " ", [new("", "webAddress", "")]))), NoPictures, ("webAddress", "https://brackenfold.example/{a}?q=ü\"x\\y"));
        var link = Assert.Single(Link().Matches(rtf)).Groups[1].Value;
        Assert.StartsWith("https://brackenfold.example/", link, StringComparison.Ordinal);
        Assert.DoesNotContain(link, unit => unit is '"' or '\\' or '{' or '}');
    }

    [Fact]
    public void Pictures_stand_in_their_places_at_their_size_and_a_missing_one_keeps_its_room()
    {
        var design = Build.Design(["a", "b"], ("a", new Picture(Build.Logo, 40, 30, "Mark {of}", "")), ("b", new Picture(Build.Logo, 20, 10, "Small", "")));
        var bytes = Enumerable.Range(0, 200).Select(number => (byte)number).ToArray();
        var rtf = Render(design, new() { [new PictureCut(Build.Logo, 40, 30, PictureShape.Square, "").Name] = bytes });
        var pictures = PngPicture().Matches(rtf);
        Assert.Equal([("600", "450"), ("300", "150")], pictures.Select(found => (found.Groups[1].Value, found.Groups[2].Value))); // 15 twips to a pixel
        Assert.Equal(bytes, Convert.FromHexString(pictures[0].Groups[3].Value.Replace("\n", "", StringComparison.Ordinal)));
        Assert.StartsWith("89504e470d0a1a0a", pictures[1].Groups[3].Value, StringComparison.Ordinal); // the PNG signature: W3C PNG section 5.2
        Assert.Contains(@"{\sn wzDescription}{\sv Mark \{of\}}", rtf, StringComparison.Ordinal);
        Assert.DoesNotContain("relevopicture", rtf, StringComparison.Ordinal);
    }

    [Fact]
    public void A_column_without_content_leaves_no_cell()
    {
        var design = Build.Design(["c"], ("c", new Columns(10, [["p"], ["t"]])), ("p", new Picture("", 90, 90, "Portrait", "") { Field = "portrait" }), ("t", Build.Line("displayName")));
        Assert.Equal((2, @"\cellx1500"), Cells(Render(design, NoPictures, ("displayName", "Mia"), ("portrait", Build.Logo)))); // 90 px and the space after
        Assert.Equal((1, @"\cellx7500"), Cells(Render(design, NoPictures, ("displayName", "Mia"))));

        static (int, string) Cells(string rtf) => (Regex.Count(rtf, @"\\cell\b"), Regex.Match(rtf, @"\\cellx\d+").Value);
    }

    [Fact]
    public void Groups_and_cells_are_balanced_for_every_pattern_of_facts()
    {
        var random = new Random(1); // the same choice on every run
        foreach (var design in MarkupOracleTests.Designs())
        {
            for (var times = 0; times < 20; times++)
            {
                var rtf = Render(design, NoPictures, [.. MarkupOracleTests.Everything.Where(_ => random.Next(2) == 0)]);
                var plain = Escaped().Replace(rtf, "");
                Assert.Equal(plain.Count(unit => unit == '{'), plain.Count(unit => unit == '}'));
                Assert.Equal(Regex.Count(rtf, @"\\cellx\d+"), Regex.Count(rtf, @"\\(nest)?cell\b"));
                Assert.DoesNotContain(rtf, unit => unit > '~'); // seven bits throughout
            }
        }
    }

    /// <summary>Optional: a word processor is large, and only looked for.</summary>
    [Fact]
    public async Task A_word_processor_reads_the_same_lines()
    {
        if (!File.Exists("/usr/bin/soffice")) Assert.Skip("There is no word processor to read with.");
        var folder = Directory.CreateTempSubdirectory("relevo-rtf-");
        foreach (var (design, index) in MarkupOracleTests.Designs().Select((design, index) => (design, index)))
        {
            await File.WriteAllTextAsync(Path.Combine(folder.FullName, $"{index}.rtf"), Render(design, NoPictures, MarkupOracleTests.Everything));
        }

        await Outside.RunAsync("/usr/bin/soffice", ["--headless", "--norestore", $"-env:UserInstallation=file://{folder.FullName}/profile", "--convert-to", "txt:Text (encoded):UTF8", "--outdir", folder.FullName, .. Directory.GetFiles(folder.FullName, "*.rtf")]);
        foreach (var (design, index) in MarkupOracleTests.Designs().Select((design, index) => (design, index)))
        {
            var (read, at) = (Words(await File.ReadAllTextAsync(Path.Combine(folder.FullName, $"{index}.txt"))), 0);
            foreach (var line in Build.Render(design, MarkupOracleTests.Everything).Text.Text().Split('\n').Skip(1).Where(line => line.Any(char.IsLetterOrDigit) && !line.Contains("https://", StringComparison.Ordinal)))
            {
                var found = read.IndexOf(Words(line), at, StringComparison.Ordinal);
                Assert.True(found >= 0, $"\"{line}\" of design {index} is not found in its place in \"{read}\".");
                at = found;
            }
        }

        folder.Delete(recursive: true);
    }

    private static string Render(DesignDocument design, Dictionary<string, byte[]> pictures, params (string Field, string Value)[] facts) =>
        Render(design, pictures, FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(facts), "mia@brackenfold.example"));

    private static string Render(DesignDocument design, Dictionary<string, byte[]> pictures, FieldValue[] values) =>
        CompiledDesign.Compile(design, FieldCatalogue.Standard, Build.Form).RenderRtf(values, Circumstances.Plain, pictures).Text();

    /// <summary>The paragraphs of each document. That reader takes the digits of pictures for text, so they are left out.</summary>
    private static async Task<ImmutableArray<string[]>> ReadAsync(string[] rtf)
    {
        var answers = await Outside.AskAsync("rtf.mjs", new JsonObject { ["rtf"] = new JsonArray([.. rtf.Select(text => (JsonNode)PngPicture().Replace(text, "}"))]) });
        return [.. answers["documents"]!.AsArray().Select(document => document!.AsArray().Select(paragraph => paragraph!.ToString()).ToArray())];
    }

    private static string Words(string text) => Gaps().Replace(text, " ").Trim();

    [GeneratedRegex(@"[\s\u00A0]+")]
    private static partial Regex Gaps();

    [GeneratedRegex("HYPERLINK \"(.*?)\"}")]
    private static partial Regex Link();

    [GeneratedRegex(@"\\pngblip\\picwgoal(\d+)\\pichgoal(\d+)\n([0-9a-f\n]+)\}")]
    private static partial Regex PngPicture();

    [GeneratedRegex(@"\\[\\{}]")]
    private static partial Regex Escaped();
}
