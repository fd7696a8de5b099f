using System.Collections.Immutable;
using System.Text.Json.Nodes;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Core.Tests.Rules;
using Xunit;
using static Relevo.Core.Tests.Clients.FittingWorld;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Clients;

/// <summary>What goes into the slots of each client kind, and what they cannot honour.</summary>
public sealed class FittingTests
{
    private const string Server = "https://relevo.brackenfold.example";
    private static readonly ClientKind Mailbox = ClientKind.Named("browser-mailbox"), Pocket = ClientKind.Named("pocket-app"), Helper = ClientKind.Named("compose-helper");

    [Fact]
    public void A_slot_gets_the_outcome_of_the_most_cautious_situation_it_covers_and_the_rest_is_told()
    {
        var rules = new RuleSet([Build.Rule(null, new AudienceCondition([Audiences.Inside])), Build.Rule(Short, Occasion.Reply, Occasion.Forward), Build.Rule(Full)]);
        var slot = Assert.Single(Fit(Mailbox, rules, Mia).Slots);
        Assert.Equal((Full, Audiences.Outside, Occasion.New), (slot.Choice.Carried.Design, slot.Choice.Situation.Audience, slot.Choice.Situation.Occasion));
        var report = Report(Mailbox, rules, Mia);
        Assert.Equal((12, 3), (report.Situations, report.Honoured)); // new to outside and to the two named audiences
        Assert.Equal(
            ["practices suppliers outside: Reply Forward want Short, get Full", "inside: New Reply Forward want , get Full"],
            report.Losses.Select(loss => $"{string.Join(' ', loss.Audiences.OrderBy(audience => Book.Keys.IndexOf(audience)))}: {string.Join(' ', loss.Occasions)} want {loss.Wanted}, get {loss.Given}").OrderDescending());
    }

    [Fact]
    public void A_desk_app_keeps_replies_apart_and_the_helper_honours_everything()
    {
        var rules = new RuleSet([Build.Rule(Short, Occasion.Reply, Occasion.Forward), Build.Rule(Full)]);
        Assert.Equal([Full, Short], Fit(ClientKind.DeskApp, rules, Mia).Slots.Select(slot => slot.Choice.Carried.Design!.Value));
        Assert.Empty(Report(ClientKind.DeskApp, rules, Mia).Losses);
        var helper = Report(Helper, rules, Mia);
        Assert.Equal((12, 12), (helper.Situations, helper.Honoured));
    }

    [Fact]
    public void The_order_of_caution_can_be_turned_round()
    {
        var rules = new RuleSet([Build.Rule(null, new AudienceCondition([Audiences.Inside])), Build.Rule(Short, Occasion.Reply), Build.Rule(Full)]);
        Assert.Null(Chosen(new Caution(InsideFirst: true, AnswersFirst: false)).Carried.Design);
        Assert.Equal((Audiences.Outside, Occasion.Forward), (Chosen(new Caution(false, AnswersFirst: true)).Situation.Audience, Chosen(new Caution(false, AnswersFirst: true)).Situation.Occasion));
        SlotChoice Chosen(Caution caution) => Assert.Single((Slotting(rules) with { CautionOf = _ => caution }).Fit(Mailbox, [Mia]).Slots).Choice;
    }

    [Fact]
    public void Where_one_slot_stands_for_every_account_the_later_rule_decides()
    {
        var alias = Account("reception@brackenfold.example", ("displayName", "Reception"));
        var rules = new RuleSet([Build.Rule(Short, new AddressCondition(["mia@"])), Build.Rule(Full)]);
        var fitting = Slotting(rules).Fit(Pocket, [Mia, alias], isForAll: true, tellsLosses: true);
        var slot = Assert.Single(fitting.Slots);
        Assert.Equal((Full, ""), (slot.Choice.Carried.Design, slot.Choice.Address));
        Assert.Equal(12, slot.Choice.Losses.Count(loss => loss.Account == Mia));
        Assert.Equal(2, Slotting(rules).Fit(Pocket, [Mia, alias]).Slots.Length);
    }

    /// <summary>Against plain enumeration: every situation is decided, furnished, compiled and written by itself, and compared byte for byte with what the slot holds.</summary>
    [Property(MaxTest = 60)]
    public Property Honoured_is_exactly_what_looks_the_same_written_by_itself() => Prop.ForAll(
        (from rules in RuleSets from sender in SenderOf(Guid.NewGuid()) from kind in Gen.Elements(ClientKind.DeskApp, Mailbox, Pocket) select (rules, sender, kind)).ToArbitrary(),
        world =>
        {
            var content = Content(world.rules);
            var account = new FittingAccount(world.sender, _ => Values(world.sender));
            var slots = Slotting(world.rules).Fit(world.kind, [account], tellsLosses: true).Slots;
            Assert.Equal(world.kind.Slots.Length, slots.Length);
            foreach (var slot in slots)
            {
                var lost = slot.Choice.Losses.Select(loss => (loss.Audience, loss.Occasion)).ToHashSet();
                foreach (var audience in Book.Keys)
                {
                    foreach (var occasion in slot.Choice.Slot.Occasions) Assert.Equal(Written(audience, occasion) != Written(Audiences.Outside, slot.Choice.Slot.Occasions[0]), lost.Contains((audience, occasion)));
                }
            }

            string Written(string audience, Occasion occasion)
            {
                var situation = new Situation(world.sender, audience, occasion, world.kind.Kind, Noon);
                var decision = Decision.Decide(world.rules, Records, situation);
                if (Signing.Furnish(content, Records, situation, decision, Values(world.sender)) is not { } design) return "nothing";
                var written = CompiledDesign.Compile(design, Records.Fields, Signing.FormOf(world.kind.Form, situation, decision)).Render(Values(world.sender), new(occasion, audience));
                return $"{decision.Design} {written.HtmlSha256} {written.TextSha256}";
            }
        });

    [Fact]
    public void A_design_that_asks_the_occasion_itself_is_told_as_other_wording()
    {
        var asking = Build.Design(["name", "hours"], ("name", Build.Line("displayName")), ("hours", Build.Line("mail") with { When = [new OccasionIs([Occasion.New])] }));
        var report = Report(Mailbox, new RuleSet([Build.Rule(Full)]), Mia, asking);
        Assert.Equal(LossKind.Wording, Assert.Single(report.Losses).Kind);
        Assert.Equal((12, 4), (report.Situations, report.Honoured));
    }

    [Fact]
    public void What_is_too_long_is_tried_with_linked_pictures_then_as_the_smaller_design_and_then_refused_with_the_characters_over()
    {
        var withSibling = Build.Full() with { Smaller = "Short" };
        var desk = ClientKind.DeskApp with { PictureFolder = "a-folder-of-pictures-with-a-long-name" };
        var written = Length(withSibling);
        Assert.Equal(FitWay.AsItIs, Fill(written, withSibling).Way);
        var near = (Slotting(new RuleSet([Build.Rule(Full)]), withSibling) with { Server = "x" }).Fit(desk with { MaxHtmlCharacters = written - 1 }, [Mia]);
        Assert.Equal(FitWay.Linked, near.Slots[0].Way); // that address is shorter than the folder's name
        Assert.Empty(near.Pictures);
        Assert.Equal((FitWay.Smaller, "Short"), Fill(written - 1, withSibling) is var smaller ? (smaller.Way, smaller.Tried) : default);
        var refused = Fill(10, withSibling);
        Assert.Equal((FitWay.Refused, Length(Build.Short()) - 10, "Short"), (refused.Way, refused.Over, refused.Tried));
        Assert.Equal("Full", Fill(10, Build.Full()).Tried);
        Assert.Empty(Slotting(new RuleSet([Build.Rule(Full)])).Fit(desk with { MaxHtmlCharacters = 10 }, [Mia]).Files);

        FilledSlot Fill(int most, DesignDocument full) => (Slotting(new RuleSet([Build.Rule(Full)]), full) with { Server = "https://pictures.brackenfold.example/in-a-place-with-a-long-name" }).Fit(desk with { MaxHtmlCharacters = most }, [Mia]).Slots[0];
        int Length(DesignDocument design) => CompiledDesign.Compile(design, Records.Fields, desk.Form).CountHtmlCharacters(Mia.Values(""), Circumstances.Plain);
    }

    [Fact]
    public void Characters_are_counted_as_people_count_them_and_not_as_bytes()
    {
        var account = Account("mia@brackenfold.example", ("displayName", "Søren 🐎"));
        var design = Build.Design(["name"], ("name", Build.Line("displayName")));
        var rules = new RuleSet([Build.Rule(Full)]);
        Assert.Equal(FitWay.AsItIs, Slotting(rules, design).Fit(Pocket with { MaxTextCharacters = 8 }, [account]).Slots[0].Way); // seven code points and the line's end
        Assert.Equal((FitWay.Refused, 1), Slotting(rules, design).Fit(Pocket with { MaxTextCharacters = 7 }, [account]).Slots[0] is var slot ? (slot.Way, slot.Over) : default);
    }

    [Fact]
    public void A_client_of_plain_text_gets_the_text_form_and_nothing_else()
    {
        var file = Assert.Single(Fit(Pocket, new RuleSet([Build.Rule(Full)]), Mia).Files);
        Assert.Equal("mia@brackenfold.example.all.txt", file.Entry.Path);
        Assert.StartsWith("Mia", file.Bytes.Text(), StringComparison.Ordinal);
    }

    [Fact]
    public void Offers_and_ready_answers_are_further_files_that_say_what_they_are_for()
    {
        var rules = new RuleSet([Build.Rule(Full) with { Then = new CarryDesigns([Full]) { Offered = [Short] } }]);
        var slotting = Slotting(rules, answers: [new("On my way", "Your visit, {displayName}", "I am on my way – ring {displayName}.")]);
        var files = slotting.Fit(ClientKind.DeskApp, [Mia]).Deliver(new Dictionary<string, string>(), new Dictionary<string, byte[]>()).Manifest.Files;
        Assert.Equal(
            ["mia@brackenfold.example.answer.On my way.eml Answer On my way ", "mia@brackenfold.example.new.html Signature  new", "mia@brackenfold.example.new.offer.Short.html Offer Short new", "mia@brackenfold.example.reply.html Signature  reply", "mia@brackenfold.example.reply.offer.Short.html Offer Short reply"],
            files.Where(file => file.Path.EndsWith("html", StringComparison.Ordinal) || file.Role == FileRole.Answer).Select(file => $"{file.Path} {file.Role} {file.Name} {file.Slot}"));
        Assert.Equal([Occasion.Reply, Occasion.Forward], files.First(file => file.Slot == "reply").Occasions);
        Assert.Contains("mia@brackenfold.example.new.rtf", files.Select(file => file.Path));
    }

    [Fact]
    public async Task A_ready_answer_is_read_by_a_parser_that_is_not_ours()
    {
        // Outside check: npm mailparser.
        var message = AnswerMessage.Write(new WrittenAnswer("Ihr Besuch – Bestätigung", "Grüße\nMia\n", ""));
        var read = await Outside.AskAsync("answer.mjs", new JsonObject { ["message"] = Convert.ToBase64String(message.Span) });
        Assert.Equal(("Ihr Besuch – Bestätigung", "Grüße\nMia\n"), (read["subject"]!.GetValue<string>(), read["text"]!.GetValue<string>()));
        Assert.Equal(message.ToArray(), AnswerMessage.Write(new WrittenAnswer("Ihr Besuch – Bestätigung", "Grüße\nMia\n", "")).ToArray());
    }

    [Fact]
    public void Names_that_would_lead_out_of_the_folder_or_meet_each_other_do_neither()
    {
        var account = Account("../../etc/passwd@brackenfold.example", ("displayName", "Mia"));
        var rules = new RuleSet([Build.Rule(Full) with { Then = new CarryDesigns([Full]) { Offered = [Short, German] } }]);
        var content = Content(rules) with { Designs = [new(Full, Build.Full()), new(Short, Build.Short("../Short")), new(German, Build.Short("../SHORT"))] };
        var paths = (Slotting(rules) with { Signing = new SigningAt(content, Records, Noon) }).Fit(ClientKind.DeskApp, [account]).Files.Select(file => file.Entry.Path).ToList();
        Assert.All(paths, path => Assert.DoesNotContain("/", path, StringComparison.Ordinal));
        Assert.Contains("%2E.%2F..%2Fetc%2Fpasswd@brackenfold.example.new.html", paths);
        Assert.Equal(paths.Count, paths.Distinct(StringComparer.OrdinalIgnoreCase).Count());
    }

    [Fact]
    public void An_edition_that_changes_nothing_for_a_client_has_the_same_tag()
    {
        var rules = new RuleSet([Build.Rule(Full)]);
        string Tag(int edition) => (Slotting(rules) with { Edition = edition }).Fit(ClientKind.DeskApp, [Mia]).Deliver(new Dictionary<string, string>(), new Dictionary<string, byte[]>()).Manifest.Tag();
        Assert.Equal(Tag(1), Tag(2));
    }

    [Fact]
    public async Task A_client_kind_is_added_by_its_profile_alone()
    {
        var json = JsonNode.Parse("""
            { "format": "relevo-client-kind-1", "kind": "wall-screen", "name": "wall screen", "reached": "profile", "holdsHtml": true, "pictures": "linked", "maxHtmlCharacters": 4000,
              "slots": [{ "name": "fresh", "label": "New messages", "occasions": ["new"] }, { "name": "answer", "label": "Answers", "occasions": ["reply", "forward"] }] }
            """)!;
        var (kind, problems) = ClientKind.Read(System.Text.Encoding.UTF8.GetBytes(json.ToJsonString()));
        Assert.Empty(problems);
        var fitting = Fit(kind!, new RuleSet([Build.Rule(Short, Occasion.Reply), Build.Rule(Full)]), Mia);
        Assert.Equal(["mia@brackenfold.example.fresh.html", "mia@brackenfold.example.fresh.txt", "mia@brackenfold.example.answer.html", "mia@brackenfold.example.answer.txt"], fitting.Files.Select(file => file.Entry.Path));
        Assert.Contains($"src=\"{Server}/pictures/", fitting.Files[0].Bytes.Text(), StringComparison.Ordinal);

        // Outside check: the published schema, by the npm package ajv. The profiles that ship are held against it as well.
        var root = Environment.GetEnvironmentVariable("RELEVO_ROOT")!;
        var schema = await File.ReadAllTextAsync(Path.Combine(root, "docs/formats/client-kind.schema.json"));
        Assert.Equal(ClientKind.Schema(), schema);
        var shipped = Directory.GetFiles(Path.Combine(root, "src/Relevo.Core/Clients/Profiles"), "*.json").Select(file => JsonNode.Parse(File.ReadAllText(file)));
        var bad = json.DeepClone();
        bad["reached"] = "carrier pigeon";
        var answers = await Outside.AskAsync("schema.mjs", new JsonObject { ["schema"] = JsonNode.Parse(schema), ["documents"] = new JsonArray([json, .. shipped, bad]) });
        var errors = answers["errors"]!.AsArray().Select(list => list!.AsArray().Count).ToArray();
        Assert.All(errors[..^1], count => Assert.Equal(0, count));
        Assert.NotEqual(0, errors[^1]);
    }

    [Theory]
    [InlineData("not json", "This is not the profile")]
    [InlineData("""{"format":"other","kind":"x","name":"x","holdsHtml":true,"pictures":"linked","slots":[]}""", "The format is")]
    [InlineData("""{"format":"relevo-client-kind-1","kind":"../x","name":"x","holdsHtml":true,"pictures":"linked","slots":[{"name":"all","label":"All","occasions":["new","reply","forward"]}]}""", "The kind is a name")]
    [InlineData("""{"format":"relevo-client-kind-1","kind":"x","name":"x","holdsHtml":true,"pictures":"linked","slots":[{"name":"all","label":"All","occasions":["new","reply"]}]}""", "Exactly one slot covers the occasion \"forward\"")]
    [InlineData("""{"format":"relevo-client-kind-1","kind":"x","name":"x","holdsHtml":true,"pictures":"files","slots":[{"name":"all","label":"All","occasions":["new","reply","forward"]}]}""", "names their folder")]
    [InlineData("""{"format":"relevo-client-kind-1","kind":"x","name":"x","holdsHtml":false,"pictures":"linked","slots":[{"name":"all","label":"All","occasions":["new","reply","forward"]}]}""", "plain text alone has no pictures")]
    public void A_profile_that_cannot_be_used_is_refused_with_the_reason(string json, string reason) =>
        Assert.Contains(ClientKind.Read(System.Text.Encoding.UTF8.GetBytes(json)).Problems, problem => problem.Message.Contains(reason, StringComparison.Ordinal));

    private static FittingAccount Mia { get; } = Account("mia@brackenfold.example", ("displayName", "Mia"), ("title", "Vet"));

    [Fact]
    public void Accounts_that_share_what_a_ready_answer_shows_share_the_message_and_others_have_their_own()
    {
        var slotting = Slotting(new RuleSet([Build.Rule(Full)]), answers: [new("Where", "", "Come to {location}.\n"), new("Thanks", "", "Thank you.\n")]);
        var accounts = new[] { ("a", "Berlin"), ("b", "Berlin"), ("c", "Bath") }.Select(pair => Account($"{pair.Item1}@brackenfold.example", ("displayName", pair.Item1), ("location", pair.Item2))).ToArray();
        var answers = accounts.Select(account => slotting.Fit(ClientKind.DeskApp, [account]).Files.Where(file => file.Entry.Role == FileRole.Answer).ToDictionary(file => file.Entry.Name)).ToArray();
        Assert.Equal(answers[0]["Where"].Entry.Sha256, answers[1]["Where"].Entry.Sha256);
        Assert.NotEqual(answers[0]["Where"].Entry.Sha256, answers[2]["Where"].Entry.Sha256);
        Assert.Single(answers.Select(ofAccount => ofAccount["Thanks"].Entry.Sha256).Distinct());
        Assert.Equal(["a@brackenfold.example.answer.Where.eml", "b@brackenfold.example.answer.Where.eml", "c@brackenfold.example.answer.Where.eml"], answers.Select(ofAccount => ofAccount["Where"].Entry.Path));
        Assert.All(answers, ofAccount => Assert.All(ofAccount.Values, file => Assert.Equal(file.Entry.Sha256, RenderedSignature.Sha256(file.Bytes.Span))));
    }

    private static Slotting Slotting(RuleSet rules, DesignDocument? full = null, ImmutableArray<ReadyAnswer> answers = default) => new(1, new SigningAt(Content(rules, full, answers), Records, Noon), Server, _ => Caution.Standard);

    private static Fitting Fit(ClientKind kind, RuleSet rules, FittingAccount account) => Slotting(rules).Fit(kind, [account]);

    private static FittingReport Report(ClientKind kind, RuleSet rules, FittingAccount account, DesignDocument? full = null)
    {
        var slotting = Slotting(rules, full);
        var count = new FittingCount(kind, slotting.Signing.Content);
        count.Add([account], slotting.Fit(kind, [account], tellsLosses: true).Slots);
        return count.Report();
    }
}
