using System.Collections.Immutable;
using MimeKit;

namespace Relevo.StandIns.Mail;

/// <summary>A message that arrived. Number: counts up.</summary>
internal sealed record ArrivedMessage(int Number, DateTimeOffset At, ImmutableArray<string> Recipients, MimeMessage Message);

/// <summary>Everybody's mailbox: the messages that arrived last, while the process runs.</summary>
internal sealed class Mailbox
{
    private const int MostKept = 50;
    private readonly Lock guard = new();
    private ImmutableList<ArrivedMessage> messages = [];
    private int last;

    /// <summary>Newest first.</summary>
    public ImmutableList<ArrivedMessage> Messages => messages;

    public ArrivedMessage? Find(int number) => messages.Find(message => message.Number == number);

    public void Keep(ImmutableArray<string> recipients, MimeMessage message)
    {
        lock (guard) messages = [.. messages.Insert(0, new ArrivedMessage(++last, DateTimeOffset.Now, recipients, message)).Take(MostKept)];
    }
}
