using Relevo.Data;

namespace Relevo.Server.Tests;

/// <summary>Rows in the database's own form: what is written arrives, and what COPY gives can be handed back as it is.</summary>
public sealed class CopyRowsTests
{
    private static readonly string[][] Lists = [[], [""], ["mía@brackenfold.example"], ["a", "", "汉\U0001F431", new string('ü', 400)]];

    [Fact]
    public async Task Rows_that_were_read_are_written_again_as_they_are()
    {
        await using var database = await TestDatabase.CreateAsync();
        await using var data = Database.Open(database.ConnectionString);
        await using var connection = await data.OpenConnectionAsync();
        await database.DoAsync("create table one (id uuid, place integer, number bigint, name text, is_it boolean, texts text[])");
        await database.DoAsync("create table other (like one)");
        await using (var rows = await CopyRows.BeginAsync(connection, "one (id, place, number, name, is_it, texts)", CancellationToken.None))
        {
            for (var place = 0; place < 400; place++)
            {
                rows.BeginRow(6);
                rows.Write(Guid.Parse($"00000000-0000-7000-8000-{place:D12}"));
                rows.Write(place);
                rows.Write(long.MaxValue - place);
                rows.Write(new string('é', place * 7 % 990));
                rows.Write(place % 2 == 0);
                rows.Write(Lists[place % Lists.Length]);
                await rows.EndRowAsync(CancellationToken.None);
            }

            await rows.EndAsync(CancellationToken.None);
        }

        var read = await CopiedRows.ReadAsync(connection, "select id, place, number, name, is_it, texts from one order by place", CancellationToken.None);
        await using (var rows = await CopyRows.BeginAsync(connection, "other (id, place, number, name, is_it, texts)", CancellationToken.None))
        {
            while (read.Next())
            {
                rows.BeginRow(6);
                for (var column = 0; column < 6; column++) rows.Write(read.Take());
                await rows.EndRowAsync(CancellationToken.None);
            }

            await rows.EndAsync(CancellationToken.None);
        }

        Assert.Equal(400, await database.AskAsync<long>("select count(*) from one join other using (id, place, number, name, is_it, texts)"));
        Assert.Equal(Lists[3], await database.AskAsync<string[]>("select texts from one where place = 3"));
        read.Restart();
        for (var place = 0; read.Next(); place++)
        {
            Assert.Equal(place, BitConverter.ToInt32([.. Enumerable.Reverse(Columns(read, out var name, out var isIt, out var texts))]));
            Assert.Equal((new string('é', place * 7 % 990), place % 2 == 0), (name, isIt));
            Assert.Equal(Lists[place % Lists.Length], texts);
        }
    }

    [Fact]
    public async Task Rows_that_were_not_ended_leave_nothing_and_the_connection_goes_on()
    {
        await using var database = await TestDatabase.CreateAsync();
        await using var data = Database.Open(database.ConnectionString);
        await using var connection = await data.OpenConnectionAsync();
        await database.DoAsync("create table one (name text)");
        await using (var rows = await CopyRows.BeginAsync(connection, "one (name)", CancellationToken.None))
        {
            rows.BeginRow(1);
            rows.Write("left");
        }

        Assert.False((await CopiedRows.ReadAsync(connection, "select name from one", CancellationToken.None)).Next());
    }

    [Fact]
    public void Ids_rise_and_are_of_version_7()
    {
        var ids = new RisingIds();
        var made = Enumerable.Range(0, 100_000).Select(_ => ids.Next()).ToArray();
        Assert.All(made, id => Assert.Equal((7, 8), (id.Version, id.Variant & 0xC)));
        // As the database compares them: byte by byte, which is how they are written.
        Assert.Equal(made.Select(id => id.ToString()).Order(StringComparer.Ordinal), made.Select(id => id.ToString()));
        Assert.Equal(made.Length, made.Distinct().Count());
        var now = DateTimeOffset.UtcNow.ToUnixTimeMilliseconds();
        Assert.InRange(Convert.ToInt64(made[^1].ToString("N")[..12], 16), now - 600_000, now);
    }

    private static byte[] Columns(CopiedRows row, out string name, out bool isIt, out List<string> texts)
    {
        row.TakeId();
        var place = row.Take().ToArray();
        row.Take();
        name = System.Text.Encoding.UTF8.GetString(row.TakeText().Span);
        isIt = row.TakeBoolean();
        texts = [];
        var list = new CopiedRows.Texts(row.Take());
        while (list.TryTake(out var text)) texts.Add(System.Text.Encoding.UTF8.GetString(text));
        return place;
    }
}
