using Relevo.Data;
using Relevo.Server.SignIn;

namespace Relevo.Server.Hosting;

/// <summary>Sees to it that somebody can sign in, and that nobody can with a password that is printed in public.</summary>
internal static class Accounts
{
    private const int ShortestPassword = 12; // characters, for the first administrator

    /// <summary>Makes the first administrator while there are no users at all.</summary>
    public static async Task EnsureAdministratorAsync(ServerSettings settings, UserStore users, CancellationToken cancellationToken)
    {
        if ((await users.ListAsync(cancellationToken)).Count > 0) return;
        if (string.IsNullOrWhiteSpace(settings.FirstAdministratorName) || string.IsNullOrEmpty(settings.FirstAdministratorPassword))
            throw new StartRefusedException("There are no users yet: set RELEVO_FIRST_ADMINISTRATOR_NAME and RELEVO_FIRST_ADMINISTRATOR_PASSWORD for the first start.");
        if (DemoCompany.Passwords.Contains(settings.FirstAdministratorPassword))
            throw new StartRefusedException("RELEVO_FIRST_ADMINISTRATOR_PASSWORD is a password of the demo, which everybody can read; choose another.");
        if (settings.FirstAdministratorPassword.Length < ShortestPassword)
            throw new StartRefusedException($"RELEVO_FIRST_ADMINISTRATOR_PASSWORD is shorter than {ShortestPassword} characters; choose a longer one.");
        var name = settings.FirstAdministratorName.Trim();
        await users.AddAsync(new User(Guid.NewGuid(), name, name, SessionEndpoints.Hash(settings.FirstAdministratorPassword), UserRole.Administrator, null), cancellationToken);
    }

    /// <summary>Refuses a production start while an administrator or a user of the demo's name has one of the demo's passwords.</summary>
    public static async Task RefuseDemoPasswordsAsync(UserStore users, CancellationToken cancellationToken)
    {
        var suspects = (await users.ListAsync(cancellationToken)).Where(user => user.Role == UserRole.Administrator || DemoCompany.SignInNames.Contains(user.SignInName));
        if (suspects.FirstOrDefault(user => DemoCompany.Passwords.Any(password => SessionEndpoints.IsPassword(user.PasswordHash, password))) is { } found)
            throw new StartRefusedException($"The user \"{found.SignInName}\" has a password of the demo, which everybody can read; this database is not for production.");
    }
}
