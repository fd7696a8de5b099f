using System.Net;
using Microsoft.AspNetCore.Connections;
using Relevo.StandIns;
using Relevo.StandIns.Directory;
using Relevo.StandIns.Fleet;
using Relevo.StandIns.Jmap;
using Relevo.StandIns.Mail;

// relevo-standins --server URL --urls URL --tokens FILE --folder DIR --agent relevo-agent.dll [--directory LDIF --directory-port PORT] [--mail-port PORT] [--mailbox-token TOKEN]
// Simulated desk apps for the demo and the tests: a folder and an agent process each, and a page that reads only the folders. And a simulated
// directory server with a page that makes things happen to it. And a mailbox that takes whatever is sent by SMTP. And a server of mailboxes that speaks JMAP,
// one for each person of the directory.
var options = StandInOptions.Parse(args);
if (options is null)
{
    await Console.Error.WriteLineAsync("usage: relevo-standins --server URL --urls URL --tokens FILE --folder DIR --agent FILE [--directory LDIF --directory-port PORT] [--mail-port PORT] [--mailbox-token TOKEN]");
    return 2;
}

var builder = WebApplication.CreateSlimBuilder();
builder.Logging.ClearProviders();
var web = new Uri(options.Urls);
var tree = options.DirectoryFile is { } file ? await DirectoryTree.ReadAsync(file, CancellationToken.None) : null;
if (tree is not null) builder.Services.AddSingleton(tree);
var mailbox = new Mailbox();
builder.Services.AddSingleton(mailbox);
builder.WebHost.ConfigureKestrel(kestrel =>
{
    kestrel.Listen(IPAddress.Loopback, web.Port);
    if (tree is not null) kestrel.Listen(IPAddress.Loopback, options.DirectoryPort, listen => listen.UseConnectionHandler<LdapServer>());
    if (options.MailPort > 0) kestrel.Listen(IPAddress.Loopback, options.MailPort, listen => listen.UseConnectionHandler<SmtpServer>());
});
await using var application = builder.Build();
var members = DeskApp.ReadMembers(options);
var apps = DeskApp.ReadAll(options, members);
application.Use(async (context, next) =>
{
    context.Response.Headers.ContentSecurityPolicy = "default-src 'none'; style-src 'unsafe-inline'; script-src 'self'; connect-src 'self'; img-src 'self' " + new Uri(options.Server).GetLeftPart(UriPartial.Authority) + "; frame-src 'self'; form-action 'self'; base-uri 'none'";
    context.Response.Headers.XContentTypeOptions = "nosniff";
    await next();
});
DeskAppPages.Map(application, apps);
if (tree is not null) DirectoryPages.Map(application, tree, options.DirectoryPort);
if (options.MailPort > 0) MailPages.Map(application, mailbox);
if (tree is not null && options.MailboxToken.Length > 0)
{
    var (mailboxes, faults) = (new JmapMailboxes(JmapMailboxes.Of(tree)), new JmapFaults(seed: 6));
    if (apps.Count > 0) faults.ReadOnly.Add(mailboxes.All.Last().Id); // one in the demo that nobody may change
    new JmapServer(mailboxes, faults, options.MailboxToken).Map(application);
    JmapPages.Map(application, mailboxes, faults, mailbox);
}

await using var phones = new Fleet([new Uri(options.Server)], members.Where(member => member.Kind == "pocket-app"), FleetSettings.Quiet);
PocketPages.Map(application, phones);
ComposePages.Map(application, [.. members.Where(member => member.Kind == "compose-helper")], new Uri(options.Server));
using var agents = new AgentProcesses(options);
try
{
    await application.StartAsync();
}
catch (IOException taken)
{
    await Console.Error.WriteLineAsync($"{taken.Message} Give the stand-ins another port.");
    return 1;
}

agents.Start(apps);
phones.Start();
await application.WaitForShutdownAsync();
return 0;
