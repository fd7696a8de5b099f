using System.Text.Json.Nodes;
using Relevo.Core.People.Formats.Scim;
using Xunit;

namespace Relevo.Core.Tests.People.Scim;

/// <summary>Outside check: two packages from npm that are not ours, a filter parser and a PATCH implementation, answer the same generated cases.</summary>
public sealed class ScimOracleTests
{
    private const int Filters = 400, Patches = 300;
    private static readonly string[] Words = ["Vet", "Nurse", "Surgery", "mia", "joel"];
    private static readonly string[] Types = ["work", "home", "other"];

    [Fact]
    public async Task Generated_filters_and_patches_come_out_as_other_implementations_have_them()
    {
        var random = new Random(20261125);
        var cases = new JsonObject
        {
            ["filters"] = new JsonArray([.. Enumerable.Range(0, Filters).Select(_ => (JsonNode)new JsonObject { ["text"] = Filter(random, 3), ["resources"] = new JsonArray([.. Enumerable.Range(0, 4).Select(_ => (JsonNode)User(random))]) })]),
            ["patches"] = new JsonArray([.. Enumerable.Range(0, Patches).Select(_ => (JsonNode)new JsonObject { ["resource"] = User(random), ["operations"] = new JsonArray([.. Enumerable.Range(0, 1 + random.Next(3)).Select(_ => (JsonNode)Operation(random))]) })]),
        };
        var answers = await Outside.AskAsync("scim.mjs", cases);
        for (var index = 0; index < Filters; index++)
        {
            var one = cases["filters"]![index]!;
            Assert.Null(ScimFilter.TryParse(one["text"]!.ToString(), out var filter));
            var ours = one["resources"]!.AsArray().Select(filter!.Matches).ToArray();
            Assert.True(ours.SequenceEqual(answers["filters"]![index]!.AsArray().Select(value => value!.GetValue<bool>())), $"{one["text"]} on {one["resources"]!.ToJsonString()}");
        }

        var compared = 0;
        for (var index = 0; index < Patches; index++)
        {
            var one = cases["patches"]![index]!;
            // The other implementation is lenient where the standard wants an error, so only what succeeds on both sides is compared.
            var (ours, error) = ScimPatch.Apply(one["resource"]!.AsObject(), new JsonObject { ["Operations"] = one["operations"]!.DeepClone() });
            var theirs = answers["patches"]![index]!.AsObject();
            if (error is not null || theirs.ContainsKey("error")) continue;
            compared++;
            Assert.True(JsonNode.DeepEquals(Plain(theirs), Plain(ours!)), $"{one.ToJsonString()}\nours {ours!.ToJsonString()}\ntheirs {theirs.ToJsonString()}");
        }

        Assert.True(compared > Patches / 2, $"{compared} compared");
    }

    /// <summary>Empty lists and objects are as good as not there; the other side leaves them.</summary>
    private static JsonObject Plain(JsonObject resource)
    {
        var plain = (JsonObject)resource.DeepClone();
        foreach (var name in plain.Where(member => member.Value is JsonArray { Count: 0 } or JsonObject { Count: 0 } or null).Select(member => member.Key).ToArray()) plain.Remove(name);
        return plain;
    }

    private static JsonObject User(Random random)
    {
        var user = new JsonObject { ["userName"] = Pick(random, Words), ["active"] = random.Next(2) == 0 };
        if (random.Next(3) > 0) user["title"] = Pick(random, Words);
        if (random.Next(3) > 0) user["name"] = new JsonObject { ["familyName"] = Pick(random, Words), ["givenName"] = Pick(random, Words) };
        var emails = Types.Where(_ => random.Next(2) == 0).Select(type => (JsonNode)new JsonObject { ["value"] = Pick(random, Words), ["type"] = type }).ToArray();
        if (emails.Length > 0) user["emails"] = new JsonArray(emails);
        return user;
    }

    private static string Filter(Random random, int depth) => (depth == 0 ? 0 : random.Next(6)) switch
    {
        3 => $"({Filter(random, depth - 1)}) and ({Filter(random, depth - 1)})",
        4 => $"({Filter(random, depth - 1)}) or ({Filter(random, depth - 1)})",
        5 => $"not ({Filter(random, depth - 1)})",
        // One condition in brackets only: of several the other side lets each be met by another value, where the standard wants one value to meet all.
        2 => $"emails[{(random.Next(2) == 0 ? $"type eq \"{Pick(random, Types)}\"" : $"value {Pick(random, ["eq", "sw"])} \"{Pick(random, Words)}\"")}]",
        1 => $"{Pick(random, ["title", "name.familyName", "userName"])} {Pick(random, ["eq", "sw", "ew", "co"])} \"{Pick(random, Words)}\"",
        _ => random.Next(2) == 0 ? $"{Pick(random, ["title", "name", "emails"])} pr" : $"active eq {(random.Next(2) == 0 ? "true" : "false")}",
    };

    private static JsonObject Operation(Random random)
    {
        var operation = new JsonObject { ["op"] = Pick(random, ["add", "replace", "remove"]) };
        var isRemove = operation["op"]!.ToString() == "remove";
        switch (random.Next(4))
        {
            case 0:
                operation["path"] = "title";
                if (!isRemove) operation["value"] = Pick(random, Words);
                break;
            case 1:
                operation["path"] = "name.familyName";
                if (!isRemove) operation["value"] = Pick(random, Words);
                break;
            case 2:
                operation["path"] = $"emails[type eq \"{Pick(random, Types)}\"].value";
                operation["op"] = "replace";
                operation["value"] = Pick(random, Words);
                break;
            default:
                operation["op"] = "replace";
                operation["value"] = new JsonObject { ["title"] = Pick(random, Words), ["active"] = random.Next(2) == 0 };
                break;
        }

        return operation;
    }

    private static T Pick<T>(Random random, T[] items) => items[random.Next(items.Length)];
}
