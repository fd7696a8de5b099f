using System.Collections.Immutable;
using System.Text.Json;
using Relevo.Core.People;
using Relevo.Core.People.Sources;
using Relevo.Data;

namespace Relevo.Server.People;

/// <summary>Reads an audit line's two states as changes of fields.</summary>
internal static class AuditChanges
{
    public static ImmutableArray<FieldChange> Of(AuditLine line, FieldCatalogue fields)
    {
        var (before, after) = (Read(line.Before), Read(line.After));
        return [.. before.Keys.Union(after.Keys).Where(name => fields.Find(name) is not null && before.GetValueOrDefault(name) != after.GetValueOrDefault(name))
            .Select(name => new FieldChange(fields.Label(name), before.GetValueOrDefault(name), after.GetValueOrDefault(name)))];
    }

    private static Dictionary<string, string?> Read(string? json) => json is null ? [] : JsonSerializer.Deserialize<Dictionary<string, string?>>(json)!;
}
