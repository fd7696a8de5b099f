using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Clients;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;
using Relevo.Server.Http;
using Relevo.Server.Rules;

namespace Relevo.Server.Lens;

/// <summary>A situation as a request names it. Empty texts: an unknown audience is outside, an unnamed client the desk app, no moment now.</summary>
public sealed record AskedSituation(string Occasion, string Audience, string Client, string Moment);

/// <summary>A situation that was understood, with everything that is needed to render in it.</summary>
public sealed record ReadSituation(RosterRow Row, Account? Account, ClientKind Kind, Situation Situation, FieldValue[] Values)
{
    /// <summary>What designs may ask beside fields.</summary>
    public Circumstances Circumstances => new(Situation.Occasion, Situation.Audience);
}

/// <summary>Understands situations, with a problem for whatever there is not.</summary>
public sealed class Situations(CurrentReach reach)
{
    /// <summary>Why a situation cannot be understood, whoever sends; null when it can.</summary>
    public ProblemHttpResult? Refuse(AskedSituation asked, EditionContent content)
    {
        if (asked.Audience.Length > 0 && !content.Audiences.Keys.Contains(asked.Audience)) return Refuse("audience-unknown", $"\"{asked.Audience}\" is not an audience.", $"Use one of {string.Join(", ", content.Audiences.Keys)}.");
        if (asked.Occasion.Length > 0 && (!Enum.TryParse<Occasion>(asked.Occasion, ignoreCase: true, out var occasion) || !Enum.IsDefined(occasion)))
            return Refuse("occasion-unknown", $"\"{asked.Occasion}\" is not an occasion.", "Use new, reply or forward.");
        if (asked.Client.Length > 0 && ClientKind.Find(asked.Client) is null)
            return Refuse("client-unknown", $"\"{asked.Client}\" is not a client kind.", $"Use one of {string.Join(", ", ClientKind.All.Select(known => known.Kind))}.");
        return asked.Moment.Length > 0 && !RuleEndpoints.TryReadMoment(asked.Moment, out _) ? RuleEndpoints.BadMoment(asked.Moment) : null;
    }

    /// <summary>The situation of a person and one of the person's accounts; it must be one that is not refused.</summary>
    public ReadSituation Read(AskedSituation asked, PeopleRoster roster, RosterRow row, string? address, EditionContent content)
    {
        var audience = asked.Audience.Length > 0 ? asked.Audience : Audiences.Outside;
        var occasion = asked.Occasion.Length > 0 ? Enum.Parse<Occasion>(asked.Occasion, ignoreCase: true) : Occasion.New;
        var kind = ClientKind.Find(asked.Client) ?? ClientKind.DeskApp;
        var moment = RuleEndpoints.TryReadMoment(asked.Moment, out var said) ? said : reach.Now;
        var account = row.Person.FindAccount(address);
        var sender = Sender.Of(roster.Records, row.Person, account ?? Account.Plain("", AccountKind.Own));
        return new ReadSituation(row, account, kind, new Situation(sender, audience, occasion, kind.Kind, moment), FieldResolution.Resolve(roster.Records, row.Person, account, content.Audiences.Find(audience)?.Country ?? ""));
    }

    /// <summary>A message now, to readers nobody knows.</summary>
    public ReadSituation Plain(CompanyRecords records, RosterRow row, Account account, ClientKind kind, Occasion occasion) =>
        new(row, account, kind, new Situation(Sender.Of(records, row.Person, account), Audiences.Outside, occasion, kind.Kind, reach.Now), FieldResolution.Resolve(records, row.Person, account, ""));

    private static ProblemHttpResult Refuse(string code, string title, string detail) => Problems.Of(StatusCodes.Status400BadRequest, code, title, detail);
}
