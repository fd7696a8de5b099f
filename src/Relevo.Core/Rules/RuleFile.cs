using System.Collections.Immutable;
using Relevo.Core.Editions;

namespace Relevo.Core.Rules;

/// <summary>What a rule file calls things by name, because ids mean nothing elsewhere.</summary>
public sealed record RuleFileNames(ImmutableSortedDictionary<string, string> Designs, ImmutableSortedDictionary<string, string> Disclaimers, ImmutableSortedDictionary<string, string> Banners);

/// <summary>Rules and audiences as a file. Things that rules name are in it by id with their names; taken in elsewhere, they are found by id or, failing that, by name.</summary>
/// <param name="Format">Always <see cref="FormatName"/>.</param>
/// <param name="Rules">The rules.</param>
/// <param name="Audiences">The audiences.</param>
/// <param name="Names">Names of the designs, disclaimers and banners that the rules name, by id.</param>
public sealed record RuleFile(string Format, RuleSet Rules, AudienceBook Audiences, RuleFileNames Names)
{
    /// <summary>What <see cref="Format"/> says.</summary>
    public const string FormatName = "relevo-rules-1";

    /// <summary>The rules and audiences of a state.</summary>
    public static RuleFile Of(EditionContent content)
    {
        var rules = content.Rules.Signature.Concat(content.Rules.Disclaimer).Concat(content.Rules.Banner).ToArray();
        ImmutableSortedDictionary<string, string> Named(IEnumerable<Guid> ids, Func<Guid, string?> name) => ids.Distinct().Where(id => name(id) is not null).ToImmutableSortedDictionary(id => id.ToString(), id => name(id)!, StringComparer.Ordinal);
        return new RuleFile(FormatName, content.Rules, content.Audiences, new RuleFileNames(
            Named(rules.SelectMany(rule => rule.Then.AllDesigns).Concat(content.Rules.Tests.SelectMany(test => test.Designs)), id => content.Find(id)?.Name),
            Named(rules.SelectMany(rule => rule.Then is AddDisclaimers add ? add.Disclaimers : []), id => content.FindDisclaimer(id)?.Name),
            Named(rules.Select(rule => rule.Then).OfType<ShowBanner>().Select(show => show.Banner), id => content.FindBanner(id)?.Name)));
    }

    /// <summary>The rules with the ids that things have here, and what could not be found.</summary>
    public (RuleSet Rules, ImmutableArray<RuleProblem> Problems) Resolve(EditionContent here)
    {
        if (Format != FormatName) return (Rules, [new("/format", "format-unknown", $"This is not a file of rules: its format is not \"{FormatName}\".")]);
        var problems = ImmutableArray.CreateBuilder<RuleProblem>();
        Guid Find(Guid id, IEnumerable<(Guid Id, string Name)> known, ImmutableSortedDictionary<string, string> names, string what)
        {
            var all = known.ToArray();
            if (all.Any(one => one.Id == id)) return id;
            var name = names.GetValueOrDefault(id.ToString(), "");
            if (all.FirstOrDefault(one => one.Name == name) is { Name: not null } found) return found.Id;
            problems.Add(new("/names", $"{what}-missing", $"There is no {what} {(name.Length > 0 ? $"called \"{name}\"" : id)} here."));
            return id;
        }

        Guid Design(Guid id) => Find(id, here.Designs.Select(one => (one.Id, one.Document.Name)), Names.Designs, "design");
        Guid Disclaimer(Guid id) => Find(id, here.Disclaimers.Select(one => (one.Id, one.Document.Name)), Names.Disclaimers, "disclaimer");
        Rule Here(Rule rule) => rule with
        {
            Then = rule.Then switch
            {
                CarryDesigns carry => carry with { Designs = [.. carry.Designs.Select(Design)], Offered = [.. carry.Offered.Select(Design)] },
                AddDisclaimers add => new AddDisclaimers([.. add.Disclaimers.Select(Disclaimer)]),
                ShowBanner show => show with { Banner = Find(show.Banner, here.Banners.Select(one => (one.Id, one.Document.Name)), Names.Banners, "banner") },
                var other => other,
            },
        };
        var rules = new RuleSet([.. Rules.Signature.Select(Here)])
        {
            Disclaimer = [.. Rules.Disclaimer.Select(Here)],
            Banner = [.. Rules.Banner.Select(Here)],
            Tests = [.. Rules.Tests.Select(test => test with { Designs = [.. test.Designs.Select(Design)], Disclaimers = test.Disclaimers is { } expected ? [.. expected.Select(Disclaimer)] : null })],
        };
        return (rules, [.. problems.Distinct()]);
    }

    /// <summary>The published JSON Schema of a file. Source: JSON Schema 2020-12.</summary>
    public static string Schema() => RelevoJson.Schema(typeof(RuleFile), "Rules and audiences of Relevo", FormatName);
}
