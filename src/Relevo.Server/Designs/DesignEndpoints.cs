using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Designs;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Designs;

/// <summary>A design in the list. Set: the set it belongs to, or empty. IsEdited: it differs from the latest edition. RuleNumbers: the rules that name it.</summary>
public sealed record DesignRow(Guid Id, string Name, string Set, int Revision, bool IsEdited, ImmutableArray<int> RuleNumbers);

/// <summary>A design to edit.</summary>
public sealed record DesignAnswer(Guid Id, int Revision, DesignDocument Document);

/// <summary>A starter to choose.</summary>
public sealed record StarterAnswer(string Key, string Name, string Purpose);

/// <summary>Opens a starter as a design of one's own.</summary>
public sealed record OpenStarterRequest(string Starter, string Name);

/// <summary>Copies a set with all its designs.</summary>
public sealed record CopySetRequest(string Set);

/// <summary>The Designs leg.</summary>
public static class DesignEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapDesigns(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/starters", () => TypedResults.Ok(Starter.All.Select(starter => new StarterAnswer(starter.Key, starter.Name, starter.Purpose)).ToArray())).WithName("ListStarters");
        routes.MapGet("/api/font-stacks", () => TypedResults.Ok(Theme.FontStacks.ToArray())).WithName("ListFontStacks");
        routes.MapGet("/api/designs", ListAsync).WithName("ListDesigns");
        routes.MapPost("/api/designs", OpenAsync).WithName("OpenStarter");
        routes.MapGet("/api/designs/{id:guid}", FindAsync).WithName("ReadDesign");
        routes.MapPost("/api/designs/{id:guid}/editors", MeetEditorsAsync).WithName("MeetEditors");
        routes.MapPost("/api/designs/{id:guid}/copies", CopyAsync).WithName("CopyDesign");
        routes.MapGet("/api/design-sets", ListSetsAsync).WithName("ListDesignSets");
        routes.MapPost("/api/design-sets/copies", CopySetAsync).WithName("CopyDesignSet");
        routes.MapGet("/api/designs/{id:guid}/in-the-build-of/{starter}", RearrangeAsync).WithName("RearrangeDesign");
        routes.MapPut("/api/designs/{id:guid}", SaveAsync).Accepts<DesignDocument>("application/json").WithName("SaveDesign");
    }

    private static async Task<Ok<List<DesignRow>>> ListAsync(DesignStore designs, Drafts drafts, EditionStore editions, CancellationToken cancellationToken)
    {
        var content = await drafts.ReadAsync(cancellationToken);
        var latest = await editions.LatestAsync(cancellationToken) is { } head ? await editions.FindAsync(head.Number, cancellationToken) : null;
        var rows = (await designs.ListAsync(cancellationToken)).Select(design =>
        {
            var document = content.Find(design.Id)!;
            var rules = content.Rules.Signature.Select((rule, index) => (rule, number: index + 1)).Where(pair => pair.rule.Then.AllDesigns.Contains(design.Id)).Select(pair => pair.number);
            return new DesignRow(design.Id, document.Name, document.Set, design.Revision, latest?.Find(design.Id)?.ToJson() != document.ToJson(), [.. rules]);
        });
        return TypedResults.Ok(rows.ToList());
    }

    private static async Task<Results<Ok<DesignAnswer>, ProblemHttpResult>> FindAsync(Guid id, DesignStore designs, HttpContext context, CancellationToken cancellationToken)
    {
        if (await designs.FindAsync(id, cancellationToken) is not { } design) return Problems.NotFound("design");
        Revision.Show(context, design.Revision);
        return TypedResults.Ok(new DesignAnswer(design.Id, design.Revision, Drafts.ReadDesign(design)));
    }

    private static async Task<Results<Created<DesignAnswer>, ProblemHttpResult>> OpenAsync(
        OpenStarterRequest request, DesignStore designs, PictureStore pictures, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (Starter.All.FirstOrDefault(candidate => candidate.Key == request.Starter) is not { } starter) return Problems.NotFound("starter");
        var library = await pictures.ListAsync(cancellationToken);
        var document = starter.Open(request.Name.Trim(), LogoOf(library));
        var problems = DesignCheck.Check(document, (await rosters.GetAsync(cancellationToken)).Records.Fields, library.Select(picture => picture.Sha256).ToHashSet());
        if (!problems.IsEmpty) return Problems.Invalid("The design cannot be made like this.", problems.Select(Fault));
        var id = Guid.NewGuid();
        await designs.AddAsync(id, document.ToJson(), user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/designs/{id}", new DesignAnswer(id, 1, document));
    }

    /// <summary>Said by an editor every few seconds while a design is open; answers who else has it open.</summary>
    private static async Task<Results<Ok<ImmutableArray<string>>, ProblemHttpResult>> MeetEditorsAsync(Guid id, DesignStore designs, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var within = TimeSpan.FromSeconds(25); // two of the editor's sayings and a little
        return await designs.MeetEditorsAsync(id, user.UserId(), user.Actor().Name, within, cancellationToken) is { } others ? TypedResults.Ok(others.ToImmutableArray()) : Problems.NotFound("design");
    }

    /// <summary>The design with a starter's build and its own content; for the editor to keep or not.</summary>
    private static async Task<Results<Ok<DesignDocument>, ProblemHttpResult>> RearrangeAsync(Guid id, string starter, DesignStore designs, PictureStore pictures, CancellationToken cancellationToken)
    {
        if (await designs.FindAsync(id, cancellationToken) is not { } design) return Problems.NotFound("design");
        if (Starter.All.FirstOrDefault(candidate => candidate.Key == starter) is not { } wanted) return Problems.NotFound("starter");
        var document = Drafts.ReadDesign(design);
        return TypedResults.Ok(Rearrangement.Of(document, wanted.Open(document.Name, LogoOf(await pictures.ListAsync(cancellationToken)))));
    }

    /// <summary>The company's own logo comes after the shipped one; in a signature it is as wide as common practice has it.</summary>
    private static StarterLogo LogoOf(List<PictureHead> library)
    {
        const int widest = 100; // pixels
        var logo = library[^1];
        var scale = Math.Min(1.0, (double)widest / Math.Max(logo.Width, logo.Height));
        return new StarterLogo(logo.Sha256, Math.Max(1, (int)Math.Round(logo.Width * scale)), Math.Max(1, (int)Math.Round(logo.Height * scale)), logo.Name, "");
    }

    /// <summary>The design a second time, under a name that no other has. No rule names it yet.</summary>
    private static async Task<Results<Created<DesignAnswer>, ProblemHttpResult>> CopyAsync(Guid id, DesignStore designs, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await designs.FindAsync(id, cancellationToken) is not { } design) return Problems.NotFound("design");
        var names = (await designs.ListAsync(cancellationToken)).Select(other => Drafts.ReadDesign(other).Name).ToArray();
        var document = Drafts.ReadDesign(design);
        var copy = document with { Name = DesignSet.CopyName(document.Name, names) };
        var made = Guid.NewGuid();
        await designs.AddAsync(made, copy.ToJson(), user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/designs/{made}", new DesignAnswer(made, 1, copy));
    }

    private static async Task<Ok<ImmutableArray<DesignSet>>> ListSetsAsync(DesignStore designs, CancellationToken cancellationToken) =>
        TypedResults.Ok(DesignSet.Of((await designs.ListAsync(cancellationToken)).Select(design => (design.Id, Drafts.ReadDesign(design)))));

    private static async Task<Results<Created<DesignSet>, ProblemHttpResult>> CopySetAsync(CopySetRequest request, DesignStore designs, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var all = (await designs.ListAsync(cancellationToken)).Select(Drafts.ReadDesign).ToArray();
        if (DesignSet.Copy(request.Set, all, [.. all.Select(design => design.Name)], [.. all.Select(design => design.Set)]) is not { IsEmpty: false } copies) return Problems.NotFound("set");
        var made = copies.Select(copy => (Id: Guid.NewGuid(), Draft: copy.ToJson())).ToArray();
        await designs.AddAllAsync(made, user.Actor(), cancellationToken);
        return TypedResults.Created("/api/design-sets", new DesignSet(copies[0].Set, copies[0].Theme, [.. made.Select(one => one.Id)]));
    }

    private static async Task<IResult> SaveAsync(Guid id, HttpContext context, DesignStore designs, PictureStore pictures, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (!Revision.TryReadSeen(context, out var seen, out var refusal)) return refusal!;
        if (await Body.ReadTextAsync(context.Request, cancellationToken) is not { } json) return Body.TooLarge();
        var reading = DesignDocument.Restore(json);
        if (reading.Document is not { } document) return Problems.Invalid("The design cannot be read.", reading.Problems.Select(Fault));
        var library = (await pictures.ListAsync(cancellationToken)).Select(picture => picture.Sha256).ToHashSet();
        if (DesignCheck.Check(document, (await rosters.GetAsync(cancellationToken)).Records.Fields, library) is { IsEmpty: false } problems)
            return Problems.Invalid("The design has faults and was not saved.", problems.Select(Fault));
        var others = (await designs.ListAsync(cancellationToken)).Select(design => (design.Id, Design: Drafts.ReadDesign(design))).ToLookup(pair => pair.Id == id);
        if (others[true].FirstOrDefault().Design is { } before && DesignSet.CheckJoining(before, document, DesignSet.Of(others[false])) is { } problem)
            return Problems.Invalid("The design has faults and was not saved.", [Fault(problem)]);
        switch (await designs.SaveAsync(id, seen, document.ToJson(), other => DesignSet.Follow(document, DesignDocument.Restore(other).Document!)?.ToJson(), user.Actor(), cancellationToken))
        {
            case SaveOutcome.Saved:
                Revision.Show(context, seen + 1);
                return TypedResults.NoContent();
            case SaveOutcome.NotFound:
                return Problems.NotFound("design");
            default:
                return Problems.LostUpdate("design");
        }
    }

    private static Fault Fault(DesignProblem problem) => new(problem.Pointer, 0, problem.Code, problem.Message);
}
