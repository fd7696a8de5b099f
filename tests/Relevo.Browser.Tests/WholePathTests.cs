using System.Text;
using OpenQA.Selenium;
using Xunit;

namespace Relevo.Browser.Tests;

/// <summary>The whole job in a real browser: from a directory file to the bytes in a mail client's folder.</summary>
public sealed class WholePathTests(RunningDemo demo) : IClassFixture<RunningDemo>
{
    private const string Maren = "Dr. Maren Holtkamp";

    [Fact]
    public void A_directory_file_becomes_a_signature_in_a_mail_client()
    {
        using var visitor = new Visitor();
        SignIn(visitor);
        SeeEmptyLegs(visitor);
        RefuseABrokenFile(visitor);
        DropTheDecemberFile(visitor);
        EditTheDesign(visitor);
        OrderTheRules(visitor);
        LookThroughTheLens(visitor);
        Publish(visitor);
        RollOut(visitor);
        CompareTheFileWithTheLens(visitor);
        DriftAndPutRight(visitor);
        SeeTheDeskApp(visitor);
        visitor.Go(demo.Address);
        visitor.Title("Who we have");
        visitor.AssertQuietConsole();
        SeeTheEmployeesPage(visitor);
        visitor.AssertQuietConsole();
    }

    private void SignIn(Visitor visitor)
    {
        visitor.Go(demo.Address);
        visitor.Title("Sign in");
        visitor.AssertAccessible();
        Enter(visitor, "ines.albrecht@brackenfold.example", "paper-ink-and-baton");
        visitor.Title("Who we have");
        visitor.SeeText("238 people");
    }

    private static void Enter(Visitor visitor, string name, string password)
    {
        visitor.See("//input[@autocomplete='username']").SendKeys(name);
        visitor.See("//input[@autocomplete='current-password']").SendKeys(password);
        visitor.Button("Sign in");
    }

    /// <summary>The legs are reached by key, and Results says honestly that nothing is there.</summary>
    private static void SeeEmptyLegs(Visitor visitor)
    {
        visitor.Press(Keys.Alt, "6");
        visitor.Title("What it did");
        visitor.SeeText("Nothing is counted yet");
        visitor.AssertAccessible();
        visitor.Press(Keys.Alt, "5");
        visitor.Title("Nothing is rolled out");
        visitor.Press("?");
        visitor.SeeText("Show these keys");
        visitor.Button("Close");
        visitor.Press(Keys.Alt, "1");
        visitor.Title("Who we have");
    }

    private static void RefuseABrokenFile(Visitor visitor)
    {
        visitor.Drop("//h1[text()='Who we have']", "broken.ldif", "version: 1\n\ndn: uid=x\nobjectClass: person\nuid: x\ncn:: %%%\n");
        visitor.Title("What broken.ldif would do");
        visitor.SeeText("line 6");
        visitor.SeeText("not valid base64");
        visitor.SeeNo("//button[contains(., 'Apply to')]");
        visitor.Button("Put away");
    }

    private static void DropTheDecemberFile(Visitor visitor)
    {
        visitor.Upload(Path.Combine(RunningDemo.Root, "demo/brackenfold-december.ldif"));
        visitor.Title("What brackenfold-december.ldif would do");
        visitor.SeeText("3 join, 4 change (1 with another name or address), 2 leave, 232 stay as they are.");
        visitor.SeeText("Felix Ashdown-Thackray");
        visitor.Picture("people-import");
        visitor.Button("Apply to 9 people");
        visitor.SeeText("239 people");
        visitor.Button("Agneta Källberg");
        visitor.SeeText("uid=agneta.kaellberg");
        visitor.Type("Search people", "holtkamp");
        visitor.Button(Maren);
        visitor.SeeText("Brackenfold Tiermedizin GmbH");
        visitor.Button($"Look as {Maren}");
        visitor.See("//iframe[@title='Signature as the recipient sees it']");
        visitor.Press("l");
    }

    /// <summary>Edits a text line and a colour, sees both at once on a real person, undoes a step, and sees no trace of a missing mobile.</summary>
    private static void EditTheDesign(Visitor visitor)
    {
        const string frame = "The design through the lens";
        visitor.Leg("Designs");
        visitor.Title("What signatures look like");
        visitor.Picture("designs");
        visitor.Click("//a[text()='Full']");
        visitor.Title("Full");
        visitor.Click("//nav[@aria-label='Blocks']//button[contains(., 'Title, Department')]");
        visitor.Choose("Field in part 2", "Location");
        visitor.InFrame(frame, html => html.Contains("Leitende Chirurgin, Berlin<", StringComparison.Ordinal));
        visitor.Click("//nav[@aria-label='Blocks']//button[normalize-space()='Theme and name']");
        visitor.Type("Name colour", "#7a1f3d");
        visitor.InFrame(frame, html => html.Contains("#7a1f3d", StringComparison.Ordinal));
        visitor.Type("Name colour", "#000000");
        visitor.InFrame(frame, html => html.Contains("color:#000000", StringComparison.Ordinal));
        visitor.Press(Keys.Control, "z");
        visitor.InFrame(frame, html => !html.Contains("color:#000000", StringComparison.Ordinal));
        visitor.Type("Name colour", "not a colour");
        visitor.SeeText("Six digits");
        visitor.Type("Name colour", "#7a1f3d");
        visitor.InFrame(frame, html => html.Contains("#7a1f3d", StringComparison.Ordinal) && html.Contains(">M</span> ", StringComparison.Ordinal));
        visitor.Type("Person to look as", "Ines Albrecht");
        visitor.Click("//*[@role='option'][contains(., 'Ines Albrecht')]");
        visitor.InFrame(frame, html => html.Contains("Ines Albrecht", StringComparison.Ordinal) && !html.Contains(">M</span> ", StringComparison.Ordinal));
    }

    private static void OrderTheRules(Visitor visitor)
    {
        const string rules = "//section[@aria-label='Rules on the signature track']";
        visitor.Leg("Rules");
        visitor.Title("Who gets what");
        visitor.SeeText("One kind of message leaves without a signature. One rule never wins.");
        visitor.Picture("rules");
        visitor.See($"{rules}//li[4][contains(., 'A reply or forward carries Short')]");
        visitor.See("//button[@aria-label='Move rule 4']").SendKeys(Keys.Alt + Keys.ArrowDown);
        visitor.See($"{rules}//li[5][contains(., 'A reply or forward carries Short')]");
        visitor.Press(Keys.Control, "z");
        visitor.See($"{rules}//li[4][contains(., 'A reply or forward carries Short')]");
        visitor.Button("now");
        visitor.Click("//a[starts-with(., 'Disclaimers')]");
        visitor.See("//section[@aria-label='Rules on the disclaimer track']//li[1][contains(., 'Every message to inside takes no further disclaimer.')]");
        visitor.Click("//a[starts-with(., 'Audiences')]");
        visitor.SeeText("31 members");
        visitor.Picture("audiences");
        visitor.Leg("Designs");
        visitor.Button("Disclaimers");
        visitor.Title("What must be said");
        visitor.SeeText("Registergericht Musterstadt");
        visitor.Picture("disclaimers");
        visitor.Leg("Designs");
        visitor.Button("Banners");
        visitor.Title("What runs under signatures");
        visitor.See("//section[@aria-label='Calendar'][contains(., 'Microchip day')]");
        visitor.Picture("banners");
        visitor.Leg("Rules");
        visitor.Title("Who gets what");
    }

    private static void LookThroughTheLens(Visitor visitor)
    {
        visitor.Type("Person to look as", "holtkamp");
        visitor.Click($"//*[@role='option'][contains(., '{Maren}')]");
        visitor.Choose("Occasion", "a reply");
        visitor.Click("//button[@aria-keyshortcuts='L']");
        visitor.SeeText("Decides: this is a reply");
        visitor.SeeText("Passed over: it is sent from maren.holtkamp@brackenfold.example, not from emergency@brackenfold.example");
        visitor.Picture("lens");
        visitor.Click("//button[@role='radio'][normalize-space()='plain text']");
        visitor.SeeText("https://brackenfold.example/berlin");
        visitor.Choose("Occasion", "a new message");
        visitor.Click("//button[@aria-keyshortcuts='L']");
    }

    private static void Publish(Visitor visitor)
    {
        visitor.Leg("Proof");
        visitor.Title("What will change");
        visitor.Picture("proof");
        visitor.Button("Publish edition 1");
        visitor.SeeText("Edition 1 is published.");
        visitor.Button("Go on to the rollout");
    }

    private static void RollOut(Visitor visitor)
    {
        visitor.Button("Roll out edition 1");
        visitor.Title("Edition 1");
        visitor.SeeText("edition 1, 99 %");
    }

    /// <summary>Byte for byte: the file on the computer's disk, what the lens answers, and what its frame shows.</summary>
    private void CompareTheFileWithTheLens(Visitor visitor)
    {
        var person = visitor.Ask<string>("return (await (await fetch('/api/people?search=holtkamp')).json()).people[0].id");
        foreach (var (occasion, slot) in new[] { ("new", "new"), ("reply", "reply") })
        {
            var html = visitor.Ask<string>($"return (await (await fetch('/api/lens?person={person}&occasion={occasion}')).json()).signature.html");
            var text = visitor.Ask<string>($"return (await (await fetch('/api/lens?person={person}&occasion={occasion}')).json()).signature.text");
            var file = Path.Combine(demo.DeskApps, Maren, $"maren.holtkamp@brackenfold.example.{slot}");
            Assert.Equal(Encoding.UTF8.GetBytes(html), File.ReadAllBytes(file + ".html"));
            Assert.Equal(Encoding.UTF8.GetBytes(text), File.ReadAllBytes(file + ".txt"));
        }

        visitor.Click("//button[@aria-keyshortcuts='L']");
        var onDisk = File.ReadAllText(Path.Combine(demo.DeskApps, Maren, "maren.holtkamp@brackenfold.example.new.html"));
        visitor.Choose("Occasion", "a new message");
        visitor.InFrame("Signature as the recipient sees it", frame => frame.Contains(onDisk, StringComparison.Ordinal));
        visitor.Click("//button[@aria-keyshortcuts='L']");
    }

    private void DriftAndPutRight(Visitor visitor)
    {
        var file = Path.Combine(demo.DeskApps, Maren, "maren.holtkamp@brackenfold.example.new.html");
        var before = File.ReadAllBytes(file);
        File.AppendAllText(file, "<p>Sent in haste</p>");
        visitor.See($"//tr[contains(., '{Maren}')][contains(., 'desk app')][contains(., 'put right')]");
        Assert.Equal(before, File.ReadAllBytes(file));
        visitor.Click($"//tr[contains(., '{Maren}')][contains(., 'desk app')]//button");
        visitor.See("//section[@aria-label='Story']//li[contains(., 'drifted')]");
        visitor.AssertAccessible();
    }

    private void SeeTheDeskApp(Visitor visitor)
    {
        visitor.Go(demo.StandIns);
        visitor.Click($"//a[text()='{Maren}']");
        visitor.See("//iframe[@title='Message']");
        visitor.Picture("stand-in-desk-app");
        visitor.Click("//a[text()='Reply']");
        visitor.SeeText("Re: Bruno's check-up");
    }

    private void SeeTheEmployeesPage(Visitor visitor)
    {
        visitor.Button("Ines Albrecht");
        visitor.Button("Sign out");
        visitor.Title("Sign in");
        Enter(visitor, "maren.holtkamp@brackenfold.example", "my-own-signature");
        visitor.Title("Your signatures");
        visitor.InFrame("New messages, from maren.holtkamp@brackenfold.example", html => html.Contains(Maren, StringComparison.Ordinal));
        visitor.Picture("own-page");
    }
}
