using Relevo.Core.People.Formats;
using Xunit;

namespace Relevo.Core.Tests.People;

/// <summary>Measures the whole process's memory, so nothing else may run beside it.</summary>
[CollectionDefinition(nameof(Alone), DisableParallelization = true)]
public sealed class Alone;

[Collection(nameof(Alone))]
public sealed class LdifMemoryTests
{
    [Fact]
    public async Task A_file_past_the_limit_is_refused_at_the_line_where_it_passes_and_takes_little_memory()
    {
        var limits = LdifLimits.Default;
        using var file = new RepeatingStream("dn: cn=a\ncn: a\ndescription: 0123456789012345678901234567890123456789\n\n"u8.ToArray(), 200L << 20);
        var before = GC.GetTotalMemory(forceFullCollection: true);
        long peak = 0;
        LdifProblem? last = null;
        long count = 0;
        await foreach (var item in LdifReader.ReadAsync(file, limits, TestContext.Current.CancellationToken))
        {
            last = item.Problem ?? last;
            if (++count % 200_000 == 0) peak = Math.Max(peak, GC.GetTotalMemory(forceFullCollection: true) - before);
        }

        Assert.Contains("100 MiB", last!.Message, StringComparison.Ordinal);
        Assert.InRange(last.Line, 1_000_000, 6_000_000);
        Assert.InRange(peak, 0, 8 << 20);
    }
}
