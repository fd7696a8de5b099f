using System.Text.Json;
using Relevo.Core;
using Relevo.Core.People.Formats;
using Relevo.Server.Http;

namespace Relevo.Server.Connectors;

/// <summary>How a directory server's connection is kept from listeners.</summary>
public enum LdapSecurity
{
    /// <summary>By TLS from the first byte.</summary>
    Ldaps,

    /// <summary>By TLS after the first words (RFC 4511 section 4.14).</summary>
    StartTls,

    /// <summary>Not at all; for loopback and tests.</summary>
    None,
}

/// <summary>Where a directory server is and what is asked of it. The bind's secret is kept apart, encrypted.</summary>
/// <param name="Host">Name or address.</param>
/// <param name="Port">Port; 636 for LDAPS and 389 otherwise are usual.</param>
/// <param name="Security">Security.</param>
/// <param name="CertificateFolder">Folder of trusted certificates as OpenSSL hashes them, or empty for the system's own.</param>
/// <param name="BindName">Distinguished name to bind with, or empty to be nobody.</param>
/// <param name="BaseName">Where in the tree to look, below and including.</param>
/// <param name="Filter">Which entries; people and groups are told apart by object class and members.</param>
public sealed record LdapSettings(string Host, int Port, LdapSecurity Security, string CertificateFolder, string BindName, string BaseName, string Filter)
{
    /// <summary>Reads a source's settings document.</summary>
    public static LdapSettings Read(string json) => JsonSerializer.Deserialize<LdapSettings>(json, RelevoJson.Options)!;

    /// <summary>What is wrong with them; nothing when a server may be asked.</summary>
    public IEnumerable<Fault> Check()
    {
        if (Host.Trim().Length is 0 or > 253 || Uri.CheckHostName(Host.Trim()) == UriHostNameType.Unknown) yield return new Fault("/settings/host", 0, "host", "A server has a name or an address.");
        if (Port is < 1 or > 65_535) yield return new Fault("/settings/port", 0, "port", "A port is 1 to 65,535.");
        if (BaseName.Length > 1000 || BindName.Length > 1000) yield return new Fault("/settings/baseName", 0, "name-length", "A distinguished name has at most 1,000 characters.");
        if (Filter.Length > 2000) yield return new Fault("/settings/filter", 0, "filter", "A filter has at most 2,000 characters.");
        else if (!LdapFilter.TryParse(Filter, out _, out var trouble)) yield return new Fault("/settings/filter", 0, "filter", $"The filter cannot be read: {trouble}");
        if (CertificateFolder.Length > 0 && !Directory.Exists(CertificateFolder)) yield return new Fault("/settings/certificateFolder", 0, "certificates", "The server has no such folder of certificates.");
    }
}
