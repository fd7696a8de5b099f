using System.Collections.Immutable;
using System.Security.Claims;
using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.Rules;

namespace Relevo.Server.Designs;

/// <summary>A banner to edit. State: "running", "ahead" or "over" at this moment. UsedBy: numbers of the rules that show it.</summary>
public sealed record BannerRow(Guid Id, int Revision, bool IsEdited, Banner Document, string State, ImmutableArray<int> UsedBy);

/// <summary>A banner as it is drawn, in HTML and in text.</summary>
public sealed record DrawnBanner(BannerLayout Layout, string Html, string Text);

/// <summary>When a banner runs, for the calendar: days of the asked months on which it runs at some time of the day, and for whom, as a sentence for each rule that shows it.</summary>
public sealed record BannerRun(Guid Banner, string Name, ImmutableArray<string> Days, ImmutableArray<string> For);

/// <summary>Banners.</summary>
public static class BannerEndpoints
{
    private const int DefaultWidth = 400, MostDays = 400;

    /// <summary>Maps the endpoints.</summary>
    public static void MapBanners(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/banners", ListAsync).WithName("ListBanners");
        routes.MapPost("/api/banners", AddAsync).WithName("AddBanner");
        routes.MapGet("/api/banners/{id:guid}", FindAsync).WithName("ReadBanner");
        routes.MapPut("/api/banners/{id:guid}", SaveAsync).WithName("SaveBanner");
        routes.MapDelete("/api/banners/{id:guid}", RemoveAsync).WithName("RemoveBanner");
        routes.MapPost("/api/banners/drawn", DrawAsync).WithName("DrawBanner");
        routes.MapGet("/api/banners/calendar", CalendarAsync).WithName("ReadBannerCalendar");
    }

    private static async Task<Ok<List<BannerRow>>> ListAsync(Documents documents, Drafts drafts, EditionStore editions, CurrentReach reach, CancellationToken cancellationToken)
    {
        var latest = await editions.LatestAsync(cancellationToken) is { } head ? await editions.FindAsync(head.Number, cancellationToken) : null;
        var rules = await drafts.ReadRulesAsync(cancellationToken);
        return TypedResults.Ok((await documents.ListAsync<Banner>(DocumentKind.Banner, cancellationToken)).Select(one =>
            new BannerRow(one.Id, one.Revision, !Documents.IsSame(latest?.FindBanner(one.Id), one.Document), one.Document, State(one.Document, reach.Now), UsedBy(rules, one.Id))).ToList());
    }

    private static async Task<Results<Ok<BannerRow>, ProblemHttpResult>> FindAsync(Guid id, Documents documents, Drafts drafts, CurrentReach reach, HttpContext context, CancellationToken cancellationToken) =>
        await documents.FindAsync<Banner>(DocumentKind.Banner, id, context, cancellationToken) is { } one
            ? TypedResults.Ok(new BannerRow(id, one.Revision, true, one.Document, State(one.Document, reach.Now), UsedBy(await drafts.ReadRulesAsync(cancellationToken), id)))
            : Problems.NotFound("banner");

    private static async Task<Results<Created<BannerRow>, ProblemHttpResult>> AddAsync(Banner document, Documents documents, PictureStore pictures, CurrentReach reach, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(document, pictures, cancellationToken) is { } refusal) return refusal;
        var id = await documents.AddAsync(DocumentKind.Banner, document, user, cancellationToken);
        return TypedResults.Created($"/api/banners/{id}", new BannerRow(id, 1, true, document, State(document, reach.Now), []));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SaveAsync(Guid id, Banner document, HttpContext context, Documents documents, PictureStore pictures, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await RefuseAsync(document, pictures, cancellationToken) is { } refusal) return refusal;
        return await documents.SaveAsync(DocumentKind.Banner, id, document, context, user, cancellationToken);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(Guid id, HttpContext context, Documents documents, Drafts drafts, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        UsedBy(await drafts.ReadRulesAsync(cancellationToken), id) is [_, ..] rules
            ? Documents.InUse("banner", rules)
            : await documents.SaveAsync<Banner>(DocumentKind.Banner, id, null, context, user, cancellationToken);

    /// <summary>The banner in every layout that needs no picture, or its own, in the theme of the first design.</summary>
    private static async Task<Results<Ok<List<DrawnBanner>>, ProblemHttpResult>> DrawAsync(Banner document, Drafts drafts, PictureStore pictures, PictureCuts cuts, CompiledDesigns compiled, CurrentRoster rosters, CancellationToken cancellationToken, int width = DefaultWidth)
    {
        if (await RefuseAsync(document, pictures, cancellationToken) is { } refusal) return refusal;
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        var theme = (await drafts.ReadAsync(cancellationToken)).Designs.FirstOrDefault()?.Document.Theme ?? Starter.All[0].Open("", new StarterLogo(new string('0', 64), 1, 1, "none", "")).Theme;
        var layouts = document.Layout == BannerLayout.Picture ? [BannerLayout.Picture] : Enum.GetValues<BannerLayout>().Where(layout => layout != BannerLayout.Picture);
        var drawn = new List<DrawnBanner>();
        foreach (var layout in layouts)
        {
            var (root, blocks) = (document with { Layout = layout }).Draw("banner", Math.Clamp(width, 100, 800), document.Link, theme);
            var design = new DesignDocument("banner", theme, root, blocks.ToImmutableSortedDictionary(StringComparer.Ordinal));
            var rendered = compiled.Get(design, ClientKind.DeskApp.Form with { HasTextSeparator = false }, fields).Render(new Core.People.FieldValue[fields.Fields.Length], Circumstances.Plain);
            await cuts.EnsureAsync(rendered.Pictures, cancellationToken);
            drawn.Add(new DrawnBanner(layout, Encoding.UTF8.GetString(rendered.Html.Span), Encoding.UTF8.GetString(rendered.Text.Span)));
        }

        return TypedResults.Ok(drawn);
    }

    /// <summary>What runs when, and for whom. from and until: days as 2026-12-01, the last one included; days are those of UTC, sampled by the hour.</summary>
    private static async Task<Results<Ok<List<BannerRun>>, ProblemHttpResult>> CalendarAsync(string from, string until, Drafts drafts, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        if (!DateOnly.TryParseExact(from, "yyyy-MM-dd", out var first) || !DateOnly.TryParseExact(until, "yyyy-MM-dd", out var last) || last < first || last.DayNumber - first.DayNumber > MostDays)
            return Problems.Of(StatusCodes.Status400BadRequest, "days-form", "These are not days from one to another.", $"Write them as 2026-12-01; at most {MostDays} days are shown.");
        var content = await drafts.ReadAsync(cancellationToken);
        var names = RuleEndpoints.Names(content, await rosters.GetAsync(cancellationToken));
        return TypedResults.Ok(content.Banners.Select(banner => new BannerRun(
            banner.Id, banner.Document.Name,
            [.. Enumerable.Range(0, last.DayNumber - first.DayNumber + 1).Select(first.AddDays).Where(day => Enumerable.Range(0, 24).Any(hour => banner.Document.IsRunning(Instant.FromUtc(day.Year, day.Month, day.Day, hour, 0)))).Select(day => day.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture))],
            [.. content.Rules.Banner.Where(rule => rule.IsOn && rule.Then is ShowBanner show && show.Banner == banner.Id).Select(rule => Sentence.Text(rule, names))])).ToList());
    }

    private static string State(Banner banner, Instant now) =>
        banner.Runs is null || !TimeWindow.TryRead(banner.Runs, out var window, out _) || window.Holds(now) ? "running" : window.IsOver(now) ? "over" : window.IsAhead(now) ? "ahead" : "resting";

    private static ImmutableArray<int> UsedBy(RuleSet rules, Guid id) =>
        [.. rules.Banner.Select((rule, index) => (rule, number: index + 1)).Where(pair => pair.rule.Then is ShowBanner show && show.Banner == id).Select(pair => pair.number)];

    private static async Task<ProblemHttpResult?> RefuseAsync(Banner document, PictureStore pictures, CancellationToken cancellationToken) =>
        Documents.Refuse("banner", document.Check((await pictures.ListAsync(cancellationToken)).Select(picture => picture.Sha256).ToHashSet()));
}
