using System.Runtime.InteropServices;

namespace Relevo.Server.Connectors;

/// <summary>
/// Has the system's LDAP library go on waiting when a signal interrupts it. By itself it gives up its connection when, say, a child of this
/// process ends while a server is slow to answer, and that looks like a server that dropped it. The platform's own client has no setting
/// for this. Source: ldap_set_option(3), LDAP_OPT_RESTART.
/// </summary>
internal static class LdapWaiting
{
    private const string Library = "libldap-2.5.so.0"; // the one scripts/common.sh installs and the platform's client loads
    private const int OptionRestart = 0x0009;

    /// <summary>Holds for every connection made from now on.</summary>
    public static void GoOnAfterSignals()
    {
        if (!NativeLibrary.TryLoad(Library, typeof(LdapWaiting).Assembly, null, out _)) return;
        // The value is "on" for any address but null; without a connection the setting is everybody's.
        _ = SetOption(0, OptionRestart, 1);
    }

    [DllImport(Library, EntryPoint = "ldap_set_option")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static extern int SetOption(nint connection, int option, nint value);
}
