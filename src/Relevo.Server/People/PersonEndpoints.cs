using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.People.Sources;
using Relevo.Core.Rules;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.Rules;
using Relevo.Server.SignIn;

namespace Relevo.Server.People;

/// <summary>One layer's value of a field. IsWinner: this one is shown.</summary>
public sealed record LayerValue(Layer Layer, Guid Record, string RecordName, string Stored, bool IsWinner);

/// <summary>One field of a person: what is shown, where it came from, and every layer that has a value. Doubt: what is wrong with it, or empty.</summary>
public sealed record PersonField(string Name, string Label, FieldKind Kind, string Text, string Stored, Layer? Origin, string RecordName, string Doubt, bool IsOpen, ImmutableArray<LayerValue> Layers);

/// <summary>One account of a person.</summary>
public sealed record PersonAccount(Guid Id, string Address, AccountKind Kind, ImmutableArray<string> Overridden);

/// <summary>What a source calls a person.</summary>
public sealed record PersonEntry(Guid Source, string SourceName, string Key, string DistinguishedName);

/// <summary>A person as seen from one account (the first unless another was asked for). Lacks: labels of fields that designs in use show and that have no value here.</summary>
public sealed record PersonAnswer(
    Guid Id, string Name, bool IsRetired, bool IsRetiredByHand, string Address, ImmutableArray<PersonAccount> Accounts, ImmutableArray<PersonEntry> Entries, ImmutableArray<PersonField> Fields, ImmutableArray<string> Lacks);

/// <summary>One thing that happened to a person.</summary>
public sealed record PersonEvent(DateTimeOffset At, string By, string What, ImmutableArray<FieldChange> Changes);

/// <summary>Sets one value. Account: for this account alone. Value null takes it out; an empty one is an explicit blank.</summary>
public sealed record SetFieldRequest(Guid? Account, string? Value);

/// <summary>One person: facts with every layer, accounts, what is lacking, history.</summary>
public static class PersonEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void MapPerson(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/people/{id:guid}", FindAsync).WithName("ReadPerson");
        routes.MapGet("/api/people/{id:guid}/history", HistoryAsync).WithName("ReadPersonHistory");
        routes.MapPut("/api/people/{id:guid}/fields/{field}", SetAsync).WithName("SetPersonField");
    }

    /// <summary>Why a value may not be set, as a problem, or null.</summary>
    public static ProblemHttpResult? Refuse(FieldCatalogue fields, string name, string? value)
    {
        if (fields.Find(name) is not { } field || name == "mail")
            return Problems.Invalid("The value cannot be set.", [new Fault("/field", 0, "field-unknown", name == "mail" ? "An account's address is not set here; it comes from its source." : $"There is no field \"{name}\".")]);
        return value is { } text && FieldCheck.Refuse(field, FieldValue.OneLine(text)) is { } reason
            ? Problems.Invalid($"\"{field.Label}\" cannot have this value.", [new Fault("/value", 0, "value-refused", reason)])
            : null;
    }

    private static async Task<Results<Ok<PersonAnswer>, ProblemHttpResult>> FindAsync(Guid id, CurrentRoster rosters, Drafts drafts, CurrentReach reach, CancellationToken cancellationToken, string? address = null)
    {
        var roster = await rosters.GetAsync(cancellationToken);
        if (roster.Find(id) is not { } row) return Problems.NotFound("person");
        var content = await drafts.ReadAsync(cancellationToken);
        var account = row.Person.FindAccount(address);
        return TypedResults.Ok(new PersonAnswer(
            id, row.Name, row.Person.IsRetired, row.Person.IsRetiredByHand, account?.Address ?? "",
            [.. row.Person.Accounts.Select(candidate => new PersonAccount(candidate.Id, candidate.Address, candidate.Kind, [.. candidate.Override.Names.Concat(candidate.Mailbox.Names)]))],
            [.. row.Person.Entries.Select(entry => new PersonEntry(entry.Source, roster.Records.SourceNames.GetValueOrDefault(entry.Source, ""), entry.Key, entry.DistinguishedName))],
            Fields(roster.Records, row.Person, account),
            Lacks(roster.Records, row.Person, account, content, reach.Now)));
    }

    private static ImmutableArray<PersonField> Fields(CompanyRecords records, Person person, Account? account)
    {
        var layers = FieldResolution.Layers(records, person, account);
        var resolved = FieldResolution.Explain(records, person, account).ToDictionary(field => field.Name, StringComparer.Ordinal);
        var region = FieldResolution.First(layers, "country") ?? "";
        return
        [
            .. records.Fields.Fields.Select(field =>
            {
                var winner = resolved.GetValueOrDefault(field.Name);
                var values = layers.Where(layer => layer.Facts[field.Name] is not null)
                    .Select(layer => new LayerValue(layer.Layer, layer.Record, layer.RecordName, layer.Facts[field.Name]!, winner is not null && layer.Layer == winner.Origin && layer.Record == winner.Record));
                return new PersonField(
                    field.Name, field.Label, field.Kind, winner?.Value.Text ?? "", winner?.Stored ?? "", winner?.Origin, winner?.RecordName ?? "",
                    winner is null ? "" : FieldCheck.Doubt(field, winner.Stored, region) ?? "", person.MaySet(field), [.. values]);
            }),
        ];
    }

    /// <summary>Fields of the designs this account's rules lead to that have no value.</summary>
    private static ImmutableArray<string> Lacks(CompanyRecords records, Person person, Account? account, EditionContent content, NodaTime.Instant now)
    {
        if (account is null) return [];
        var sender = Sender.Of(records, person, account);
        var designs = Cell.All(content.Audiences.Keys, ClientKind.All.Select(kind => kind.Kind))
            .Select(cell => Decision.Decide(content.Rules, records, new Situation(sender, cell.Audience, cell.Occasion, cell.Client, now)).Design).OfType<Guid>().Distinct();
        var values = FieldResolution.Resolve(records, person, account, "");
        return [.. designs.Select(content.Find).OfType<DesignDocument>().SelectMany(FieldUse.Of).Distinct(StringComparer.Ordinal)
            .Where(name => records.Fields.TryFind(name, out var index) && values[index].IsEmpty).Select(records.Fields.Label)];
    }

    private static async Task<Ok<List<PersonEvent>>> HistoryAsync(Guid id, RunStore runs, AuditLog audit, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        var synced = (await runs.HistoryAsync(id, cancellationToken)).Select(line => new PersonEvent(line.At, line.By, $"{Words(line.Step.Action)} by {line.Source}", RunEndpoints.Labelled(line.Step, fields)));
        var set = (await audit.ReadAsync("person", id.ToString(), cancellationToken)).Select(line => new PersonEvent(line.At, line.Actor, line.Line.Action, AuditChanges.Of(line.Line, fields)));
        return TypedResults.Ok(synced.Concat(set).OrderByDescending(line => line.At).ToList());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SetAsync(
        Guid id, string field, SetFieldRequest request, CurrentRoster rosters, PersonStore people, ClaimsPrincipal user, CancellationToken cancellationToken)
    {
        if (Refuse((await rosters.GetAsync(cancellationToken)).Records.Fields, field, request.Value) is { } refusal) return refusal;
        var value = request.Value is { } text ? FieldValue.OneLine(text) : null;
        return await people.SetAsync(id, request.Account, isOwn: false, field, value, user.Actor(), cancellationToken) ? TypedResults.NoContent() : Problems.NotFound(request.Account is null ? "person" : "account");
    }

    private static string Words(StepAction action) => action switch
    {
        StepAction.Join => "joined",
        StepAction.Leave => "dropped",
        StepAction.Return => "listed again",
        _ => "changed",
    };
}
