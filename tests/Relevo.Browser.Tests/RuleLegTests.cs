using OpenQA.Selenium;
using Xunit;

namespace Relevo.Browser.Tests;

/// <summary>Finding and mending what is wrong with a rule set in a real browser, by mouse and by keys.</summary>
public sealed class RuleLegTests(DemoWithoutDeskApps demo) : IClassFixture<DemoWithoutDeskApps>
{
    private const string Rules = "//section[@aria-label='Rules on the signature track']";

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void The_dead_rule_and_the_hole_are_found_seen_through_and_mended(bool isByKeys)
    {
        using var visitor = new Visitor();
        Hand hand = isByKeys ? new KeyHand(visitor) : new MouseHand(visitor);
        hand.SignIn(demo.Address);
        visitor.Press(Keys.Alt, "3");
        visitor.Title("Who gets what");
        visitor.SeeText("One kind of message leaves without a signature. One rule never wins.");
        SeeWhatAnOutsiderGets(visitor);

        // The dead rule is moved above the one that shades it.
        visitor.See($"{Rules}//li[6][contains(., 'Never wins: rule 4 comes first in all its cases.')]");
        hand.Pick("More for rule 6", "Move it up");
        visitor.See($"{Rules}//li[5][contains(., 'invoices@')][contains(., 'Never wins')]");
        hand.Pick("More for rule 5", "Move it up");
        visitor.See($"{Rules}//li[4][contains(., 'invoices@')]");
        visitor.SeeText("One kind of message leaves without a signature.");
        visitor.SeeNo("//*[contains(text(), 'Never wins')]");

        // The hole is opened on the map, and the rule that was to cover it is tried before it is kept.
        hand.Press(visitor.NameOf("//button[starts-with(normalize-space(), 'suppliers, New: No signature')]"));
        visitor.See("//section[@aria-label='Accounts in this square'][contains(., 'No signature 331')]");
        hand.Press("Condition of rule 8: inside, referring practices or outside");
        hand.Press("suppliers");
        visitor.See("//section[@aria-label='What would change'][contains(., '331 accounts go from no rule to rule 8 (Full)')]");
        visitor.SeeText("No kind of message leaves without a decision.");
        visitor.AssertAccessible();
        hand.Press("Keep");
        visitor.See($"{Rules}//li[8][contains(., 'inside, referring practices, suppliers or outside carries Full.')]");
        visitor.SeeNo("//*[contains(text(), 'No signature')]");
        visitor.SeeText("17 on");

        // Undone, so that whoever comes next finds the company as it was.
        for (var step = 0; step < 3; step++) visitor.Press(Keys.Control, "z");
        visitor.SeeText("One kind of message leaves without a signature. One rule never wins.");
        visitor.AssertQuietConsole();
    }

    [Fact]
    public void A_rule_is_written_from_nothing_and_an_expectation_holds_it()
    {
        using var visitor = new Visitor();
        Hand hand = new MouseHand(visitor);
        hand.SignIn(demo.Address);
        visitor.Leg("Rules");
        hand.Press("Write a rule");
        hand.Press("carries nothing");
        hand.Press("Emergency card");
        hand.Pick("+ another condition", "office, team or legal entity");
        visitor.Type("Names", "Berlin");
        visitor.Press(Keys.Enter);
        hand.Press("Keep");
        visitor.See($"{Rules}//li[9][contains(., 'Every message from people whose office is Berlin carries Emergency card.')]");
        visitor.Click("//a[starts-with(., 'Expectations')]");
        visitor.See("//section[@aria-label='Expectations']//li[1][contains(., 'met')]");
        hand.Press("Write an expectation");
        visitor.Type("Name of the expectation", "Nobody goes without");
        hand.Press("Full");
        hand.Press("Keep");
        visitor.See("//section[@aria-label='Expectations']//li[3][contains(., 'fails')][contains(., 'Rule')]");
        visitor.AssertAccessible();
        visitor.Leg("Proof");
        visitor.See("//*[@role='alert' or self::section][contains(., 'Nobody goes without')]");
        visitor.See("//button[starts-with(normalize-space(), 'Publish edition')][@disabled]");
        visitor.Press(Keys.Control, "z");
        visitor.Press(Keys.Control, "z");
        visitor.Press(Keys.Control, "z");
        visitor.AssertQuietConsole();
    }

    /// <summary>Help desk: one search finds a person, and the answer stands in the lens.</summary>
    private static void SeeWhatAnOutsiderGets(Visitor visitor)
    {
        visitor.Type("Person to look as", "holtkamp");
        visitor.Click("//*[@role='option'][contains(., 'Maren Holtkamp')]");
        visitor.Choose("Occasion", "a reply");
        visitor.Click("//button[@aria-keyshortcuts='L']");
        visitor.See("//section[@aria-label='Why this one']//li[4][contains(., 'Decides: this is a reply')]");
        visitor.See("//section[@aria-label='Disclaimers']//li[3][contains(., 'Adds: the legal entity is Brackenfold Tiermedizin GmbH')]");
        visitor.InFrame("Signature as the recipient sees it", html => html.Contains("Diese Nachricht", StringComparison.Ordinal));
        visitor.Click("//button[@aria-keyshortcuts='L']");
        visitor.Choose("Occasion", "a new message");
    }
}
