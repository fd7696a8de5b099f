using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using Relevo.Core;
using Relevo.Core.Rollouts;

namespace Relevo.Agent;

/// <summary>The file an agent's token is kept in, which nobody else may read.</summary>
internal static class TokenFile
{
    /// <summary>Turns a code into a token and keeps it. Null when that went well, otherwise why not.</summary>
    public static async Task<string?> EnrolAsync(HttpClient server, string code, string file, CancellationToken cancellationToken)
    {
        using var answer = await server.PostAsJsonAsync(AgentProtocol.EnrolPath, new EnrolRequest(code), RelevoJson.Options, cancellationToken);
        if (answer.StatusCode == HttpStatusCode.Forbidden) return "The server does not know this code: it was used, its time is over, or it was mistyped.";
        answer.EnsureSuccessStatusCode();
        Write(file, (await answer.Content.ReadFromJsonAsync<TokenAnswer>(RelevoJson.Options, cancellationToken))!.Token);
        return null;
    }

    /// <summary>Gets the token that follows the one in use, keeps it, and uses it from now on. The old one is good until then, so that nothing is lost whenever this breaks off.</summary>
    public static async Task RotateAsync(HttpClient server, string file, CancellationToken cancellationToken)
    {
        using var answer = await server.PostAsync(new Uri(AgentProtocol.TokenPath, UriKind.Relative), null, cancellationToken);
        answer.EnsureSuccessStatusCode();
        var token = (await answer.Content.ReadFromJsonAsync<TokenAnswer>(RelevoJson.Options, cancellationToken))!.Token;
        Write(file, token);
        server.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
    }

    private static void Write(string file, string token)
    {
        var beside = Path.GetFullPath(file) + ".new";
        var options = new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows()) options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        using (var stream = new FileStream(beside, options))
        {
            stream.Write(System.Text.Encoding.ASCII.GetBytes(token));
            stream.Flush(flushToDisk: true);
        }

        File.Move(beside, Path.GetFullPath(file), overwrite: true);
    }
}
