using Npgsql;

namespace Relevo.Data;

/// <summary>Keeps the web framework's key ring, so that every server process reads every other's cookies.</summary>
public sealed class DataProtectionKeyStore(NpgsqlDataSource database)
{
    /// <summary>Every key as XML. Synchronous because the framework asks that way, once in a while.</summary>
    public IReadOnlyCollection<string> ReadAll()
    {
        using var connection = database.OpenConnection();
        using var command = connection.Command("select xml from data_protection_key order by created_at");
        using var reader = command.ExecuteReader();
        var keys = new List<string>();
        while (reader.Read()) keys.Add(reader.GetString(0));
        return keys;
    }

    /// <summary>Keeps one key.</summary>
    public void Keep(string friendlyName, string xml)
    {
        using var connection = database.OpenConnection();
        using var command = connection.Command("insert into data_protection_key (friendly_name, xml) values ($1, $2) on conflict do nothing", friendlyName, xml);
        command.ExecuteNonQuery();
    }
}
