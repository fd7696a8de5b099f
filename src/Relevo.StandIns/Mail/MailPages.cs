using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using MimeKit;
using Relevo.Core.Checks;

namespace Relevo.StandIns.Mail;

/// <summary>The stand-in mailbox: what arrived, as its reader sees it, with every link and its form.</summary>
internal static class MailPages
{
    private static readonly HtmlEncoder Html = HtmlEncoder.Default;

    public static void Map(WebApplication application, Mailbox mailbox)
    {
        application.MapGet("/mail", () => DeskAppPages.Page("Stand-in mailbox", List(mailbox)));
        application.MapGet("/mail/{number:int}", (int number) => mailbox.Find(number) is { } arrived ? DeskAppPages.Page(arrived.Message.Subject ?? "Without a subject", Message(arrived)) : Results.NotFound());
        application.MapGet("/mail/{number:int}/body", (int number) => mailbox.Find(number) is { } arrived ? Results.Text(Body(arrived), "text/html", Encoding.UTF8) : Results.NotFound());
        application.MapGet("/mail/{number:int}/parts/{id}", (int number, string id) =>
            mailbox.Find(number)?.Message.BodyParts.OfType<MimePart>().FirstOrDefault(part => part.ContentId == id && part.ContentType.IsMimeType("image", "png")) is { Content: { } content }
                ? Results.Stream(content.Open(), "image/png")
                : Results.NotFound());
    }

    private static string List(Mailbox mailbox)
    {
        var rows = new StringBuilder();
        foreach (var arrived in mailbox.Messages) rows.Append(CultureInfo.InvariantCulture, $"<li><a href=\"/mail/{arrived.Number}\">{Html.Encode(arrived.Message.Subject ?? "Without a subject")}</a>, to {Html.Encode(string.Join(", ", arrived.Recipients))}, {arrived.At:HH:mm:ss}</li>");
        return $"<nav><a href=\"/\">Desk apps</a></nav><h1>Stand-in mailbox</h1><p>Whatever Relevo sends by SMTP arrives here, for whomever it is.</p>{(rows.Length > 0 ? $"<ul>{rows}</ul>" : "<p>Nothing has arrived.</p>")}";
    }

    private static string Message(ArrivedMessage arrived)
    {
        var message = arrived.Message;
        var links = new StringBuilder();
        foreach (var link in LinkReport.Of(message.HtmlBody ?? "")) links.Append($"<li>{Html.Encode(link.Words)}: {Html.Encode(link.Address)} <b>{(link.Trouble.Length > 0 ? Html.Encode(link.Trouble) : "well formed")}</b></li>");
        return $"""
            <nav><a href="/mail">All messages</a></nav><h1>{Html.Encode(message.Subject ?? "Without a subject")}</h1>
            <dl><dt>From</dt><dd>{Html.Encode(message.From.ToString())}</dd><dt>To</dt><dd>{Html.Encode(message.To.ToString())}</dd><dt>Arrived</dt><dd>{arrived.At:HH:mm:ss}</dd></dl>
            <iframe sandbox title="The message" src="/mail/{arrived.Number}/body" width="700" height="360"></iframe>
            <h2>Links</h2><ul>{links}</ul><h2>As text</h2><pre>{Html.Encode(message.TextBody ?? "")}</pre>
            """;
    }

    private static string Body(ArrivedMessage arrived) => (arrived.Message.HtmlBody ?? "").Replace("\"cid:", $"\"/mail/{arrived.Number}/parts/", StringComparison.Ordinal);
}
