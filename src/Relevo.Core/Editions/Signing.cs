using System.Collections.Immutable;
using Relevo.Core.Designs;
using Relevo.Core.Particulars;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Editions;

/// <summary>What a message carries, decided and put together. The lens, the proof, agents and every later door use this and nothing else.</summary>
public static class Signing
{
    /// <summary>The design of a decision with the disclaimers and banners it adds; null when the message carries no signature or names a design that is gone.</summary>
    public static DesignDocument? Furnish(EditionContent content, CompanyRecords records, Situation situation, Decision decision, ReadOnlySpan<FieldValue> values) =>
        decision.Design is { } design && content.Find(design) is { } document ? Furnish(document, content, records, situation, decision, values) : null;

    /// <summary>A design, whichever it is, with the disclaimers and banners of a decision.</summary>
    public static DesignDocument Furnish(DesignDocument design, EditionContent content, CompanyRecords records, Situation situation, Decision decision, ReadOnlySpan<FieldValue> values) =>
        Furnishing.Furnish(design, Disclaimers(content, records, situation, decision), Banners(content, situation, decision), records.Fields, values);

    /// <summary>The form a signature is written in: in an answer without the separator line where its rule says so.</summary>
    public static RenderingForm FormOf(RenderingForm form, Situation situation, Decision decision) => HasSeparator(situation, decision) ? form : form with { HasTextSeparator = false };

    /// <summary>False for an answer whose rule wants it without the separator line.</summary>
    public static bool HasSeparator(Situation situation, Decision decision) => situation.Occasion == Occasion.New || decision.Rule?.Then is not CarryDesigns { HasSeparator: false };

    /// <summary>The disclaimers of a decision that are valid at the moment, in the languages of this message.</summary>
    public static ImmutableArray<PlacedDisclaimer> Disclaimers(EditionContent content, CompanyRecords records, Situation situation, Decision decision)
    {
        if (decision.Disclaimers.IsEmpty) return [];
        var person = situation.Sender.Value(Conditions.FieldOf("language", records));
        var audience = content.Audiences.Find(situation.Audience)?.Language ?? "";
        var organisation = situation.Sender.Value(Conditions.FieldOf("organisation", records));
        var facts = EntityFacts.Of(records, organisation);
        return
        [
            .. from id in decision.Disclaimers
               let disclaimer = content.FindDisclaimer(id)
               where disclaimer is not null && (disclaimer.Valid is null || (TimeWindow.TryRead(disclaimer.Valid, out var window, out _) && window.Holds(situation.Moment)))
               select new PlacedDisclaimer(
                   disclaimer.HasParticulars ? ParticularsScheme.For(facts("country")).Write(facts) : "",
                   [.. disclaimer.LanguagesFor(person, audience).Select(language => disclaimer.Texts[language])]),
        ];
    }

    /// <summary>The banners of a decision that run at the moment.</summary>
    public static ImmutableArray<PlacedBanner> Banners(EditionContent content, Situation situation, Decision decision) =>
    [
        .. from show in decision.Banners
           let banner = content.FindBanner(show.Banner)
           where banner is not null && banner.IsRunning(situation.Moment)
           select new PlacedBanner(banner, show.Link.Length > 0 ? show.Link : banner.Link),
    ];
}
