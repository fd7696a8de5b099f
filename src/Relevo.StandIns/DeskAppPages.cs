using System.Text;
using System.Text.Encodings.Web;
using Relevo.Core.Clients;

namespace Relevo.StandIns;

/// <summary>Pages that show what a desk app's user gets. They read the folder and nothing else.</summary>
internal static class DeskAppPages
{
    private const string Style =
        "body{margin:0;background:#F7F5F0;color:#1D2A33;font:14px/20px Arial,'Liberation Sans',sans-serif}main{max-width:860px;margin:0 auto;padding:24px}h1{font:500 24px/30px Georgia,serif;margin:0 0 4px}" +
        "p{margin:0 0 16px;color:#55636D}a{color:#2F5D8C}main>table{border-collapse:collapse;width:100%;background:#fff}main>table td,th{text-align:left;padding:7px 12px;border:1px solid #DDD8CC}main>table td:last-child{white-space:nowrap}th{font-size:12px;color:#55636D;font-weight:600}" +
        "nav{display:flex;gap:16px;margin-bottom:12px}nav a[aria-current]{font-weight:bold;color:#1D2A33;text-decoration:none}dl{display:grid;grid-template-columns:70px 1fr;gap:4px 8px;align-items:baseline;background:#fff;border:1px solid #DDD8CC;border-bottom:0;margin:0;padding:10px 14px}dt{color:#55636D}dd{margin:0}dl:not(:has(+iframe,+.message)){border-bottom:1px solid #DDD8CC}iframe+button{margin-top:12px}" +
        "iframe{display:block;width:100%;height:420px;border:1px solid #DDD8CC;background:#fff;box-sizing:border-box}input,select,textarea{font:inherit;color:inherit;background:#fff;border:1px solid #8F8878;border-radius:3px;padding:3px 6px}" +
        ".message{background:#fff;border:1px solid #DDD8CC;padding:14px}.message textarea{display:block;width:100%;box-sizing:border-box;border:0;padding:0;resize:vertical}.message>div{margin-top:16px;outline-offset:6px}.buttons{display:flex;flex-wrap:wrap;gap:8px;margin-top:12px}form{margin-top:12px}button{font:inherit;padding:5px 12px;background:#fff;border:1px solid #55636D;border-radius:3px}";

    private static readonly HtmlEncoder Html = HtmlEncoder.Default;

    public static void Map(WebApplication application, IReadOnlyList<DeskApp> apps)
    {
        var byName = apps.ToDictionary(app => app.FolderName, StringComparer.Ordinal);
        application.MapGet("/favicon.ico", () => Results.NoContent());
        application.MapGet("/", () => Page("Stand-in desk apps", List(apps)));
        application.MapGet("/desk/{name}/{occasion}", (string name, string occasion) => byName.TryGetValue(name, out var app) ? Page(app.Person, Window(app, occasion)) : Results.NotFound());
        application.MapGet("/desk/{name}/message/{occasion}", (string name, string occasion) => byName.TryGetValue(name, out var app) ? Results.Text(Message(app, occasion), "text/html", Encoding.UTF8) : Results.NotFound());
        application.MapGet("/desk/{name}/message/pictures/{file}", (string name, string file) => byName.TryGetValue(name, out var app) ? Picture(app, file) : Results.NotFound());
        application.MapPost("/desk/{name}/scribble", (string name) => byName.TryGetValue(name, out var app) ? Scribble(app) : Results.NotFound());
    }

    private static string List(IReadOnlyList<DeskApp> apps)
    {
        var rows = new StringBuilder();
        foreach (var app in apps)
        {
            var manifest = app.ReadManifest();
            var link = $"/desk/{Uri.EscapeDataString(app.FolderName)}/new";
            rows.Append($"<tr><td><a href=\"{Html.Encode(link)}\">{Html.Encode(app.Person)}</a></td><td>{Html.Encode(app.Computer)}</td><td>{(manifest is null ? "empty folder" : $"edition {manifest.Edition}, {manifest.Files.Length} files")}</td></tr>");
        }

        return $"<h1>Stand-in desk apps</h1><p><a href=\"/mailboxes\">Stand-in mailboxes</a>, <a href=\"/phones\">phones</a>, <a href=\"/compose\">compose windows</a>, <a href=\"/directory\">directory</a>, <a href=\"/mail\">mail that arrived</a></p><p>Simulated computers. Each has a folder, and an agent that keeps it; these pages read only the folders.</p><table><tr><th>Person</th><th>Computer</th><th>Folder</th></tr>{rows}</table>";
    }

    private static string Window(DeskApp app, string occasion)
    {
        var slot = ClientKind.DeskApp.Slots.FirstOrDefault(candidate => candidate.Name == occasion) ?? ClientKind.DeskApp.Slots[0];
        var home = $"/desk/{Uri.EscapeDataString(app.FolderName)}";
        var links = ClientKind.DeskApp.Slots.Select(candidate => $"<a href=\"{Html.Encode($"{home}/{candidate.Name}")}\"{(candidate == slot ? " aria-current=\"page\"" : "")}>{(candidate.Name == "new" ? "New message" : "Reply")}</a>");
        var (to, subject) = slot.Name == "new" ? ("", "") : ("owner@petmail.example", "Re: Bruno's check-up");
        return $"""
            <nav><a href="/">All desk apps</a>{string.Concat(links)}</nav><h1>{Html.Encode(app.Person)}</h1><p>{Html.Encode(app.Computer)}</p>
            <dl><dt>From</dt><dd>{Html.Encode(app.Address)}</dd><dt>To</dt><dd>{to}</dd><dt>Subject</dt><dd>{Html.Encode(subject)}</dd></dl>
            <iframe sandbox title="Message" src="{Html.Encode($"{home}/message/{slot.Name}")}"></iframe>
            <form method="post" action="{Html.Encode($"{home}/scribble")}"><button>Change the file by hand</button></form>
            """;
    }

    private static string Message(DeskApp app, string occasion)
    {
        var signature = app.SignatureFile(occasion, ".html") is { } file ? File.ReadAllText(file) : "";
        var quoted = occasion == "reply" ? "<p>On 23 Nov 2026 owner@petmail.example wrote:</p><blockquote style=\"margin:0;padding-left:10px;border-left:2px solid #999\">When may I bring Bruno in?</blockquote>" : "";
        return $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>Message</title></head><body style=\"margin:14px;font:14px/20px Arial,'Liberation Sans',sans-serif\"><p>&nbsp;</p><div id=\"signature\">{signature}</div>{quoted}</body></html>";
    }

    private static IResult Picture(DeskApp app, string file)
    {
        var path = Path.Combine(app.Folder, "pictures", Path.GetFileName(file));
        return File.Exists(path) ? Results.File(path, "image/png") : Results.NotFound();
    }

    /// <summary>Does what a meddling user would: adds a line to the file of the new-message signature.</summary>
    private static IResult Scribble(DeskApp app)
    {
        if (app.SignatureFile("new", ".html") is { } file) File.AppendAllText(file, "<p>Sent in haste</p>");
        return Results.Redirect($"/desk/{Uri.EscapeDataString(app.FolderName)}/new");
    }

    /// <summary>A page of the stand-ins.</summary>
    public static IResult Page(string title, string body) => Results.Text(
        $"<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>{Html.Encode(title)}</title><style>{Style}</style></head><body><main>{body}</main></body></html>", "text/html", Encoding.UTF8);
}
