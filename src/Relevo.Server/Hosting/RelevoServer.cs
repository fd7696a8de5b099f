using System.Net;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.Extensions.FileProviders;
using Npgsql;
using Prometheus;
using Relevo.Core;
using Relevo.Core.Rendering;
using Relevo.Data;
using Relevo.Server.Connectors;
using Relevo.Server.Connectors.Jmap;
using Relevo.Server.Designs;
using Relevo.Server.Frame;
using Relevo.Server.Http;
using Relevo.Server.Lens;
using Relevo.Server.People;
using Relevo.Server.Proof;
using Relevo.Server.Rollout;
using Relevo.Server.Rules;
using Relevo.Server.Scim;
using Relevo.Server.SignIn;
using Serilog;
using Serilog.Events;
using Serilog.Formatting.Compact;

namespace Relevo.Server.Hosting;

/// <summary>Puts the server together. Everything it needs comes in as settings; the clock is the framework's TimeProvider.</summary>
public static class RelevoServer
{
    private const long MaxBodyBytes = 1 << 20; // everything but a directory file is far smaller

    /// <summary>Builds the application without starting it or touching the database.</summary>
    public static WebApplication Build(ServerSettings settings)
    {
        var builder = WebApplication.CreateSlimBuilder(new WebApplicationOptions { WebRootPath = settings.WebFolder });
        builder.Configuration["urls"] = settings.Urls;
        builder.WebHost.UseKestrel(kestrel =>
        {
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = MaxBodyBytes;
        });
        AddLogging(builder);
        AddStores(builder.Services, settings);
        AddWeb(builder.Services);
        AddBackgroundWork(builder.Services);
        var application = builder.Build();
        Use(application, settings);
        Map(application);
        return application;
    }

    /// <summary>Brings the schema up to date and makes sure somebody can sign in; then the server may start.</summary>
    public static async Task PrepareAsync(WebApplication application, ServerSettings settings, CancellationToken cancellationToken)
    {
        try
        {
            await Database.MigrateAsync(settings.Database, cancellationToken);
        }
        catch (Exception trouble) when (trouble is NpgsqlException or System.Net.Sockets.SocketException or TimeoutException)
        {
            throw new StartRefusedException($"The database cannot be used: {trouble.Message.ReplaceLineEndings(" ")}");
        }

        var services = application.Services;
        await KeepShippedMarkAsync(services.GetRequiredService<PictureStore>(), cancellationToken);
        if (settings.DemoFolder is not null) await ActivatorUtilities.CreateInstance<DemoCompany>(services).SeedAsync(settings, cancellationToken);
        else await Accounts.RefuseDemoPasswordsAsync(services.GetRequiredService<UserStore>(), cancellationToken);
        await Accounts.EnsureAdministratorAsync(settings, services.GetRequiredService<UserStore>(), cancellationToken);
    }

    /// <summary>A plain mark, so that a starter has a picture before the company has given its own.</summary>
    private static async Task KeepShippedMarkAsync(PictureStore pictures, CancellationToken cancellationToken)
    {
        await using var stream = typeof(RelevoServer).Assembly.GetManifestResourceStream("Relevo.Server.Shipped.mark.png")!;
        var bytes = new byte[stream.Length];
        await stream.ReadExactlyAsync(bytes, cancellationToken);
        var (width, height) = Png.ReadSize(bytes)!.Value;
        await pictures.KeepAsync(new PictureHead(RenderedSignature.Sha256(bytes), "Your logo", width, height), bytes, isInLibrary: true, cancellationToken);
    }

    private static void AddLogging(WebApplicationBuilder builder) => builder.Services.AddSerilog(logging => logging
        .MinimumLevel.Information()
        .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
        .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Error) // its warning says only that our no-store stands
        .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error) // where the key ring lies: docs/operations.md
        .MinimumLevel.Override("System.Net.Http", LogEventLevel.Warning)
        .MinimumLevel.Override("Serilog.AspNetCore.RequestLoggingMiddleware", LogEventLevel.Information)
        .WriteTo.Console(new CompactJsonFormatter()));

    private static void AddStores(IServiceCollection services, ServerSettings settings)
    {
        services.AddSingleton(_ => Database.Open(settings.Database));
        services.AddSingleton<UserStore>().AddSingleton<PersonStore>().AddSingleton<SourceStore>().AddSingleton<RunStore>().AddSingleton<UnitStore>().AddSingleton<MailboxStore>().AddSingleton<FieldSetStore>().AddSingleton<CurrentRoster>().AddSingleton<OwnRequestStore>().AddSingleton<ScimStore>().AddSingleton<ScimTokenStore>().AddSingleton<ScimProvider>().AddSingleton<PictureIntake>().AddSingleton<SourceReading>().AddSingleton<SourceSchedule>().AddSingleton<DesignStore>().AddSingleton<RuleStore>()
            .AddSingleton<EditionStore>().AddSingleton<PictureStore>().AddSingleton<ClientStore>().AddSingleton<DeliveryStore>().AddSingleton<PlanStore>().AddSingleton<ClientSettingsStore>().AddSingleton<Holdings>().AddSingleton<Placing>().AddSingleton<Planner>().AddSingleton<SeenClients>().AddSingleton<TokenQuestions>().AddSingleton<ClientAsking>().AddSingleton<NoticeMail>().AddSingleton<ProfileSigning>().AddSingleton<RolloutStore>().AddSingleton<AuditLog>()
            .AddSingleton<DataProtectionKeyStore>().AddSingleton<Drafts>().AddSingleton<CompiledDesigns>().AddSingleton<PictureCuts>().AddSingleton<CurrentAccounts>().AddSingleton<ThemeStore>().AddSingleton<DocumentStore>().AddSingleton<Documents>().AddSingleton<CurrentReach>().AddSingleton<Situations>().AddSingleton<DemoRules>().AddSingleton(settings).AddSingleton<MailDelivery>().AddSingleton<SignatureExport>().AddSingleton<PublishedEditions>().AddSingleton(TimeProvider.System);
    }

    /// <summary>Work that goes on by itself while the server runs.</summary>
    private static void AddBackgroundWork(IServiceCollection services) => services
        .AddHostedService(provider => provider.GetRequiredService<SourceSchedule>())
        .AddHostedService(provider => provider.GetRequiredService<SeenClients>())
        .AddHostedService<RolloutWork>()
        .AddHostedService<MailboxWork>()
        .AddHostedService(provider => provider.GetRequiredService<NoticeMail>());

    private static void AddWeb(IServiceCollection services)
    {
        services.ConfigureHttpJsonOptions(json => RelevoJson.Configure(json.SerializerOptions));
        services.AddProblemDetails(options => options.CustomizeProblemDetails = context =>
        {
            // What the framework answers by itself says as much as our own problems do.
            context.ProblemDetails.Extensions.TryAdd("code", $"http-{context.ProblemDetails.Status}");
            context.ProblemDetails.Detail ??= "Nothing was changed. Check what was sent and try again.";
        });
        services.Configure<RouteHandlerOptions>(options => options.ThrowOnBadRequest = true); // so that one place explains what cannot be read
        services.AddOpenApi("v1", options => options.AddSchemaTransformer((schema, _, _) =>
        {
            // The generator leaves the discriminator of a union optional; screens tell its cases apart by it.
            if (schema.Properties?.ContainsKey("kind") == true) (schema.Required ??= new HashSet<string>()).Add("kind");
            return Task.CompletedTask;
        }));
        services.AddHttpClient(MailboxWork.HttpName, http => http.Timeout = TimeSpan.FromSeconds(60));
        services.AddDataProtection().SetApplicationName("Relevo");
        services.AddOptions<KeyManagementOptions>().Configure<DataProtectionKeyStore>((options, store) => options.XmlRepository = new KeyRing(store));
        services.AddAntiforgery(options =>
        {
            options.HeaderName = "X-Relevo-Antiforgery";
            options.Cookie.Name = "relevo-antiforgery";
            options.Cookie.SameSite = SameSiteMode.Strict;
        });
        services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie(options =>
        {
            options.Cookie.Name = "relevo";
            options.Cookie.HttpOnly = true;
            options.Cookie.SameSite = SameSiteMode.Strict;
            options.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            options.ExpireTimeSpan = TimeSpan.FromHours(8);
            options.Events.OnRedirectToLogin = context => WriteAsync(context.HttpContext, Problems.Of(401, "sign-in-needed", "You are not signed in.", "Sign in and try again."));
            options.Events.OnRedirectToAccessDenied = context => WriteAsync(context.HttpContext, Problems.Of(403, "not-allowed", "Your role does not allow this.", "Ask an administrator."));
            options.Events.OnValidatePrincipal = async context =>
            {
                var users = context.HttpContext.RequestServices.GetRequiredService<UserStore>();
                if (context.Principal is null || await users.FindAsync(context.Principal.UserId(), context.HttpContext.RequestAborted) is null) context.RejectPrincipal();
            };
        });
        services.AddAuthorizationBuilder()
            .AddPolicy(SessionEndpoints.Administrators, policy => policy.RequireRole(nameof(UserRole.Administrator)))
            .SetFallbackPolicy(new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build());
    }

    private static void Use(WebApplication application, ServerSettings settings)
    {
        application.UseSerilogRequestLogging(options => options.GetLevel = (context, _, trouble) =>
            trouble is not null || context.Response.StatusCode >= 500 ? LogEventLevel.Error : context.Request.Path.StartsWithSegments("/api") || context.Request.Path.StartsWithSegments("/agent") || context.Request.Path.StartsWithSegments("/pocket") || context.Request.Path.StartsWithSegments("/helper") ? LogEventLevel.Debug : LogEventLevel.Verbose);
        application.UseExceptionHandler(new ExceptionHandlerOptions { ExceptionHandler = ExplainAsync, SuppressDiagnosticsCallback = trouble => trouble.Exception is BadHttpRequestException });
        application.UseSecurityHeaders();
        application.UseStatusCodePages();
        if (Directory.Exists(settings.WebFolder)) application.UseStaticFiles(new StaticFileOptions { FileProvider = new PhysicalFileProvider(Path.GetFullPath(settings.WebFolder)) });
        application.UseRouting();
        application.UseHttpMetrics();
        application.UseAuthentication();
        application.UseAuthorization();
        application.Use(RequireAntiforgeryAsync);
    }

    private static void Map(WebApplication application)
    {
        application.MapSession();
        application.MapOwn();
        application.MapOwnFields();
        var legs = application.MapGroup("").RequireAuthorization(SessionEndpoints.Administrators);
        legs.MapLine();
        legs.MapLens();
        legs.MapPeople();
        legs.MapRuns();
        legs.MapSources();
        legs.MapUnits();
        legs.MapMailboxes();
        legs.MapFields();
        legs.MapLdap();
        legs.MapSamples();
        legs.MapScimTokens();
        legs.MapWishes();
        legs.MapDesigns();
        legs.MapReviews();
        legs.MapThemes();
        legs.MapAnswers();
        legs.MapExports();
        legs.MapDesignFiles();
        legs.MapPortraits();
        legs.MapDisclaimers();
        legs.MapBanners();
        legs.MapAudiences();
        legs.MapRules();
        legs.MapProof();
        legs.MapRollout();
        legs.MapClients();
        legs.MapFitting();
        application.MapPictures();
        application.MapPictureUpload();
        application.MapAgent();
        application.MapPocket();
        application.MapHelper();
        application.MapScim();
        application.MapGet("/health/live", () => Results.Text("alive")).AllowAnonymous().ExcludeFromDescription();
        application.MapGet("/health/ready", ReadyAsync).AllowAnonymous().ExcludeFromDescription();
        application.MapMetrics().AddEndpointFilter(async (context, next) => IsLocal(context.HttpContext) ? await next(context) : Results.NotFound()).AllowAnonymous();
        application.Map("/api/{**rest}", () => Problems.NotFound("address in the API")).AllowAnonymous().ExcludeFromDescription();
        application.MapFallbackToFile("index.html").AllowAnonymous();
    }

    private static bool IsLocal(HttpContext context) =>
        context.Connection.RemoteIpAddress is { } address && IPAddress.IsLoopback(address) && !context.Request.Headers.ContainsKey("X-Forwarded-For");

    private static async Task<IResult> ReadyAsync(NpgsqlDataSource database, CancellationToken cancellationToken)
    {
        try
        {
            await using var command = database.CreateCommand("select 1");
            await command.ExecuteScalarAsync(cancellationToken);
            return Results.Text("ready");
        }
        catch (Exception trouble) when (trouble is NpgsqlException or TimeoutException)
        {
            return Problems.Of(StatusCodes.Status503ServiceUnavailable, "database-away", "The database does not answer.", "Try again in a moment.");
        }
    }

    /// <summary>Every change under /api carries the antiforgery token; agents have no cookies and need none.</summary>
    private static async Task RequireAntiforgeryAsync(HttpContext context, RequestDelegate next)
    {
        var isChange = !HttpMethods.IsGet(context.Request.Method) && !HttpMethods.IsHead(context.Request.Method) && !HttpMethods.IsOptions(context.Request.Method);
        if (isChange && context.Request.Path.StartsWithSegments("/api") && !await context.RequestServices.GetRequiredService<IAntiforgery>().IsRequestValidAsync(context))
        {
            await WriteAsync(context, Problems.Of(400, "antiforgery", "The change does not come from a page of this sign-in.", "Load the page again and repeat it."));
            return;
        }

        await next(context);
    }

    /// <summary>Turns what went wrong into a problem. Only faults of the sender are explained; ours are logged.</summary>
    private static Task ExplainAsync(HttpContext context)
    {
        var trouble = context.Features.Get<IExceptionHandlerFeature>()?.Error;
        IResult answer = trouble switch
        {
            BadHttpRequestException { StatusCode: 413 } => Problems.Of(413, "too-large", "What was sent is too large.", $"At most {MaxBodyBytes / 1024} KiB are taken here."),
            BadHttpRequestException bad => Problems.Of(bad.StatusCode, "unreadable", "What was sent cannot be read.", (bad.InnerException ?? bad).Message),
            PostgresException { SqlState: PostgresErrorCodes.CharacterNotInRepertoire or PostgresErrorCodes.UntranslatableCharacter } =>
                Problems.Of(400, "unreadable", "What was sent holds a character that cannot be kept.", "Take out the NUL character and send it again."),
            PostgresException { IsTransient: false } => OurFault(),
            NpgsqlException or TimeoutException => Problems.Of(503, "database-away", "The database does not answer.", "Nothing was lost. Try again in a moment."),
            _ => OurFault(),
        };
        return WriteAsync(context, answer);
    }

    private static IResult OurFault() => Problems.Of(500, "our-fault", "Something went wrong on our side.", "Nothing was changed. Try again; if it happens again, the server's log says why.");

    private static Task WriteAsync(HttpContext context, IResult problem) => problem.ExecuteAsync(context);
}
