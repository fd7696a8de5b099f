using Microsoft.AspNetCore.Http.HttpResults;

namespace Relevo.Server.Http;

/// <summary>One fault in what was sent. Pointer is a JSON Pointer (RFC 6901) or empty; Line a line number of a file, or 0.</summary>
public sealed record Fault(string Pointer, long Line, string Code, string Message);

/// <summary>Builds RFC 9457 problems: what happened (title), where (errors), what to do next (detail), and a stable code.</summary>
public static class Problems
{
    /// <summary>A problem with the given status. code: stable name in lower case with hyphens.</summary>
    public static ProblemHttpResult Of(int status, string code, string title, string detail, IEnumerable<Fault>? faults = null)
    {
        var extensions = new Dictionary<string, object?> { ["code"] = code };
        if (faults is not null) extensions["errors"] = faults.ToArray();
        return TypedResults.Problem(detail, statusCode: status, title: title, type: $"urn:relevo:problem:{code}", extensions: extensions);
    }

    /// <summary>There is no such record.</summary>
    public static ProblemHttpResult NotFound(string what) =>
        Of(StatusCodes.Status404NotFound, "not-found", $"There is no such {what}.", "It may have been taken out since this page was loaded; load the page again.");

    /// <summary>Somebody else saved in between.</summary>
    public static ProblemHttpResult LostUpdate(string what) =>
        Of(StatusCodes.Status412PreconditionFailed, "lost-update", $"Somebody else changed the {what} in the meantime.", "Nothing was overwritten. Load the newest state and make the change again.");

    /// <summary>What was sent has faults.</summary>
    public static ProblemHttpResult Invalid(string title, IEnumerable<Fault> faults) =>
        Of(StatusCodes.Status422UnprocessableEntity, "invalid", title, "Nothing was changed. Mend the places named and send it again.", faults);
}
