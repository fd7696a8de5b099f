using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Interactions;
using Xunit;

namespace Relevo.Browser.Tests;

/// <summary>Someone in front of a real browser: finds things by what they are called, waits for them, and looks at the console when leaving.</summary>
public sealed class Visitor : IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(45); // these machines are noisy
    private readonly ChromeDriver driver;
    private readonly string profile = Directory.CreateTempSubdirectory("relevo-profile-").FullName;

    public Visitor()
    {
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
            "--window-size=1280,800", "--hide-scrollbars", $"--user-data-dir={profile}");
        options.SetLoggingPreference(LogType.Browser, LogLevel.All);
        driver = new ChromeDriver(ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver"), options);
        driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride", new Dictionary<string, object?> { ["width"] = 1280, ["height"] = 800, ["deviceScaleFactor"] = 1, ["mobile"] = false });
    }

    /// <summary>Where pictures of the main views are kept, when they are wanted: RELEVO_SCREENSHOTS.</summary>
    private static string? Pictures => Environment.GetEnvironmentVariable("RELEVO_SCREENSHOTS");

    public void Go(Uri address) => driver.Navigate().GoToUrl(address);

    public IWebElement See(string xpath) => Wait(() => driver.FindElements(By.XPath(xpath)).FirstOrDefault(element => element.Displayed), xpath)!;

    public void SeeNo(string xpath) => Wait(() => driver.FindElements(By.XPath(xpath)).Count == 0 ? "gone" : null, $"no {xpath}");

    public bool Has(string xpath) => driver.FindElements(By.XPath(xpath)).Count > 0;

    public void SeeText(string text) => See($"//body//*[contains(normalize-space(.), {Quote(text)})][not(*[contains(normalize-space(.), {Quote(text)})])]");

    public void Title(string text) => See($"//h1[normalize-space()={Quote(text)}]");

    public void Click(string xpath) => Wait(
        () =>
        {
            try
            {
                var seen = See(xpath);
                if (!seen.Enabled) return null;
                seen.Click();
                return "clicked";
            }
            catch (Exception covered) when (covered is StaleElementReferenceException or ElementClickInterceptedException)
            {
                return null;
            }
        },
        $"a click on {xpath}");

    public void Button(string text) => Click($"//button[normalize-space()={Quote(text)}]");

    public void Leg(string name) => Click($"//nav[@aria-label='Legs']//a[b[text()='{name}']]");

    /// <summary>Replaces what stands in a field, as a person would: select all, type.</summary>
    public void Type(string label, string text)
    {
        var field = See($"//*[@aria-label={Quote(label)}]");
        field.Click();
        field.SendKeys(Keys.Control + "a");
        field.SendKeys(text);
    }

    /// <summary>Replaces what stands in the field that a visible label names.</summary>
    public void Fill(string label, string text)
    {
        var field = See($"//input[@id = //label[normalize-space()={Quote(label)}]/@for] | //label[normalize-space(span)={Quote(label)}]//input");
        field.Click();
        field.SendKeys(Keys.Control + "a");
        field.SendKeys(text);
    }

    public void Choose(string label, string option)
    {
        Click($"//button[starts-with(@aria-label, {Quote(label + ":")})]");
        Click($"//*[@role='option'][normalize-space()={Quote(option)} or normalize-space()={Quote("✓" + option)}]");
        if (driver.FindElements(By.XPath("//*[@role='listbox' and @aria-multiselectable='true']")).Count > 0) Press(Keys.Escape);
    }

    public void Upload(string path) => Wait(() => driver.FindElements(By.XPath("//input[@type='file']")).FirstOrDefault(), "a place for a file")!.SendKeys(path);

    /// <summary>Drops a file on the element, as a hand with a mouse would.</summary>
    public void Drop(string xpath, string name, string content) => driver.ExecuteScript(
        """
        const dropped = new DataTransfer();
        dropped.items.add(new File([arguments[2]], arguments[1]));
        for (const kind of ['dragover', 'drop']) arguments[0].dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: dropped }));
        """,
        See(xpath), name, content);

    public void Press(params string[] keys)
    {
        var actions = new Actions(driver);
        foreach (var held in keys[..^1]) actions.KeyDown(held);
        actions.SendKeys(keys[^1]);
        foreach (var held in keys[..^1]) actions.KeyUp(held);
        actions.Perform();
    }

    /// <summary>The role of what the focus is on, where it states one.</summary>
    public string FocusRole() => (string)driver.ExecuteScript("return document.activeElement.getAttribute('role') ?? ''")!;

    /// <summary>The accessible name of what is seen.</summary>
    public string NameOf(string xpath) => See(xpath) is var seen && seen.GetDomAttribute("aria-label") is { Length: > 0 } label ? label : (seen.GetDomProperty("textContent") ?? "").Trim();

    /// <summary>True when the focus is on something that is ticked.</summary>
    public bool FocusIsTick() => (bool)driver.ExecuteScript("return document.activeElement.type === 'checkbox'")!;

    /// <summary>What the focus is on, by its accessible name; and whether what has the wanted name stands before it on the page.</summary>
    public (string Name, bool LiesBehind) Focus(string wanted)
    {
        var found = (IReadOnlyCollection<object>)driver.ExecuteScript(
            """
            const name = (element) => element.getAttribute('aria-label') ?? (element.labels?.[0]?.textContent.trim() || element.textContent.trim() || element.querySelector('img')?.alt || '');
            const focus = document.activeElement;
            const target = [...document.querySelectorAll('button, a, input, [role=button]')].find((element) => name(element) === arguments[0]);
            const isBefore = target !== undefined && focus !== document.body && (focus.compareDocumentPosition(target) & Node.DOCUMENT_POSITION_PRECEDING) !== 0;
            return [name(focus), isBefore];
            """,
            wanted)!;
        return ((string)found.First(), (bool)found.Last());
    }

    /// <summary>The markup inside the frame that shows a signature.</summary>
    public string InFrame(string title, Func<string, bool> isRight)
    {
        var seen = "";
        Wait(
            () =>
            {
                seen = See($"//iframe[@title={Quote(title)}]").GetDomAttribute("srcdoc") ?? "";
                return isRight(seen) ? "right" : null;
            },
            $"what is wanted in the frame \"{title}\"");
        return seen;
    }

    /// <summary>The middle of something inside the frame that shows a signature, in pixels of the window; "|top" or "|bottom" behind the selector for the edges.</summary>
    public (int X, int Y) PlaceInFrame(string title, string selector) => PlaceOf($"document.querySelector('iframe[title=\"{title}\"]')", selector);

    /// <summary>The middle of an element of the page, in pixels of the window.</summary>
    public (int X, int Y) Place(string selector) => PlaceOf("null", selector);

    /// <summary>Drags from one place to another, as a hand with a mouse would: in steps.</summary>
    public void Drag((int X, int Y) from, (int X, int Y) to) => new Actions(driver).MoveToLocation(from.X, from.Y).ClickAndHold()
        .MoveToLocation((from.X + to.X) / 2, (from.Y + to.Y) / 2).MoveToLocation(to.X, to.Y).Release().Perform();

    public void DoubleClick((int X, int Y) at) => new Actions(driver).MoveToLocation(at.X, at.Y).DoubleClick().Perform();

    private (int X, int Y) PlaceOf(string frame, string selector)
    {
        var place = (IReadOnlyCollection<object>)Wait(
            () => driver.ExecuteScript(
                $$"""
                const frame = {{frame}};
                const [selector, edge] = arguments[0].split('|');
                const room = (frame ? frame.contentDocument : document).querySelector(selector)?.getBoundingClientRect();
                if (!room) return null;
                const from = frame ? frame.getBoundingClientRect() : { left: 0, top: 0 };
                const down = edge === 'top' ? 3 : edge === 'bottom' ? room.height - 3 : room.height / 2;
                return [Math.round(from.left + room.left + Math.min(room.width / 2, 40)), Math.round(from.top + room.top + down)];
                """,
                selector),
            selector);
        return (Convert.ToInt32(place.First(), System.Globalization.CultureInfo.InvariantCulture), Convert.ToInt32(place.Last(), System.Globalization.CultureInfo.InvariantCulture));
    }

    /// <summary>Asks the API as the page does.</summary>
    public T Ask<T>(string script) => (T)driver.ExecuteAsyncScript($"const done = arguments[arguments.length - 1]; (async () => {{ {script} }})().then(done);")!;

    public bool Until(Func<bool> holds) => Wait(() => holds() ? "holds" : null, "a condition") is not null;

    /// <summary>Looks at a main view: nothing on it is out of reach, and a picture is kept where pictures are wanted.</summary>
    public void Picture(string name)
    {
        AssertAccessible();
        if (Pictures is null) return;
        new Actions(driver).MoveToLocation(1, 1).Perform(); // nothing is pointed at
        Thread.Sleep(700); // previews and figures settle
        driver.GetScreenshot().SaveAsFile(Path.Combine(Path.GetFullPath(Pictures, RunningDemo.Root), name + ".png"));
    }

    /// <summary>No finding of axe-core for WCAG 2.2 A and AA on the page as it stands. Signatures' own frames are left out: they show mail.</summary>
    public void AssertAccessible()
    {
        driver.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromSeconds(60);
        driver.ExecuteScript(File.ReadAllText(Path.Combine(RunningDemo.Root, "web/node_modules/axe-core/axe.min.js")));
        var found = Ask<string>(
            """
            const result = await axe.run({ exclude: ['iframe'] }, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], iframes: false });
            return result.violations.map((violation) => violation.id + ': ' + violation.nodes.map((node) => node.html.slice(0, 160)).join(' ; ')).join('\n');
            """);
        Assert.Equal("", found);
    }

    /// <summary>A page that breaks its own content security policy or throws says so in the console. but: an address whose refusal the test asked for.</summary>
    public void AssertQuietConsole(string? but = null) => Assert.Empty(
        driver.Manage().Logs.GetLog(LogType.Browser).Where(entry => entry.Level >= LogLevel.Severe && (but is null || !entry.Message.Contains(but, StringComparison.Ordinal))).Select(entry => entry.Message));

    public void Dispose()
    {
        driver.Quit();
        driver.Dispose();
        Directory.Delete(profile, recursive: true);
    }

    private T Wait<T>(Func<T?> look, string what)
        where T : class
    {
        var until = DateTime.UtcNow + Patience;
        while (true)
        {
            try
            {
                if (look() is { } found) return found;
            }
            catch (StaleElementReferenceException)
            {
                // The page was drawn anew in between.
            }

            if (DateTime.UtcNow > until)
            {
                var picture = Path.Combine(RunningDemo.Root, ".relevo/test/failed.png");
                Directory.CreateDirectory(Path.GetDirectoryName(picture)!);
                driver.GetScreenshot().SaveAsFile(picture);
                throw new TimeoutException($"Waited {Patience.TotalSeconds} s for {what}; {picture} shows the page.");
            }

            Thread.Sleep(100);
        }
    }

    public static string Quote(string text) => text.Contains('\'', StringComparison.Ordinal) ? $"\"{text}\"" : $"'{text}'";
}
