namespace Relevo.Core.People.Formats.Scim;

/// <summary>What is wrong with a request, as SCIM says it. Source: RFC 7644 section 3.12, table 9; null where no detail type fits.</summary>
/// <param name="Status">HTTP status.</param>
/// <param name="ScimType">The standard's word, or null.</param>
/// <param name="Detail">A sentence.</param>
public sealed record ScimError(int Status, string? ScimType, string Detail)
{
    /// <summary>The filter cannot be read.</summary>
    public static ScimError InvalidFilter(string detail) => new(400, "invalidFilter", detail);

    /// <summary>The path cannot be read, or leads nowhere in this resource type.</summary>
    public static ScimError InvalidPath(string detail) => new(400, "invalidPath", detail);

    /// <summary>A value filter matched nothing, or a remove has no path.</summary>
    public static ScimError NoTarget(string detail) => new(400, "noTarget", detail);

    /// <summary>A value is missing or of a wrong type.</summary>
    public static ScimError InvalidValue(string detail) => new(400, "invalidValue", detail);

    /// <summary>The request is not SCIM.</summary>
    public static ScimError InvalidSyntax(string detail) => new(400, "invalidSyntax", detail);

    /// <summary>What was to be changed is not for clients to change.</summary>
    public static ScimError Mutability(string detail) => new(400, "mutability", detail);

    /// <summary>Another resource has this name.</summary>
    public static ScimError Uniqueness(string detail) => new(409, "uniqueness", detail);

    /// <summary>There is no such resource.</summary>
    public static ScimError NotFound(string id) => new(404, null, $"There is no resource \"{id}\" here.");

    /// <summary>The resource has another version by now.</summary>
    public static ScimError VersionMismatch { get; } = new(412, null, "The resource was changed in the meantime.");
}
