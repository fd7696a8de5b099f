using Npgsql;

namespace Relevo.Data;

/// <summary>What a kept document is.</summary>
public enum DocumentKind
{
    /// <summary>A ready-made text.</summary>
    Answer,

    /// <summary>A notice that rules add.</summary>
    Disclaimer,

    /// <summary>A banner that rules show.</summary>
    Banner,

    /// <summary>Who is inside, and the named audiences; there is one.</summary>
    Audiences,
}

/// <summary>A document's draft as JSON with its revision.</summary>
public sealed record StoredDocument(Guid Id, DocumentKind Kind, string Draft, int Revision);

/// <summary>Drafts of ready answers, disclaimers, banners and audiences.</summary>
public sealed class DocumentStore(NpgsqlDataSource database)
{
    /// <summary>The id of the one audience book.</summary>
    public static Guid AudienceBook { get; } = Guid.Parse("00000000-0000-4000-8000-00000000a0d1");

    /// <summary>Every document in use, oldest first; only the revisions of those the reader has already. known: revisions by id.</summary>
    public async Task<List<StoredDocument>> ListAsync(CancellationToken cancellationToken, IReadOnlyDictionary<Guid, int>? known = null)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var (ids, revisions) = (known?.Keys.ToArray() ?? [], known?.Values.ToArray() ?? []);
        return await connection.ReadAllAsync(
            """
            select document.id, document.kind, case when seen.revision = document.revision then '' else document.draft::text end, document.revision
            from company_document as document left join unnest($1::uuid[], $2::int[]) as seen (id, revision) on seen.id = document.id
            where retired_at is null order by created_at, document.id
            """,
            [ids, revisions],
            Read,
            cancellationToken);
    }

    /// <summary>Finds a document of a kind in use.</summary>
    public async Task<StoredDocument?> FindAsync(DocumentKind kind, Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select id, kind, draft::text, revision from company_document where id = $1 and kind = $2 and retired_at is null", [id, Name(kind)], Read, cancellationToken);
    }

    /// <summary>Adds a document.</summary>
    public async Task AddAsync(DocumentKind kind, Guid id, string draft, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into company_document (id, kind, draft) values ($1, $2, $3)", [id, Name(kind), Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine($"{Words(kind)} added", Words(kind), id.ToString(), null, draft), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
    }

    /// <summary>Keeps a draft, or retires it when there is none, if the revision is still the one the editor saw.</summary>
    public async Task<SaveOutcome> SaveAsync(DocumentKind kind, Guid id, int seenRevision, string? draft, Actor actor, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await using var transaction = await connection.BeginTransactionAsync(cancellationToken);
        var before = await connection.ReadFirstAsync("select id, kind, draft::text, revision from company_document where id = $1 and kind = $2 and retired_at is null for update", [id, Name(kind)], Read, cancellationToken);
        if (before is null) return SaveOutcome.NotFound;
        if (before.Revision != seenRevision) return SaveOutcome.Conflict;
        if (draft is null) await connection.ExecuteAsync("update company_document set retired_at = now(), revision = revision + 1 where id = $1", [id], cancellationToken);
        else await connection.ExecuteAsync("update company_document set draft = $2, revision = revision + 1 where id = $1", [id, Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine(draft is null ? $"{Words(kind)} taken out" : $"{Words(kind)} changed", Words(kind), id.ToString(), before.Draft, draft), cancellationToken);
        await transaction.CommitAsync(cancellationToken);
        return SaveOutcome.Saved;
    }

    /// <summary>Puts another audience book in place of the one there is, whatever its revision, within a transaction of somebody else's.</summary>
    internal static async Task ReplaceAudiencesAsync(NpgsqlConnection connection, string draft, Actor actor, CancellationToken cancellationToken)
    {
        var before = (await connection.ReadFirstAsync("select id, kind, draft::text, revision from company_document where id = $1 for update", [AudienceBook], Read, cancellationToken))!;
        await connection.ExecuteAsync("update company_document set draft = $2, revision = revision + 1 where id = $1", [AudienceBook, Sql.Json(draft)], cancellationToken);
        await AuditLog.AppendAsync(connection, actor, new AuditLine("audiences changed", "audiences", AudienceBook.ToString(), before.Draft, draft), cancellationToken);
    }

    private static string Name(DocumentKind kind) => kind.ToString().ToLowerInvariant();

    private static string Words(DocumentKind kind) => kind == DocumentKind.Answer ? "ready answer" : Name(kind);

    private static StoredDocument Read(NpgsqlDataReader row) => new(row.GetGuid(0), Enum.Parse<DocumentKind>(row.GetString(1), ignoreCase: true), row.GetString(2), row.GetInt32(3));
}
