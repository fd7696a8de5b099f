using System.Net.Http.Headers;
using System.Text;
using System.Text.Encodings.Web;
using Relevo.StandIns.Fleet;

namespace Relevo.StandIns;

/// <summary>
/// A small window in which a mail is written with the compose helper: the signature changes as account, readers and occasion do, others that are offered may be chosen, and what
/// stands there may be edited afterwards. The page asks this process, which asks the server with the helper's token.
/// </summary>
internal static class ComposePages
{
    private static readonly HtmlEncoder Html = HtmlEncoder.Default;

    private const string Script =
        """
        const field = (name) => document.getElementById(name);
        let asked = 0, signature = null;
        const show = (chosen) => { field('signature').innerHTML = chosen ? chosen.html : ''; };
        async function ask() {
          const mine = ++asked;
          const answer = await fetch(location.pathname + '/ask', { method: 'POST', headers: { 'Content-Type': 'application/json' },
            body: JSON.stringify({ from: field('from').value, recipients: field('to').value, occasion: field('occasion').value, language: field('language').value }) });
          if (mine !== asked) return;
          if (answer.status !== 200) { field('why').textContent = answer.status === 204 ? 'Nothing is rolled out yet.' : 'The helper gives no answer.'; show(null); return; }
          const said = await answer.json();
          if (mine !== asked) return;
          signature = said.signature;
          show(signature);
          field('why').textContent = 'For ' + said.audience + (said.decidingRecipient ? ', because of ' + said.decidingRecipient : '') + ': ' + said.why;
          field('quoted').hidden = field('occasion').value === 'new';
          const offers = field('offers');
          offers.replaceChildren();
          const offer = (name, act) => { const button = document.createElement('button'); button.type = 'button'; button.textContent = name; button.onclick = act; offers.append(button); };
          if (said.mayChoose || said.offered.length) { if (signature) offer(signature.name, () => show(signature)); for (const one of said.offered) offer(one.name, () => show(one)); }
          if (said.mayChoose) offer('No signature', () => show(null));
          for (const one of said.answers) offer('Answer: ' + one.name, () => { field('text').value = one.text; if (one.subject) field('subject').value = one.subject; });
        }
        field('to').addEventListener('input', ask);
        for (const name of ['from', 'occasion', 'language']) field(name).addEventListener('change', ask);
        ask();
        """;

    public static void Map(WebApplication application, IReadOnlyList<FleetMember> helpers, Uri server)
    {
        var http = new HttpClient { BaseAddress = server };
        application.MapGet("/compose", () => DeskAppPages.Page("Stand-in compose windows", List(helpers)));
        application.MapGet("/compose.js", () => Results.Text(Script, "text/javascript", Encoding.UTF8));
        application.MapGet("/compose/{number:int}", async (int number) => number >= 0 && number < helpers.Count ? DeskAppPages.Page(helpers[number].Person, Window(helpers[number], await AccountsAsync(http, helpers[number]))) : Results.NotFound());
        application.MapPost("/compose/{number:int}/ask", (int number, HttpContext context) => number >= 0 && number < helpers.Count ? PassAsync(http, helpers[number], context) : Task.FromResult(Results.NotFound()));
    }

    private static string List(IReadOnlyList<FleetMember> helpers)
    {
        var rows = string.Concat(helpers.Select((helper, number) => $"<tr><td><a href=\"/compose/{number}\">{Html.Encode(helper.Person)}</a></td><td>{Html.Encode(helper.Address)}</td></tr>"));
        return $"<nav><a href=\"/\">All stand-ins</a></nav><h1>Stand-in compose windows</h1><p>Each writes a mail with the compose helper, which knows who will read.</p><table><tr><th>Person</th><th>Address</th></tr>{rows}</table>";
    }

    private static string Window(FleetMember helper, IReadOnlyList<string> addresses)
    {
        var from = string.Concat(addresses.Select(address => $"<option>{Html.Encode(address)}</option>"));
        return $"""
            <nav><a href="/compose">All windows</a></nav><h1>{Html.Encode(helper.Person)}</h1><p id="why" role="status">Asking …</p>
            <dl><dt>From</dt><dd><select id="from" aria-label="From">{from}</select></dd><dt>To</dt><dd><input id="to" aria-label="To" size="50" value="owner@petmail.example"></dd>
            <dt>Kind</dt><dd><select id="occasion" aria-label="Kind of message"><option value="new">a new message</option><option value="reply">a reply</option><option value="forward">a forward</option></select>
            in <select id="language" aria-label="Language"><option value="">my own language</option><option>en</option><option>de</option><option>sv</option></select></dd>
            <dt>Subject</dt><dd><input id="subject" aria-label="Subject" size="50"></dd></dl>
            <div class="message"><textarea id="text" aria-label="Text" rows="4">All is well with Bruno.</textarea>
            <div id="signature" contenteditable="true" role="textbox" aria-label="Signature"></div>
            <blockquote id="quoted" hidden>When may I bring Bruno in?</blockquote></div><div id="offers" class="buttons"></div><script src="/compose.js" defer></script>
            """;
    }

    private static async Task<IReadOnlyList<string>> AccountsAsync(HttpClient http, FleetMember helper)
    {
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "helper/v1/accounts");
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", helper.Token);
            using var answer = await http.SendAsync(request);
            return (await answer.Content.ReadFromJsonAsync<Accounts>())?.Addresses ?? [];
        }
        catch (Exception away) when (away is HttpRequestException or System.Text.Json.JsonException)
        {
            return [helper.Address];
        }
    }

    private static async Task<IResult> PassAsync(HttpClient http, FleetMember helper, HttpContext context)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, "helper/v1/compose") { Content = new StreamContent(context.Request.Body) };
        request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/json");
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", helper.Token);
        using var answer = await http.SendAsync(request, context.RequestAborted);
        return Results.Text(await answer.Content.ReadAsStringAsync(context.RequestAborted), "application/json", Encoding.UTF8, (int)answer.StatusCode);
    }

    private sealed record Accounts(string Person, string[] Addresses);
}
