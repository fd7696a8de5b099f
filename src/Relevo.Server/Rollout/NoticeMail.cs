using MimeKit;
using Npgsql;
using Relevo.Data;
using Relevo.Server.Designs;
using Relevo.Server.Hosting;
using Relevo.Server.People;

namespace Relevo.Server.Rollout;

/// <summary>Mails notices: to administrators what they should look at, to a person what is for them alone. Where there is no mail server they stay on the screens.</summary>
public sealed partial class NoticeMail(RolloutStore rollouts, UserStore users, CurrentRoster rosters, MailDelivery mail, ServerSettings settings, TimeProvider clock, ILogger<NoticeMail> log) : BackgroundService
{
    private const int MostAtOnce = 20; // messages of one round
    private static readonly TimeSpan Every = TimeSpan.FromSeconds(5);

    /// <summary>Mails what is due.</summary>
    public async Task MailAsync(CancellationToken cancellationToken)
    {
        if (!mail.IsPossible) return;
        foreach (var (text, person) in await rollouts.TakeUnmailedAsync(MostAtOnce, cancellationToken))
        {
            string[] to = person is { } one
                ? [(await rosters.GetAsync(cancellationToken)).Find(one)?.Person is { IsRetired: false } found ? found.Address : ""]
                : [.. (await users.ListAsync(cancellationToken)).Where(user => user.Role == UserRole.Administrator).Select(user => user.SignInName)];
            foreach (var address in to)
            {
                if (!MailboxAddress.TryParse(address, out var recipient)) continue;
                var message = new MimeMessage([new MailboxAddress("Relevo", recipient.Address)], [recipient], person is null ? "Relevo: something to look at" : "Your email signature", new TextPart("plain") { Text = $"{text}\n\n{settings.PublicAddress}\n" });
                if (await mail.SendAsync(message, cancellationToken) is { } trouble) LogUnsent(trouble);
            }
        }
    }

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Every, clock);
        while (await timer.WaitForNextTickAsync(stoppingToken).AsTask().ContinueWith(tick => tick.IsCompletedSuccessfully && tick.Result, TaskScheduler.Default))
        {
            try
            {
                await MailAsync(stoppingToken);
            }
            catch (Exception away) when (away is NpgsqlException or TimeoutException)
            {
                LogUnsent(away.Message);
            }
        }
    }

    [LoggerMessage(LogLevel.Warning, "A notice could not be mailed: {Reason}")]
    private partial void LogUnsent(string reason);
}
