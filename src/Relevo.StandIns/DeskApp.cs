using System.Text.Json;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.StandIns.Fleet;

namespace Relevo.StandIns;

/// <summary>How the stand-ins were started. DirectoryFile: the LDIF file of the stand-in directory, null for none. MailboxToken: what the mailbox server asks for, or empty for none.</summary>
internal sealed record StandInOptions(string Server, string Urls, string Tokens, string Folder, string Agent, string? DirectoryFile, int DirectoryPort, int MailPort, string MailboxToken)
{
    public static StandInOptions? Parse(string[] args)
    {
        var values = args.Chunk(2).Where(pair => pair.Length == 2).ToDictionary(pair => pair[0], pair => pair[1], StringComparer.Ordinal);
        return values.TryGetValue("--server", out var server) && values.TryGetValue("--urls", out var urls) && values.TryGetValue("--tokens", out var tokens)
            && values.TryGetValue("--folder", out var folder) && values.TryGetValue("--agent", out var agent)
            ? new StandInOptions(server, urls, tokens, folder, agent, values.GetValueOrDefault("--directory"), Port("--directory-port"), Port("--mail-port"), values.GetValueOrDefault("--mailbox-token", ""))
            : null;

        int Port(string name) => int.TryParse(values.GetValueOrDefault(name), out var port) ? port : 0;
    }
}

/// <summary>One simulated desk app: a folder on "its" computer, named after its person.</summary>
internal sealed record DeskApp(string Computer, string Person, string Address, string Token, string FolderName, string Folder)
{
    /// <summary>The desk apps among the clients of the tokens file of the demo.</summary>
    public static IReadOnlyList<DeskApp> ReadAll(StandInOptions options, IEnumerable<FleetMember> members) =>
    [
        .. members.Where(member => member.Kind == ClientKind.DeskApp.Kind).Select(member =>
        {
            var name = FileName.Encode(member.Person);
            return new DeskApp(member.Name, member.Person, member.Address, member.Token, name, Path.Combine(options.Folder, name));
        }),
    ];

    /// <summary>Every client of the tokens file.</summary>
    public static IReadOnlyList<FleetMember> ReadMembers(StandInOptions options) => JsonSerializer.Deserialize<List<FleetMember>>(File.ReadAllBytes(options.Tokens), RelevoJson.Options)!;

    /// <summary>What the folder says it holds; null before anything arrived.</summary>
    public Manifest? ReadManifest()
    {
        try
        {
            return JsonSerializer.Deserialize<Manifest>(File.ReadAllBytes(Path.Combine(Folder, Manifest.OwnFileName)), RelevoJson.Options);
        }
        catch (Exception missing) when (missing is IOException or JsonException)
        {
            return null;
        }
    }

    /// <summary>The signature file for a slot of the own account, as a mail program would choose it from the manifest; null when there is none.</summary>
    public string? SignatureFile(string slot, string ending) => ReadManifest()?.Files
        .Where(file => file.Role == FileRole.Signature && file.Slot == slot && file.Path.EndsWith(ending, StringComparison.Ordinal) && string.Equals(file.Address, Address, StringComparison.OrdinalIgnoreCase))
        .Select(file => Path.Combine(Folder, file.Path))
        .FirstOrDefault(File.Exists);
}
