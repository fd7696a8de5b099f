using System.Text.Json;
using Npgsql;
using Relevo.Core.People;

namespace Relevo.Data;

/// <summary>A page of people.</summary>
public sealed record PeoplePage(List<Person> People, int Total);

/// <summary>People and their accounts.</summary>
public sealed class PersonStore(NpgsqlDataSource database)
{
    internal const string Columns =
        """
        person.id, person.source_key, person.distinguished_name, person.facts::text, person.retired_at is not null,
        array(select account.address from account where account.person_id = person.id and account.retired_at is null order by account.position)
        """;

    /// <summary>People in the order of their names, whose name, address, title, department or entity holds the text; those whose name does come first.</summary>
    public async Task<PeoplePage> SearchAsync(string text, int offset, int limit, CancellationToken cancellationToken)
    {
        const string where =
            """
            retired_at is null and ($1 = '' or display_name ilike $2 or facts->>'title' ilike $2 or facts->>'department' ilike $2 or facts->>'organisation' ilike $2
                or exists (select from account where account.person_id = person.id and account.retired_at is null and account.address ilike $2))
            """;
        var pattern = "%" + text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal) + "%";
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        var total = await connection.ReadFirstAsync($"select count(*)::int from person where {where}", [text, pattern], row => row.GetInt32(0), cancellationToken);
        var people = await connection.ReadAllAsync(
            $"select {Columns} from person where {where} order by display_name ilike $2 desc, lower(display_name), id offset $3 limit $4", [text, pattern, offset, limit], Read, cancellationToken);
        return new PeoplePage(people, total);
    }

    /// <summary>Finds a person, retired ones too.</summary>
    public async Task<Person?> FindAsync(Guid id, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync($"select {Columns} from person where id = $1", [id], Read, cancellationToken);
    }

    /// <summary>The first person by name who is not retired, or null when there is nobody.</summary>
    public async Task<Person?> FirstAsync(CancellationToken cancellationToken) => (await SearchAsync("", 0, 1, cancellationToken)).People.FirstOrDefault();

    /// <summary>Finds the person an address belongs to.</summary>
    public async Task<Person?> FindByAddressAsync(string address, CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync(
            $"select {Columns} from person where id = (select person_id from account where lower(address) = lower($1) and retired_at is null)", [address], Read, cancellationToken);
    }

    /// <summary>How many people there are who are not retired.</summary>
    public async Task<int> CountAsync(CancellationToken cancellationToken)
    {
        await using var connection = await database.OpenConnectionAsync(cancellationToken);
        return await connection.ReadFirstAsync("select count(*)::int from person where retired_at is null", [], row => row.GetInt32(0), cancellationToken);
    }

    internal static Person Read(NpgsqlDataReader row) => new(
        row.GetGuid(0),
        row.GetString(1),
        row.GetString(2),
        ReadFacts(row.GetString(3)),
        [.. row.GetFieldValue<string[]>(5)],
        row.GetBoolean(4));

    internal static Facts ReadFacts(string json) => new(JsonSerializer.Deserialize<Dictionary<string, string>>(json)!);

    internal static string WriteFacts(Facts facts) => JsonSerializer.Serialize(facts.Values);
}
