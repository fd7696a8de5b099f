using System.Text.Json;
using System.Text.Json.Nodes;

namespace Relevo.Core.Rules;

/// <summary>Reads rules that were kept, those of earlier versions too. Editions are never rewritten, so what they hold is understood for ever.</summary>
public static class RuleReading
{
    /// <summary>A kept rule set.</summary>
    public static RuleSet Read(string json)
    {
        var rules = JsonNode.Parse(json);
        Upgrade(rules);
        return rules.Deserialize<RuleSet>(RelevoJson.Options) ?? throw new JsonException("The rule set is empty.");
    }

    /// <summary>Turns rules of the first form, which named a design or null, into the present one.</summary>
    internal static void Upgrade(JsonNode? rules)
    {
        if (rules?["signature"] is not JsonArray signature) return;
        foreach (var rule in signature.OfType<JsonObject>().Where(rule => !rule.ContainsKey("then") && rule.ContainsKey("design")))
        {
            rule["then"] = rule["design"] is { } design ? new JsonObject { ["kind"] = "designs", ["designs"] = new JsonArray(design.DeepClone()) } : new JsonObject { ["kind"] = "nothing" };
            rule.Remove("design");
        }
    }
}
