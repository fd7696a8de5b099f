using System.Text.Json.Nodes;
using Npgsql;
using Relevo.Core.People.Formats.Scim;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>A resource as it is kept: what the client sent, and what the provider adds.</summary>
public sealed record ScimResource(Guid Id, bool IsUser, JsonObject Document, int Version, DateTimeOffset CreatedAt, DateTimeOffset ModifiedAt);

/// <summary>What a write comes to: the resource as it should be (null: it goes), or what is wrong.</summary>
public sealed record ScimChange(JsonObject? Document, ScimError? Error);

/// <summary>A resource after a write, for a user with the groups it is in; or what was wrong.</summary>
public sealed record ScimOutcome(ScimResource? Resource, ScimError? Error)
{
    /// <summary>A user's groups with their ids.</summary>
    public IReadOnlyList<(Guid Id, string Name)> Groups { get; init; } = [];
}

/// <summary>How users become people: the mapping's doing, asked inside the write's transaction. groups: names of the groups the user is in. Null when the user is inactive.</summary>
public delegate ValueTask<ListedPerson?> ToListedPerson(Guid id, JsonObject user, IReadOnlyList<string> groups);

/// <summary>Resources that clients pushed. A write changes the resource and the people that come of it in one transaction.</summary>
public sealed class ScimStore(NpgsqlDataSource database)
{
    private const string Columns = "id, kind = 'user', document::text, version, created_at, modified_at";

    /// <summary>Finds a resource.</summary>
    public async Task<ScimResource?> FindAsync(Guid source, bool isUser, Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from scim_resource where source_id = $1 and kind = $2 and id = $3", [source, Kind(isUser), id], Read, cancellationToken);
    }

    /// <summary>Every resource of a kind in the order of their making; only those of a name or an external id when one is given.</summary>
    public async Task<List<ScimResource>> ListAsync(Guid source, bool isUser, string? name, string? externalId, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            $"select {Columns} from scim_resource where source_id = $1 and kind = $2 and ($3::text is null or lower(name) = lower($3)) and ($4::text is null or external_id = $4) order by created_at, id",
            [source, Kind(isUser), Sql.Text(name), Sql.Text(externalId)],
            Read,
            cancellationToken);
    }

    /// <summary>Adds a resource, or changes or removes one. change: gets what is there (null for a new one) and says what should be. Every person it touches follows in the same transaction.</summary>
    public async Task<ScimOutcome> WriteAsync(ScimCaller caller, bool isUser, Guid id, bool isNew, Func<ScimResource?, ScimChange> change, ToListedPerson toPerson, CancellationToken cancellationToken)
    {
        var source = caller.Token.SourceId;
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = isNew ? null : await connection.ReadFirstAsync(
            $"select {Columns} from scim_resource where source_id = $1 and kind = $2 and id = $3 for update", [source, Kind(isUser), id], Read, cancellationToken);
        if (!isNew && before is null) return new ScimOutcome(null, ScimError.NotFound(id.ToString()));
        var (document, error) = change(before);
        if (error is not null) return new ScimOutcome(null, error);
        try
        {
            var (after, groups) = await KeepAsync(connection, source, isUser, id, document, cancellationToken);
            if (isUser)
            {
                var listed = document is null ? null : await toPerson(id, document, [.. groups.Select(group => group.Name)]);
                await PushedEntries.ApplyAsync(connection, caller, id.ToString(), listed, cancellationToken);
            }
            else
            {
                foreach (var (user, listed) in await MembersAsync(connection, source, before?.Document, document, toPerson, cancellationToken))
                    await PushedEntries.ApplyAsync(connection, caller, user.ToString(), listed, cancellationToken);
            }

            await transaction.CommitAsync(cancellationToken);
            return new ScimOutcome(after, null) { Groups = groups };
        }
        catch (PostgresException taken) when (taken is { SqlState: PostgresErrorCodes.UniqueViolation, ConstraintName: "scim_resource_user_key" })
        {
            return new ScimOutcome(null, ScimError.Uniqueness($"There is a user \"{Text(document!, "userName")}\" already."));
        }
    }

    /// <summary>Names of the groups a user is in, with their ids.</summary>
    public async Task<List<(Guid Id, string Name)>> GroupsOfAsync(Guid source, Guid user, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await GroupsOfAsync(connection, source, user, cancellationToken);
    }

    /// <summary>Keeps a resource and gives it back, a user with its groups: one question instead of two.</summary>
    private static async Task<(ScimResource? Resource, IReadOnlyList<(Guid Id, string Name)> Groups)> KeepAsync(NpgsqlConnection connection, Guid source, bool isUser, Guid id, JsonObject? document, CancellationToken cancellationToken)
    {
        if (document is null)
        {
            await connection.ExecuteAsync("delete from scim_resource where id = $1", [id], cancellationToken);
            return (null, []);
        }

        const string groups = "from scim_resource held where $3 = 'user' and held.source_id = $2 and held.kind = 'group' and held.document -> 'members' @> $8 order by held.name, held.id";
        return await connection.ReadFirstAsync(
            $"""
            insert into scim_resource (id, source_id, kind, name, external_id, is_active, document) values ($1, $2, $3, $4, $5, $6, $7)
            on conflict (id) do update set name = excluded.name, external_id = excluded.external_id, is_active = excluded.is_active, document = excluded.document,
                version = scim_resource.version + 1, modified_at = now()
            returning {Columns}, array(select held.id {groups}), array(select held.name {groups})
            """,
            [id, source, Kind(isUser), Text(document, isUser ? "userName" : "displayName")!, Sql.Text(Text(document, "externalId")), IsActive(document), Sql.Json(document.ToJsonString()), Sql.Json(Holding(id))],
            row => ((ScimResource?)Read(row), (IReadOnlyList<(Guid, string)>)[.. row.GetFieldValue<Guid[]>(6).Zip(row.GetFieldValue<string[]>(7))]),
            cancellationToken);
    }

    /// <summary>The members that a group's write touches, as people: those who came or went, or all of them when its name changed.</summary>
    private static async Task<List<(Guid User, ListedPerson? Person)>> MembersAsync(
        NpgsqlConnection connection, Guid source, JsonObject? before, JsonObject? after, ToListedPerson toPerson, CancellationToken cancellationToken)
    {
        var (was, now) = (Members(before), Members(after));
        var isRenamed = Text(before, "displayName") != Text(after, "displayName");
        var touched = isRenamed ? was.Union(now) : was.Except(now).Concat(now.Except(was));
        var people = new List<(Guid, ListedPerson?)>();
        foreach (var user in touched)
        {
            if (await connection.ReadFirstAsync($"select {Columns} from scim_resource where source_id = $1 and kind = 'user' and id = $2 for update", [source, user], Read, cancellationToken) is not { } found) continue;
            var groups = await GroupsOfAsync(connection, source, user, cancellationToken);
            people.Add((user, await toPerson(user, found.Document, [.. groups.Select(group => group.Name)])));
        }

        return people;
    }

    private static Task<List<(Guid Id, string Name)>> GroupsOfAsync(NpgsqlConnection connection, Guid source, Guid user, CancellationToken cancellationToken) => connection.ReadAllAsync(
        "select id, name from scim_resource where source_id = $1 and kind = 'group' and document -> 'members' @> $2 order by name, id",
        [source, Sql.Json(Holding(user))],
        row => (row.GetGuid(0), row.GetString(1)),
        cancellationToken);

    /// <summary>What a group's list of members contains when the user is in it.</summary>
    private static string Holding(Guid user) => $$"""[{"value": "{{user}}"}]""";

    private static HashSet<Guid> Members(JsonObject? group) =>
        group?["members"] is JsonArray members ? [.. members.OfType<JsonObject>().Select(member => Guid.TryParse(Text(member, "value"), out var id) ? id : Guid.Empty).Where(id => id != Guid.Empty)] : [];

    private static bool IsActive(JsonObject document) => document["active"]?.GetValueKind() != System.Text.Json.JsonValueKind.False;

    private static string? Text(JsonObject? document, string name) => document?[name]?.GetValueKind() == System.Text.Json.JsonValueKind.String ? document[name]!.GetValue<string>() : null;

    private static string Kind(bool isUser) => isUser ? "user" : "group";

    private static ScimResource Read(NpgsqlDataReader row) =>
        new(row.GetGuid(0), row.GetBoolean(1), JsonNode.Parse(row.GetString(2))!.AsObject(), row.GetInt32(3), row.GetFieldValue<DateTimeOffset>(4), row.GetFieldValue<DateTimeOffset>(5));
}
