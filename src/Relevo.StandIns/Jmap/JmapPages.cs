using System.Text;
using System.Text.Encodings.Web;
using MimeKit;
using Relevo.StandIns.Mail;

namespace Relevo.StandIns.Jmap;

/// <summary>How the mailbox server is to misbehave; nothing said: not at all.</summary>
internal sealed record JmapFaultSettings(int Latency = 0, double Unavailable = 0, double Dropped = 0, double Garbage = 0, double BusySeconds = 0);

/// <summary>The stand-in mailboxes as their owners see them: an open mailbox, and a mail being written.</summary>
internal static class JmapPages
{
    private static readonly HtmlEncoder Html = HtmlEncoder.Default;

    public static void Map(WebApplication application, JmapMailboxes mailboxes, JmapFaults faults, Mailbox arrived)
    {
        application.MapGet("/mailboxes", () => DeskAppPages.Page("Stand-in mailboxes", List(mailboxes)));
        application.MapGet("/mailboxes/{id}/{identity?}", (string id, string? identity) => mailboxes.Find(id) is { } account ? DeskAppPages.Page(account.Name, Window(account, identity)) : Results.NotFound());
        application.MapGet("/mailboxes/{id}/{identity}/message", (string id, string identity) => Find(mailboxes, id, identity) is var (_, found) ? Results.Text(Message(found), "text/html", Encoding.UTF8) : Results.NotFound());
        application.MapPost("/mailboxes/{id}/{identity}/scribble", (string id, string identity) => Scribble(mailboxes, id, identity));
        application.MapPost("/mailboxes/{id}/{identity}/send", (string id, string identity, HttpRequest request) => SendAsync(mailboxes, arrived, id, identity, request)).DisableAntiforgery();
        application.MapPost("/mailboxes/faults", (JmapFaultSettings wanted) => Misbehave(faults, wanted));
        application.MapPost("/mailboxes/{id}/lock", (string id) => Toggle(mailboxes, faults, id));
    }

    private static (JmapAccount Account, JmapIdentity Identity)? Find(JmapMailboxes mailboxes, string id, string identity) =>
        mailboxes.Find(id) is { } account && account.Identities.FirstOrDefault(one => one.Id == identity) is { } found ? (account, found) : null;

    private static string List(JmapMailboxes mailboxes)
    {
        var rows = string.Concat(mailboxes.All.Select(account => $"<tr><td><a href=\"/mailboxes/{account.Id}\">{Html.Encode(account.Identities[0].Name)}</a></td><td>{Html.Encode(account.Name)}</td><td>{(account.Identities.Any(identity => identity.HtmlSignature.Length > 0) ? "has a signature" : "none yet")}</td></tr>"));
        return $"<nav><a href=\"/\">All stand-ins</a></nav><h1>Stand-in mailboxes</h1><p>Mailboxes of a server that speaks JMAP. Each shows what its owner would see in a browser.</p><table><tr><th>Person</th><th>Address</th><th>Signature</th></tr>{rows}</table>";
    }

    private static string Window(JmapAccount account, string? chosen)
    {
        var identity = account.Identities.FirstOrDefault(one => one.Id == chosen) ?? account.Identities[0];
        var home = $"/mailboxes/{account.Id}/{identity.Id}";
        var from = string.Concat(account.Identities.Select(one => $"<a href=\"/mailboxes/{account.Id}/{one.Id}\"{(one == identity ? " aria-current=\"page\"" : "")}>{Html.Encode(one.Email)}</a>"));
        return $"""
            <nav><a href="/mailboxes">All mailboxes</a>{from}</nav><h1>{Html.Encode(identity.Name)}</h1><p>Writing as {Html.Encode(identity.Email)}</p>
            <form method="post" action="{home}/send"><dl><dt>To</dt><dd><input name="to" aria-label="To" value="owner@petmail.example"></dd><dt>Subject</dt><dd><input name="subject" aria-label="Subject" value="Bruno's check-up"></dd><dt>Text</dt><dd><textarea name="text" aria-label="Text" rows="3" cols="60">All is well.</textarea></dd></dl>
            <iframe sandbox title="Message" src="{home}/message"></iframe><button>Send</button></form>
            <form method="post" action="{home}/scribble"><button>Change the signature by hand</button></form>
            <form method="post" action="/mailboxes/{account.Id}/lock"><button>Let nobody change this mailbox, or let them again</button></form>
            """;
    }

    private static string Message(JmapIdentity identity) =>
        $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>Message</title></head><body style=\"margin:14px;font:14px/20px Arial,'Liberation Sans',sans-serif\"><p>&nbsp;</p><div id=\"signature\">{identity.HtmlSignature}</div></body></html>";

    private static IResult Scribble(JmapMailboxes mailboxes, string id, string identity)
    {
        if (Find(mailboxes, id, identity) is not var (account, found)) return Results.NotFound();
        lock (account.Changing) account.Change(found, one => one.HtmlSignature += "<p>Sent in haste</p>");
        return Results.Redirect($"/mailboxes/{id}/{identity}");
    }

    private static async Task<IResult> SendAsync(JmapMailboxes mailboxes, Mailbox arrived, string id, string identity, HttpRequest request)
    {
        if (Find(mailboxes, id, identity) is not var (_, found)) return Results.NotFound();
        var form = await request.ReadFormAsync();
        if (!MailboxAddress.TryParse(form["to"].ToString(), out var to)) return Results.BadRequest("That is no address to send to.");
        var text = form["text"].ToString().ReplaceLineEndings("\n");
        var body = new BodyBuilder { TextBody = $"{text}\n\n{found.TextSignature}", HtmlBody = $"<p>{Html.Encode(text).Replace("&#xA;", "<br>", StringComparison.Ordinal)}</p>{found.HtmlSignature}" };
        var message = new MimeMessage([new MailboxAddress(found.Name, found.Email)], [to], form["subject"].ToString(), body.ToMessageBody());
        arrived.Keep([to.Address], message);
        return Results.Redirect("/mail");
    }

    private static IResult Misbehave(JmapFaults faults, JmapFaultSettings wanted)
    {
        (faults.Latency, faults.Unavailable, faults.Dropped, faults.Garbage) = (wanted.Latency, wanted.Unavailable, wanted.Dropped, wanted.Garbage);
        faults.BusyUntil = wanted.BusySeconds > 0 ? DateTimeOffset.UtcNow.AddSeconds(wanted.BusySeconds) : default;
        return Results.NoContent();
    }

    private static IResult Toggle(JmapMailboxes mailboxes, JmapFaults faults, string id)
    {
        if (mailboxes.Find(id) is null) return Results.NotFound();
        lock (faults.ReadOnly)
        {
            if (!faults.ReadOnly.Remove(id)) faults.ReadOnly.Add(id);
        }

        return Results.Redirect($"/mailboxes/{id}");
    }
}
