using System.Runtime.CompilerServices;
using Xunit;

namespace Relevo.Core.Tests;

public sealed class ReadAheadTests
{
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(1000)]
    public async Task Every_item_comes_in_its_order(int count) =>
        Assert.Equal(Enumerable.Range(0, count), await NumbersAsync(count).OnAnotherCore(TestContext.Current.CancellationToken).ToListAsync(TestContext.Current.CancellationToken));

    [Fact]
    public async Task An_error_comes_after_the_items_before_it()
    {
        var read = new List<int>();
        await Assert.ThrowsAsync<InvalidDataException>(async () =>
        {
            await foreach (var number in NumbersAsync(1000, failsAt: 70).OnAnotherCore(TestContext.Current.CancellationToken)) read.Add(number);
        });
        Assert.Equal(Enumerable.Range(0, 70), read);
    }

    [Fact]
    public async Task Whoever_leaves_early_stops_the_making()
    {
        var made = 0;
        await foreach (var number in NumbersAsync(int.MaxValue, tell: number => made = number).OnAnotherCore(TestContext.Current.CancellationToken))
        {
            if (number == 100) break;
        }

        Assert.InRange(made, 100, 1000);
    }

    /// <summary>All is made but the last of it has no room yet: then too nothing may wait for a reader who has gone.</summary>
    [Theory]
    [InlineData(97)]
    [InlineData(130)]
    [InlineData(200)]
    public async Task Whoever_leaves_at_the_first_item_is_not_waited_for(int count)
    {
        var left = Task.Run(async () =>
        {
            await foreach (var _ in NumbersAsync(count).OnAnotherCore(CancellationToken.None))
            {
                await Task.Delay(50); // the rest is made meanwhile
                break;
            }
        });
        Assert.Same(left, await Task.WhenAny(left, Task.Delay(TimeSpan.FromSeconds(20))));
        await left;
    }

    [Fact]
    public async Task Cancelling_ends_the_reading()
    {
        using var stop = new CancellationTokenSource();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(async () =>
        {
            await foreach (var number in NumbersAsync(int.MaxValue).OnAnotherCore(stop.Token))
            {
                if (number == 10) await stop.CancelAsync();
            }
        });
    }

    private static async IAsyncEnumerable<int> NumbersAsync(int count, int failsAt = -1, Action<int>? tell = null, [EnumeratorCancellation] CancellationToken cancellationToken = default)
    {
        for (var number = 0; number < count; number++)
        {
            if (number == failsAt) throw new InvalidDataException("here");
            cancellationToken.ThrowIfCancellationRequested();
            await Task.Yield();
            tell?.Invoke(number);
            yield return number;
        }
    }
}
