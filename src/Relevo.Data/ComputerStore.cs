using Npgsql;
using Relevo.Core.Rollouts;

namespace Relevo.Data;

/// <summary>A computer with an agent, and whose it is.</summary>
public sealed record Computer(Guid Id, string Name, Guid PersonId);

/// <summary>What one asking agent needs beside its person, read in one round trip.</summary>
/// <param name="Computer">The computer.</param>
/// <param name="Rollout">The running rollout, or null before the first.</param>
/// <param name="Edition">Its edition.</param>
/// <param name="Standing">Where the computer stands in it.</param>
public sealed record AgentContext(Computer Computer, long? Rollout, int Edition, DeliveryStanding Standing);

/// <summary>Computers and the tokens of their agents, kept as SHA-256 hashes.</summary>
public sealed class ComputerStore(NpgsqlDataSource database)
{
    /// <summary>Adds a computer. tokenHash: SHA-256 of the agent's token.</summary>
    public async Task AddAsync(Computer computer, byte[] tokenHash, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "insert into computer (id, name, person_id, token_hash) values ($1, $2, $3, $4)", [computer.Id, computer.Name, computer.PersonId, tokenHash], cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into delivery (rollout_id, computer_id) select id, $1 from rollout where ended_at is null
            """,
            [computer.Id],
            cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("computer added", "computer", computer.Id.ToString(), null, $$"""{"personId":"{{computer.PersonId}}"}"""), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>How many computers there are.</summary>
    public async Task<int> CountAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select count(*)::int from computer where retired_at is null", [], row => row.GetInt32(0), cancellationToken);
    }

    /// <summary>Everything needed to serve the agent with this token, or null when no computer has it.</summary>
    public async Task<AgentContext?> FindByTokenAsync(byte[] tokenHash, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            """
            select computer.id, computer.name, computer.person_id, rollout.id, coalesce(rollout.edition, 0),
                coalesce(delivery.state, 'waits'), coalesce(delivery.wanted_tag, ''), coalesce(delivery.differing, '{}'), coalesce(delivery.trouble, '')
            from computer
            left join rollout on rollout.ended_at is null
            left join delivery on delivery.rollout_id = rollout.id and delivery.computer_id = computer.id
            where computer.token_hash = $1 and computer.retired_at is null
            """,
            [tokenHash],
            ReadContext,
            cancellationToken);
    }

    /// <summary>Notes that an agent asked; at most once in ten seconds, so that polls stay reads.</summary>
    public async Task SeenAsync(Guid computer, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "update computer set last_seen_at = now() where id = $1 and (last_seen_at is null or last_seen_at < now() - interval '10 seconds')", [computer], cancellationToken);
    }

    private static AgentContext ReadContext(NpgsqlDataReader row) =>
        new(new Computer(row.GetGuid(0), row.GetString(1), row.GetGuid(2)), row.Maybe<long?>(3), row.GetInt32(4), RolloutStore.ReadStanding(row, 5));
}
