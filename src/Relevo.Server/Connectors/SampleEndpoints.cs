using System.Collections.Immutable;
using Microsoft.AspNetCore.Http.HttpResults;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Http;
using Relevo.Server.People;

namespace Relevo.Server.Connectors;

/// <summary>One value of an entry as the source has it.</summary>
public sealed record SampleValue(string Attribute, string Text);

/// <summary>An entry as the source has it.</summary>
public sealed record SampleEntry(string Name, ImmutableArray<SampleValue> Values);

/// <summary>A source's first people as it has them, with every attribute it shows.</summary>
public sealed record SampleAnswer(ImmutableArray<SampleEntry> Entries);

/// <summary>Tries a mapping on entries that a source showed.</summary>
public sealed record TrySampleRequest(ImmutableArray<SampleEntry> Entries, Mapping Mapping);

/// <summary>What mapped entries become. Refused: values that would be left out. Problems: entries that nobody comes of.</summary>
public sealed record TriedSample(ImmutableArray<PreviewPerson> People, ImmutableArray<RefusedValue> Refused, ImmutableArray<string> Problems);

/// <summary>Real entries of a source to map by, and what a mapping makes of them.</summary>
public static class SampleEndpoints
{
    private const int Shown = 25; // entries: enough to see what is filled in
    private const int MaxValues = 5_000; // of all entries sent back to be tried

    /// <summary>Maps the endpoints.</summary>
    public static void MapSamples(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/sources/{id:guid}/sample", ReadAsync).WithName("ReadSample");
        routes.MapPost("/api/files/look", LookAsync).Accepts<IFormFile>("application/octet-stream").WithName("LookAtFile");
        routes.MapPost("/api/sources/try", TryAsync).WithName("TrySample");
    }

    private static async Task<Results<Ok<SampleAnswer>, ProblemHttpResult>> ReadAsync(Guid id, SourceStore sources, ScimStore resources, SourceReading reading, CancellationToken cancellationToken)
    {
        if (await sources.FindAsync(id, cancellationToken) is not { } source) return Problems.NotFound("source");
        try
        {
            var records = source.Kind switch
            {
                SourceKind.Ldap => await LdapDirectory.SampleAsync(LdapSettings.Read(source.Settings), await reading.SecretAsync(id, cancellationToken), Shown, cancellationToken),
                SourceKind.Scim => [.. (await resources.ListAsync(id, isUser: true, null, null, cancellationToken)).Take(Shown).Select(user => ScimRecord.Read(user.Id.ToString(), user.Document, null))],
                _ => [], // a file is not kept; the administrator picks it
            };
            return TypedResults.Ok(Answer(records));
        }
        catch (SourceUnreachableException trouble)
        {
            return Problems.Of(StatusCodes.Status502BadGateway, "source-unreachable", trouble.Message, "Nothing was changed. Check the source's settings and try again.");
        }
    }

    /// <summary>The first people of an LDIF file's beginning. Nothing of it is kept.</summary>
    private static async Task<Results<Ok<SampleAnswer>, ProblemHttpResult>> LookAsync(HttpRequest request, bool isWhole, CancellationToken cancellationToken)
    {
        var records = await LdifListing.SampleAsync(request.Body, Shown, isWhole, LdifLimits.Default, cancellationToken);
        await DirectoryFiles.DrainAsync(request.Body, cancellationToken);
        return records.IsEmpty
            ? Problems.Invalid("No person was found at the beginning of this file.", [new Fault("", 1, "no-person", "Pick an LDIF file that has entries of object class person or inetOrgPerson.")])
            : TypedResults.Ok(Answer(records));
    }

    private static SampleAnswer Answer(IEnumerable<DirectoryRecord> records) =>
        new([.. records.Select(record => new SampleEntry(record.Name, [.. record.Values.Select(value => new SampleValue(value.Attribute, value.Text))]))]);

    private static async Task<Results<Ok<TriedSample>, ProblemHttpResult>> TryAsync(TrySampleRequest request, CurrentRoster rosters, CancellationToken cancellationToken)
    {
        var fields = (await rosters.GetAsync(cancellationToken)).Records.Fields;
        if (request.Mapping.Check(fields).Select(problem => new Fault($"/mapping{problem.Pointer}", 0, "mapping", problem.Message)).ToArray() is { Length: > 0 } faults)
            return Problems.Invalid("The mapping cannot be used like this.", faults);
        if (request.Entries.Sum(entry => entry.Values.Length) > MaxValues) return Problems.Invalid("These are too many entries to try.", [new Fault("/entries", 0, "sample-size", $"At most {MaxValues} values are tried.")]);
        var listing = new Listing(request.Mapping, fields, LdifLimits.Default.MaxProblems);
        foreach (var entry in request.Entries) listing.Take(new DirectoryRecord(entry.Name, 0, [.. entry.Values.Select(value => new RecordValue(value.Attribute, FieldValue.OneLine(value.Text), 0))]));
        var content = listing.Finish("There is no entry to try.");
        return TypedResults.Ok(new TriedSample(
            [.. content.People.Select(PreviewPerson.Of)],
            content.Refused,
            [.. content.Problems.Select(problem => problem.Message).Distinct()]));
    }
}
