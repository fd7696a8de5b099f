namespace Relevo.StandIns.Fleet;

/// <summary>Thousands of simulated computers and phones in one process.</summary>
public sealed class Fleet : IAsyncDisposable
{
    private const int MostConnections = 64; // to one server; a fleet shares them, as a proxy would make it

    private readonly CancellationTokenSource stop = new();
    private readonly HttpClient http;
    private Task running = Task.CompletedTask;

    /// <summary>Makes the fleet. servers: where all of them ask; of several the next one is asked where one does not answer, as a proxy before them would.</summary>
    public Fleet(IReadOnlyList<Uri> servers, IEnumerable<FleetMember> members, FleetSettings settings)
    {
        http = new HttpClient(new NextServer(servers, new SocketsHttpHandler { MaxConnectionsPerServer = MostConnections, PooledConnectionLifetime = TimeSpan.FromSeconds(20) })) { BaseAddress = servers[0], Timeout = TimeSpan.FromSeconds(30) };
        // Each has dice of its own, so that what one does hangs on nobody else's timing.
        Clients = [.. members.Select((member, number) => new SimulatedClient(member, settings, new Random(unchecked((settings.Seed * 397) + number)), http))];
    }

    /// <summary>Everybody.</summary>
    public IReadOnlyList<SimulatedClient> Clients { get; }

    /// <summary>All behave like this from now on.</summary>
    public void Behave(FleetSettings settings)
    {
        foreach (var client in Clients) client.Settings = settings;
    }

    /// <summary>Switches on everybody who is ever switched on.</summary>
    public void Start() => running = Task.WhenAll(Clients.Select(client => Task.Run(() => client.RunAsync(stop.Token))));

    /// <inheritdoc />
    public async ValueTask DisposeAsync()
    {
        await stop.CancelAsync();
        await running;
        http.Dispose();
        stop.Dispose();
    }

    /// <summary>Takes turns among servers, and passes over one that is not there.</summary>
    private sealed class NextServer(IReadOnlyList<Uri> servers, HttpMessageHandler inner) : DelegatingHandler(inner)
    {
        private int turn;

        protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
        {
            var path = request.RequestUri!.PathAndQuery;
            for (var attempt = 1; ; attempt++)
            {
                var server = servers[(int)((uint)Interlocked.Increment(ref turn) % servers.Count)];
                request.RequestUri = new Uri(server, path);
                try
                {
                    return await base.SendAsync(request, cancellationToken);
                }
                catch (HttpRequestException away) when (attempt < servers.Count && away.HttpRequestError == HttpRequestError.ConnectionError)
                {
                    // Nobody listens there: nothing was sent, and the next one may be asked.
                }
            }
        }
    }
}
