using Npgsql;
using Relevo.Core.People.Sources;

namespace Relevo.Data;

/// <summary>A picture in the library, without its bytes. Sizes are in pixels of the file.</summary>
public sealed record PictureHead(string Sha256, string Name, int Width, int Height);

/// <summary>A picture made from another, as it is kept. Bytes: how many.</summary>
public sealed record KeptCut(string Sha256, int Bytes);

/// <summary>The picture library: PNG files, content-addressed.</summary>
public sealed class PictureStore(NpgsqlDataSource database)
{
    /// <summary>Every picture that designs may choose, oldest first.</summary>
    public async Task<List<PictureHead>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select sha256, name, width, height from picture where in_library order by added_at, sha256", [], row => new PictureHead(row.GetString(0), row.GetString(1), row.GetInt32(2), row.GetInt32(3)), cancellationToken);
    }

    /// <summary>A library picture's bytes, or null.</summary>
    public async Task<byte[]?> ReadAsync(string sha256, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select bytes from picture where sha256 = $1", [sha256], row => row.GetFieldValue<byte[]>(0), cancellationToken);
    }

    /// <summary>The bytes of a picture or cut by its name or its SHA-256, or null.</summary>
    public async Task<byte[]?> ReadAnyAsync(string name, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            "select bytes from picture where sha256 = $1 union all select bytes from picture_cut where name = $1 or sha256 = $1 limit 1", [name], row => row.GetFieldValue<byte[]>(0), cancellationToken);
    }

    /// <summary>What became of bytes that a source sent before, or null when they are new. sent: their SHA-256.</summary>
    public async Task<TakenPicture?> FindSentAsync(string sent, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            "select picture_sha256, reason from source_picture where sent_sha256 = $1", [sent], row => (TakenPicture?)new TakenPicture(row.Maybe<string>(0), row.Maybe<string>(1)), cancellationToken);
    }

    /// <summary>Notes what became of bytes that a source sent. A picture must be kept before.</summary>
    public async Task KeepSentAsync(string sent, TakenPicture taken, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "insert into source_picture (sent_sha256, picture_sha256, reason) values ($1, $2, $3) on conflict do nothing", [sent, Sql.Text(taken.Sha256), Sql.Text(taken.Reason)], cancellationToken);
    }

    /// <summary>The cuts of these names that are kept, by name.</summary>
    public async Task<Dictionary<string, KeptCut>> FindCutsAsync(IReadOnlyCollection<string> names, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var found = await connection.ReadAllAsync("select name, sha256, length(bytes) from picture_cut where name = any($1)", [names.ToArray()], row => (Name: row.GetString(0), Cut: new KeptCut(row.GetString(1), row.GetInt32(2))), cancellationToken);
        return found.ToDictionary(one => one.Name, one => one.Cut);
    }

    /// <summary>Keeps a cut and gives what is kept under its name: whoever made it first.</summary>
    public async Task<KeptCut> KeepCutAsync(string name, string sha256, byte[] bytes, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync("insert into picture_cut (name, sha256, bytes) values ($1, $2, $3) on conflict do nothing", [name, sha256, bytes], cancellationToken);
        return (await connection.ReadFirstAsync("select sha256, length(bytes) from picture_cut where name = $1", [name], row => new KeptCut(row.GetString(0), row.GetInt32(1)), cancellationToken))!;
    }

    /// <summary>Keeps a picture; one that is there already stays as it is, but may come into the library.</summary>
    public async Task KeepAsync(PictureHead picture, byte[] bytes, bool isInLibrary, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "insert into picture (sha256, name, width, height, bytes, in_library) values ($1, $2, $3, $4, $5, $6) on conflict (sha256) do update set in_library = picture.in_library or excluded.in_library",
            [picture.Sha256, picture.Name, picture.Width, picture.Height, bytes, isInLibrary],
            cancellationToken);
    }
}
