using System.Collections.Immutable;
using System.Text.Json;
using Relevo.Core;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.People;

namespace Relevo.Server.Hosting;

/// <summary>The demo company's designs, disclaimers, banners, audiences and rules, with a rule that never wins and a hole for the visitor to find.</summary>
internal sealed class DemoRules(DesignStore designs, RuleStore rules, DocumentStore documents, UnitStore units, CurrentRoster rosters, TimeProvider clock)
{
    private const string Limited = "Brackenfold Veterinary Group Limited", Gmbh = "Brackenfold Tiermedizin GmbH", Ab = "Brackenfold Djursjukvård AB";

    private static readonly string[] Practices =
    [
        "ashgrove-vets", "birchwood-animals", "canal-street-vets", "dalesfoot-practice", "eastgate-vets", "fernhill-animals", "greenway-vets", "hollow-lane-practice", "ivybridge-animals", "kestrel-vets", "larkrise-practice",
        "millpond-vets", "northgate-animals", "orchard-vets", "praxis-am-anger", "praxis-buchenhof", "praxis-eichwald", "praxis-havelblick", "praxis-lindenhof", "praxis-moorweg", "praxis-seeufer", "praxis-waldrand",
        "quayside-vets", "riverside-practice", "smadjur-ekbacken", "smadjur-hamnen", "smadjur-lindangen", "smadjur-norrtull", "thornfield-vets", "upperton-animals", "willowbank-vets",
    ];

    private static readonly string[] Suppliers =
        ["bandage-mill", "feed-and-forage", "fine-needles", "glass-and-slide", "hay-brothers", "instrument-house", "kennel-works", "lamp-and-lens", "paper-depot", "*.pharma-trade", "saddle-room", "warm-blankets"];

    /// <summary>Adds everything. logo: the company's mark.</summary>
    public async Task AddAsync(StarterLogo logo, Actor actor, CancellationToken cancellationToken)
    {
        await AddParticularsAsync(actor, cancellationToken);
        await AddAudiencesAsync(actor, cancellationToken);
        var full = await AddDesignAsync(WithBanner(Starter.All[0].Open("Full", logo)), actor, cancellationToken);
        var brief = await AddDesignAsync(Starter.All[1].Open("Short", logo), actor, cancellationToken);
        var line = await AddDesignAsync(Starter.All[2].Open("Plain line", logo), actor, cancellationToken);
        var booking = await AddDesignAsync(WithBooking(Starter.All[3].Open("Full with booking", logo)), actor, cancellationToken);
        var emergency = await AddDesignAsync(Starter.All[6].Open("Emergency card", logo), actor, cancellationToken);
        var dental = await AddDesignAsync(WithPromotion(Starter.All[6].Open("Reception, dental checks", logo), "Ask us about a dental check."), actor, cancellationToken);
        var chips = await AddDesignAsync(WithPromotion(Starter.All[6].Open("Reception, microchips", logo), "Is your animal's microchip registered? We look it up for you."), actor, cancellationToken);

        var particulars = await AddAsync(DocumentKind.Disclaimer, new Disclaimer("Particulars", DisclaimerLanguage.Person, "en", ImmutableSortedDictionary<string, DisclaimerText>.Empty) { HasParticulars = true }, actor, cancellationToken);
        var english = await AddAsync(DocumentKind.Disclaimer, Notice("English notice", ("en", "This message is for the person it is addressed to. If that is not you, please tell us and delete it.")), actor, cancellationToken);
        var german = await AddAsync(
            DocumentKind.Disclaimer,
            Notice("German notice", ("de", "Diese Nachricht ist für die angeschriebene Person bestimmt. Sind Sie das nicht, sagen Sie es uns bitte und löschen Sie sie."), ("en", "This message is for the person it is addressed to.")) with { Language = DisclaimerLanguage.Both },
            actor,
            cancellationToken);
        var swedish = await AddAsync(DocumentKind.Disclaimer, Notice("Swedish notice", ("sv", "Detta meddelande är avsett för den det är ställt till. Om det inte är du, hör av dig och radera det.")), actor, cancellationToken);

        var today = DateOnly.FromDateTime(clock.GetUtcNow().UtcDateTime);
        var tick = await AddAsync(DocumentKind.Banner, new Banner("Tick season", BannerLayout.WithBar, "Ticks are about.", "We check and protect your animal in ten minutes.", "Book a check", "https://brackenfold.example/ticks") { Runs = Season(today, 3, 6) }, actor, cancellationToken);
        var teeth = await AddAsync(DocumentKind.Banner, new Banner("Dental month", BannerLayout.ButtonBeside, "February is dental month.", "A look at the teeth is free.", "Book a look", "https://brackenfold.example/teeth") { Runs = Season(today, 2, 2) }, actor, cancellationToken);
        var chip = await AddAsync(
            DocumentKind.Banner,
            new Banner("Microchip day", BannerLayout.BetweenLines, "Microchip day", "Bring your animal and we read its chip.", "See the dates", "https://brackenfold.example/chips") { Runs = new TimeCondition("Europe/Berlin") { From = Midnight(today.AddDays(-10)), Until = Midnight(today.AddDays(21)) } },
            actor,
            cancellationToken);

        var answers = new OccasionCondition([Occasion.Reply, Occasion.Forward]);
        var newOnes = new OccasionCondition([Occasion.New]);
        var ruleSet = new RuleSet(
        [
            Rule(new CarryDesigns([emergency]), "", new AddressCondition(["emergency@brackenfold.example"])),
            Rule(new CarryNothing(), "Night ward", answers, new UnitCondition(UnitKind.Team, ["Tierärztliche Notaufnahme"]), new AudienceCondition([Audiences.Inside])) with { Note = "They write to each other all night; nobody needs a signature there." },
            Rule(new CarryDesigns([line]), "", new ClientCondition(["pocket-app"])),
            Rule(new CarryDesigns([brief]) { MayChoose = true, Offered = [line] }, "", answers),
            Rule(new CarryDesigns([booking]), "Booking link", newOnes, new ValueCondition("registrationNumber", ValueTest.Present, []), new AudienceCondition(["referring-practices"])),
            Rule(new CarryDesigns([line]), "", new OccasionCondition([Occasion.Forward]), new AddressCondition(["invoices@brackenfold.example"]), new AudienceCondition(["suppliers"])),
            Rule(new CarryDesigns([dental, chips]) { By = TurnUnit.Day }, "Promotion", newOnes, new AddressCondition(["reception@brackenfold.example"]), new AudienceCondition([Audiences.Outside])),
            Rule(new CarryDesigns([full]), "", newOnes, new AudienceCondition([Audiences.Inside, "referring-practices", Audiences.Outside])),
        ])
        {
            Disclaimer =
            [
                Rule(new StopDisclaimers(), "", new AudienceCondition([Audiences.Inside])),
                Rule(new AddDisclaimers([particulars]), ""),
                Rule(new AddDisclaimers([german]), "", new UnitCondition(UnitKind.Entity, [Gmbh])),
                Rule(new AddDisclaimers([swedish]), "", new UnitCondition(UnitKind.Entity, [Ab])),
                Rule(new AddDisclaimers([english]), "", new NoneOf([new UnitCondition(UnitKind.Entity, [Gmbh, Ab])])),
            ],
            Banner =
            [
                Rule(new ShowBanner(tick), "", newOnes, new AudienceCondition([Audiences.Outside])),
                Rule(new ShowBanner(teeth), "", newOnes, new AudienceCondition([Audiences.Outside])),
                Rule(new ShowBanner(chip, "https://brackenfold.example/chips/practices"), "Chip days for practices", newOnes, new AudienceCondition(["referring-practices"])),
                Rule(new ShowBanner(chip), "", newOnes, new AudienceCondition([Audiences.Outside])),
            ],
            Tests =
            [
                new RuleTest(Guid.NewGuid(), "A vet in Berlin answers an owner", [answers, new UnitCondition(UnitKind.Office, ["Berlin"]), new ValueCondition("registrationNumber", ValueTest.Present, []), new AudienceCondition([Audiences.Outside]), new ClientCondition(["desk-app"])], [brief]) { Disclaimers = [particulars, german] },
                new RuleTest(Guid.NewGuid(), "The emergency mailbox has its own card everywhere", [new AddressCondition(["emergency@brackenfold.example"])], [emergency]),
            ],
        };
        var revision = (await rules.ReadAsync(cancellationToken)).Revision;
        await rules.SaveAsync(revision, JsonSerializer.Serialize(ruleSet, RelevoJson.Options), actor, cancellationToken);
    }

    /// <summary>What the register says of the three entities, all invented.</summary>
    private async Task AddParticularsAsync(Actor actor, CancellationToken cancellationToken)
    {
        (string Entity, (string Field, string Value)[] Facts)[] entities =
        [
            (Limited, [("country", "GB"), ("legalName", Limited), ("legalForm", "Ltd"), ("register", "England and Wales"), ("registerNumber", "00000417"), ("registeredOffice", "1 Bracken Yard, Harrogate")]),
            (Gmbh, [("country", "DE"), ("legalName", Gmbh), ("legalForm", "GmbH"), ("seat", "Berlin"), ("register", "Musterstadt"), ("registerNumber", "HRB 000000"), ("officers", "Ines Albrecht, Tomas Wendt")]),
            (Ab, [("country", "SE"), ("legalName", Ab), ("legalForm", "AB"), ("seat", "Stockholm"), ("registerNumber", "000000-0000")]),
        ];
        var chart = (await rosters.GetAsync(cancellationToken)).Records.Units;
        foreach (var (entity, facts) in entities)
        {
            var unit = chart.Find(UnitKind.Entity, entity) ?? throw new StartRefusedException($"The demo's entity {entity} is not there.");
            if (await units.SaveAsync(unit with { Facts = facts.Aggregate(unit.Facts, (all, fact) => all.With(fact.Field, fact.Value)) }, actor, cancellationToken) != UnitOutcome.Saved) throw new StartRefusedException($"The demo's particulars of {entity} could not be added.");
        }
    }

    private async Task AddAudiencesAsync(Actor actor, CancellationToken cancellationToken)
    {
        var book = new AudienceBook(
            ["brackenfold.example"], true,
            [new Audience("referring-practices", "referring practices", [.. Practices.Select(name => $"{name}.example")]), new Audience("suppliers", "suppliers", [.. Suppliers.Select(name => $"{name}.example")]) { Language = "en" }]);
        var stored = (await documents.FindAsync(DocumentKind.Audiences, DocumentStore.AudienceBook, cancellationToken))!;
        await documents.SaveAsync(DocumentKind.Audiences, stored.Id, stored.Revision, JsonSerializer.Serialize(book, RelevoJson.Options), actor, cancellationToken);
    }

    private async Task<Guid> AddDesignAsync(DesignDocument design, Actor actor, CancellationToken cancellationToken)
    {
        var id = Guid.CreateVersion7();
        await designs.AddAsync(id, design.ToJson(), actor, cancellationToken);
        return id;
    }

    private async Task<Guid> AddAsync<T>(DocumentKind kind, T document, Actor actor, CancellationToken cancellationToken)
    {
        var id = Guid.CreateVersion7();
        await documents.AddAsync(kind, id, JsonSerializer.Serialize(document, RelevoJson.Options), actor, cancellationToken);
        return id;
    }

    private static Rule Rule(Outcome then, string name, params Condition[] conditions) => new(Guid.NewGuid(), true, [.. conditions], then) { Name = name };

    private static Disclaimer Notice(string name, params (string Language, string Text)[] texts) => new(
        name, DisclaimerLanguage.Person, texts[0].Language, texts.ToImmutableSortedDictionary(text => text.Language, text => new DisclaimerText(text.Text), StringComparer.Ordinal));

    /// <summary>The season of these months, this year's while it runs or lies ahead, else the next.</summary>
    private static TimeCondition Season(DateOnly today, int firstMonth, int lastMonth)
    {
        DateOnly Begin(int year) => new(year, firstMonth, 1);
        DateOnly End(int year) => new DateOnly(year, lastMonth, 1).AddMonths(1);
        var year = End(today.Year) > today ? today.Year : today.Year + 1;
        return new TimeCondition("Europe/Berlin") { From = Midnight(Begin(year)), Until = Midnight(End(year)) };
    }

    private static string Midnight(DateOnly day) => day.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture) + "T00:00";

    private static DesignDocument WithBanner(DesignDocument design) => Under(Under(design, "gap-above", new Gap(8)), "banner", new BannerPlace(1, 400));

    private static DesignDocument WithBooking(DesignDocument design) => Under(Under(design, "gap-before", new Gap(4)), "booking", new Button(new LinkItem("", "bookingPage", "")));

    private static DesignDocument WithPromotion(DesignDocument design, string words) => Under(design, "promotion", new TextLine(TextRole.Text, " ", [new Part([new LiteralRun(words) { IsItalic = true }])]));

    private static DesignDocument Under(DesignDocument design, string key, Block block) => design with { Root = design.Root.Add(key), Blocks = design.Blocks.Add(key, block) };
}
