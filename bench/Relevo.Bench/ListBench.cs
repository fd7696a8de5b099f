using System.Globalization;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Relevo.Bench;

/// <summary>The People list in a real browser, on a running server with everybody in it: how soon the first rows stand there, and whether scrolling ever shows blank ones.</summary>
internal static class ListBench
{
    private const int Loads = 5, Frames = 600;
    private const int RowsAFrame = 5; // 300 rows a second at 60 frames: as fast as a hand turns a wheel

    private const string FirstRows = "return location.pathname === '/people' && document.querySelectorAll('[role=row] button').length >= 10 ? performance.now() : null;";

    private const string Scroll =
        """
        const [frames, pixels, done] = arguments;
        const list = document.querySelector('[aria-label=Rows]');
        let frame = 0, blank = 0;
        const step = () => {
          const box = list.getBoundingClientRect();
          const rows = [...list.querySelectorAll('[role=row]')].filter((row) => row.getBoundingClientRect().bottom > box.top && row.getBoundingClientRect().top < box.bottom);
          if (rows.length < Math.floor(box.height / 34) - 1 || rows.some((row) => !row.querySelector('button'))) blank++;
          list.scrollTop += pixels;
          ++frame < frames ? requestAnimationFrame(step) : done([blank, Math.round(list.scrollTop / 34)]);
        };
        step();
        """;

    public static int Run(Uri address)
    {
        var profile = Directory.CreateTempSubdirectory("relevo-bench-").FullName;
        using var driver = Start(profile);
        SignIn(driver, address);
        var times = new List<double>();
        for (var load = 0; load <= Loads; load++)
        {
            driver.Navigate().GoToUrl(new Uri(address, "sign-in-later")); // another page, so that the list is loaded anew
            driver.Navigate().GoToUrl(new Uri(address, "people"));
            var time = AwaitFirstRows(driver);
            if (load > 0) times.Add(time);
        }

        var median = times.Order().ElementAt(Loads / 2);
        Say($"People list, from asking for the page to the first rows in the browser, median of {Loads}: {median:N0} ms; target: under 1,000 ms; {(median < 1000 ? "met" : "MISSED")}");
        var scrolled = ((IReadOnlyCollection<object>)driver.ExecuteAsyncScript(Scroll, Frames, RowsAFrame * 34)!).Select(value => Convert.ToInt32(value, CultureInfo.InvariantCulture)).ToArray();
        Say($"  scrolled {scrolled[1]:N0} rows in {Frames} frames; {scrolled[0]} of them with a blank row in sight; target: none; {(scrolled[0] == 0 ? "met" : "MISSED")}");
        driver.Quit();
        Directory.Delete(profile, recursive: true);
        return 0;
    }

    /// <summary>Milliseconds since the page was asked for, by the page's own clock; looked at again and again, because a script does not outlive the page before.</summary>
    private static double AwaitFirstRows(ChromeDriver driver)
    {
        for (var patience = 0; patience < 10_000; patience++)
        {
            try
            {
                if (driver.ExecuteScript(FirstRows) is { } time) return Convert.ToDouble(time, CultureInfo.InvariantCulture);
            }
            catch (WebDriverException)
            {
                // The page before has just gone.
            }

            Thread.Sleep(2);
        }

        throw new TimeoutException("The first rows did not come.");
    }

    /// <summary>A browser with a profile of its own.</summary>
    public static ChromeDriver Start(string profile)
    {
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium", PageLoadStrategy = PageLoadStrategy.None };
        options.AddArguments("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--window-size=1280,800", $"--user-data-dir={profile}");
        var driver = new ChromeDriver(ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver"), options);
        driver.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromSeconds(60);
        return driver;
    }

    /// <summary>Signs the demo's administrator in.</summary>
    public static void SignIn(ChromeDriver driver, Uri address)
    {
        driver.Navigate().GoToUrl(address);
        Await(driver, "input[autocomplete=username]").SendKeys("ines.albrecht@brackenfold.example");
        Await(driver, "input[autocomplete=current-password]").SendKeys("paper-ink-and-baton");
        Await(driver, "button[type=submit]").Click();
        Await(driver, "[role=row] button");
    }

    /// <summary>Waits for an element.</summary>
    public static IWebElement Await(ChromeDriver driver, string selector)
    {
        for (var patience = 0; patience < 600; patience++)
        {
            if (driver.FindElements(By.CssSelector(selector)).FirstOrDefault() is { } found) return found;
            Thread.Sleep(100);
        }

        throw new TimeoutException($"Waited a minute for {selector}.");
    }

    private static void Say(FormattableString line) => Console.WriteLine(line.ToString(CultureInfo.InvariantCulture));
}
