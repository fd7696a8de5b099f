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
    private static readonly Manifest Wanted = new(1, [new("a.html", "11", "a@b.example", "new"), new("b.txt", "22", "a@b.example", "new")]);
    private static readonly DeliveryReport AllThere = new(Wanted.Tag(), [new("a.html", "11"), new("b.txt", "22")], "");

    [Fact]
    public void A_person_gets_files_for_each_account_and_slot_and_each_picture_once()
    {
        var facts = Build.Facts(("displayName", "Mia"), ("telephone", "+46 8 465 004 12"));
        var accounts = new[] { "mia@brackenfold.example", "m@brackenfold.example" }.Select(address => Fitted(address, facts));
        var mark = Build.Logo + "-64x64";
        var fitting = Fit(3, accounts, Rules(Full, Short));
        Assert.Equal([mark], fitting.Pictures);
        var delivery = fitting.Deliver(new Dictionary<string, string> { [mark] = "aa" });
        Assert.Equal(
            ["m@brackenfold.example.new.html", "m@brackenfold.example.new.txt", "m@brackenfold.example.reply.html", "m@brackenfold.example.reply.txt", "mia@brackenfold.example.new.html", "mia@brackenfold.example.new.txt", "mia@brackenfold.example.reply.html", "mia@brackenfold.example.reply.txt", $"pictures/{mark}.png"],
            delivery.Manifest.Files.Select(file => file.Path));
        Assert.All(delivery.Signatures, file => Assert.Equal(file.Entry.Sha256, RenderedSignature.Sha256(file.Bytes.Span)));
        Assert.Equal("aa", delivery.Manifest.Files[^1].Sha256);
        Assert.Equal(8, fitting.Deliver(new Dictionary<string, string>()).Manifest.Files.Length);
    }

    [Fact]
    public void Answers_go_without_the_separator_line_where_their_rule_says_so()
    {
        var account = Fitted("mia@brackenfold.example", Build.Facts(("displayName", "Mia")));
        var rules = new RuleSet([Build.Rule(Full, Array.Empty<Condition>()) with { Then = new CarryDesigns([Full]) { HasSeparator = false } }]);
        var texts = Fit(1, [account], rules).Signatures.Where(file => file.Entry.Path.EndsWith(".txt", StringComparison.Ordinal)).ToDictionary(file => file.Entry.Slot, file => file.Bytes.Text());
        Assert.StartsWith("-- \nMia", texts["new"], StringComparison.Ordinal);
        Assert.StartsWith("Mia", texts["reply"], StringComparison.Ordinal);
    }

    [Fact]
    public void A_slot_that_gets_nothing_gets_no_files()
    {
        var account = Fitted("mia@brackenfold.example", Build.Facts(("displayName", "Mia")));
        Assert.All(Fit(1, [account], Rules(Full, null)).Signatures, file => Assert.Equal("new", file.Entry.Slot));
    }

    [Fact]
    public void A_computer_waits_is_told_and_is_in_place()
    {
        var told = DeliveryStanding.Start.Told(Wanted.Tag());
        Assert.Equal(DeliveryState.OnItsWay, told.State);
        Assert.Equal(DeliveryState.InPlace, told.Reported(AllThere, Wanted).State);
    }

    [Fact]
    public void Telling_or_reporting_the_same_twice_changes_nothing()
    {
        var inPlace = DeliveryStanding.Start.Told(Wanted.Tag()).Reported(AllThere, Wanted);
        Assert.Equal(inPlace, inPlace.Told(Wanted.Tag()));
        Assert.Equal(inPlace.State, inPlace.Reported(AllThere, Wanted).State);
    }

    [Fact]
    public void A_file_changed_by_hand_is_drift_until_it_is_put_right()
    {
        var inPlace = DeliveryStanding.Start.Told(Wanted.Tag()).Reported(AllThere, Wanted);
        var drifted = inPlace.Reported(AllThere with { Found = [new("a.html", "99"), new("b.txt", "22")] }, Wanted);
        Assert.Equal(DeliveryState.Drifted, drifted.State);
        Assert.Equal(["a.html"], drifted.Differing);
        Assert.Equal(DeliveryState.Drifted, drifted.Told(Wanted.Tag()).State);
        Assert.Equal(DeliveryState.InPlace, drifted.Reported(AllThere, Wanted).State);
    }

    [Fact]
    public void Files_that_never_were_right_are_a_failure_and_not_drift()
    {
        var told = DeliveryStanding.Start.Told(Wanted.Tag());
        Assert.Equal(DeliveryState.Failed, told.Reported(AllThere with { Found = [] }, Wanted).State);
        Assert.Equal("disk full", told.Reported(AllThere with { Trouble = "disk full" }, Wanted).Trouble);
    }

    [Fact]
    public void A_report_about_another_manifest_changes_nothing()
    {
        var told = DeliveryStanding.Start.Told(Wanted.Tag());
        Assert.Equal(told, told.Reported(AllThere with { Tag = "old" }, Wanted));
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

    private static FittingAccount Fitted(string address, Facts facts) => new(Build.Sender(address), FieldResolution.Resolve(FieldCatalogue.Standard, facts, address));

    private static Fitting Fit(int edition, IEnumerable<FittingAccount> accounts, RuleSet rules) => DeskAppFitting.Fit(
        edition, ClientKind.DeskApp, accounts, EditionContent.From([new(Full, Build.Full()), new(Short, Build.Short())], rules, []), CompanyRecords.Plain, default,
        (design, form) => CompiledDesign.Compile(design, FieldCatalogue.Standard, form));
}
