using System.Text.Json.Nodes;
using Relevo.Core.People;
using Relevo.Core.People.Formats.Scim;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Connectors;

namespace Relevo.Server.Scim;

/// <summary>What a client asks of one kind of resource.</summary>
/// <param name="Method">POST, PUT, PATCH or DELETE.</param>
/// <param name="IsUser">Users, otherwise groups.</param>
/// <param name="Id">The resource; null for a new one.</param>
/// <param name="Body">What was sent.</param>
/// <param name="IfMatch">The version the client saw, or empty.</param>
public sealed record ScimWrite(string Method, bool IsUser, Guid? Id, JsonNode? Body, string IfMatch);

/// <summary>Carries out what clients write: the same for single requests and for those in a bulk.</summary>
public sealed class ScimProvider(ScimStore store, PictureIntake pictures)
{
    /// <summary>Writes a resource and the people that come of it.</summary>
    public Task<ScimOutcome> WriteAsync(ScimCaller caller, ScimWrite write, CancellationToken cancellationToken)
    {
        var fields = caller.Fields.ToCatalogue();
        return store.WriteAsync(
            caller, write.IsUser, write.Id ?? Guid.CreateVersion7(), write.Id is null, before => Change(write, before),
            (id, user, groups) => ToPersonAsync(caller.Mapping ?? ScimRecord.Mapping, fields, id, user, groups, cancellationToken), cancellationToken);
    }

    private static ScimChange Change(ScimWrite write, ScimResource? before)
    {
        if (before is not null && write.IfMatch.Length > 0 && !ScimHttp.Names(write.IfMatch, ScimHttp.Version(before))) return new ScimChange(null, ScimError.VersionMismatch);
        if (write.Method == "DELETE") return new ScimChange(null, null);
        var sent = write.Body;
        if (write.Method == "PATCH")
        {
            var (patched, trouble) = ScimPatch.Apply(before!.Document, write.Body);
            if (trouble is not null) return new ScimChange(null, trouble);
            sent = patched;
        }
        else if (before is not null && write.Body is JsonObject whole && ScimAttribute.Find(whole, "id") is { } member && whole[member]?.ToString() is { } id && !id.Equals(before.Id.ToString(), StringComparison.OrdinalIgnoreCase))
            return new ScimChange(null, ScimError.Mutability("An id never changes."));
        var (document, error) = ScimSchema.Restore(sent, write.IsUser);
        return new ScimChange(document, error);
    }

    /// <summary>An inactive user is nobody; one whose mapping leaves no name is called by the user name.</summary>
    private async ValueTask<ListedPerson?> ToPersonAsync(Mapping mapping, FieldCatalogue fields, Guid id, JsonObject user, IReadOnlyList<string> groups, CancellationToken cancellationToken)
    {
        if (user["active"]?.GetValueKind() == System.Text.Json.JsonValueKind.False) return null;
        var listing = new Listing(mapping, fields, maxProblems: 1);
        // A photo that cannot be read keeps nobody from being pushed; the person comes without it.
        var photo = ScimRecord.InlinePhoto(user) is { } bytes ? await pictures.TakeAsync(bytes, cancellationToken) : default;
        listing.Take(ScimRecord.Read(id.ToString(), user, photo.Sha256));
        var person = listing.Finish("").People.FirstOrDefault()
            ?? new ListedPerson(id.ToString(), "", new Facts([KeyValuePair.Create("displayName", FieldValue.OneLine(user["userName"]?.ToString()))]), [], 0);
        return GroupNames.Join(groups) is { } fact ? person with { Facts = person.Facts.With(GroupNames.Field, fact) } : person;
    }
}
