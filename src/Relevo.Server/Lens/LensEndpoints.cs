using System.Collections.Immutable;
using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime.Text;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Server.Designs;
using Relevo.Server.Http;
using Relevo.Server.People;
using Relevo.Server.Rules;

namespace Relevo.Server.Lens;

/// <summary>One rule looked at, with its sentence.</summary>
public sealed record LensTraceStep(Track Track, int Number, Guid Rule, TraceOutcome Outcome, string Reason, ImmutableArray<ConditionTrace> Conditions, string Sentence);

/// <summary>A signature as a recipient would see it.</summary>
/// <param name="Html">The HTML fragment; its UTF-8 bytes are exactly the file's.</param>
/// <param name="Text">The plain text.</param>
/// <param name="HtmlSha256">SHA-256 of the HTML's bytes.</param>
/// <param name="TextSha256">SHA-256 of the text's bytes.</param>
/// <param name="Bytes">Bytes of the HTML.</param>
/// <param name="Pictures">Names of the pictures it refers to.</param>
/// <param name="Dark">Its text colours, each with what becomes of it where mail is shown dark.</param>
/// <param name="Marked">When asked for: the same HTML with rows that name their blocks, for an editor.</param>
public sealed record LensSignature(Guid Design, string Name, string Html, string Text, string HtmlSha256, string TextSha256, int Bytes, ImmutableArray<string> Pictures, ImmutableSortedDictionary<string, string> Dark, string? Marked)
{
    /// <summary>A rendered signature as an answer.</summary>
    public static LensSignature Of(Guid design, string name, RenderedSignature rendered) => new(
        design, name, Encoding.UTF8.GetString(rendered.Html.Span), Encoding.UTF8.GetString(rendered.Text.Span), rendered.HtmlSha256, rendered.TextSha256, rendered.Html.Length, rendered.Pictures,
        DarkMail.ColoursOf(Encoding.UTF8.GetString(rendered.Html.Span)), null);
}

/// <summary>
/// What the lens shows. Person is null while there is nobody; Signature is null when nothing is carried. Audiences: every key with what people read, in the order of the map.
/// Offered, Disclaimers and Banners: names.
/// </summary>
public sealed record LensAnswer(
    LensPerson? Person, string Address, Occasion Occasion, string Audience, string Client, string Moment, LensSignature? Signature, ImmutableArray<LensTraceStep> Trace,
    ImmutableArray<LensAudience> Audiences, ImmutableArray<string> Offered, ImmutableArray<string> Disclaimers, ImmutableArray<string> Banners);

/// <summary>An audience the lens can look through.</summary>
public sealed record LensAudience(string Key, string Name);

/// <summary>Whose signature is looked at.</summary>
public sealed record LensPerson(Guid Id, string Name, ImmutableArray<string> Addresses);

/// <summary>The lens: the one way from a situation to what is seen, on drafts.</summary>
public static class LensEndpoints
{
    /// <summary>Maps the lens for administrators.</summary>
    public static void MapLens(this IEndpointRouteBuilder routes) => routes.MapGet("/api/lens", LookAsync).WithName("LookThroughLens");

    private static async Task<Results<Ok<LensAnswer>, ProblemHttpResult>> LookAsync(
        CurrentRoster rosters, Drafts drafts, Situations situations, CurrentReach reach, CompiledDesigns compiled, PictureCuts cuts, CancellationToken cancellationToken,
        Guid? person = null, string? address = null, string occasion = "", string audience = "", string client = "", string moment = "", Guid? design = null, bool marked = false)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var content = await drafts.ReadAsync(cancellationToken);
        var situation = new AskedSituation(occasion, audience, client, moment);
        if (situations.Refuse(situation, content) is { } refusal) return refusal;
        ImmutableArray<LensAudience> audiences = [.. content.Audiences.Keys.Select(key => new LensAudience(key, content.Audiences.NameOf(key)!))];
        var row = person is { } id ? roster.Find(id) : roster.First();
        if (row is null && person is not null) return Problems.NotFound("person");
        if (row is null) return TypedResults.Ok(new LensAnswer(null, "", Occasion.New, Audiences.Outside, ClientKind.DeskApp.Kind, InstantPattern.General.Format(reach.Now), null, [], audiences, [], [], []));
        var read = situations.Read(situation, roster, row, address, content);
        if (design is { } asked && content.Find(asked) is null) return Problems.NotFound("design");
        var names = RuleEndpoints.Names(content, roster);
        var decision = Decision.Explain(content.RulesInForce(), roster.Records, read.Situation, names);
        var signature = (design ?? decision.Design) is { } chosen ? Render(content, chosen, roster.Records, read, decision, compiled, marked) : null;
        if (signature is not null) await cuts.EnsureAsync(signature.Pictures, cancellationToken);
        return TypedResults.Ok(new LensAnswer(
            new LensPerson(row.Person.Id, row.Name, [.. row.Person.Accounts.Select(candidate => candidate.Address)]), read.Account?.Address ?? "", read.Situation.Occasion, read.Situation.Audience, read.Kind.Kind,
            InstantPattern.General.Format(read.Situation.Moment), signature, Trace(content.Rules, decision, names), audiences,
            [.. (decision.Rule?.Then as CarryDesigns)?.Offered.Select(offered => names.Design(offered) ?? "a design that is gone") ?? []],
            [.. decision.Disclaimers.Select(disclaimer => names.Disclaimer(disclaimer) ?? "a disclaimer that is gone")],
            [.. decision.Banners.Where(show => content.FindBanner(show.Banner)?.IsRunning(read.Situation.Moment) == true).Select(show => names.Banner(show.Banner)!)]));
    }

    private static LensSignature? Render(EditionContent content, Guid design, CompanyRecords records, ReadSituation read, Decision decision, CompiledDesigns compiled, bool isMarked = false)
    {
        if (content.Find(design) is not { } document) return null;
        // Always as rich as a design can be: the tray shows the text form beside it, and which of them a client holds is its fitting's matter.
        var furnished = Signing.Furnish(document, content, records, read.Situation, decision, read.Values);
        var signature = LensSignature.Of(design, document.Name, compiled.Get(furnished, Signing.FormOf(ClientKind.DeskApp.Form, read.Situation, decision), records.Fields).Render(read.Values, read.Circumstances));
        if (!isMarked) return signature;
        return signature with { Marked = Encoding.UTF8.GetString(compiled.Get(furnished, ClientKind.DeskApp, records.Fields, marksBlocks: true).Render(read.Values, read.Circumstances).Html.Span) };
    }

    /// <summary>A decision's trace with the sentences of its rules.</summary>
    internal static ImmutableArray<LensTraceStep> Trace(RuleSet rules, Decision decision, RuleNames names) =>
        [.. decision.Trace.Select(step => new LensTraceStep(step.Track, step.Number, step.Rule, step.Outcome, step.Reason, step.Conditions, Sentence.Text(rules.On(step.Track)[step.Number - 1], names)))];
}
