using System.Collections.Immutable;
using System.Text.Json;
using Npgsql;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;

namespace Relevo.Data;

/// <summary>How clients of a kind are treated.</summary>
/// <param name="Caution">Which situation decides what goes into a slot that covers several.</param>
/// <param name="Fixed">What is done about drift where the person may not choose otherwise.</param>
/// <param name="Open">And where the person may.</param>
public sealed record KindSettings(Caution Caution, DriftAnswer Fixed, DriftAnswer Open)
{
    /// <summary>Outside and new messages decide; drift is put right at once, and left to those who may choose.</summary>
    public static KindSettings Standard { get; } = new(Caution.Standard, DriftAnswer.AtOnce, DriftAnswer.Leave);

    /// <summary>What is done about drift. isFixed: the person may not choose otherwise.</summary>
    public DriftAnswer AnswerTo(bool isFixed) => isFixed ? Fixed : Open;
}

/// <summary>How clients are treated: by kind, and how what changes reaches them.</summary>
public sealed record ClientSettings(ImmutableSortedDictionary<string, KindSettings> Kinds, Flow Flow)
{
    /// <summary>Nothing set.</summary>
    public static ClientSettings Standard { get; } = new(ImmutableSortedDictionary<string, KindSettings>.Empty, Flow.Standard);

    /// <summary>The settings of a kind.</summary>
    public KindSettings Of(string kind) => Kinds.GetValueOrDefault(kind, KindSettings.Standard);
}

/// <summary>The server of the mailboxes. Secret: protected by the server that wrote it.</summary>
public sealed record MailboxServer(string SessionUrl, string Secret, int Revision, DateTimeOffset? LookedAt, string Trouble);

/// <summary>Settings of clients, what the brake holds, and the mailbox server.</summary>
public sealed class ClientSettingsStore(NpgsqlDataSource database)
{
    /// <summary>The settings with their revision.</summary>
    public async Task<(ClientSettings Settings, int Revision)> ReadAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            "select settings, revision from client_settings",
            [],
            row => (row.GetString(0) == "{}" ? ClientSettings.Standard : JsonSerializer.Deserialize<ClientSettings>(row.GetString(0), RelevoJson.Options)!, row.GetInt32(1)),
            cancellationToken);
    }

    /// <summary>Saves them over the revision that was read; false when somebody saved meanwhile.</summary>
    public async Task<bool> SaveAsync(ClientSettings settings, int revision, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        if (await connection.ExecuteAsync("update client_settings set settings = $1, revision = revision + 1 where revision = $2", [Sql.Json(JsonSerializer.Serialize(settings, RelevoJson.Options)), revision], cancellationToken) == 0) return false;
        await AuditLog.AppendAsync(connection, actor, new AuditLine("client settings saved", "client settings", "", null, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return true;
    }

    /// <summary>How many changes the brake holds, and when somebody last let them go.</summary>
    public async Task<(int Held, DateTimeOffset? LetGoAt)> BrakeAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select held_changes, let_go_at from client_settings", [], row => (row.GetInt32(0), row.Maybe<DateTimeOffset?>(1)), cancellationToken);
    }

    /// <summary>Notes how many changes are held. True when that is news.</summary>
    public async Task<bool> HoldAsync(int held, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ExecuteAsync("update client_settings set held_changes = $1 where held_changes <> $1", [held], cancellationToken) > 0;
    }

    /// <summary>Somebody has looked: what is held may go.</summary>
    public async Task LetGoAsync(Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("update client_settings set let_go_at = now()", [], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("held changes let go", "client settings", "", null, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>The mailbox server, or null while there is none.</summary>
    public async Task<MailboxServer?> MailboxServerAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            "select session_url, secret, revision, looked_at, trouble from mailbox_server", [],
            row => new MailboxServer(row.GetString(0), row.GetString(1), row.GetInt32(2), row.Maybe<DateTimeOffset?>(3), row.GetString(4)), cancellationToken);
    }

    /// <summary>Sets the mailbox server. secret: protected, or null for the one there is.</summary>
    public async Task SaveMailboxServerAsync(string sessionUrl, string? secret, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into mailbox_server (session_url, secret) values ($1, coalesce($2, ''))
            on conflict (only_row) do update set session_url = $1, secret = coalesce($2, mailbox_server.secret), revision = mailbox_server.revision + 1, looked_at = null, trouble = ''
            """,
            [sessionUrl, Sql.Text(secret)],
            cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("mailbox server set", "mailbox server", sessionUrl, null, null), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Notes what became of looking at the mailbox server; trouble: empty when it went well.</summary>
    public async Task LookedAsync(string trouble, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("update mailbox_server set looked_at = now(), trouble = $1", [trouble.Length > 500 ? trouble[..500] : trouble], cancellationToken);
    }

    /// <summary>The signing key, or null before it is made. Secret: protected by the server that wrote it.</summary>
    public async Task<(string Id, string Secret)?> SigningKeyAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select id, secret from signing_key", [], row => ((string, string)?)(row.GetString(0), row.GetString(1)), cancellationToken);
    }

    /// <summary>Keeps the signing key; whoever comes second waits for the first, keeps nothing and takes the one there is.</summary>
    public async Task KeepSigningKeyAsync(string id, string secret, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into signing_key (id, secret) values ($1, $2) on conflict do nothing", [id, secret], cancellationToken);
    }
}
