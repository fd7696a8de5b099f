using System.Collections.Immutable;
using System.Text;
using Microsoft.AspNetCore.Connections;
using MimeKit;

namespace Relevo.StandIns.Mail;

/// <summary>Takes messages for anybody into the stand-in mailbox. Loopback only, so without TLS and without asking who sends. Source: RFC 5321.</summary>
internal sealed class SmtpServer(Mailbox mailbox) : ConnectionHandler
{
    private const int MaxMessage = 30 << 20; // bytes
    private const int MaxLine = 2000; // bytes; RFC 5321 section 4.5.3.1.6 wants 1000 at least
    private const int MaxRecipients = 100; // RFC 5321 section 4.5.3.1.8

    public override async Task OnConnectedAsync(ConnectionContext connection)
    {
        // Latin-1 keeps every byte as it came; the MIME parser makes characters of them.
        using var reader = new StreamReader(connection.Transport.Input.AsStream(), Encoding.Latin1);
        await using var writer = new StreamWriter(connection.Transport.Output.AsStream(), Encoding.Latin1) { NewLine = "\r\n", AutoFlush = true };
        try
        {
            await TalkAsync(reader, writer);
        }
        catch (Exception ended) when (ended is IOException or ConnectionResetException or ConnectionAbortedException or OperationCanceledException)
        {
            connection.Abort();
        }
    }

    private async Task TalkAsync(StreamReader reader, StreamWriter writer)
    {
        var (sender, recipients) = (false, ImmutableArray<string>.Empty);
        await writer.WriteLineAsync("220 standins.relevo.invalid ready");
        while (await reader.ReadLineAsync() is { Length: <= MaxLine } line)
        {
            switch (line.Split(' ', ':')[0].ToUpperInvariant())
            {
                case "EHLO":
                    await writer.WriteLineAsync($"250-standins.relevo.invalid\r\n250-8BITMIME\r\n250 SIZE {MaxMessage}");
                    break;
                case "HELO" or "NOOP":
                    await writer.WriteLineAsync("250 well");
                    break;
                case "RSET":
                    (sender, recipients) = (false, []);
                    await writer.WriteLineAsync("250 forgotten");
                    break;
                case "MAIL":
                    (sender, recipients) = (true, []);
                    await writer.WriteLineAsync("250 sender taken");
                    break;
                case "RCPT" when sender && recipients.Length < MaxRecipients && line.Contains('<', StringComparison.Ordinal):
                    recipients = recipients.Add(line.Split('<', '>')[1]);
                    await writer.WriteLineAsync("250 recipient taken");
                    break;
                case "DATA" when recipients.Length > 0:
                    await writer.WriteLineAsync("354 go on, and end with a dot");
                    await writer.WriteLineAsync(await TakeAsync(reader, recipients));
                    (sender, recipients) = (false, []);
                    break;
                case "QUIT":
                    await writer.WriteLineAsync("221 good bye");
                    return;
                default:
                    await writer.WriteLineAsync("503 not now, or not known");
                    break;
            }
        }
    }

    private async Task<string> TakeAsync(StreamReader reader, ImmutableArray<string> recipients)
    {
        using var message = new MemoryStream();
        while (await reader.ReadLineAsync() is { } line && line != ".")
        {
            if (message.Length + line.Length > MaxMessage) continue; // read to its end, and refused
            message.Write(Encoding.Latin1.GetBytes(line.StartsWith('.') ? line[1..] : line)); // RFC 5321 section 4.5.2
            message.Write("\r\n"u8);
        }

        if (message.Length > MaxMessage - MaxLine) return "552 too large";
        message.Position = 0;
        try
        {
            mailbox.Keep(recipients, await MimeMessage.LoadAsync(message));
            return "250 taken";
        }
        catch (FormatException)
        {
            return "554 no message";
        }
    }
}
