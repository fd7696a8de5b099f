using System.Net;
using Microsoft.AspNetCore.Connections;
using Relevo.StandIns;
using Relevo.StandIns.Directory;
using Relevo.StandIns.Mail;

// relevo-standins --server URL --urls URL --tokens FILE --folder DIR --agent relevo-agent.dll [--directory LDIF --directory-port PORT] [--mail-port PORT]
// Simulated desk apps for the demo and the tests: a folder and an agent process each, and a page that reads only the folders. And a simulated
// directory server with a page that makes things happen to it. And a mailbox that takes whatever is sent by SMTP.
var options = StandInOptions.Parse(args);
if (options is null)
{
    await Console.Error.WriteLineAsync("usage: relevo-standins --server URL --urls URL --tokens FILE --folder DIR --agent FILE [--directory LDIF --directory-port PORT] [--mail-port PORT]");
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
var apps = DeskApp.ReadAll(options);
application.Use(async (context, next) =>
{
    context.Response.Headers.ContentSecurityPolicy = "default-src 'none'; style-src 'unsafe-inline'; img-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'";
    context.Response.Headers.XContentTypeOptions = "nosniff";
    await next();
});
DeskAppPages.Map(application, apps);
if (tree is not null) DirectoryPages.Map(application, tree, options.DirectoryPort);
if (options.MailPort > 0) MailPages.Map(application, mailbox);
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
await application.WaitForShutdownAsync();
return 0;
