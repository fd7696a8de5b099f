using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using Relevo.Server.Hosting;

namespace Relevo.Server.Designs;

/// <summary>Hands messages over to the company's mail server. Source: RFC 5321.</summary>
public sealed class MailDelivery(ServerSettings settings)
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(15);

    /// <summary>Whether there is a mail server at all.</summary>
    public bool IsPossible => settings.MailServer is not null;

    /// <summary>Sends a message. Null when it was taken; otherwise why not, as a sentence.</summary>
    public async Task<string?> SendAsync(MimeMessage message, CancellationToken cancellationToken)
    {
        if (settings.MailServer is not { } server) return "There is no mail server.";
        using var client = new SmtpClient { Timeout = (int)Patience.TotalMilliseconds };
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken);
        limit.CancelAfter(Patience);
        try
        {
            await client.ConnectAsync(server.Host, server.Port, server.Scheme == "smtps" ? SecureSocketOptions.SslOnConnect : SecureSocketOptions.StartTlsWhenAvailable, limit.Token);
            if (server.UserInfo.Split(':', 2) is [var name, var secret]) await client.AuthenticateAsync(Uri.UnescapeDataString(name), Uri.UnescapeDataString(secret), limit.Token);
            await client.SendAsync(message, limit.Token);
            await client.DisconnectAsync(quit: true, limit.Token);
            return null;
        }
        catch (Exception trouble) when (trouble is IOException or System.Net.Sockets.SocketException or MailKit.ProtocolException or MailKit.CommandException or NotSupportedException or AuthenticationException or SslHandshakeException)
        {
            return $"The mail server {server.Host} did not take it: {trouble.Message.ReplaceLineEndings(" ")}";
        }
        catch (OperationCanceledException) when (!cancellationToken.IsCancellationRequested)
        {
            return $"The mail server {server.Host} did not answer within {Patience.TotalSeconds} seconds.";
        }
    }
}
