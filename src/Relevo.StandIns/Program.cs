using Relevo.StandIns;

// relevo-standins --server URL --urls URL --tokens FILE --folder DIR --agent relevo-agent.dll
// Simulated desk apps for the demo and the tests: a folder and an agent process each, and a page that reads only the folders.
var options = StandInOptions.Parse(args);
if (options is null)
{
    await Console.Error.WriteLineAsync("usage: relevo-standins --server URL --urls URL --tokens FILE --folder DIR --agent FILE");
    return 2;
}

var builder = WebApplication.CreateSlimBuilder();
builder.Logging.ClearProviders();
builder.Configuration["urls"] = options.Urls;
await using var application = builder.Build();
var apps = DeskApp.ReadAll(options);
application.Use(async (context, next) =>
{
    context.Response.Headers.ContentSecurityPolicy = "default-src 'none'; style-src 'unsafe-inline'; img-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'";
    context.Response.Headers.XContentTypeOptions = "nosniff";
    await next();
});
DeskAppPages.Map(application, apps);
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
