using System.Net;
using OpenQA.Selenium;
using Xunit;

namespace Relevo.Browser.Tests;

/// <summary>From fitting to proof that it is there, through everything that goes wrong on the way.</summary>
public sealed class RolloutLegTests(RunningDemo demo) : IClassFixture<RunningDemo>
{
    private const string Maren = "Dr. Maren Holtkamp", Address = "maren.holtkamp@brackenfold.example";

    [Fact]
    public async Task An_edition_reaches_every_kind_of_client_through_a_missed_gate_drift_a_dead_server_and_back()
    {
        using var visitor = new Visitor();
        using var standIns = new HttpClient { BaseAddress = demo.StandIns };
        new MouseHand(visitor).SignIn(demo.Address);
        var mailbox = await MailboxOfAsync(standIns);
        Publish(visitor, 1);
        SeeWhatClientsHold(visitor);

        // A mailbox that may not be changed stands in the way of the pilots.
        using (await standIns.PostAsync($"{mailbox}/lock", null)) { }
        StartWithPilots(visitor);
        visitor.See("//section[@aria-label='Paused'][contains(., 'It paused itself')][contains(., '1 of 4 clients have failed or drifted; at most 5 % may')]");
        visitor.See("//section[@aria-label='Waves']//li[2][contains(., 'begins as soon as')]");
        visitor.AssertAccessible();
        visitor.Picture("rollout");
        using (await standIns.PostAsync($"{mailbox}/lock", null)) { }
        visitor.Click("//tr[contains(., 'failed')]//button");
        visitor.See("//section[@aria-label='Story']//li[contains(., 'failed')][contains(., 'it may not be changed')]");
        visitor.Button("Deliver again");
        visitor.Button("Go on");
        visitor.See("//section[@aria-label='Waves']//li[2][contains(., 'began')]");
        visitor.See("//section[@aria-label='Waves']//li[2][contains(., 'passed')]");
        visitor.SeeText("edition 1, 99 %");

        await DriftAsync(visitor, standIns, mailbox);
        await demo.KillServerAsync();
        visitor.See("//*[contains(., 'The server cannot be reached')]");
        await demo.StartServerAsync();
        visitor.SeeText("edition 1, 99 %");

        RollForthAndBack(visitor);
        await CompareWithTheLensAsync(visitor, standIns, mailbox);
        WriteWithTheHelper(visitor);
    }

    private static void Publish(Visitor visitor, int edition)
    {
        visitor.Leg("Proof");
        visitor.Button($"Publish edition {edition}");
        visitor.SeeText($"Edition {edition} is published.");
        visitor.Leg("Rollout");
    }

    private static void SeeWhatClientsHold(Visitor visitor)
    {
        visitor.Click("//a[.='What clients hold']");
        visitor.See("//ol[@aria-label='Client kinds']/li[contains(., 'desk app')][contains(., 'situations exactly')]");
        visitor.See("//ol[@aria-label='Client kinds']/li[contains(., 'browser mailbox')][contains(., 'where the rules want Short')][contains(., 'compose helper or the relay would set this right')]");
        visitor.See("//ol[@aria-label='Client kinds']/li[contains(., 'compose helper')][contains(., '100 %')]");
        visitor.AssertAccessible();
        visitor.Picture("fitting");
    }

    private static void StartWithPilots(Visitor visitor)
    {
        visitor.Click("//a[.='Plan a rollout']");
        visitor.Button("Add a wave");
        visitor.Choose("Wave 1: for whom", "people picked by hand");
        visitor.Type("Wave 1: add a person", "holtkamp");
        visitor.Click($"//*[@role='option'][contains(., '{Maren}')]");
        visitor.SeeText("Pilots: 1 person, 4 clients");
        visitor.AssertAccessible();
        visitor.Button("Start rolling out edition 1");
    }

    /// <summary>Somebody changes a signature by hand in the mailbox: it is seen, shown and put right.</summary>
    private static async Task DriftAsync(Visitor visitor, HttpClient standIns, string mailbox)
    {
        using (await standIns.PostAsync($"{mailbox}/i1/scribble", null)) { }
        visitor.Type("Find a person's clients", "holtkamp");
        visitor.See($"//tr[contains(., '{Maren}')][contains(., 'browser mailbox')][contains(., 'put right')]");
        visitor.Click($"//tr[contains(., '{Maren}')][contains(., 'browser mailbox')]//button");
        visitor.See("//section[@aria-label='Story']//li[contains(., 'drifted')][contains(., 'html')]");
        Assert.DoesNotContain("Sent in haste", await standIns.GetStringAsync($"{mailbox}/i1/message"), StringComparison.Ordinal);
    }

    private static void RollForthAndBack(Visitor visitor)
    {
        visitor.Leg("Rules");
        visitor.Click("//button[@aria-label='Move rule 8']");
        visitor.Press(Keys.Alt, Keys.ArrowUp);
        Publish(visitor, 2);
        visitor.Button("Roll out edition 2");
        visitor.SeeText("edition 2, 99 %");
        visitor.See("//*[contains(., 'Done ')][contains(., '99 % of all clients')]");
        visitor.Click("//a[.='Before']");
        visitor.Button("Roll back to edition 1");
        visitor.Title("Edition 1");
        visitor.SeeText("edition 1, 99 %");
        visitor.See("//*[contains(., 'Done ')][contains(., '99 % of all clients')]");
    }

    /// <summary>A desk app, a mailbox and a phone hold what the lens shows for each of them.</summary>
    private async Task CompareWithTheLensAsync(Visitor visitor, HttpClient standIns, string mailbox)
    {
        var person = visitor.Ask<string>("return (await (await fetch('/api/people?search=holtkamp')).json()).people[0].id");
        string Lens(string client, string form) => visitor.Ask<string>($"return (await (await fetch('/api/lens?person={person}&occasion=new&client={client}')).json()).signature.{form}");
        Assert.Equal(Lens("desk-app", "html"), await File.ReadAllTextAsync(Path.Combine(demo.DeskApps, Maren, $"{Address}.new.html")));
        // The same but for where pictures lie: a mailbox links to them, a folder has them beside it.
        string WithoutPictures(string html) => System.Text.RegularExpressions.Regex.Replace(html, " src=\"[^\"]*\"", "");
        Assert.Contains(WithoutPictures(Lens("browser-mailbox", "html")), WithoutPictures(await standIns.GetStringAsync($"{mailbox}/i1/message")), StringComparison.Ordinal);
        var phones = await standIns.GetStringAsync("phones");
        var phone = phones[..phones.IndexOf(Maren, StringComparison.Ordinal)].Split("href=\"/")[^1].Split('"')[0];
        Assert.Contains(Lens("pocket-app", "text").Replace("-- \n", "", StringComparison.Ordinal).Trim(), WebUtility.HtmlDecode(await standIns.GetStringAsync(phone)).Replace("\r\n", "\n", StringComparison.Ordinal), StringComparison.Ordinal);
    }

    /// <summary>In the stand-in compose window the signature follows what kind of message it is and who will read it; another may be chosen, and what stands there edited.</summary>
    private void WriteWithTheHelper(Visitor visitor)
    {
        const string signature = "//*[@role='textbox'][@aria-label='Signature']";
        visitor.Go(new Uri(demo.StandIns, "/compose"));
        visitor.Click($"//a[.='{Maren}']");
        visitor.See("//*[@role='status'][contains(., 'For outside, because of owner@petmail.example')]");
        visitor.See($"{signature}[contains(., 'Leitende Chirurgin')]");
        visitor.Click("//select[@aria-label='Kind of message']/option[.='a reply']");
        visitor.See("//*[@role='status'][contains(., 'carries Short, and offers Plain line')]");
        visitor.See($"{signature}[contains(., '{Maren}')][not(contains(., 'Leitende Chirurgin'))]");
        visitor.Button("No signature");
        visitor.SeeNo($"{signature}/*");
        visitor.Button("Plain line");
        visitor.See($"{signature}[contains(., '{Maren}')]");
        visitor.Type("Signature", "Mit eigener Hand");
        visitor.See($"{signature}[.='Mit eigener Hand']");
        visitor.Button("Answer: Appointment confirmed");
        Assert.Contains("your appointment is in our book", visitor.See("//textarea").GetDomProperty("value"), StringComparison.Ordinal);
        visitor.Type("To", "ines.albrecht@brackenfold.example");
        visitor.See("//*[@role='status'][contains(., 'For inside')]");
        visitor.See($"{signature}[contains(., '{Maren}')]");
    }

    /// <summary>Where the stand-in mailbox of the demo's employee is.</summary>
    private static async Task<string> MailboxOfAsync(HttpClient standIns)
    {
        var list = await standIns.GetStringAsync("mailboxes");
        return list[..list.IndexOf(Address, StringComparison.Ordinal)].Split("href=\"/")[^1].Split('"')[0];
    }
}
