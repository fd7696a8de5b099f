using System.Collections.Immutable;
using System.Text;
using Relevo.Core.Clients;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Designs;
using Relevo.Server.Http;
using Relevo.Server.People;

namespace Relevo.Server.Rollout;

/// <summary>A message that is being written.</summary>
/// <param name="From">The sending account; empty for the person's first.</param>
/// <param name="Recipients">Everybody it goes to, as the header fields have them (RFC 5322); empty while nobody is named yet.</param>
/// <param name="Occasion">new, reply or forward; new where nothing is said.</param>
public sealed record ComposeRequest(string From, string Recipients, string Occasion)
{
    /// <summary>The language of the message (RFC 5646), or empty for the person's own.</summary>
    public string Language { get; init; } = "";

    /// <summary>Which message of the account it is, counted by whoever asks; for signatures that take turns.</summary>
    public long Message { get; init; }
}

/// <summary>A signature to put in or to choose.</summary>
public sealed record ComposeSignature(Guid Design, string Name, string Html, string Text);

/// <summary>A ready answer to choose.</summary>
public sealed record ComposeAnswerText(string Name, string Subject, string Text, string Html);

/// <summary>
/// What a message carries. Signature: null for none. HasSeparator: whether the text form begins with the separator line. Place: where it stands in an answer. MayChoose: whether
/// the person may take one of those offered, or none, instead. Audience: who is taken to read, and because of whom. Why: the rule that decided, as a sentence.
/// </summary>
public sealed record ComposeAnswer(
    string From, ComposeSignature? Signature, AnswerPlace Place, bool MayChoose, ImmutableArray<ComposeSignature> Offered, ImmutableArray<ComposeAnswerText> Answers, string Audience, string DecidingRecipient, string Why, int Edition);

/// <summary>The accounts a helper may write from.</summary>
public sealed record ComposeAccounts(string Person, ImmutableArray<string> Addresses);

/// <summary>What compose helpers ask, for each message while it is written.</summary>
public static class HelperEndpoints
{
    private const int MostRecipients = 100_000; // characters of them; a list of thousands still fits

    /// <summary>Maps the endpoints.</summary>
    public static void MapHelper(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/helper/v1/accounts", AccountsAsync).AllowAnonymous().WithName("ReadComposeAccounts");
        routes.MapPost("/helper/v1/compose", ComposeAsync).AllowAnonymous().WithName("Compose");
    }

    private static async Task<IResult> AccountsAsync(HttpContext context, ClientAsking asking, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        if (await asking.IdentifyAsync(context, cancellationToken) is not { } helper) return AgentEndpoints.Unknown(context);
        var row = (await rosters.GetAsync(cancellationToken)).Find(helper.Client.PersonId);
        return TypedResults.Ok(new ComposeAccounts(row?.Name ?? "", [.. row is null || row.Person.IsRetired ? [] : row.Person.Accounts.Select(account => account.Address)]));
    }

    private static async Task<IResult> ComposeAsync(
        ComposeRequest request, HttpContext context, ClientAsking asking, CurrentRoster rosters, ClientSettingsStore settings, Holdings holdings, PictureCuts cuts, CancellationToken cancellationToken)
    {
        if (await asking.IdentifyAsync(context, cancellationToken) is not { } helper) return AgentEndpoints.Unknown(context);
        if (ClientKind.Find(helper.Client.Kind) is not { Reached: ClientWay.Asks } kind) return Problems.Of(StatusCodes.Status403Forbidden, "not-a-helper", "This token is not a compose helper's.", "Add a compose helper on the Rollout leg and give it its own code.");
        if (helper.Edition is not { } edition) return TypedResults.NoContent();
        var roster = await rosters.GetAsync(cancellationToken);
        if (Refuse(request) is { } refusal) return refusal;
        var person = roster.Find(helper.Client.PersonId)?.Person;
        var account = person is null or { IsRetired: true } ? null : person.Accounts.FirstOrDefault(one => request.From.Length == 0 || string.Equals(one.Address, request.From, StringComparison.OrdinalIgnoreCase));
        if (account is null) return Problems.Of(StatusCodes.Status404NotFound, "no-account", $"\"{request.From}\" is not an address this person sends from.", "Ask for the accounts and choose one of them.");
        if (request.Language.Length > 0) account = account with { Override = account.Override.With("language", request.Language) };
        var slotting = await holdings.SlottingAsync(edition, roster, (await settings.ReadAsync(cancellationToken)).Settings, cancellationToken);
        var answer = Compose(request, kind, slotting, FittingAccount.Of(slotting.Signing.Records, person!, account), out var pictures);
        await cuts.EnsureAsync(pictures, cancellationToken); // they are fetched by whoever reads the message
        return TypedResults.Ok(answer);
    }

    private static Microsoft.AspNetCore.Http.HttpResults.ProblemHttpResult? Refuse(ComposeRequest request)
    {
        var faults = new List<Fault>();
        if (request.Occasion.Length > 0 && !Enum.TryParse<Occasion>(request.Occasion, ignoreCase: true, out _)) faults.Add(new Fault("/occasion", 0, "occasion-unknown", "Use new, reply or forward."));
        if (request.Recipients.Length > MostRecipients) faults.Add(new Fault("/recipients", 0, "recipients-length", $"At most {MostRecipients} characters of recipients are taken."));
        if (request.Language.Length > 35) faults.Add(new Fault("/language", 0, "language-length", "A language is named by at most 35 characters (RFC 5646)."));
        return faults.Count > 0 ? Problems.Invalid("The message cannot be composed like this.", faults) : null;
    }

    /// <summary>Decides and writes for one message.</summary>
    private static ComposeAnswer Compose(ComposeRequest request, ClientKind kind, Slotting slotting, FittingAccount account, out HashSet<string> pictures)
    {
        var signing = slotting.Signing;
        var content = signing.Content;
        var readers = new AudienceIndex(content.Audiences).Of(RecipientList.Read(request.Recipients));
        var occasion = Enum.TryParse<Occasion>(request.Occasion, ignoreCase: true, out var said) ? said : Occasion.New;
        var situation = new Situation(account.Sender, readers.Key, occasion, kind.Kind, signing.Moment) { Message = request.Message };
        var decision = Decision.Decide(content.Rules, signing.Records, situation);
        var carried = signing.Carry(situation, decision);
        var values = account.Values(content.Audiences.Find(readers.Key)?.Country ?? "");
        var named = new HashSet<string>();
        var form = Signing.FormOf(kind.FormUnder(slotting.Server), situation, decision);
        var carry = decision.Rule?.Then as CarryDesigns;
        var answer = new ComposeAnswer(
            account.Sender.Address,
            carried.Design is { } design ? Write(design) : null,
            carry?.Place ?? AnswerPlace.UnderNewText,
            carry?.MayChoose ?? false,
            [.. (carry?.Offered ?? []).Where(offer => content.Find(offer) is not null).Select(Write)],
            [
                .. content.Answers.Select(ready =>
                {
                    var written = ready.Document.Write(signing.Records.Fields, values);
                    return new ComposeAnswerText(ready.Document.Name, written.Subject, written.Text, written.Html);
                }),
            ],
            content.Audiences.NameOf(readers.Key) ?? readers.Key,
            readers.Deciding,
            decision.Rule is { } rule ? Sentence.Text(rule, content.Names(_ => null, field => signing.Records.Fields.Find(field)?.Label)) : "No rule is about this message.",
            slotting.Edition);
        pictures = named;
        return answer;

        ComposeSignature Write(Guid id)
        {
            var written = signing.Program(id, carried.Added, form, values).Render(values, new Circumstances(occasion, readers.Key));
            named.UnionWith(written.Pictures);
            return new ComposeSignature(id, content.Find(id)!.Name, Encoding.UTF8.GetString(written.Html.Span), Encoding.UTF8.GetString(written.Text.Span));
        }
    }
}
