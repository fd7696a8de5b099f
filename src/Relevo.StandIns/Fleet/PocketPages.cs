using System.Text.Encodings.Web;

namespace Relevo.StandIns.Fleet;

/// <summary>The stand-in phones as their owners see them.</summary>
internal static class PocketPages
{
    private static readonly HtmlEncoder Html = HtmlEncoder.Default;

    public static void Map(WebApplication application, Fleet fleet)
    {
        application.MapGet("/phones", () => DeskAppPages.Page("Stand-in phones", List(fleet)));
        application.MapGet("/phones/{number:int}", (int number) => number >= 0 && number < fleet.Clients.Count ? DeskAppPages.Page(fleet.Clients[number].Member.Person, Phone(fleet.Clients[number], number)) : Results.NotFound());
        application.MapPost("/phones/{number:int}/scribble", (int number) =>
        {
            if (number < 0 || number >= fleet.Clients.Count) return Results.NotFound();
            fleet.Clients[number].Scribble();
            return Results.Redirect($"/phones/{number}");
        });
    }

    private static string List(Fleet fleet)
    {
        var rows = string.Concat(fleet.Clients.Select((phone, number) => $"<tr><td><a href=\"/phones/{number}\">{Html.Encode(phone.Member.Person)}</a></td><td>{Html.Encode(phone.Member.Name)}</td><td>{(phone.Edition == 0 ? "nothing yet" : $"edition {phone.Edition}")}</td></tr>"));
        return $"<nav><a href=\"/\">All stand-ins</a></nav><h1>Stand-in phones</h1><p>Each polls its profile and holds plain text.</p><table><tr><th>Person</th><th>Phone</th><th>Holds</th></tr>{rows}</table>";
    }

    private static string Phone(SimulatedClient phone, int number)
    {
        var signatures = string.Concat(phone.Signatures.Select(pair => $"<dt>{(pair.Key.Length == 0 ? "Every account" : Html.Encode(pair.Key))}</dt><dd><pre>{Html.Encode(pair.Value)}</pre></dd>"));
        return $"""
            <nav><a href="/phones">All phones</a></nav><h1>{Html.Encode(phone.Member.Person)}</h1><p>{Html.Encode(phone.Member.Name)}</p>
            <dl>{signatures}</dl><form method="post" action="/phones/{number}/scribble"><button>Change the text by hand</button></form>
            """;
    }
}
