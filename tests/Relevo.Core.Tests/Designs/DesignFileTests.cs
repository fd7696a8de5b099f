using System.Text.Json;
using System.Text.Json.Nodes;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Tests.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Designs;

/// <summary>Designs as files. The published schema is held against real files by the npm package ajv, which is not ours.</summary>
public sealed class DesignFileTests
{
    private static readonly FilePicture Mark = new(Build.Logo, "Mark", [1, 2, 3]);

    [Fact]
    public void A_file_is_read_back_as_it_was_written()
    {
        var file = File(Build.Full() with { Set = "Clinics" }, Build.Short());
        Assert.Equal(file.ToJson(), DesignFile.Restore(file.ToJson()).File!.ToJson());
        Assert.Empty(file.Check(FieldCatalogue.Standard, []));
    }

    [Fact]
    public void What_arrives_changes_nothing_that_is_there()
    {
        var file = File(Build.Full("Full") with { Set = "Clinics" }, Build.Short("Short") with { Set = "Clinics", Theme = Build.Full().Theme }, Build.Short("Alone"));
        var arriving = file.Arrive(["full", "Other"], ["", "Clinics"], new Dictionary<string, string> { [Build.Logo] = new('b', 64) });
        Assert.Equal([("Full, copy", "Clinics, copy"), ("Short", "Clinics, copy"), ("Alone", "")], arriving.Select(design => (design.Name, design.Set)));
        Assert.All(arriving.SelectMany(design => design.Blocks.Values).OfType<Picture>(), picture => Assert.Equal(new string('b', 64), picture.Sha256));
    }

    [Fact]
    public void Themes_arrive_under_names_of_their_own()
    {
        var theme = Build.Full().Theme;
        var file = File() with { Themes = [new("House", theme), new("house", theme), new("Night", theme)] };
        Assert.Equal(["House, copy", "house, copy 2", "Night"], file.ArriveThemes(["HOUSE"]).Select(arriving => arriving.Name));
    }

    [Fact]
    public void What_cannot_be_taken_in_is_refused_with_the_place()
    {
        var good = JsonNode.Parse(File(Build.Full()).ToJson())!;
        Assert.Equal("file-unreadable", Assert.Single(DesignFile.Restore("not json").Problems).Code);
        Assert.Equal("/format", Assert.Single(DesignFile.Restore("{}").Problems).Pointer);
        Assert.Equal("/format", Assert.Single(DesignFile.Restore("[]").Problems).Pointer);
        Assert.Equal("file-unreadable", Assert.Single(DesignFile.Restore(Changed(file => file["extra"] = 1)).Problems).Code);
        Assert.Equal("file-unreadable", Assert.Single(DesignFile.Restore(Changed(file => file["pictures"]![0]!["png"] = "%%%")).Problems).Code);
        Assert.Equal("/designs/0/blocks/odd/kind", Assert.Single(DesignFile.Restore(Changed(file => file["designs"]![0]!["blocks"]!["odd"] = new JsonObject { ["kind"] = "dance" })).Problems).Pointer);
        foreach (var part in new[] { "designs", "themes", "pictures" }) Assert.NotEmpty(DesignFile.Restore(Changed(file => file[part] = new JsonArray((JsonNode?)null))).Problems);
        Assert.Equal("too-many", Assert.Single(DesignFile.Restore(Changed(file => file["themes"] = new JsonArray([.. Enumerable.Range(0, 101).Select(_ => new JsonObject { ["name"] = "x", ["theme"] = file["designs"]![0]!["theme"]!.DeepClone() })]))).Problems).Code);
        Assert.Equal("file-unreadable", Assert.Single(DesignFile.Restore("{\"format\":\"relevo-designs/1\",\"designs\":" + new string('[', 200) + new string(']', 200) + "}").Problems).Code);

        string Changed(Action<JsonNode> change)
        {
            var file = good.DeepClone();
            change(file);
            return file.ToJsonString();
        }
    }

    [Fact]
    public void What_does_not_fit_here_is_told_design_by_design()
    {
        var unknown = Build.Short() with { Blocks = Build.Design(["t"], ("t", Build.Line("shoeSize"))).Blocks, Root = ["t"] };
        Assert.Contains(File(Build.Full(), unknown).Check(FieldCatalogue.Standard, []), problem => problem.Pointer.StartsWith("/designs/1/blocks/t", StringComparison.Ordinal) && problem.Code == "field-unknown");
        Assert.Contains((File(Build.Full()) with { Pictures = [] }).Check(FieldCatalogue.Standard, []), problem => problem.Code == "picture-missing");
        Assert.Contains((File(Build.Full()) with { Pictures = [Mark, Mark] }).Check(FieldCatalogue.Standard, []), problem => problem.Code == "picture-twice");
        var uneven = File(Build.Full() with { Set = "Clinics" }, Build.Full("Other") with { Set = "Clinics", Theme = Build.Full().Theme with { LineHeight = 170 } });
        Assert.Contains(uneven.Check(FieldCatalogue.Standard, []), problem => problem.Code == "theme-of-set");
        var large = Build.Design([.. Enumerable.Range(0, 5000).Select(number => $"b{number}")], [.. Enumerable.Range(0, 5000).Select(number => ($"b{number}", (Block)new Divider()))]);
        Assert.NotEmpty(File(large).Check(FieldCatalogue.Standard, []));
    }

    [Fact]
    public async Task A_validator_that_is_not_ours_takes_every_file_by_the_published_schema_and_refuses_broken_ones()
    {
        var published = await System.IO.File.ReadAllTextAsync(Path.Combine(Environment.GetEnvironmentVariable("RELEVO_ROOT")!, "docs/formats/designs.schema.json"));
        Assert.Equal(DesignFile.Schema(), published); // written by: relevo-server schema designs docs/formats/designs.schema.json
        var good = MarkupOracleTests.Designs().Select(design => JsonNode.Parse(File(design with { Languages = Build.Languages(("de", "Mark", "Zeichen")) }).ToJson())).ToArray();
        string[] broken = ["{}", "{\"format\":\"other\",\"designs\":[],\"themes\":[],\"pictures\":[]}", File(Build.Full()).ToJson().Replace("\"textLine\"", "\"dance\"", StringComparison.Ordinal), File(Build.Full()).ToJson().Replace("\"lineHeight\":", "\"lineHeigth\":", StringComparison.Ordinal)];
        var answers = await Outside.AskAsync("schema.mjs", new JsonObject { ["schema"] = JsonNode.Parse(published), ["documents"] = new JsonArray([.. good, .. broken.Select(text => JsonNode.Parse(text))]) });
        var errors = answers["errors"]!.AsArray().Select(list => list!.AsArray().Count).ToArray();
        Assert.All(errors[..good.Length], count => Assert.Equal(0, count));
        Assert.All(errors[good.Length..], count => Assert.NotEqual(0, count));
    }

    private static DesignFile File(params DesignDocument[] designs) => new(DesignFile.CurrentFormat, [.. designs], [new NamedTheme("House", Build.Full().Theme)], [Mark]);
}
