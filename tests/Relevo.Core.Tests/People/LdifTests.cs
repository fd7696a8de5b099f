using System.Buffers;
using System.Text;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.People.Formats;
using Xunit;

namespace Relevo.Core.Tests.People;

/// <summary>
/// RFC 2849. The files Cases/rfc2849-1 to -7 are the seven examples at the end of the RFC, typed from memory of its text; the values asserted here are the ones the RFC
/// itself explains.
/// </summary>
public sealed class LdifTests
{
    public static TheoryData<string, int> RfcExamples => new()
    {
        { "rfc2849-1", 2 }, { "rfc2849-2", 1 }, { "rfc2849-3", 1 }, { "rfc2849-4", 2 }, { "rfc2849-5", 1 }, { "rfc2849-6", 6 }, { "rfc2849-7", 1 },
    };

    [Theory]
    [MemberData(nameof(RfcExamples))]
    public async Task An_example_of_the_RFC_is_read_and_written_back_the_same(string name, int records)
    {
        var first = await ReadAsync(File.ReadAllBytes($"People/Cases/{name}.ldif"));
        Assert.DoesNotContain(first, item => item.Problem is not null);
        Assert.Equal(records, first.Count);

        var written = Write(first.Select(item => item.Record!));
        var second = await ReadAsync(written);
        Assert.Equal(first.Select(item => Describe(item.Record!)), second.Select(item => Describe(item.Record!)));
        Assert.Equal(written, Write(second.Select(item => item.Record!)));
    }

    [Fact]
    public async Task A_folded_value_is_joined_without_its_leading_space()
    {
        var entry = await ReadEntryAsync("rfc2849-2");
        Assert.Equal("Babs is a big sailing fan, and travels extensively in search of perfect sailing conditions.", Text(entry, "description"));
    }

    [Fact]
    public async Task A_base64_value_keeps_its_control_character()
    {
        var entry = await ReadEntryAsync("rfc2849-3");
        Assert.Equal("What a careful reader you are!  This value is base-64-encoded because it has a control character in it (a CR).\r  By the way, you should really get out more.", Text(entry, "description"));
    }

    [Fact]
    public async Task Names_in_base64_and_attribute_options_are_read()
    {
        var items = await ReadAsync(File.ReadAllBytes("People/Cases/rfc2849-4.ldif"));
        Assert.Equal("ou=営業部,o=Airius", items[0].Record!.DistinguishedName);
        var entry = Assert.IsType<LdifEntry>(items[1].Record);
        var surname = entry.Values.Single(value => value.Description == "sn;lang-en");
        Assert.True(surname.TryGetText(out var text));
        Assert.Equal("Ogasawara", text);
        Assert.Equal("小笠原", Text(entry, "sn"));
    }

    [Fact]
    public async Task A_value_by_URL_is_kept_as_an_address_and_not_fetched()
    {
        var value = (await ReadEntryAsync("rfc2849-5")).Values.Single(candidate => candidate.Attribute == "jpegphoto");
        Assert.Equal(LdifValueKind.Url, value.Kind);
        Assert.Equal("file:///usr/local/directory/photos/hjensen.jpg", Encoding.UTF8.GetString(value.Bytes.Span));
    }

    [Fact]
    public async Task Change_records_are_read_with_their_steps()
    {
        var changes = (await ReadAsync(File.ReadAllBytes("People/Cases/rfc2849-6.ldif"))).Select(item => Assert.IsType<LdifChange>(item.Record)).ToList();
        Assert.Equal(["add", "delete", "modrdn", "modrdn", "modify", "modify"], changes.Select(change => change.ChangeType));
        Assert.Equal(["add", "delete", "replace", "delete"], changes[4].Modifications.Select(step => step.Operation));
        Assert.Equal(2, changes[4].Modifications[2].Values.Length);
        var control = Assert.IsType<LdifChange>((await ReadAsync(File.ReadAllBytes("People/Cases/rfc2849-7.ldif")))[0].Record).Controls.Single();
        Assert.Equal("1.2.840.113556.1.4.805", control.ObjectIdentifier);
        Assert.True(control.Criticality);
    }

    [Theory]
    [InlineData("\n")]
    [InlineData("\r\n")]
    public async Task Line_ends_and_a_byte_order_mark_make_no_difference(string lineEnd)
    {
        var text = File.ReadAllText("People/Cases/rfc2849-2.ldif").ReplaceLineEndings(lineEnd);
        byte[] marked = [0xEF, 0xBB, 0xBF, .. Encoding.UTF8.GetBytes(text)];
        var plain = await ReadAsync(File.ReadAllBytes("People/Cases/rfc2849-2.ldif"));
        Assert.Equal(plain.Select(item => Describe(item.Record!)), (await ReadAsync(marked)).Select(item => Describe(item.Record!)));
    }

    [Theory]
    [InlineData("version: 1\ndn: cn=a\ncn:: %%%\n\ndn: cn=b\ncn: b\n", 3, "base64")]
    [InlineData("version: 1\n\ncn: a\nsn: b\n\ndn: cn=b\ncn: b\n", 3, "dn")]
    [InlineData("dn: cn=a\ncn: a\ndn: cn=x\ncn: x\n\ndn: cn=b\ncn: b\n", 3, "second")]
    [InlineData("dn: cn=a\nthis is not a line\n\ndn: cn=b\ncn: b\n", 2, "not a line")]
    [InlineData("dn: cn=a\nchangetype: explode\n\ndn: cn=b\ncn: b\n", 2, "changetype")]
    public async Task A_broken_record_is_named_by_its_line_and_the_next_one_is_read(string file, long line, string word)
    {
        var items = await ReadAsync(Encoding.UTF8.GetBytes(file));
        var problem = Assert.Single(items, item => item.Problem is not null).Problem!;
        Assert.Equal(line, problem.Line);
        Assert.Contains(word, problem.Message, StringComparison.Ordinal);
        Assert.Equal("cn=b", Assert.Single(items, item => item.Record is not null).Record!.DistinguishedName);
    }

    [Fact]
    public async Task An_unknown_version_ends_the_reading_at_its_line()
    {
        var items = await ReadAsync("# made by hand\nversion: 2\ndn: cn=a\ncn: a\n"u8.ToArray());
        var problem = Assert.Single(items).Problem!;
        Assert.Equal(2, problem.Line);
        Assert.Contains("\"2\"", problem.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_picture_file_is_refused_at_line_1()
    {
        byte[] png = [0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A, .. Enumerable.Range(0, 4000).Select(index => (byte)(index * 31))];
        var items = await ReadAsync(png);
        Assert.Equal(1, items[0].Problem!.Line);
        Assert.DoesNotContain(items, item => item.Record is not null);
    }

    [Fact]
    public async Task A_record_without_end_is_refused_before_it_fills_the_memory()
    {
        using var file = new RepeatingStream("a: 0123456789\n"u8.ToArray(), 20L << 20);
        var items = new List<LdifItem>();
        await foreach (var item in LdifReader.ReadAsync(file, LdifLimits.Default, TestContext.Current.CancellationToken)) items.Add(item);
        Assert.Contains("longer than 4 MiB", items[0].Problem!.Message, StringComparison.Ordinal);
    }

    [Property]
    public Property Whatever_is_written_is_read_back() => Prop.ForAll(
        ArbMap.Default.ArbFor<NonEmptyArray<byte[]>>(),
        values =>
        {
            var entry = new LdifEntry("cn=Söhne, ou=é", 0, [.. values.Get.Select(bytes => new LdifValue("description", ["lang-de"], bytes ?? [], LdifValueKind.Text, 0))]);
            var read = ReadAsync(Write([entry])).GetAwaiter().GetResult();
            return Describe(read.Single().Record!) == Describe(entry);
        });

    /// <summary>Lines, folds, comments and empty lines in any order, in pieces of any size: where a read ends is nobody's business.</summary>
    [Property]
    public async Task How_the_bytes_arrive_makes_no_difference(PositiveInt piece, byte[] choices)
    {
        string[] lines = ["dn: cn=a", "cn: a", " folded", "# a comment", "", "sn:: w6k=", "seeAlso:< file:///x", " ", "no line", "description: é"];
        var file = Encoding.UTF8.GetBytes(string.Join(piece.Get % 2 == 0 ? "\n" : "\r\n", (choices ?? []).Select(choice => lines[choice % lines.Length])));
        var whole = await ReadAsync(file);
        var pieces = await LdifReader.ReadAsync(new PieceStream(file, piece.Get), LdifLimits.Default, CancellationToken.None).ToListAsync();
        Assert.Equal(whole.Select(Say), pieces.Select(Say));
    }

    /// <summary>Entries of one, of as many and of more values than are lent, changes and what cannot be read, in any order.</summary>
    [Property]
    public async Task Lent_values_say_the_same_until_the_next_record_is_asked_for(byte[] choices)
    {
        string[] records = ["dn: cn=a\ncn: a", "dn: cn=b\ncn: b", "dn: cn=c\nsn:: w6k=\ncn: c", "dn: cn=d\nno line", "dn: cn=e\nchangetype: add\ncn: e", $"dn: cn=f{string.Concat(Enumerable.Repeat("\ncn: f", 63))}", $"dn: cn=g{string.Concat(Enumerable.Repeat("\ncn: g", 64))}"];
        var file = Encoding.UTF8.GetBytes(string.Join("\n\n", (choices ?? []).Select(choice => records[choice % records.Length])));
        var said = new List<string>();
        await foreach (var item in LdifReader.ReadAsync(new MemoryStream(file), LdifLimits.Default, lendsValues: true, CancellationToken.None)) said.Add(Say(item));
        Assert.Equal((await ReadAsync(file)).Select(Say), said);
    }

    [Fact]
    public async Task A_line_longer_than_a_record_may_be_is_passed_over_and_the_next_record_is_read()
    {
        byte[] file = [.. "dn: cn=long\ncn: "u8, .. Enumerable.Repeat((byte)'x', 9 << 20), .. "\nsn: a\n\ndn: cn=b\ncn: b\n"u8];
        var items = await ReadAsync(file);
        Assert.Equal(2, items.Count);
        Assert.Equal(2, items[0].Problem!.Line);
        Assert.Contains("longer than 4 MiB", items[0].Problem!.Message, StringComparison.Ordinal);
        Assert.Equal("cn=b", items[1].Record!.DistinguishedName);
    }

    [Property]
    public void Any_bytes_at_all_are_read_without_an_exception(byte[] bytes) => Assert.NotNull(ReadAsync(bytes ?? []).GetAwaiter().GetResult());

    private static async Task<List<LdifItem>> ReadAsync(byte[] file)
    {
        var items = new List<LdifItem>();
        await foreach (var item in LdifReader.ReadAsync(new MemoryStream(file), LdifLimits.Default, CancellationToken.None)) items.Add(item);
        return items;
    }

    private static string Say(LdifItem item) => item.Record is { } record ? $"{record.Line} {Describe(record)}" : item.Problem!.ToString();

    private static async Task<LdifEntry> ReadEntryAsync(string name) => Assert.IsType<LdifEntry>((await ReadAsync(File.ReadAllBytes($"People/Cases/{name}.ldif")))[0].Record);

    private static byte[] Write(IEnumerable<LdifRecord> records)
    {
        var output = new ArrayBufferWriter<byte>();
        LdifWriter.Write(output, records);
        return output.WrittenSpan.ToArray();
    }

    private static string Text(LdifEntry entry, string attribute)
    {
        Assert.True(entry.Values.First(value => value.Description == attribute).TryGetText(out var text));
        return text;
    }

    private static string Describe(LdifRecord record) => record.DistinguishedName + "\n" + (record switch
    {
        LdifEntry entry => string.Join('\n', entry.Values.Select(Describe)),
        LdifChange change => change.ChangeType + string.Join('\n', change.Controls.Select(control => $"{control.ObjectIdentifier} {control.Criticality}"))
            + string.Join('\n', change.Values.Select(Describe))
            + string.Join('\n', change.Modifications.Select(step => $"{step.Operation} {step.Attribute} {string.Join('\n', step.Values.Select(Describe))}")),
        _ => "",
    });

    private static string Describe(LdifValue value) => $"{value.Description} {value.Kind == LdifValueKind.Url} {Convert.ToHexString(value.Bytes.Span)}";
}

/// <summary>A read-only stream that repeats a block until it has given so many bytes.</summary>
internal sealed class RepeatingStream(byte[] block, long length) : Stream
{
    private long given;

    public override bool CanRead => true;

    public override bool CanSeek => false;

    public override bool CanWrite => false;

    public override long Length => length;

    public override long Position { get => given; set => throw new NotSupportedException(); }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override int Read(Span<byte> buffer)
    {
        var wanted = (int)Math.Min(buffer.Length, length - given);
        for (var at = 0; at < wanted;)
        {
            var from = block.AsSpan((int)((given + at) % block.Length));
            var take = Math.Min(from.Length, wanted - at);
            from[..take].CopyTo(buffer[at..]);
            at += take;
        }

        given += wanted;
        return wanted;
    }

    public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default) => new(Read(buffer.Span));

    public override void Flush()
    {
    }

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}

/// <summary>Gives a few bytes at a time.</summary>
internal sealed class PieceStream(byte[] bytes, int piece) : MemoryStream(bytes)
{
    public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default) => base.ReadAsync(buffer[..Math.Min(buffer.Length, piece)], cancellationToken);
}
