using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Relevo.Server.Tests.Ldap;

/// <summary>
/// A real directory server (Debian's slapd) on loopback with a folder of its own, and a certificate for 127.0.0.1. Administrator:
/// cn=admin,dc=brackenfold,dc=example, "directory-secret".
/// </summary>
public sealed class RealDirectory : IAsyncDisposable
{
    public const string BindName = "cn=admin,dc=brackenfold,dc=example";
    public const string Secret = "directory-secret";

    private readonly string place;
    private readonly Process process;

    private RealDirectory(string place, Process process, int port, int securePort)
    {
        this.place = place;
        this.process = process;
        Port = port;
        SecurePort = securePort;
    }

    public int Port { get; }

    public int SecurePort { get; }

    /// <summary>The folder of the certificate that is to be trusted, hashed as OpenSSL wants it.</summary>
    public string Certificates => Path.Combine(place, "trusted");

    /// <summary>Starts a server that holds an LDIF text.</summary>
    public static async Task<RealDirectory> StartAsync(string ldif)
    {
        var place = Directory.CreateTempSubdirectory("relevo-slapd-").FullName;
        Directory.CreateDirectory(Path.Combine(place, "data"));
        Directory.CreateDirectory(Path.Combine(place, "trusted"));
        await RunAsync("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=127.0.0.1", "-addext", "subjectAltName=IP:127.0.0.1", "-keyout", $"{place}/key.pem", "-out", $"{place}/trusted/cert.pem");
        await RunAsync("openssl", "rehash", $"{place}/trusted");
        await File.WriteAllTextAsync($"{place}/slapd.conf", $"""
            include /etc/ldap/schema/core.schema
            include /etc/ldap/schema/cosine.schema
            include /etc/ldap/schema/inetorgperson.schema
            modulepath /usr/lib/ldap
            moduleload back_mdb
            pidfile {place}/slapd.pid
            TLSCertificateFile {place}/trusted/cert.pem
            TLSCertificateKeyFile {place}/key.pem
            sizelimit 1000
            database mdb
            maxsize 268435456
            suffix "dc=brackenfold,dc=example"
            rootdn "{BindName}"
            rootpw {Secret}
            directory {place}/data
            limits users size.soft=1000 size.hard=1000 size.pr=500 size.prtotal=unlimited
            access to attrs=userPassword by anonymous auth by * none
            access to * by dn.exact="uid=reader,dc=brackenfold,dc=example" read by anonymous none by * read
            """);
        await File.WriteAllTextAsync($"{place}/init.ldif", ldif);
        await RunAsync("slapadd", "-q", "-f", $"{place}/slapd.conf", "-l", $"{place}/init.ldif");
        var (port, secure) = (ServerProcess.FreePort(), ServerProcess.FreePort());
        var process = Process.Start(new ProcessStartInfo("/usr/sbin/slapd", ["-f", $"{place}/slapd.conf", "-h", $"ldap://127.0.0.1:{port} ldaps://127.0.0.1:{secure}", "-d", "0"]) { RedirectStandardError = true, RedirectStandardOutput = true })!;
        for (var tries = 0; tries < 100; tries++)
        {
            try
            {
                using var client = new TcpClient();
                await client.ConnectAsync(IPAddress.Loopback, secure);
                return new RealDirectory(place, process, port, secure);
            }
            catch (SocketException)
            {
                await Task.Delay(100);
            }
        }

        throw new InvalidOperationException("slapd did not come up.");
    }

    /// <summary>The suffix, a reader who may look, and so many people with a group of every third.</summary>
    public static string Company(int people)
    {
        var ldif = new StringBuilder("dn: dc=brackenfold,dc=example\nobjectClass: dcObject\nobjectClass: organization\ndc: brackenfold\no: Brackenfold\n\n");
        ldif.Append("dn: uid=reader,dc=brackenfold,dc=example\nobjectClass: account\nobjectClass: simpleSecurityObject\nuid: reader\nuserPassword: reader-secret\n\n");
        for (var number = 0; number < people; number++)
            ldif.Append($"dn: uid=p{number:0000},dc=brackenfold,dc=example\nobjectClass: inetOrgPerson\nuid: p{number:0000}\ncn: Person {number:0000}\nsn: {number:0000}\nmail: p{number:0000}@brackenfold.example\ntitle: Vet\n\n");
        ldif.Append("dn: cn=Surgeons,dc=brackenfold,dc=example\nobjectClass: groupOfNames\ncn: Surgeons\n");
        for (var number = 0; number < people; number += 3) ldif.Append($"member: uid=p{number:0000},dc=brackenfold,dc=example\n");
        return ldif.Append('\n').ToString();
    }

    /// <summary>Changes the directory by LDIF change records, through its own tool.</summary>
    public async Task ChangeAsync(string records)
    {
        var file = Path.Combine(place, $"{Guid.NewGuid():N}.ldif");
        await File.WriteAllTextAsync(file, records);
        await RunAsync("ldapmodify", "-x", "-H", $"ldap://127.0.0.1:{Port}", "-D", BindName, "-w", Secret, "-f", file);
    }

    public async ValueTask DisposeAsync()
    {
        if (!process.HasExited) process.Kill();
        await process.WaitForExitAsync();
        process.Dispose();
        Directory.Delete(place, recursive: true);
    }

    private static async Task RunAsync(string program, params string[] arguments)
    {
        // Debian keeps the server's tools where only root's path leads.
        var path = File.Exists($"/usr/sbin/{program}") ? $"/usr/sbin/{program}" : program;
        using var run = Process.Start(new ProcessStartInfo(path, arguments) { RedirectStandardError = true, RedirectStandardOutput = true })!;
        var output = run.StandardOutput.ReadToEndAsync();
        var errors = await run.StandardError.ReadToEndAsync();
        await run.WaitForExitAsync();
        Assert.True(run.ExitCode == 0, $"{program}: {errors} {await output}");
    }
}
