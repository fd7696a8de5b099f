using System.Security.Claims;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.Rollouts;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;
using Relevo.Server.SignIn;

namespace Relevo.Server.Rollout;

/// <summary>How many computers stand where.</summary>
public sealed record RolloutTotals(int Waits, int OnItsWay, int InPlace, int Drifted, int Failed);

/// <summary>The running rollout, every computer, and the newest edition there is to roll out (0 before the first).</summary>
public sealed record RolloutAnswer(Data.Rollout? Rollout, int LatestEdition, RolloutTotals Totals, List<ComputerStanding> Computers);

/// <summary>Starts an edition.</summary>
public sealed record StartRolloutRequest(int Edition);

/// <summary>Adds a computer for a person.</summary>
public sealed record AddComputerRequest(string Name, Guid PersonId);

/// <summary>A new computer with its agent's token, shown this once and kept as a hash.</summary>
public sealed record AddComputerAnswer(Guid Id, string Token);

/// <summary>The Rollout leg.</summary>
public static class RolloutEndpoints
{
    private const int TokenBytes = 32; // 256 bits of randomness; guessing is out of the question

    /// <summary>Maps the endpoints.</summary>
    public static void MapRollout(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/rollout", ReadAsync).WithName("ReadRollout");
        routes.MapPost("/api/rollout", StartAsync).WithName("StartRollout");
        routes.MapPost("/api/computers", AddComputerAsync).WithName("AddComputer");
        routes.MapGet("/api/computers/{id:guid}/story", async (Guid id, RolloutStore rollouts, CancellationToken cancellationToken) =>
            TypedResults.Ok(await rollouts.StoryAsync(id, cancellationToken))).WithName("ReadComputerStory");
    }

    /// <summary>A new token as text, and its hash as it is kept.</summary>
    public static (string Token, byte[] Hash) NewToken()
    {
        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(TokenBytes));
        return (token, HashToken(token));
    }

    /// <summary>SHA-256 of a token; a fast hash is right for 256 random bits.</summary>
    public static byte[] HashToken(string token) => SHA256.HashData(Encoding.UTF8.GetBytes(token));

    private static async Task<Ok<RolloutAnswer>> ReadAsync(RolloutStore rollouts, EditionStore editions, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        var computers = (await rollouts.StandingsAsync(cancellationToken)).ConvertAll(computer => computer with { Person = roster.Find(computer.PersonId)?.Name ?? "" });
        int Count(DeliveryState state) => computers.Count(computer => computer.State == state);
        return TypedResults.Ok(new RolloutAnswer(
            await rollouts.CurrentAsync(cancellationToken),
            (await editions.LatestAsync(cancellationToken))?.Number ?? 0,
            new RolloutTotals(Count(DeliveryState.Waits), Count(DeliveryState.OnItsWay), Count(DeliveryState.InPlace), Count(DeliveryState.Drifted), Count(DeliveryState.Failed)),
            computers));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> StartAsync(
        StartRolloutRequest request, RolloutStore rollouts, EditionStore editions, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (await editions.FindAsync(request.Edition, cancellationToken) is null) return Problems.NotFound("edition");
        return await rollouts.StartAsync(request.Edition, user.Actor(), cancellationToken) is null
            ? Problems.Of(StatusCodes.Status409Conflict, "started-meanwhile", "Somebody else started a rollout in the same moment.", "Look at what is running before you start another.")
            : TypedResults.NoContent();
    }

    private static async Task<Results<Created<AddComputerAnswer>, ProblemHttpResult>> AddComputerAsync(
        AddComputerRequest request, ComputerStore computers, CurrentRoster rosters, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        var name = FieldValue.OneLine(request.Name);
        if (name.Length is 0 or > 200) return Problems.Invalid("The computer cannot be added like this.", [new Fault("/name", 0, "name-length", "A computer needs a name of 1 to 200 characters.")]);
        if ((await rosters.GetAsync(cancellationToken)).Find(request.PersonId)?.Person is not { IsRetired: false }) return Problems.NotFound("person");
        var (token, hash) = NewToken();
        var computer = new Computer(Guid.NewGuid(), name, request.PersonId);
        await computers.AddAsync(computer, hash, user.Actor(), cancellationToken);
        return TypedResults.Created($"/api/computers/{computer.Id}", new AddComputerAnswer(computer.Id, token));
    }
}
