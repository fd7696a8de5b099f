using System.Net;

namespace Relevo.StandIns.Jmap;

/// <summary>A stand-in mailbox server inside another process, for measuring and for tests of many mailboxes.</summary>
public sealed class MailboxHost : IAsyncDisposable
{
    private readonly WebApplication application;
    private readonly JmapMailboxes mailboxes;

    private MailboxHost(WebApplication application, JmapMailboxes mailboxes, JmapFaults faults, int port)
    {
        (this.application, this.mailboxes) = (application, mailboxes);
        SessionUrl = new Uri($"http://127.0.0.1:{port}/.well-known/jmap");
        Misbehave = (dropped, garbage) => (faults.Dropped, faults.Garbage) = (dropped, garbage);
    }

    /// <summary>Where its session is.</summary>
    public Uri SessionUrl { get; }

    /// <summary>Sets the shares of requests whose connection is dropped, and that are answered with garbage.</summary>
    public Action<double, double> Misbehave { get; }

    /// <summary>Mailboxes that hold a signature.</summary>
    public int WithSignature => mailboxes.All.Count(account => account.Identities.Any(identity => identity.HtmlSignature.Length > 0));

    /// <summary>How often identities were changed, in all.</summary>
    public int Changes => mailboxes.All.Sum(account => account.Changes);

    /// <summary>How often identities were read, in all.</summary>
    public int Reads => mailboxes.All.Sum(account => account.Reads);

    /// <summary>Starts one with a mailbox for each of these.</summary>
    public static async Task<MailboxHost> StartAsync(IEnumerable<(string Name, string[] Addresses)> people, string token, int port, int seed)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.Listen(IPAddress.Loopback, port);
            kestrel.Limits.MaxRequestBodySize = null;
        });
        var application = builder.Build();
        var (mailboxes, faults) = (new JmapMailboxes(people), new JmapFaults(seed));
        new JmapServer(mailboxes, faults, token).Map(application);
        await application.StartAsync();
        return new MailboxHost(application, mailboxes, faults, port);
    }

    /// <inheritdoc />
    public async ValueTask DisposeAsync() => await application.DisposeAsync();
}
