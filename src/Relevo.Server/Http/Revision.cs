using System.Globalization;
using Microsoft.AspNetCore.Http.HttpResults;

namespace Relevo.Server.Http;

/// <summary>Carries a record's revision as a strong ETag. Sources: RFC 9110 sections 8.8.3 and 13.1.1, RFC 6585 section 3.</summary>
public static class Revision
{
    /// <summary>Writes the ETag of what is answered.</summary>
    public static void Show(HttpContext context, int revision) =>
        context.Response.Headers.ETag = string.Create(CultureInfo.InvariantCulture, $"\"{revision}\"");

    /// <summary>Reads the revision the sender saw from If-Match; a change without one is refused.</summary>
    public static bool TryReadSeen(HttpContext context, out int revision, out ProblemHttpResult? refusal)
    {
        var header = context.Request.Headers.IfMatch.ToString();
        refusal = null;
        if (int.TryParse(header.Trim('"'), NumberStyles.None, CultureInfo.InvariantCulture, out revision)) return true;
        refusal = Problems.Of(
            StatusCodes.Status428PreconditionRequired,
            "precondition-required",
            "The change does not say which state it was made on.",
            "Send the ETag of the state you changed in an If-Match header.");
        return false;
    }
}
