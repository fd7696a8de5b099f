using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;
using Relevo.Server.Hosting;

// relevo-server [serve]        starts the server with the settings in the environment
// relevo-server openapi FILE   writes the API's OpenAPI document; needs no database
// relevo-server schema designs|rules|client-kind|manifest FILE   writes the JSON Schema of such files; needs no database
try
{
    if (args is ["openapi", var file])
    {
        // The endpoints are known to the document only once the server has started; no request is served and no database asked.
        await using var described = RelevoServer.Build(ServerSettings.Read(name => name switch { "RELEVO_DATABASE" => "Host=127.0.0.1;Port=1", "RELEVO_URLS" => "http://127.0.0.1:0", _ => null }));
        await described.StartAsync();
        var document = await described.Services.GetRequiredKeyedService<IOpenApiDocumentProvider>("v1").GetOpenApiDocumentAsync();
        await File.WriteAllTextAsync(file, await document.SerializeAsJsonAsync(OpenApiSpecVersion.OpenApi3_1));
        return 0;
    }

    if (args is ["schema", "designs" or "rules" or "client-kind" or "manifest", var schema])
    {
        await File.WriteAllTextAsync(schema, args[1] switch
        {
            "rules" => Relevo.Core.Rules.RuleFile.Schema(),
            "client-kind" => Relevo.Core.Clients.ClientKind.Schema(),
            "manifest" => Relevo.Core.Clients.Manifest.Schema(),
            _ => Relevo.Core.Designs.DesignFile.Schema(),
        });
        return 0;
    }

    if (args is not ([] or ["serve"])) throw new StartRefusedException($"\"{string.Join(' ', args)}\" is not known; use serve, openapi FILE or schema designs|rules|client-kind|manifest FILE.");
    var settings = ServerSettings.Read(Environment.GetEnvironmentVariable);
    await using var application = RelevoServer.Build(settings);
    await RelevoServer.PrepareAsync(application, settings, CancellationToken.None);
    await application.RunAsync();
    return 0;
}
catch (StartRefusedException refused)
{
    await Console.Error.WriteLineAsync(refused.Message);
    return 1;
}
catch (IOException taken) when (taken.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
{
    await Console.Error.WriteLineAsync($"{taken.Message} Give RELEVO_URLS another port.");
    return 1;
}
