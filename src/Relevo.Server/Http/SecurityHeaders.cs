namespace Relevo.Server.Http;

/// <summary>
/// Headers on every answer. Scripts come from this server's files alone; inline styles are allowed as attributes only, because signatures carry
/// theirs that way. Source: CSP Level 3.
/// </summary>
public static class SecurityHeaders
{
    private const string Policy =
        "default-src 'none'; script-src 'self'; style-src-elem 'self'; style-src-attr 'unsafe-inline'; img-src 'self' data:; font-src 'self'; " +
        "connect-src 'self'; frame-src 'self'; base-uri 'self'; form-action 'self'; frame-ancestors 'none'";

    /// <summary>Adds the headers.</summary>
    public static IApplicationBuilder UseSecurityHeaders(this IApplicationBuilder application) => application.Use(async (context, next) =>
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = Policy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=()";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        if (context.Request.Path.StartsWithSegments("/api") || context.Request.Path.StartsWithSegments("/scim")) headers.CacheControl = "no-store";
        await next();
    });
}
