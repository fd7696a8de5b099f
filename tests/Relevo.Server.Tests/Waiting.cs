using Xunit;

namespace Relevo.Server.Tests;

/// <summary>Waits for what the server does beside.</summary>
internal static class Waiting
{
    private const int Attempts = 800;

    /// <summary>Waits until something holds; fails when it never does.</summary>
    public static async Task UntilAsync(Func<Task<bool>> holds)
    {
        for (var attempt = 0; !await holds(); attempt++)
        {
            Assert.True(attempt < Attempts, "It never came to hold.");
            await Task.Delay(25);
        }
    }
}
