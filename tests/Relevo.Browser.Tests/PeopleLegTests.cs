using Xunit;

namespace Relevo.Browser.Tests;

/// <summary>Getting people in and keeping them right, in a real browser: a directory server with good and bad days, a table, company facts, overrides.</summary>
public sealed class PeopleLegTests(DemoWithoutDeskApps demo) : IClassFixture<DemoWithoutDeskApps>
{
    [Fact]
    public void People_come_from_several_sources_and_their_facts_from_the_layer_that_has_them()
    {
        using var visitor = new Visitor();
        SignIn(visitor);
        AddTheDirectory(visitor);
        HoldAnAccident(visitor);
        MapATable(visitor);
        SeeWhatIsMissing(visitor);
        EnterAnOfficesNumberOnce(visitor);
        OverrideAndTakeOut(visitor);
        SetForMany(visitor);
        RetireAndBringBack(visitor);
        ShareAMailbox(visitor);
        MakeAFieldAndOpenIt(visitor);
        MakeAToken(visitor);
        ReadATitleFromAList(visitor);
        AskAsAnEmployeeAndGrantIt(visitor);
        visitor.AssertQuietConsole(but: "api/ldap/try"); // the refused bind was asked for
    }

    private void AskAsAnEmployeeAndGrantIt(Visitor visitor)
    {
        SignOutAndIn(visitor, "Ines Albrecht", "maren.holtkamp@brackenfold.example", "my-own-signature");
        visitor.Title("Your signatures");
        visitor.Fill("Title", "Chefchirurgin");
        visitor.Button("Ask for it");
        visitor.SeeText("waits for your administrator");
        visitor.Fill("Pronouns", "sie");
        visitor.Button("Set it");
        visitor.SeeText("As the company says");
        visitor.Button("Sign out");
        Enter(visitor, "ines.albrecht@brackenfold.example", "paper-ink-and-baton");
        visitor.Click("//a[text()='Fields']");
        visitor.See("//section[@aria-label='Wishes'][contains(., 'Chefchirurgin')]");
        visitor.Button("Grant");
        visitor.SeeNo("//section[@aria-label='Wishes']");
        visitor.Click("//a[text()='Everybody']");
        visitor.Type("Search people", "holtkamp");
        visitor.SeeText("Chefchirurgin");
    }

    private static void SignOutAndIn(Visitor visitor, string who, string name, string password)
    {
        visitor.Button(who);
        visitor.Button("Sign out");
        Enter(visitor, name, password);
    }

    private static void Enter(Visitor visitor, string name, string password)
    {
        visitor.Title("Sign in");
        visitor.See("//input[@autocomplete='username']").SendKeys(name);
        visitor.See("//input[@autocomplete='current-password']").SendKeys(password);
        visitor.Button("Sign in");
    }

    private void SignIn(Visitor visitor)
    {
        visitor.Go(demo.Address);
        Enter(visitor, "ines.albrecht@brackenfold.example", "paper-ink-and-baton");
        visitor.SeeText("238 people");
    }

    private void AddTheDirectory(Visitor visitor)
    {
        visitor.Click("//a[text()='Sources and runs']");
        visitor.Title("Where people come from");
        visitor.Button("Add a directory server");
        visitor.Fill("Called", "Brackenfold directory");
        visitor.Fill("Server", "127.0.0.1");
        visitor.Choose("Secured by", "not secured");
        visitor.Fill("Port", demo.DirectoryPort.ToString());
        visitor.Fill("Bind name", "cn=relevo,dc=brackenfold,dc=example");
        visitor.Fill("Secret", "wrong");
        visitor.Fill("Base", "dc=brackenfold,dc=example");
        visitor.Button("Try it");
        visitor.SeeText("does not know this bind name with this secret");
        visitor.Fill("Secret", "let-me-look");
        visitor.Button("Try it");
        visitor.See("//section[@aria-label='What it answered'][contains(., '238 people')]");
        visitor.AssertAccessible();
        visitor.Button("Keep this server");
        visitor.Button("Read now");
        visitor.SeeText("238 join (238 known from another source), 0 change, 0 leave, 0 stay as they are.");
        visitor.Button("Apply to 238 people");
        visitor.SeeText("238 people");
    }

    /// <summary>Half the directory vanishes: the run waits, says why, and is put away.</summary>
    private void HoldAnAccident(Visitor visitor)
    {
        visitor.Go(new Uri(demo.StandIns, "/directory"));
        visitor.Button("Half the people vanish");
        visitor.SeeText("It holds 119 people and is well.");
        visitor.Go(new Uri(demo.Address, "/people/sources"));
        visitor.Button("Read now");
        visitor.SeeText("119 of 238 people would leave, more than 5 %.");
        visitor.See("//button[normalize-space()='Apply all the same'][@disabled]");
        visitor.AssertAccessible();
        visitor.Button("Put away");
        visitor.SeeText("238 people");
    }

    private static void MapATable(Visitor visitor)
    {
        visitor.Drop("//h1[text()='Who we have']", "temporary.csv", "No.;Vorname;Nachname;E-Mail;Funktion;Standort\n90001;SÖHNKE;VON THADEN;s.thaden@brackenfold.example;Aushilfe;Berlin\n");
        visitor.Title("What stands in temporary.csv");
        visitor.SeeText("cells parted by semicolons");
        visitor.Choose("Known again by", "No.");
        visitor.Choose("Add a step to Vorname", "set its case");
        visitor.Choose("Add a step to Nachname", "set its case");
        visitor.See("//section[@aria-label='The first people'][contains(., 'Söhnke von Thaden')]");
        visitor.Picture("people-table");
        visitor.Button("See what it would do");
        visitor.SeeText("1 join, 0 change, 0 leave, 0 stay as they are.");
        visitor.Button("Apply to 1 person");
        visitor.SeeText("239 people");
    }

    private static void SeeWhatIsMissing(Visitor visitor)
    {
        visitor.Click("//section[@aria-label='What is missing']//button[contains(., 'Telephone')]");
        visitor.SeeText("18 people like this.");
        visitor.Click("//section[@aria-label='Office']//button[contains(., 'Berlin')]");
        visitor.SeeText("2 people like this.");
        visitor.Button("Show everybody");
        visitor.Type("Search people", "sohnek");
        visitor.SeeText("Nothing is written “sohnek”; 1 person with sohnke.");
    }

    /// <summary>Whoever has no number of their own gets the office's, and says so.</summary>
    private static void EnterAnOfficesNumberOnce(Visitor visitor)
    {
        visitor.Click("//a[text()='Company facts']");
        visitor.Click("//section[@aria-label='Offices']//button[contains(., 'Berlin')]");
        visitor.Fill("Telephone", "+49 30 23125 100");
        visitor.Button("Save facts");
        visitor.SeeText("2 people take it");
        visitor.Picture("people-company");
        visitor.Click("//a[text()='Everybody']");
        visitor.Type("Search people", "thaden");
        visitor.Button("Söhnke von Thaden");
        visitor.See("//section[@aria-label='Person']//div[contains(., '+49 30 23125 100')]//button[normalize-space()='office Berlin']");
    }

    private static void OverrideAndTakeOut(Visitor visitor)
    {
        visitor.Click("//button[starts-with(@aria-label, 'Title comes from')]");
        visitor.Type("Override Title", "Aushilfe am Empfang");
        visitor.Button("Override");
        visitor.See("//button[@aria-label='Title comes from: override']");
        visitor.See("//ol[@aria-label='Layers of Title']/li[1][contains(., 'Aushilfe am Empfang')][contains(., 'shown')]");
        visitor.Picture("people");
        visitor.Button("Take out");
        visitor.See("//button[@aria-label='Title comes from: Table file']");
        visitor.Button("History");
        visitor.See("//ol[@aria-label='History']/li[contains(., 'joined by Table file')]");
    }

    private static void SetForMany(Visitor visitor)
    {
        visitor.Type("Search people", "berlin");
        visitor.SeeText("30 people with “berlin”.");
        visitor.Click("//input[@aria-label='Select everybody found']");
        visitor.SeeText("30 people selected");
        visitor.Button("Set a value");
        visitor.Choose("Field to set", "Fax");
        visitor.Type("Value", "+49 30 23125 199");
        visitor.Button("Set for 30");
        visitor.See("//section[@aria-label='Also']//button[contains(., 'with an override')][contains(., '30')]");
    }

    private static void RetireAndBringBack(Visitor visitor)
    {
        visitor.Type("Search people", "thaden söhnke");
        visitor.SeeText("1 person with “thaden söhnke”.");
        visitor.Click("//input[@aria-label='Select everybody found']");
        visitor.Button("Retire");
        visitor.Button("Retire 1");
        visitor.SeeText("Nobody is found like this.");
        visitor.Click("//section[@aria-label='Also']//button[contains(., 'retired')]");
        visitor.Button("Söhnke von Thaden");
        visitor.SeeText("Retired by hand.");
        visitor.Button("Bring Söhnke von Thaden back");
        visitor.SeeText("Nobody is found like this.");
    }

    private static void ShareAMailbox(Visitor visitor)
    {
        visitor.Click("//a[text()='Shared mailboxes']");
        visitor.Title("Mailboxes that several people send from");
        visitor.Button("Add a shared mailbox");
        visitor.Fill("Address", "night.desk@brackenfold.example");
        visitor.Fill("Name", "Night desk");
        visitor.Choose("Groups that send from it", "Emergency rota (12)");
        visitor.Button("Add mailbox");
        visitor.Click("//nav[@aria-label='Shared mailboxes']//button[contains(., 'Night desk')][contains(., '12 senders')]");
        visitor.Picture("people-mailboxes");
    }

    private static void MakeAFieldAndOpenIt(Visitor visitor)
    {
        visitor.Click("//a[text()='Fields']");
        visitor.Title("Which facts there are");
        visitor.Button("Make a field");
        visitor.Fill("Called", "Species treated");
        visitor.Button("Make it");
        visitor.See("//tr[contains(., 'Species treated')][contains(., 'your own')]");
        visitor.Choose("Employees and Pronouns", "may set it");
        visitor.See("//button[@aria-label='Employees and Pronouns: may set it']");
        visitor.Choose("Employees and Title", "may ask for it");
        visitor.See("//button[@aria-label='Employees and Title: may ask for it']");
        visitor.Picture("people-fields");
    }

    private static void ReadATitleFromAList(Visitor visitor)
    {
        visitor.Click("//li[contains(., 'Brackenfold directory')][contains(., 'directory server')]//button[normalize-space()='Settings']");
        visitor.Click("//a[contains(., 'What its attributes are')]");
        visitor.Title("What Brackenfold directory says");
        visitor.Button("Title");
        visitor.Choose("Add a step to Title", "look it up");
        visitor.Type("Title, step 1: table", "IT-Administration = Computers and signatures\nLeitende Chirurgin = Chefchirurgin\n");
        visitor.See("//section[@aria-label='Title']//li[contains(., 'Computers and signatures') or contains(., 'Chefchirurgin')]");
        visitor.AssertAccessible();
        visitor.Button("Keep it");
        visitor.Title("Where people come from");
    }

    private static void MakeAToken(Visitor visitor)
    {
        visitor.Click("//a[text()='Sources and runs']");
        visitor.Button("Let a client push");
        visitor.Button("Make a token");
        visitor.See("//section[@aria-label='The new token']//code");
        visitor.Button("I have it");
        visitor.SeeNo("//section[@aria-label='The new token']");
        visitor.Picture("people-sources");
    }
}
