using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.WebUtilities;
using Relevo.Core;
using Relevo.Core.Rollouts;
using Relevo.Data;

namespace Relevo.Server.Rollout;

/// <summary>A text signature of a phone. Address: the account it is for, or empty where it stands for every account. Path and Sha256: what a report names it by.</summary>
public sealed record PocketSignature(string Address, string Text, string Path, string Sha256);

/// <summary>What a phone is to hold. Tag: its identity, which a report names: SHA-256 of a line for each signature, its hash, a space, its path, a line feed, in the order of their paths.</summary>
public sealed record PocketProfile(int Edition, string Tag, ImmutableArray<PocketSignature> Signatures);

/// <summary>
/// The device profile of pocket apps: polled with an ETag (RFC 9110), signed with a detached JSON Web Signature (RFC 7515 appendix F, ES256) in the header
/// Relevo-Signature. Nothing in it depends on the phone's clock.
/// </summary>
public static class PocketEndpoints
{
    /// <summary>Header that carries the signature.</summary>
    public const string SignatureHeader = "Relevo-Signature";

    /// <summary>Maps the endpoints.</summary>
    public static void MapPocket(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/pocket/v1/profile", AskAsync).AllowAnonymous().WithName("AskForProfile");
        routes.MapPost("/pocket/v1/report", AgentEndpoints.ReportAsync).AllowAnonymous().WithName("ReportProfile");
        routes.MapGet("/pocket/v1/keys", async (ProfileSigning signing, CancellationToken cancellationToken) => Results.Text(await signing.PublicKeysAsync(cancellationToken), "application/jwk-set+json")).AllowAnonymous().ExcludeFromDescription();
    }

    private static async Task<IResult> AskAsync(HttpContext context, ClientAsking asking, ProfileSigning signing, CancellationToken cancellationToken)
    {
        if (await asking.IdentifyAsync(context, cancellationToken) is not { } phone) return AgentEndpoints.Unknown(context);
        var answer = await asking.AskAsync(phone, tag => AgentEndpoints.Has(context, tag), cancellationToken);
        AgentEndpoints.Mark(context, answer);
        if (answer.Delivery is not { } delivery) return AgentEndpoints.Nothing(context);
        var profile = new PocketProfile(delivery.Manifest.Edition, answer.Tag, [.. delivery.Signatures.Select(file => new PocketSignature(file.Entry.Address, Encoding.UTF8.GetString(file.Bytes.Span), file.Entry.Path, file.Entry.Sha256))]);
        var body = JsonSerializer.SerializeToUtf8Bytes(profile, RelevoJson.Options);
        context.Response.Headers[SignatureHeader] = await signing.SignAsync(body, cancellationToken);
        return Results.Bytes(body, "application/json");
    }
}

/// <summary>Signs device profiles. The key is made once for all servers of a company and kept protected.</summary>
public sealed class ProfileSigning(ClientSettingsStore settings, IDataProtectionProvider protection) : IDisposable
{
    private readonly SemaphoreSlim oneAtATime = new(1);
    private (string Id, ECDsa Key)? kept;

    /// <summary>A detached signature over these bytes: header, two dots, signature. Source: RFC 7515 appendix F.</summary>
    public async Task<string> SignAsync(byte[] payload, CancellationToken cancellationToken)
    {
        var (id, key) = await KeyAsync(cancellationToken);
        var header = WebEncoders.Base64UrlEncode(JsonSerializer.SerializeToUtf8Bytes(new { alg = "ES256", kid = id }));
        var signed = Encoding.ASCII.GetBytes($"{header}.{WebEncoders.Base64UrlEncode(payload)}");
        return $"{header}..{WebEncoders.Base64UrlEncode(key.SignData(signed, HashAlgorithmName.SHA256))}"; // IEEE P1363 form, as RFC 7518 section 3.4 wants it
    }

    /// <summary>The public keys, as a JSON Web Key Set. Source: RFC 7517 section 5.</summary>
    public async Task<string> PublicKeysAsync(CancellationToken cancellationToken)
    {
        var (id, key) = await KeyAsync(cancellationToken);
        var point = key.ExportParameters(includePrivateParameters: false).Q;
        return JsonSerializer.Serialize(new { keys = new[] { new { kty = "EC", crv = "P-256", use = "sig", alg = "ES256", kid = id, x = WebEncoders.Base64UrlEncode(point.X!), y = WebEncoders.Base64UrlEncode(point.Y!) } } });
    }

    /// <inheritdoc />
    public void Dispose()
    {
        kept?.Key.Dispose();
        oneAtATime.Dispose();
    }

    private async Task<(string Id, ECDsa Key)> KeyAsync(CancellationToken cancellationToken)
    {
        if (kept is { } known) return known;
        await oneAtATime.WaitAsync(cancellationToken);
        try
        {
            if (kept is { } meanwhile) return meanwhile;
            var protector = protection.CreateProtector("Relevo.ProfileSigning");
            if (await settings.SigningKeyAsync(cancellationToken) is null)
            {
                using var fresh = ECDsa.Create(ECCurve.NamedCurves.nistP256);
                await settings.KeepSigningKeyAsync(Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(8)), protector.Protect(Convert.ToBase64String(fresh.ExportPkcs8PrivateKey())), cancellationToken);
            }

            var (id, secret) = (await settings.SigningKeyAsync(cancellationToken))!.Value;
            var key = ECDsa.Create();
            key.ImportPkcs8PrivateKey(Convert.FromBase64String(protector.Unprotect(secret)), out _);
            kept = (id, key);
            return (id, key);
        }
        finally
        {
            oneAtATime.Release();
        }
    }
}
