using System.Runtime.CompilerServices;
using System.Threading.Channels;

namespace Relevo.Core;

/// <summary>Lets a sequence be made on one core while another works on what was made before.</summary>
public static class ReadAhead
{
    private const int BatchItems = 32; // handing over costs little beside making so many
    private const int BatchesAhead = 2; // what waits should be gone before the next collection of garbage, which would copy it

    /// <summary>The same items in the same order. Leaving early stops the making; an error comes where its item would have come.</summary>
    public static async IAsyncEnumerable<T> OnAnotherCore<T>(this IAsyncEnumerable<T> items, [EnumeratorCancellation] CancellationToken cancellationToken)
    {
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken);
        var channel = Channel.CreateBounded<List<T>>(new BoundedChannelOptions(BatchesAhead) { SingleReader = true, SingleWriter = true });
        var making = Task.Run(() => MakeAsync(items, channel.Writer, stop.Token), CancellationToken.None);
        try
        {
            await foreach (var batch in channel.Reader.ReadAllAsync(cancellationToken))
            {
                foreach (var item in batch) yield return item;
            }
        }
        finally
        {
            await stop.CancelAsync();
            await making;
        }
    }

    private static async Task MakeAsync<T>(IAsyncEnumerable<T> items, ChannelWriter<List<T>> output, CancellationToken cancellationToken)
    {
        var batch = new List<T>(BatchItems);
        Exception? fault = null;
        try
        {
            await foreach (var item in items.WithCancellation(cancellationToken))
            {
                batch.Add(item);
                if (batch.Count < BatchItems) continue;
                await output.WriteAsync(batch, cancellationToken);
                batch = new List<T>(BatchItems);
            }
        }
#pragma warning disable CA1031 // Whatever it is, it is thrown again where the items are read.
        catch (Exception thrown)
#pragma warning restore CA1031
        {
            fault = thrown;
        }

        try
        {
            // What was made before an error comes before it.
            if (batch.Count > 0) await output.WriteAsync(batch, cancellationToken);
        }
        catch (OperationCanceledException)
        {
            // Nobody reads any more.
        }

        output.Complete(fault);
    }
}
