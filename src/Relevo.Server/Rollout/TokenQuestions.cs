using Relevo.Data;

namespace Relevo.Server.Rollout;

/// <summary>
/// Finds the clients whose tokens requests carry. Requests that come while the database is being asked are asked about together, in the next question: thousands of polls a
/// second are some hundred queries, and each answer is as fresh as a query of its own, because its question begins after the request has come.
/// </summary>
public sealed class TokenQuestions(DeliveryStore deliveries)
{
    private const int MostTogether = 256; // requests; a question stays small
    private const int MostAtOnce = 2; // questions; one that is held up holds up nobody else

    private readonly Lock gate = new();
    private readonly Queue<Question> waiting = [];
    private int underWay;

    /// <summary>The client with the token of this SHA-256 hash and its delivery, or null when none has it.</summary>
    public Task<ClientDelivery?> FindAsync(byte[] tokenHash, CancellationToken cancellationToken)
    {
        var question = new Question(tokenHash);
        var begins = false;
        lock (gate)
        {
            waiting.Enqueue(question);
            if (underWay < MostAtOnce)
            {
                underWay++;
                begins = true;
            }
        }

        if (begins) _ = AskAsync();
        return question.Answer.Task.WaitAsync(cancellationToken);
    }

    /// <summary>Asks until nobody waits. Troubles go to those who asked.</summary>
    private async Task AskAsync()
    {
        while (Next() is { Count: > 0 } together)
        {
            try
            {
                var found = await deliveries.FindByTokensAsync([.. together.Select(question => question.TokenHash)], CancellationToken.None);
                foreach (var question in together) question.Answer.SetResult(found.GetValueOrDefault(Convert.ToHexString(question.TokenHash)));
            }
#pragma warning disable CA1031 // whatever it is, it is those who asked that must hear of it
            catch (Exception trouble)
#pragma warning restore CA1031
            {
                foreach (var question in together) question.Answer.TrySetException(trouble);
            }
        }
    }

    private List<Question> Next()
    {
        lock (gate)
        {
            var next = new List<Question>(Math.Min(waiting.Count, MostTogether));
            while (next.Count < MostTogether && waiting.TryDequeue(out var question)) next.Add(question);
            if (next.Count == 0) underWay--;
            return next;
        }
    }

    private sealed class Question(byte[] tokenHash)
    {
        public byte[] TokenHash { get; } = tokenHash;

        public TaskCompletionSource<ClientDelivery?> Answer { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);
    }
}
