using Relevo.Core.Clients;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rollouts;
using Relevo.Core.Rules;
using Xunit;

namespace Relevo.Core.Tests.Rollouts;

public sealed class RolloutTests
{
    private const string Hostile = "<script>alert(1)</script> & Söhne \"x\"";
    private static readonly Guid Full = Guid.NewGuid();
    private static readonly Guid Short = Guid.NewGuid();

    [Fact]
    public void A_person_gets_files_for_each_account_and_slot_and_each_picture_once()
    {
        var facts = Build.Facts(("displayName", "Mia"), ("telephone", "+46 8 465 004 12"));
        var accounts = new[] { "mia@brackenfold.example", "m@brackenfold.example" }.Select(address => Fitted(address, facts));
        var mark = Build.Logo + "-64x64";
        var fitting = Fit(3, accounts, Rules(Full, Short));
        Assert.Equal([mark], fitting.Pictures.Keys);
        var delivery = fitting.Deliver(new Dictionary<string, string> { [mark] = "aa" }, NoBytes);
        string[] slots = ["m@brackenfold.example.new", "m@brackenfold.example.reply", "mia@brackenfold.example.new", "mia@brackenfold.example.reply"];
        Assert.Equal([.. slots.SelectMany(slot => new[] { slot + ".html", slot + ".rtf", slot + ".txt" }), $"pictures/{mark}.png"], delivery.Manifest.Files.Select(file => file.Path));
        Assert.All(delivery.Signatures, file => Assert.Equal(file.Entry.Sha256, RenderedSignature.Sha256(file.Bytes.Span)));
        Assert.Equal("aa", delivery.Manifest.Files[^1].Sha256);
        Assert.Equal(12, fitting.Deliver(new Dictionary<string, string>(), NoBytes).Manifest.Files.Length);
    }

    [Fact]
    public void Answers_go_without_the_separator_line_where_their_rule_says_so()
    {
        var account = Fitted("mia@brackenfold.example", Build.Facts(("displayName", "Mia")));
        var rules = new RuleSet([Build.Rule(Full, Array.Empty<Condition>()) with { Then = new CarryDesigns([Full]) { HasSeparator = false } }]);
        var texts = Fit(1, [account], rules).Files.Where(file => file.Entry.Path.EndsWith(".txt", StringComparison.Ordinal)).ToDictionary(file => file.Entry.Slot, file => file.Bytes.Text());
        Assert.StartsWith("-- \nMia", texts["new"], StringComparison.Ordinal);
        Assert.StartsWith("Mia", texts["reply"], StringComparison.Ordinal);
    }

    [Fact]
    public void A_slot_that_gets_nothing_gets_no_files()
    {
        var account = Fitted("mia@brackenfold.example", Build.Facts(("displayName", "Mia")));
        Assert.All(Fit(1, [account], Rules(Full, null)).Files, file => Assert.Equal("new", file.Entry.Slot));
    }

    [Theory]
    [InlineData(Hostile, "%3Cscript%3Ealert(1)%3C%2Fscript%3E & Söhne %22x%22")]
    [InlineData("mia@brackenfold.example", "mia@brackenfold.example")]
    [InlineData("../../etc/passwd", "%2E.%2F..%2Fetc%2Fpasswd")]
    [InlineData("..", "%2E%2E")]
    [InlineData("100 %", "100 %25")]
    [InlineData(" a ", "%20a%20")]
    public void A_file_name_reads_back_as_exactly_what_it_was_made_from(string text, string name)
    {
        Assert.Equal(name, FileName.Encode(text));
        Assert.Equal(text, FileName.Decode(name));
    }

    [Fact]
    public void A_very_long_name_is_cut_and_still_told_apart()
    {
        var one = FileName.Encode(new string('ä', 300) + "1");
        Assert.InRange(System.Text.Encoding.UTF8.GetByteCount(one), 1, 200);
        Assert.NotEqual(one, FileName.Encode(new string('ä', 300) + "2"));
    }

    private static RuleSet Rules(Guid? forNew, Guid? forAnswers) => new([Build.Rule(forNew, Occasion.New), Build.Rule(forAnswers, Occasion.Reply, Occasion.Forward)]);

    private static Dictionary<string, byte[]> NoBytes { get; } = [];

    private static FittingAccount Fitted(string address, Facts facts) => new(Build.Sender(address), _ => FieldResolution.Resolve(FieldCatalogue.Standard, facts, address));

    private static Fitting Fit(int edition, IEnumerable<FittingAccount> accounts, RuleSet rules) =>
        new Slotting(edition, new SigningAt(EditionContent.From([new(Full, Build.Full()), new(Short, Build.Short())], rules, []), CompanyRecords.Plain, default), "", _ => Caution.Standard).Fit(ClientKind.DeskApp, [.. accounts]);
}
