using Npgsql;

namespace Relevo.Data;

/// <summary>What a user may do. Administrator and employee are used now; the others are kept for the work that needs them.</summary>
public enum UserRole
{
    /// <summary>May do everything.</summary>
    Administrator,

    /// <summary>Edits designs.</summary>
    Editor,

    /// <summary>Approves editions.</summary>
    Approver,

    /// <summary>Looks, and answers questions.</summary>
    HelpDesk,

    /// <summary>Sees the own signatures.</summary>
    Employee,
}

/// <summary>A local user.</summary>
public sealed record User(Guid Id, string SignInName, string DisplayName, string PasswordHash, UserRole Role, Guid? PersonId);

/// <summary>Failed sign-ins of one name.</summary>
public sealed record SignInFailures(int Count, DateTimeOffset LastAt);

/// <summary>Local users and their failed sign-ins.</summary>
public sealed class UserStore(NpgsqlDataSource database)
{
    private const string Columns = "id, sign_in_name, display_name, password_hash, role, person_id";

    /// <summary>Finds a user by name, without regard to case.</summary>
    public async Task<User?> FindByNameAsync(string signInName, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from app_user where sign_in_name = $1 and retired_at is null", [Normalise(signInName)], Read, cancellationToken);
    }

    /// <summary>Finds a user by id.</summary>
    public async Task<User?> FindAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from app_user where id = $1 and retired_at is null", [id], Read, cancellationToken);
    }

    /// <summary>Everybody who may sign in.</summary>
    public async Task<List<User>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync($"select {Columns} from app_user where retired_at is null order by sign_in_name", [], Read, cancellationToken);
    }

    /// <summary>Adds a user. Returns false when the name is taken.</summary>
    public async Task<bool> AddAsync(User user, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var added = await connection.ExecuteAsync(
            "insert into app_user (id, sign_in_name, display_name, password_hash, role, person_id) values ($1, $2, $3, $4, $5, $6) on conflict do nothing",
            [user.Id, Normalise(user.SignInName), user.DisplayName, user.PasswordHash, Text(user.Role), user.PersonId],
            cancellationToken);
        if (added == 1) await AuditLog.AppendAsync(connection, new Actor(user.Id, user.DisplayName), new AuditLine("user added", "user", user.Id.ToString(), null, $$"""{"role":"{{Text(user.Role)}}"}"""), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return added == 1;
    }

    /// <summary>Failures of a name, or null when there were none lately.</summary>
    public async Task<SignInFailures?> FailuresAsync(string signInName, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            "select failures, last_failed_at from sign_in_failure where sign_in_name = $1",
            [Normalise(signInName)],
            row => new SignInFailures(row.GetInt32(0), row.GetFieldValue<DateTimeOffset>(1)),
            cancellationToken);
    }

    /// <summary>Counts one more failure. now: the time of the attempt.</summary>
    public async Task CountFailureAsync(string signInName, DateTimeOffset now, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            """
            insert into sign_in_failure (sign_in_name, failures, last_failed_at) values ($1, 1, $2)
            on conflict (sign_in_name) do update set failures = sign_in_failure.failures + 1, last_failed_at = excluded.last_failed_at
            """,
            [Normalise(signInName), now],
            cancellationToken);
    }

    /// <summary>Forgets the failures of a name after a success.</summary>
    public async Task ClearFailuresAsync(string signInName, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("delete from sign_in_failure where sign_in_name = $1", [Normalise(signInName)], cancellationToken);
    }

    private static string Normalise(string signInName) => signInName.Trim().ToLowerInvariant();

    private static string Text(UserRole role) => role == UserRole.HelpDesk ? "helpDesk" : role.ToString().ToLowerInvariant();

    private static User Read(NpgsqlDataReader row) => new(
        row.GetGuid(0), row.GetString(1), row.GetString(2), row.GetString(3), Enum.Parse<UserRole>(row.GetString(4), ignoreCase: true), row.Maybe<Guid?>(5));
}
