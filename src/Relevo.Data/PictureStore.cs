using Npgsql;

namespace Relevo.Data;

/// <summary>A picture in the library, without its bytes. Sizes are in pixels of the file.</summary>
public sealed record PictureHead(string Sha256, string Name, int Width, int Height);

/// <summary>The picture library: PNG files, content-addressed.</summary>
public sealed class PictureStore(NpgsqlDataSource database)
{
    /// <summary>Every picture, oldest first.</summary>
    public async Task<List<PictureHead>> ListAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadAllAsync(
            "select sha256, name, width, height from picture order by added_at, sha256", [], row => new PictureHead(row.GetString(0), row.GetString(1), row.GetInt32(2), row.GetInt32(3)), cancellationToken);
    }

    /// <summary>A picture's bytes, or null.</summary>
    public async Task<byte[]?> ReadAsync(string sha256, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select bytes from picture where sha256 = $1", [sha256], row => row.GetFieldValue<byte[]>(0), cancellationToken);
    }

    /// <summary>Keeps a picture; one that is there already stays as it is.</summary>
    public async Task KeepAsync(PictureHead picture, byte[] bytes, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        await connection.ExecuteAsync(
            "insert into picture (sha256, name, width, height, bytes) values ($1, $2, $3, $4, $5) on conflict do nothing",
            [picture.Sha256, picture.Name, picture.Width, picture.Height, bytes],
            cancellationToken);
    }
}
