using System.Collections.Immutable;
using System.Globalization;
using System.Security.Claims;
using System.Text;
using CsvHelper;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Rollout;

/// <summary>The counts of one client kind.</summary>
public sealed record KindCounts(string Kind, string Name, WaveCounts Counts);

/// <summary>A wave as the Rollout leg shows it. BeginsAt: when it will begin, as far as that is known. Kinds: its counts by client kind.</summary>
public sealed record WaveAnswer(WavePlan Plan, WaveState State, DateTimeOffset? OpenedAt, DateTimeOffset? EndedAt, DateTimeOffset? BeginsAt, WaveCounts Counts, ImmutableArray<KindCounts> Kinds);

/// <summary>A rollout as the leg shows it.</summary>
public sealed record RolloutStatus(long Id, int Edition, RolloutState State, string Note, DateTimeOffset StartedAt, string StartedBy, DateTimeOffset? EndedAt, ImmutableArray<WaveAnswer> Waves);

/// <summary>
/// Where everything stands. Rollout: the newest, or null before the first. Totals and Kinds: every client, whatever wave it is in. SecondsToGo: how long the clients that are still to
/// come will take, by how the last ones came; null when that is not known. HeldChanges: how many changes outside rollouts the brake holds.
/// </summary>
public sealed record RolloutAnswer(
    RolloutStatus? Rollout, int LatestEdition, int? SettledEdition, WaveCounts Totals, ImmutableArray<KindCounts> Kinds, int? SecondsToGo, int HeldChanges, ImmutableArray<Notice> Notices);

/// <summary>Starts a rollout.</summary>
public sealed record StartRolloutRequest(int Edition)
{
    /// <summary>Its waves, in order; none for one wave of everybody.</summary>
    public ImmutableArray<WavePlan> Waves { get; init; } = [];

    /// <summary>The rollout that goes on and is to end, or null when none is seen to go on.</summary>
    public long? InPlaceOf { get; init; }
}

/// <summary>Whom a wave would reach.</summary>
public sealed record WavePreview(string Name, int People, int Clients);

/// <summary>Whom a rollout would reach before it is started. Elsewhere: people in no wave, who keep what they have. Warnings: what is worth a second look.</summary>
public sealed record RolloutPreview(ImmutableArray<WavePreview> Waves, int Elsewhere, ImmutableArray<string> Warnings);

/// <summary>Another edition.</summary>
public sealed record RetargetRequest(int Edition);

/// <summary>Notices up to this one were seen.</summary>
public sealed record SeenRequest(long UpTo);

/// <summary>The Rollout leg.</summary>
public static class RolloutEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapRollout(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/rollout", ReadAsync).WithName("ReadRollout");
        routes.MapGet("/api/rollouts", async (RolloutStore rollouts, CancellationToken cancellationToken) => TypedResults.Ok(await rollouts.ListAsync(cancellationToken))).WithName("ListRollouts");
        routes.MapPost("/api/rollout", StartAsync).WithName("StartRollout");
        routes.MapPost("/api/rollout/preview", PreviewAsync).WithName("PreviewRollout");
        routes.MapPost("/api/rollouts/{id:long}/pause", (long id, RolloutStore rollouts, ClaimsPrincipal user, CancellationToken cancellationToken) => DoneAsync(rollouts.PauseAsync(id, user.Actor(), cancellationToken), "It does not run.")).WithName("PauseRollout");
        routes.MapPost("/api/rollouts/{id:long}/go-on", (long id, RolloutStore rollouts, ClaimsPrincipal user, CancellationToken cancellationToken) => DoneAsync(rollouts.GoOnAsync(id, user.Actor(), cancellationToken), "It is not paused.")).WithName("GoOnWithRollout");
        routes.MapPost("/api/rollouts/{id:long}/skip", (long id, RolloutStore rollouts, ClaimsPrincipal user, CancellationToken cancellationToken) => DoneAsync(rollouts.SkipAsync(id, user.Actor(), cancellationToken), "None of its waves is open.")).WithName("SkipWave");
        routes.MapPost("/api/rollouts/{id:long}/stop", (long id, RolloutStore rollouts, ClaimsPrincipal user, CancellationToken cancellationToken) => DoneAsync(rollouts.StopAsync(id, user.Actor(), cancellationToken), "It has ended.")).WithName("StopRollout");
        routes.MapPost("/api/rollouts/{id:long}/edition", RetargetAsync).WithName("RetargetRollout");
        routes.MapGet("/api/rollouts/{id:long}/progress", async (long id, RolloutStore rollouts, CancellationToken cancellationToken) => TypedResults.Ok(await rollouts.ProgressAsync(id, cancellationToken))).WithName("ReadRolloutProgress");
        routes.MapGet("/api/rollout/summary.csv", SummaryAsync).WithName("ExportRollout");
        routes.MapPost("/api/notices/seen", async (SeenRequest request, RolloutStore rollouts, CancellationToken cancellationToken) =>
        {
            await rollouts.SeeNoticesAsync(request.UpTo, cancellationToken);
            return TypedResults.NoContent();
        }).WithName("SeeNotices");
        routes.MapPost("/api/flow/let-go", async (ClientSettingsStore settings, ClaimsPrincipal user, CancellationToken cancellationToken) =>
        {
            await settings.LetGoAsync(user.Actor(), cancellationToken);
            return TypedResults.NoContent();
        }).WithName("LetHeldChangesGo");
    }

    private static async Task<Ok<RolloutAnswer>> ReadAsync(RolloutStore rollouts, DeliveryStore deliveries, EditionStore editions, ClientSettingsStore settings, TimeProvider clock, CancellationToken cancellationToken)
    {
        var rollout = await rollouts.NewestAsync(cancellationToken);
        var counts = await deliveries.CountAsync(rollout?.Id, RolloutWork.Limits, cancellationToken);
        var (said, _) = await settings.ReadAsync(cancellationToken);
        var status = rollout is null ? null : StatusOf(rollout, counts, said);
        var totals = RolloutWork.CountsOf(counts, said, false);
        var notices = await rollouts.NoticesAsync(cancellationToken);
        return TypedResults.Ok(new RolloutAnswer(
            status,
            (await editions.LatestAsync(cancellationToken))?.Number ?? 0,
            await rollouts.SettledEditionAsync(cancellationToken),
            totals,
            Kinds(counts, said, false),
            rollout is { EndedAt: null } ? ToGo(await rollouts.ProgressAsync(rollout.Id, cancellationToken), totals, clock.GetUtcNow()) : null,
            (await settings.BrakeAsync(cancellationToken)).Held,
            [.. notices.Where(notice => notice.SeenAt is null)]));
    }

    private static RolloutStatus StatusOf(Data.Rollout rollout, List<StandingCount> counts, ClientSettings said)
    {
        var waves = RolloutWork.StatusOf(rollout, counts, said);
        return new RolloutStatus(
            rollout.Id, rollout.Edition, rollout.State, rollout.Note, rollout.StartedAt, rollout.StartedBy, rollout.EndedAt,
            [
                .. waves.Select((wave, number) => new WaveAnswer(
                    wave.Plan, wave.State, wave.OpenedAt?.ToDateTimeOffset(), wave.EndedAt?.ToDateTimeOffset(),
                    wave.State == WaveState.Waits ? RolloutSteps.BeginsAt([.. waves], number)?.ToDateTimeOffset() : null,
                    wave.Counts,
                    Kinds(counts.Where(count => count.Wave == number), said, wave.State == WaveState.Waits))),
            ]);
    }

    private static ImmutableArray<KindCounts> Kinds(IEnumerable<StandingCount> counts, ClientSettings said, bool hasNotBegun) =>
        [.. from kind in ClientKind.All join count in counts on kind.Kind equals count.Kind into ofKind where ofKind.Any() select new KindCounts(kind.Kind, kind.Name, RolloutWork.CountsOf(ofKind, said, hasNotBegun))];

    /// <summary>By how many came in the last minutes; null when none did, or nobody is to come.</summary>
    private static int? ToGo(List<ProgressPoint> progress, WaveCounts now, DateTimeOffset at)
    {
        var left = now.Waits + now.OnItsWay;
        if (left == 0 || progress.FirstOrDefault(point => point.At > at.AddMinutes(-5)) is not { } from) return null;
        var (came, took) = (now.InPlace - from.InPlace, (at - from.At).TotalSeconds);
        return came > 0 && took > 1 ? (int)Math.Ceiling(left * took / came) : null;
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> StartAsync(
        StartRolloutRequest request, RolloutStore rollouts, EditionStore editions, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await editions.FindAsync(request.Edition, cancellationToken) is null) return Problems.NotFound("edition");
        var waves = request.Waves.IsEmpty ? Waves.Plain : request.Waves;
        if (Refuse(waves) is { } refusal) return refusal;
        var people = Waves.Assign(waves, await rosters.GetAsync(cancellationToken), Placing.Salt(request.Edition));
        return await rollouts.StartAsync(request.Edition, waves, people, request.InPlaceOf, user.Actor(), cancellationToken) is null
            ? Problems.Of(StatusCodes.Status409Conflict, "started-meanwhile", "A rollout goes on that you have not seen.", "Look at it; then stop it, or start yours in its place.")
            : TypedResults.NoContent();
    }

    private static async Task<Results<Ok<RolloutPreview>, ProblemHttpResult>> PreviewAsync(StartRolloutRequest request, DeliveryStore deliveries, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var waves = request.Waves.IsEmpty ? Waves.Plain : request.Waves;
        if (Refuse(waves) is { } refusal) return refusal;
        var roster = await rosters.GetAsync(cancellationToken);
        var assigned = Waves.Assign(waves, roster, Placing.Salt(request.Edition));
        var clients = await deliveries.CountByPersonAsync(cancellationToken);
        var active = new Dictionary<Guid, int>();
        foreach (var row in roster.Rows)
        {
            if (!row.Person.IsRetired) active[row.Person.Id] = assigned.GetValueOrDefault(row.Person.Id, -1);
        }

        var previews = waves.Select((wave, number) =>
        {
            var people = active.Where(pair => pair.Value == number).Select(pair => pair.Key).ToList();
            return new WavePreview(wave.Name, people.Count, people.Sum(person => clients.GetValueOrDefault(person)));
        }).ToImmutableArray();
        var elsewhere = active.Count(pair => pair.Value < 0);
        var warnings = new List<string>();
        for (var number = 0; number < waves.Length; number++)
        {
            // Asked alone, it says whom it would have if no earlier wave had them.
            var alone = Waves.Assign([waves[number]], roster, Placing.Salt(request.Edition)).Keys.Where(active.ContainsKey).ToList();
            var before = waves[number].People is EverybodyElse ? 0 : alone.Count(person => active[person] != number);
            if (previews[number].People == 0) warnings.Add(alone.Count == 0 ? $"Nobody is in the wave \"{waves[number].Name}\"; it passes as it begins." : $"Everybody of the wave \"{waves[number].Name}\" is in an earlier one; it passes as it begins.");
            else if (before > 0) warnings.Add($"{before} of the wave \"{waves[number].Name}\" are in an earlier one, which has them.");
        }

        if (elsewhere > 0) warnings.Add($"{elsewhere} people are in no wave and keep what they have.");
        return TypedResults.Ok(new RolloutPreview(previews, elsewhere, [.. warnings]));
    }

    private static ProblemHttpResult? Refuse(ImmutableArray<WavePlan> waves) => Waves.Check(waves) is { IsEmpty: false } problems
        ? Problems.Invalid("The waves cannot be started like this.", problems.Select(problem => new Fault(problem.Pointer, 0, problem.Code, problem.Message)))
        : null;

    private static async Task<Results<NoContent, ProblemHttpResult>> RetargetAsync(long id, RetargetRequest request, RolloutStore rollouts, EditionStore editions, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await editions.FindAsync(request.Edition, cancellationToken) is null) return Problems.NotFound("edition");
        return await DoneAsync(rollouts.RetargetAsync(id, request.Edition, user.Actor(), cancellationToken), "It has ended.");
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> DoneAsync(Task<bool> change, string otherwise) => await change
        ? TypedResults.NoContent()
        : Problems.Of(StatusCodes.Status409Conflict, "rollout-elsewhere", "The rollout is not where that could be done.", otherwise + " Load the page again to see where it stands.");

    private static async Task<IResult> SummaryAsync(RolloutStore rollouts, DeliveryStore deliveries, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var rollout = await rollouts.NewestAsync(cancellationToken);
        var roster = await rosters.GetAsync(cancellationToken);
        var text = new StringBuilder();
        await using (var csv = new CsvWriter(new StringWriter(text, CultureInfo.InvariantCulture), CultureInfo.InvariantCulture))
        {
            foreach (var title in new[] { "person", "client kind", "client", "edition", "wave", "state", "differs", "trouble", "in place since", "last heard of" }) csv.WriteField(title);
            await csv.NextRecordAsync();
            foreach (var row in await deliveries.ListAsync("", "", null, rollout?.Id, null, 0, int.MaxValue, RolloutWork.Limits, cancellationToken))
            {
                csv.WriteField(Plain(roster.Find(row.PersonId)?.Name ?? ""));
                csv.WriteField(row.Kind);
                csv.WriteField(Plain(row.Client));
                csv.WriteField(row.Edition);
                csv.WriteField(row.Wave is { } wave && rollout is not null ? Plain(rollout.Waves[wave].Plan.Name) : "");
                csv.WriteField(row.IsSilent && row.State is not (DeliveryState.Failed or DeliveryState.Drifted) ? "silent" : DeliveryStore.Text(row.State));
                csv.WriteField(string.Join("; ", row.Differing));
                csv.WriteField(Plain(row.Trouble));
                csv.WriteField(row.FirstInPlaceAt?.ToString("O", CultureInfo.InvariantCulture));
                csv.WriteField(row.LastSeenAt?.ToString("O", CultureInfo.InvariantCulture));
                await csv.NextRecordAsync();
            }
        }

        return Results.File(Encoding.UTF8.GetBytes(text.ToString()), "text/csv; charset=utf-8", $"relevo-rollout-{rollout?.Edition ?? 0}.csv");
    }

    /// <summary>A spreadsheet takes what begins like this for a formula; with an apostrophe before it, it is text. Common practice.</summary>
    private static string Plain(string text) => text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal) ? "'" + text : text;
}
