using OpenQA.Selenium;

namespace Relevo.Browser.Tests;

/// <summary>A way of working a page: the same steps by mouse or by keys alone.</summary>
public abstract class Hand(Visitor visitor)
{
    protected Visitor Visitor { get; } = visitor;

    /// <summary>Comes to the demo and signs in as its administrator.</summary>
    public void SignIn(Uri address)
    {
        Visitor.Go(address);
        Visitor.Title("Sign in");
        Type("Name", "ines.albrecht@brackenfold.example");
        Type("Password", "paper-ink-and-baton");
        Press("Sign in");
        Visitor.Title("Who we have");
    }

    /// <summary>Presses what has this accessible name.</summary>
    public abstract void Press(string name);

    /// <summary>Picks from the menu behind a button.</summary>
    public abstract void Pick(string menu, string item);

    /// <summary>Replaces what stands in a field.</summary>
    public abstract void Type(string label, string text);
}

/// <summary>A hand on a mouse.</summary>
public sealed class MouseHand(Visitor visitor) : Hand(visitor)
{
    public override void Press(string name) => Visitor.Click($"//input[@type='checkbox'][normalize-space(..)={Visitor.Quote(name)}] | //*[@role='button'][@aria-label={Visitor.Quote(name)}] | //button[normalize-space()={Visitor.Quote(name)} or @aria-label={Visitor.Quote(name)} or (normalize-space()='' and .//img[@alt={Visitor.Quote(name)}])] | //a[normalize-space()={Visitor.Quote(name)}]");

    public override void Pick(string menu, string item)
    {
        Press(menu);
        Visitor.Click($"//*[@role='menuitem'][normalize-space()={Visitor.Quote(item)}]");
    }

    public override void Type(string label, string text)
    {
        Visitor.Click($"//*[@aria-label={Visitor.Quote(label)}] | //label[starts-with(normalize-space(), {Visitor.Quote(label)})]//input");
        Visitor.Press(Keys.Control, "a");
        Visitor.Press(text);
    }
}

/// <summary>Ten fingers on a keyboard: everything is reached by Tab and worked by Enter, arrows and letters.</summary>
public sealed class KeyHand(Visitor visitor) : Hand(visitor)
{
    private const int MostTabs = 160; // stops on one page; more would be a trap

    public override void Press(string name)
    {
        Reach(name);
        Visitor.Press(Visitor.FocusIsTick() ? Keys.Space : Keys.Enter);
    }

    public override void Pick(string menu, string item)
    {
        Press(menu);
        Visitor.Until(() => Visitor.FocusRole() == "menu");
        Visitor.Press(item);
        Thread.Sleep(400); // the menu takes letters within 350 ms as one word, and forgets the word only while it is open
        Visitor.Press(Keys.Enter);
        Visitor.SeeNo("//*[@role='menu']");
    }

    public override void Type(string label, string text)
    {
        Reach(label);
        Visitor.Press(Keys.Control, "a");
        Visitor.Press(text);
    }

    /// <summary>Goes from stop to stop, forward or back, whichever way it lies, until the focus is on what has the name.</summary>
    private void Reach(string name)
    {
        for (var tabs = 0; tabs < MostTabs; tabs++)
        {
            var (focused, liesBehind) = Visitor.Focus(name);
            if (focused == name) return;
            if (liesBehind) Visitor.Press(Keys.Shift, Keys.Tab);
            else Visitor.Press(Keys.Tab);
        }

        throw new WebDriverException($"No stop of the Tab key is named \"{name}\".");
    }
}
