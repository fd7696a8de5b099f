using System.Globalization;
using System.Security.Claims;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Identity;
using Relevo.Data;
using Relevo.Server.Http;

namespace Relevo.Server.SignIn;

/// <summary>What a sign-in sends.</summary>
public sealed record SignInRequest(string Name, string Password);

/// <summary>Who is signed in.</summary>
public sealed record SessionUser(string Name, string SignInName, UserRole Role, Guid? PersonId);

/// <summary>The session: who is signed in, if anybody, and the token every change must carry in X-Relevo-Antiforgery.</summary>
public sealed record Session(SessionUser? User, string AntiforgeryToken);

/// <summary>Sign-in, sign-out, and who is here.</summary>
public static class SessionEndpoints
{
    /// <summary>Name of the policy for administrators.</summary>
    public const string Administrators = "administrators";

    private static readonly PasswordHasher<User> Hasher = new();

    /// <summary>A hash nobody's password has, so that an unknown name takes as long as a known one.</summary>
    private static readonly string NobodysHash = Hasher.HashPassword(null!, Guid.NewGuid().ToString());

    /// <summary>Maps the endpoints.</summary>
    public static void MapSession(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/api/session", ReadAsync).AllowAnonymous().WithName("ReadSession");
        routes.MapPost("/api/session", SignInAsync).AllowAnonymous().WithName("SignIn");
        routes.MapDelete("/api/session", async (HttpContext context) =>
        {
            await context.SignOutAsync(CookieAuthenticationDefaults.AuthenticationScheme);
            return TypedResults.NoContent();
        }).WithName("SignOut");
    }

    /// <summary>Hashes a password with the framework's own hasher.</summary>
    public static string Hash(string password) => Hasher.HashPassword(null!, password);

    /// <summary>True when the password is the one the hash was made from.</summary>
    public static bool IsPassword(string hash, string password) => Hasher.VerifyHashedPassword(null!, hash, password) != PasswordVerificationResult.Failed;

    /// <summary>The signed-in user's id.</summary>
    public static Guid UserId(this ClaimsPrincipal principal) => Guid.Parse(principal.FindFirstValue(ClaimTypes.NameIdentifier)!);

    /// <summary>Who acts in this request.</summary>
    public static Actor Actor(this ClaimsPrincipal principal) =>
        new(principal.UserId(), principal.FindFirstValue(ClaimTypes.Name)!);

    private static async Task<Ok<Session>> ReadAsync(HttpContext context, UserStore users, IAntiforgery antiforgery, CancellationToken cancellationToken)
    {
        SessionUser? here = null;
        if (context.User.Identity?.IsAuthenticated == true && await users.FindAsync(context.User.UserId(), cancellationToken) is { } user)
            here = new SessionUser(user.DisplayName, user.SignInName, user.Role, user.PersonId);
        return TypedResults.Ok(new Session(here, antiforgery.GetAndStoreTokens(context).RequestToken!));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SignInAsync(SignInRequest request, HttpContext context, UserStore users, TimeProvider time, CancellationToken cancellationToken)
    {
        if (request.Name.Length is 0 or > 254 || request.Password.Length is 0 or > 1000)
            return Problems.Of(StatusCodes.Status400BadRequest, "sign-in-incomplete", "A name and a password are needed.", "Fill in both and try again.");
        var now = time.GetUtcNow();
        if (SignInDelay.Remaining(await users.FailuresAsync(request.Name, cancellationToken), now) is { Ticks: > 0 } wait)
        {
            var seconds = (int)Math.Ceiling(wait.TotalSeconds);
            context.Response.Headers.RetryAfter = seconds.ToString(CultureInfo.InvariantCulture);
            return Problems.Of(StatusCodes.Status429TooManyRequests, "sign-in-wait", "Too many failed sign-ins with this name.", $"Try again in {seconds} s.");
        }

        var user = await users.FindByNameAsync(request.Name, cancellationToken);
        if (!IsPassword(user?.PasswordHash ?? NobodysHash, request.Password) || user is null)
        {
            await users.CountFailureAsync(request.Name, now, cancellationToken);
            return Problems.Of(StatusCodes.Status401Unauthorized, "sign-in-refused", "The name or the password is not right.", "Check both and try again.");
        }

        await users.ClearFailuresAsync(request.Name, cancellationToken);
        var claims = new[] { new Claim(ClaimTypes.NameIdentifier, user.Id.ToString()), new Claim(ClaimTypes.Name, user.DisplayName), new Claim(ClaimTypes.Role, user.Role.ToString()) };
        await context.SignInAsync(
            CookieAuthenticationDefaults.AuthenticationScheme, new ClaimsPrincipal(new ClaimsIdentity(claims, CookieAuthenticationDefaults.AuthenticationScheme)));
        return TypedResults.NoContent();
    }
}
