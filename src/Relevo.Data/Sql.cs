using Npgsql;

namespace Relevo.Data;

/// <summary>Shortens the plain ADO.NET calls of the stores; the SQL stays where it is read.</summary>
internal static class Sql
{
    /// <summary>A command with positional parameters $1, $2, ...; null is written as DBNull.</summary>
    public static NpgsqlCommand Command(this NpgsqlConnection connection, string sql, params ReadOnlySpan<object?> values)
    {
        var command = new NpgsqlCommand(sql, connection);
        foreach (var value in values) command.Parameters.Add(value as NpgsqlParameter ?? new NpgsqlParameter { Value = value ?? DBNull.Value });
        return command;
    }

    /// <summary>A jsonb parameter.</summary>
    public static NpgsqlParameter Json(string? json) => new() { Value = (object?)json ?? DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Jsonb };

    /// <summary>A text parameter that may be null.</summary>
    public static NpgsqlParameter Text(string? text) => new() { Value = (object?)text ?? DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Text };

    /// <summary>A parameter of several texts that may be null.</summary>
    public static NpgsqlParameter Texts(string[]? texts) => new() { Value = (object?)texts ?? DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Text };

    /// <summary>An integer parameter that may be null.</summary>
    public static NpgsqlParameter Integer(int? number) => new() { Value = (object?)number ?? DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Integer };

    /// <summary>A uuid parameter that may be null.</summary>
    public static NpgsqlParameter Id(Guid? id) => new() { Value = (object?)id ?? DBNull.Value, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Uuid };

    /// <summary>Runs a statement and disposes the command. Returns the rows touched.</summary>
    public static async Task<int> ExecuteAsync(this NpgsqlConnection connection, string sql, object?[] values, CancellationToken cancellationToken)
    {
        await using var command = connection.Command(sql, values);
        return await command.ExecuteNonQueryAsync(cancellationToken);
    }

    /// <summary>Reads every row.</summary>
    public static async Task<List<T>> ReadAllAsync<T>(this NpgsqlConnection connection, string sql, object?[] values, Func<NpgsqlDataReader, T> read, CancellationToken cancellationToken)
    {
        await using var command = connection.Command(sql, values);
        await using var reader = await command.ExecuteReaderAsync(cancellationToken);
        var rows = new List<T>();
        while (await reader.ReadAsync(cancellationToken)) rows.Add(read(reader));
        return rows;
    }

    /// <summary>Reads the first row, or gives the default when there is none.</summary>
    public static async Task<T?> ReadFirstAsync<T>(this NpgsqlConnection connection, string sql, object?[] values, Func<NpgsqlDataReader, T> read, CancellationToken cancellationToken)
    {
        await using var command = connection.Command(sql, values);
        await using var reader = await command.ExecuteReaderAsync(cancellationToken);
        return await reader.ReadAsync(cancellationToken) ? read(reader) : default;
    }

    /// <summary>A nullable column.</summary>
    public static T? Maybe<T>(this NpgsqlDataReader reader, int column) => reader.IsDBNull(column) ? default : reader.GetFieldValue<T>(column);
}
