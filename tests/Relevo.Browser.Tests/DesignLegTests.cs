using System.Text.Json.Nodes;
using OpenQA.Selenium;
using Xunit;

namespace Relevo.Browser.Tests;

/// <summary>Building a signature in a real browser, by mouse and by keys, seen on a real person with every step.</summary>
public sealed class DesignLegTests(DemoWithoutDeskApps demo) : IClassFixture<DemoWithoutDeskApps>
{
    private const string Frame = "The design through the lens";
    private const string Booking = "href=\"https://book.brackenfold.example/\"";

    [Fact]
    public void A_signature_is_built_of_blocks_by_mouse_and_by_keys()
    {
        using var visitor = new Visitor();
        SignIn(visitor);
        visitor.Leg("Designs");
        visitor.Click("//a[text()='Full']");
        visitor.Title("Full");
        AddLinksAndAButton(visitor);
        GiveAFieldAFallback(visitor);
        MoveAndTakeOutByKeys(visitor);
        LeadToAFixedAddress(visitor);
        WriteHtmlOfOnesOwn(visitor);
        ShareAThemeInASet(visitor);
        WorkOnTheSignatureItself(visitor);
        ChooseThePartOfAPicture(visitor);
        visitor.AssertQuietConsole();
    }

    /// <summary>Blocks are dragged and texts typed over where they are seen, and undone from there.</summary>
    private static void WorkOnTheSignatureItself(Visitor visitor)
    {
        visitor.Leg("Designs");
        visitor.Click("//a[text()='Short']");
        visitor.Title("Short");
        visitor.InFrame(Frame, html => html.Contains("data-block=\"name\"", StringComparison.Ordinal));
        string Order() => string.Join(',', visitor.Ask<IReadOnlyCollection<object>>("return [...document.querySelectorAll('nav[aria-label=Blocks] li [data-block]')].map((row) => row.dataset.block);"));
        var before = Order();
        var (first, second) = (before.Split(',')[0], before.Split(',')[1]);
        visitor.Drag(visitor.PlaceInFrame(Frame, $"[data-block={second}]"), visitor.PlaceInFrame(Frame, $"[data-block={first}]|top"));
        visitor.Until(() => Order().StartsWith($"{second},{first}", StringComparison.Ordinal));
        visitor.Drag(visitor.Place($"nav [data-block={second}]"), visitor.Place($"nav [data-block={first}]|bottom"));
        visitor.Until(() => Order() == before);

        visitor.Button("Add a block");
        visitor.Click("//*[@role='menuitem'][normalize-space()='Button']");
        visitor.Type("Words of link 1", "Book a visit");
        visitor.InFrame(Frame, html => html.Contains(">Book a visit</span>", StringComparison.Ordinal));
        visitor.Until(() => visitor.Ask<string>($"return [...document.querySelectorAll('iframe')].find((one) => one.title === '{Frame}').contentDocument.querySelector('[data-block=button1] [data-text]')?.textContent ?? ''") == "Book a visit");
        visitor.DoubleClick(visitor.PlaceInFrame(Frame, "[data-block=button1] [data-text]"));
        visitor.Press("Come & see us");
        visitor.Press(Keys.Enter);
        visitor.InFrame(Frame, html => html.Contains(">Come &amp; see us</span>", StringComparison.Ordinal));
        visitor.Press(Keys.Control, "z");
        visitor.InFrame(Frame, html => html.Contains(">Book a visit</span>", StringComparison.Ordinal));
    }

    private static void ChooseThePartOfAPicture(Visitor visitor)
    {
        visitor.Leg("Designs");
        visitor.Click("//a[text()='Full']");
        visitor.Title("Full");
        visitor.Click("//nav[@aria-label='Blocks']//button[normalize-space()='Picture']");
        const string part = "[role=application]";
        visitor.See("//*[@role='application'][starts-with(@aria-label, 'Part of')]").SendKeys("-------------------------");
        visitor.InFrame(Frame, html => html.Contains("-crop0.0.750", StringComparison.Ordinal));
        var at = visitor.Place(part);
        visitor.Drag(at, (at.X + 120, at.Y + 120));
        visitor.InFrame(Frame, html => html.Contains("-crop250.250.750", StringComparison.Ordinal));
        visitor.AssertAccessible();
        visitor.Button("Show the middle");
        visitor.InFrame(Frame, html => !html.Contains("-crop", StringComparison.Ordinal));
    }

    /// <summary>The signature that a newcomer is to build without help, from the barest starter.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_newcomer_builds_a_signature_with_portrait_logo_icons_banner_place_and_notice_in_the_logos_colours(bool isByKeys)
    {
        using var visitor = new Visitor();
        Hand hand = isByKeys ? new KeyHand(visitor) : new MouseHand(visitor);
        hand.SignIn(demo.Address);
        visitor.Press(Keys.Alt, "2");
        visitor.Title("What signatures look like");
        hand.Press("New from a starter");
        hand.Press("Two lines");
        visitor.Title("Two lines");

        // Two columns: the portrait at the left; name, ways to reach and links at the right.
        hand.Press("Theme and name");
        hand.Pick("Add a block", "Columns");
        hand.Pick("Add a block", "Portrait");
        visitor.InFrame(Frame, html => html.Contains("-96x96-circle.png", StringComparison.Ordinal));
        MoveIn(visitor, hand, "Name, Post-nominals", toTheRight: true);
        MoveIn(visitor, hand, "Contact list", toTheRight: true);
        hand.Press("Contact list");
        hand.Type("Size of icons", "16");
        hand.Pick("Add a block", "Link row");
        hand.Type("Size of icons", "20");
        visitor.InFrame(Frame, html => html.Contains("icon-booking-", StringComparison.Ordinal) && html.Contains("icon-telephone-", StringComparison.Ordinal));

        // Below: a line, the logo that leads home, the place for banners, the notice.
        hand.Press("Theme and name");
        hand.Pick("Add a block", "Divider");
        hand.Press("Theme and name");
        hand.Pick("Add a block", "Logo");
        hand.Type("Address it leads to", "https://brackenfold.example");
        visitor.InFrame(Frame, html => html.Contains("href=\"https://brackenfold.example/\"", StringComparison.Ordinal));
        hand.Pick("Add a block", "Banner place");
        hand.Pick("Add a block", "Notice");
        visitor.InFrame(Frame, html => html.Contains("Detta meddelande", StringComparison.Ordinal));

        hand.Press("Theme and name");
        hand.Press("From a picture…");
        hand.Press("Brackenfold Veterinary Group");
        hand.Press("Take these colours");
        visitor.InFrame(Frame, html => !html.Contains("color:#23343c", StringComparison.Ordinal) && html.Contains("-96x96-circle.png", StringComparison.Ordinal));
        visitor.See("//section[@aria-label='Longest'][contains(., 'Annegret von der Lühe-Schwarzenberger')]");
        visitor.InFrame("The design on the longest person", html => html.Contains("-96x96-circle.png", StringComparison.Ordinal) && html.Contains("Diese Nachricht", StringComparison.Ordinal));
        visitor.InFrame("The design on the emptiest person", html => !html.Contains("circle.png", StringComparison.Ordinal) && html.Contains("Detta meddelande", StringComparison.Ordinal));
        if (!isByKeys) visitor.Picture("design");
        visitor.AssertQuietConsole();
    }

    private static void WriteHtmlOfOnesOwn(Visitor visitor)
    {
        visitor.Button("Add a block");
        visitor.Click("//button[@role='menuitem'][text()='Own HTML']");
        visitor.Type("HTML", "<p onclick='x'>Night desk <b>{telephone}</b></p>");
        visitor.InFrame(Frame, html => html.Contains("<p>Night desk <b>+46 ", StringComparison.Ordinal) && !html.Contains("onclick", StringComparison.Ordinal));
        visitor.SeeText("Left out: \"onclick\" of \"p\"");
    }

    private static void ShareAThemeInASet(Visitor visitor)
    {
        visitor.Button("Theme and name");
        visitor.Choose("Set", "a new set…");
        visitor.Type("Name of the new set", "Clinics");
        visitor.Button("Begin");
        visitor.SeeText("Designs that join the set take this theme");
        visitor.Button("Send a test to myself");
        visitor.SeeText("Sent to ines.albrecht@brackenfold.example");
        visitor.Leg("Designs");
        visitor.Click("//a[text()='Short']");
        visitor.Title("Short");
        visitor.Button("Theme and name");
        visitor.Choose("Set", "Clinics");
        visitor.SeeText("in all 2 designs of the set");
        visitor.Type("Name colour", "#7a1f5c");
        visitor.InFrame(Frame, html => html.Contains("color:#7a1f5c", StringComparison.Ordinal));
        visitor.Leg("Designs");
        visitor.InFrame("Full as a signature", html => html.Contains("color:#7a1f5c", StringComparison.Ordinal));
        visitor.Button("Copy the set");
        visitor.See("//section[@aria-label='Clinics, copy']//a[text()='Full, copy']");
    }

    /// <summary>What is computed from letter widths against what a browser lays out, for every starter on its longest person: within 3 percent.</summary>
    [Fact]
    public void Every_starter_is_as_wide_in_a_browser_as_it_was_computed_to_be()
    {
        using var visitor = new Visitor();
        SignIn(visitor);
        var widths = JsonNode.Parse(visitor.Ask<string>(
            """
            const { antiforgeryToken } = await (await fetch('/api/session')).json();
            const post = (body) => fetch('/api/designs', { method: 'POST', body: JSON.stringify(body), headers: { 'Content-Type': 'application/json', 'X-Relevo-Antiforgery': antiforgeryToken } });
            const frame = document.createElement('iframe');
            frame.sandbox = 'allow-same-origin';
            frame.style.width = '3000px';
            document.body.append(frame);
            const found = [];
            for (const { key } of await (await fetch('/api/starters')).json()) {
              const { id } = await (await post({ starter: key, name: `Measured ${key}` })).json();
              const { longest } = await (await fetch(`/api/designs/${id}/review`)).json();
              await new Promise((done) => { frame.onload = done; frame.srcdoc = `<!doctype html><base href="/"><body>${longest.signature.html}`; });
              found.push({ key, computed: longest.width, rendered: frame.contentDocument.querySelector('table').getBoundingClientRect().width });
            }
            return JSON.stringify(found);
            """))!.AsArray();
        Assert.True(widths.Count >= 8);
        Assert.All(widths, one => Assert.InRange(one!["computed"]!.GetValue<double>() / one["rendered"]!.GetValue<double>(), 0.97, 1.03));
    }

    private void SignIn(Visitor visitor)
    {
        visitor.Go(demo.Address);
        visitor.Title("Sign in");
        visitor.See("//input[@autocomplete='username']").SendKeys("ines.albrecht@brackenfold.example");
        visitor.See("//input[@autocomplete='current-password']").SendKeys("paper-ink-and-baton");
        visitor.Button("Sign in");
        visitor.Title("Who we have");
    }

    /// <summary>Moves a block into the columns that stand below everything, by the keys of the outline, which a mouse hand uses too.</summary>
    private static void MoveIn(Visitor visitor, Hand hand, string block, bool toTheRight)
    {
        hand.Press(block);
        for (var step = 0; step < 4 && !visitor.Has($"//nav[@aria-label='Blocks']//li[preceding-sibling::li[contains(., 'Columns')]]/button[normalize-space()='{block}']"); step++) visitor.Press(Keys.Alt, Keys.ArrowDown);
        visitor.Press(Keys.Alt, Keys.ArrowRight);
        if (toTheRight) visitor.Press(Keys.Alt, Keys.ArrowRight);
    }

    private static void AddLinksAndAButton(Visitor visitor)
    {
        Select(visitor, "Legal entity, Location");
        Add(visitor, "Link row");
        visitor.InFrame(Frame, html => html.Contains(Booking, StringComparison.Ordinal) && html.Contains(">Films</a>  |  <a", StringComparison.Ordinal));
        visitor.Choose("Form of the proofs", "plain text");
        visitor.See($"//pre[@aria-label='{Frame}'][contains(., 'Films: https://films.example/@brackenfold')]");
        visitor.Choose("Form of the proofs", "rich, light");
        Add(visitor, "Button");
        visitor.InFrame(Frame, html => html.Contains("bgcolor=\"#1f6b52\"", StringComparison.Ordinal));
        visitor.AssertAccessible();
    }

    private static void GiveAFieldAFallback(Visitor visitor)
    {
        Select(visitor, "Title, Department");
        visitor.Choose("Field in part 2", "Fax");
        visitor.InFrame(Frame, html => !html.Contains("Hästklinik", StringComparison.Ordinal));
        visitor.Choose("In place of an empty Fax", "else Department");
        visitor.InFrame(Frame, html => html.Contains("veterinär, Hästklinik<", StringComparison.Ordinal));
    }

    private static void MoveAndTakeOutByKeys(Visitor visitor)
    {
        Select(visitor, "Button: Book a visit");
        visitor.Press(Keys.Alt, Keys.ArrowLeft);
        visitor.See("//nav[@aria-label='Blocks']//li[3][contains(., 'Button')]"); // under the picture, in the column before
        visitor.Press(Keys.Alt, Keys.ArrowLeft);
        visitor.See("//nav[@aria-label='Blocks']//li[1][contains(., 'Button')]"); // before the columns
        visitor.Press(Keys.Delete);
        visitor.InFrame(Frame, html => !html.Contains("bgcolor", StringComparison.Ordinal));
        visitor.See("//nav[@aria-label='Blocks']//button[@aria-current='true'][normalize-space()='Columns']");
        visitor.Press(Keys.Control, "z");
        visitor.InFrame(Frame, html => html.Contains("bgcolor", StringComparison.Ordinal));
    }

    private static void LeadToAFixedAddress(Visitor visitor)
    {
        Select(visitor, "Button: Book a visit");
        visitor.Choose("Link 1 leads to", "a fixed address");
        visitor.Type("Address of link 1", "javascript:alert(1)");
        visitor.SeeText("An http or https address.");
        visitor.Type("Address of link 1", "https://welcome.brackenfold.example/new");
        visitor.InFrame(Frame, html => html.Contains("href=\"https://welcome.brackenfold.example/new\"", StringComparison.Ordinal));
        visitor.AssertAccessible();
        visitor.Button("Copy the block");
        visitor.InFrame(Frame, html => html.Split("bgcolor").Length == 3);
        visitor.Button("Take it out");
        visitor.InFrame(Frame, html => html.Split("bgcolor").Length == 2);
    }

    private static void Select(Visitor visitor, string block) => visitor.Click($"//nav[@aria-label='Blocks']//button[normalize-space()='{block}']");

    private static void Add(Visitor visitor, string kind)
    {
        visitor.Button("Add a block");
        visitor.Click($"//*[@role='menuitem'][normalize-space()='{kind}']");
    }
}
