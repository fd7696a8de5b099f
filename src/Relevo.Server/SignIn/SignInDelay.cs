using Relevo.Data;

namespace Relevo.Server.SignIn;

/// <summary>How long a name must wait after failed sign-ins: nothing for the first three, then 1, 2, 4 ... seconds, at most fifteen minutes.</summary>
public static class SignInDelay
{
    private const int FreeFailures = 3; // typing errors happen to everybody
    private const int LongestSeconds = 900; // long enough against guessing, short enough for a person who was locked out by somebody else

    /// <summary>The time still to wait; zero or less when the name may try.</summary>
    public static TimeSpan Remaining(SignInFailures? failures, DateTimeOffset now)
    {
        if (failures is null || failures.Count < FreeFailures) return TimeSpan.Zero;
        var seconds = Math.Min(LongestSeconds, Math.Pow(2, failures.Count - FreeFailures));
        return failures.LastAt + TimeSpan.FromSeconds(seconds) - now;
    }
}
