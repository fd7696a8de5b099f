using System.Collections.Immutable;
using System.Text.Json.Nodes;
using FsCheck;
using FsCheck.Fluent;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Rules;

public sealed class AudienceTests
{
    private static readonly AudienceBook Book = new(
        ["brackenfold.example", "bücher.example"], true,
        [new Audience("practices", "referring practices", ["practice.example", "one@shared.example"]), new Audience("suppliers", "suppliers", ["*.supplier.example", "order*@shop.example", "practice.example"])]);

    private static readonly AudienceIndex Index = new(Book);

    /// <summary>Source: RFC 5322 appendix A.1, the examples' own header fields; what they are read as follows from section 3.4.</summary>
    [Theory]
    [InlineData("Mary Smith <mary@example.net>", "mary@example.net")]
    [InlineData("John Doe <jdoe@machine.example>", "jdoe@machine.example")]
    [InlineData("\"Joe Q. Public\" <john.q.public@example.com>", "john.q.public@example.com")]
    [InlineData("Mary Smith <mary@x.test>, jdoe@example.org, Who? <one@y.test>", "mary@x.test jdoe@example.org one@y.test")]
    [InlineData("<boss@nil.test>, \"Giant; \\\"Big\\\" Box\" <sysservices@example.net>", "boss@nil.test sysservices@example.net")]
    [InlineData("A Group:Ed Jones <c@a.test>,joe@where.test,John <jdoe@one.test>;", "c@a.test joe@where.test jdoe@one.test")]
    [InlineData("Undisclosed recipients:;", "")]
    [InlineData("Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>", "pete@silly.test")]
    [InlineData("A Group(Some people)\r\n     :Chris Jones <c@(Chris's host.)public.example>,\r\n         joe@example.org,\r\n  John <jdoe@one.test> (my dear friend); (the end of the group)", "c@public.example joe@example.org jdoe@one.test")]
    [InlineData("\"quoted local\"@example.com", "\"quoted local\"@example.com")]
    public void Recipients_are_read_as_the_standard_writes_them(string text, string addresses)
    {
        var list = RecipientList.Read(text);
        Assert.Equal("", list.Trouble);
        Assert.Equal(addresses, string.Join(' ', list.Addresses));
    }

    /// <summary>Lists made up from pieces of the standard's grammar, read by an address parser that is not ours (npm mailparser).</summary>
    [Fact]
    public async Task Made_up_lists_are_read_as_an_independent_parser_reads_them()
    {
        var name = Gen.Elements("", "Mia", "\"Lindqvist, Mia\"", "Dr. Holtkamp", "\"a \\\"quoted\\\" name\"");
        var address = Gen.Elements("mia@practice.example", "o'neill+x@a-b.example", "first.last@sub.domain.example", "UPPER@Case.Example");
        var mailbox = from label in name from one in address select label.Length == 0 ? one : $"{label.Replace("Dr. Holtkamp", "Dr Holtkamp", StringComparison.Ordinal)} <{one}>";
        var entry = Gen.Frequency((5, mailbox), (1, from members in mailbox.ListOf(2) select $"Practices: {string.Join(", ", members)};"));
        string[] lists = [.. (from count in Gen.Choose(1, 6) from entries in entry.ListOf(count) select string.Join(", ", entries)).Sample(200)];
        var answers = await Outside.AskAsync("addresses.mjs", new JsonObject { ["lists"] = new JsonArray([.. lists.Select(list => (JsonNode)list)]) });
        Assert.Equal(200, answers["lists"]!.AsArray().Count);
        foreach (var (list, theirs) in lists.Zip(answers["lists"]!.AsArray())) Assert.Equal(theirs!.AsArray().Select(one => one!.GetValue<string>().ToLowerInvariant()), RecipientList.Read(list).Addresses.Select(one => one.ToLowerInvariant()));
    }

    [Theory]
    [InlineData("mia@practice.example, <oops")]
    [InlineData("no domain")]
    [InlineData("a@b@c.example")]
    [InlineData(",,,@")]
    [InlineData("<>")]
    public void A_list_that_cannot_be_read_is_said_to_be_so_and_counts_as_outside(string text)
    {
        var list = RecipientList.Read(text);
        Assert.StartsWith("it cannot be read at character", list.Trouble, StringComparison.Ordinal);
        Assert.Empty(list.Addresses);
        Assert.Equal(Audiences.Outside, Index.Of(list).Key);
    }

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("  \r\n ")]
    [InlineData("nobody:;")]
    public void Without_a_recipient_the_strictest_audience_is_assumed(string? text) => Assert.Equal((Audiences.Outside, "no recipient is known"), (Index.Of(RecipientList.Read(text)).Key, Index.Of(RecipientList.Read(text)).Reason));

    [Theory]
    [InlineData("mia@brackenfold.example", Audiences.Inside)]
    [InlineData("mia@BRACKENFOLD.Example", Audiences.Inside)]
    [InlineData("mia@berlin.brackenfold.example", Audiences.Inside)]
    [InlineData("mia@notbrackenfold.example", Audiences.Outside)]
    [InlineData("mia@xn--bcher-kva.example", Audiences.Inside)]
    [InlineData("mia@BÜCHER.example", Audiences.Inside)]
    [InlineData("a@practice.example", "practices")]
    [InlineData("a@sub.practice.example", Audiences.Outside)]
    [InlineData("ONE@shared.example", "practices")]
    [InlineData("two@shared.example", Audiences.Outside)]
    [InlineData("a@b.c.supplier.example", "suppliers")]
    [InlineData("a@supplier.example", Audiences.Outside)]
    [InlineData("orders.3@shop.example", "suppliers")]
    [InlineData("re-order@shop.example", Audiences.Outside)]
    [InlineData("a@b..example", Audiences.Outside)]
    public void A_recipient_is_in_the_first_audience_that_names_it_or_inside_or_outside(string address, string key) => Assert.Equal(key, Index.Of(address));

    [Theory]
    [InlineData("m@brackenfold.example, n@brackenfold.example", Audiences.Inside)]
    [InlineData("m@brackenfold.example, a@x.supplier.example", "suppliers")]
    [InlineData("a@x.supplier.example, a@practice.example, m@brackenfold.example", "practices")]
    [InlineData("a@practice.example, owner@home.example", Audiences.Outside)]
    public void Of_several_recipients_the_strictest_decides(string text, string key) => Assert.Equal(key, Index.Of(RecipientList.Read(text)).Key);

    [Fact]
    public void Five_hundred_recipients_are_all_looked_at()
    {
        var inside = Enumerable.Range(0, 499).Select(number => $"p{number}@brackenfold.example");
        Assert.Equal(Audiences.Inside, Index.Of(RecipientList.Read(string.Join(", ", inside))).Key);
        Assert.Equal("last@home.example", Index.Of(RecipientList.Read(string.Join(", ", inside.Append("last@home.example")))).Deciding);
    }

    /// <summary>Sources: RFC 3492 section 7.1 (sample strings) and RFC 5891 section 4 with RFC 5892: ß and final sigma are letters of their own.</summary>
    [Theory]
    [InlineData("bücher.example", "xn--bcher-kva.example")]
    [InlineData("BÜCHER.Example", "xn--bcher-kva.example")]
    [InlineData("bu\u0308cher.example", null)] // not composed: RFC 5891 section 4.1
    [InlineData("straße.example", "xn--strae-oqa.example")]
    [InlineData("\u03B2\u03CC\u03BB\u03BF\u03C2.example", "xn--nxasmm1c.example")]
    [InlineData("\u4ED6\u4EEC\u4E3A\u4EC0\u4E48\u4E0D\u8BF4\u4E2D\u6587.example", "xn--ihqwcrb4cv8a8dqg056pqjye.example")]
    [InlineData("xn--bcher-kva.example", "xn--bcher-kva.example")]
    [InlineData("example.", "example")]
    [InlineData("-a.example", null)]
    [InlineData("a..example", null)]
    [InlineData("a b.example", null)]
    [InlineData("[192.0.2.1]", null)]
    [InlineData("", null)]
    public void Domains_are_compared_in_ASCII(string domain, string? ascii) => Assert.Equal(ascii, MailDomain.ToAscii(domain));

    /// <summary>Domains made up of letters of many scripts, with their ASCII form by a package that is not ours (npm tr46: Unicode UTS 46).</summary>
    [Fact]
    public async Task Made_up_domains_have_the_ASCII_form_that_an_independent_package_gives_them()
    {
        var letter = Gen.Elements([.. "abcxyz019äöüßéñøåçłžşğЖдяβγςλあ漢字한국अआ".Select(character => character.ToString()), "Ä", "Ж", "-"]);
        var label = from count in Gen.Choose(1, 12) from letters in letter.ListOf(count) select string.Concat(letters);
        string[] domains = [.. (from count in Gen.Choose(1, 4) from labels in label.ListOf(count) select string.Join('.', labels)).Sample(1000), new string('ü', 60) + ".example"];
        var answers = await Outside.AskAsync("domains.mjs", new JsonObject { ["domains"] = new JsonArray([.. domains.Select(domain => (JsonNode)domain)]) });
        var compared = domains.Zip(answers["forms"]!.AsArray()).Where(pair => !pair.First.Split('.').Any(part => part.Length > 3 && part[2..4] == "--" && System.Text.Ascii.IsValid(part))).ToArray(); // of plain ASCII we take two hyphens anywhere
        Assert.InRange(compared.Length, 900, 1001);
        Assert.All(compared, pair => Assert.Equal(pair.Second?.GetValue<string>(), MailDomain.ToAscii(pair.First)));
    }

    [Fact]
    public void A_label_of_more_than_63_characters_is_no_domain() => Assert.Null(MailDomain.ToAscii(new string('a', 64) + ".example"));

    [Fact]
    public void A_table_with_one_faulty_line_is_refused_whole_and_the_line_is_named()
    {
        var lines = Enumerable.Range(1, 50_000).Select(number => number == 312 ? "not a domain" : $"d{number}.example").ToArray();
        var (members, problems) = AudienceMember.ReadTable(new StringReader(string.Join('\n', lines)));
        Assert.Empty(members);
        Assert.Equal((312, "member-form"), (problems.Single().Line, problems.Single().Code));
        (members, problems) = AudienceMember.ReadTable(new StringReader("domain,note\n" + string.Join('\n', lines.Where(line => !line.Contains(' ', StringComparison.Ordinal)))));
        Assert.Equal((49_999, 0), (members.Length, problems.Length));
    }

    [Fact]
    public void A_book_is_checked_with_the_place_of_every_fault()
    {
        var book = new AudienceBook(["ok.example", "not ok"], false, [new("outside", "Others", []), new("a", "A", ["x.example", "@", "*@*"]), new("a", "a", [])]);
        Assert.Equal(
            ["/ownDomains/1 domain-form", "/named/0/key audience-key", "/named/1/members/1 member-form", "/named/2/key audience-key", "/named/2/name audience-name"],
            RuleCheck.Check(book).Where(problem => problem.Pointer != "/named/1/members/2").Select(problem => $"{problem.Pointer} {problem.Code}"));
    }
}
