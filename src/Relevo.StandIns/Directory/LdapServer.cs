using System.Buffers;
using System.Formats.Asn1;
using System.Globalization;
using System.IO.Pipelines;
using Microsoft.AspNetCore.Connections;

namespace Relevo.StandIns.Directory;

/// <summary>
/// Speaks enough LDAP for a client that binds and searches in pages, in whatever mood the directory is. No TLS: it lives on loopback, and
/// secured connections are tested against a real server. Source: RFC 4511.
/// </summary>
internal sealed class LdapServer(DirectoryTree tree) : ConnectionHandler
{
    /// <summary>Who may look, and with which secret.</summary>
    public const string BindName = "cn=relevo,dc=brackenfold,dc=example", Secret = "let-me-look";

    private const int MaxMessageBytes = 1 << 20; // a search; larger is nonsense
    private const int BindAnswer = 1, SearchEnd = 5;
    private const int Success = 0, InvalidCredentials = 49, InsufficientRights = 50, Busy = 51, Unwilling = 53, NoSuchObject = 32;
    private static readonly TimeSpan SlowAnswer = TimeSpan.FromSeconds(3);

    public override async Task OnConnectedAsync(ConnectionContext connection)
    {
        var isKnown = false;
        try
        {
            while (await ReadMessageAsync(connection.Transport.Input, connection.ConnectionClosed) is { } message)
            {
                if (tree.Mood == DirectoryMood.Slow) await Task.Delay(SlowAnswer, connection.ConnectionClosed);
                switch (LdapMessages.Read(message))
                {
                    case UnbindRequest:
                        return;
                    case BindRequest bind:
                        isKnown = string.Equals(bind.Name, BindName, StringComparison.OrdinalIgnoreCase) && bind.Secret == Secret;
                        var isNobody = bind.Name.Length == 0;
                        await WriteAsync(connection, LdapMessages.Result(bind.MessageId, BindAnswer, isKnown || isNobody ? Success : InvalidCredentials, ""));
                        break;
                    case SearchRequest search:
                        if (!await AnswerAsync(connection, search, isKnown)) return;
                        break;
                    case OtherRequest other:
                        await WriteAsync(connection, LdapMessages.Result(other.MessageId, other.AnswerTag, Unwilling, "The stand-in binds and searches, and nothing else."));
                        break;
                }
            }
        }
        catch (Exception ended) when (ended is AsnContentException or OperationCanceledException or ConnectionResetException or ConnectionAbortedException or InvalidDataException)
        {
            connection.Abort();
        }
    }

    /// <summary>Answers a search; false when the mood is to drop the connection.</summary>
    private async Task<bool> AnswerAsync(ConnectionContext connection, SearchRequest search, bool isKnown)
    {
        if (!isKnown || tree.Mood == DirectoryMood.Busy)
        {
            await WriteAsync(connection, LdapMessages.Result(search.MessageId, SearchEnd, isKnown ? Busy : InsufficientRights, isKnown ? "Too busy; come back later." : "Bind first."));
            return true;
        }

        var below = tree.Entries.Where(entry => IsBelow(entry.Name, search.BaseName)).ToArray();
        if (below.Length == 0)
        {
            await WriteAsync(connection, LdapMessages.Result(search.MessageId, SearchEnd, NoSuchObject, ""));
            return true;
        }

        var found = below.Where(entry => search.Filter.Matches(entry.Texts)).ToList();
        if (tree.Mood == DirectoryMood.Empty) found.Clear();
        if (tree.Mood == DirectoryMood.Twice && found.Count > 0) found.Add(found[0]);
        var from = int.TryParse(search.Cookie, NumberStyles.None, CultureInfo.InvariantCulture, out var place) ? Math.Min(place, found.Count) : 0;
        var size = search.PageSize > 0 ? search.PageSize : found.Count;
        if (tree.Mood == DirectoryMood.Drops) size = Math.Min(size, Math.Max(1, found.Count / 2));
        foreach (var entry in found.Skip(from).Take(size)) await connection.Transport.Output.WriteAsync(LdapMessages.Entry(search.MessageId, entry, search.Attributes));
        if (tree.Mood == DirectoryMood.Drops)
        {
            connection.Abort();
            return false;
        }

        var next = from + size < found.Count ? (from + size).ToString(CultureInfo.InvariantCulture) : "";
        await WriteAsync(connection, LdapMessages.Result(search.MessageId, SearchEnd, Success, "", search.PageSize > 0 ? next : null));
        return true;
    }

    private static bool IsBelow(string name, string baseName)
    {
        static string Plain(string text) => text.Replace(" ", "", StringComparison.Ordinal).ToLowerInvariant();
        return Plain(name) == Plain(baseName) || Plain(name).EndsWith("," + Plain(baseName), StringComparison.Ordinal) || baseName.Length == 0;
    }

    private static async Task WriteAsync(ConnectionContext connection, byte[] message) => await connection.Transport.Output.WriteAsync(message);

    /// <summary>One whole message, or null at the end.</summary>
    private static async Task<byte[]?> ReadMessageAsync(PipeReader input, CancellationToken cancellationToken)
    {
        while (true)
        {
            var read = await input.ReadAsync(cancellationToken);
            var whole = read.Buffer.ToArray();
            if (TryMeasure(whole, out var length) && whole.Length >= length)
            {
                input.AdvanceTo(read.Buffer.GetPosition(length));
                return whole[..length];
            }

            if (read.IsCompleted) return null;
            if (length > MaxMessageBytes) throw new InvalidDataException("A message is too long.");
            input.AdvanceTo(read.Buffer.Start, read.Buffer.End);
        }
    }

    /// <summary>The length of a message from its first bytes: tag, then a short or long length (X.690 section 8.1.3).</summary>
    private static bool TryMeasure(ReadOnlySpan<byte> bytes, out int length)
    {
        length = 0;
        if (bytes.Length < 2) return false;
        if (bytes[1] < 0x80)
        {
            length = 2 + bytes[1];
            return true;
        }

        var octets = bytes[1] & 0x7F;
        if (octets is 0 or > 4) throw new InvalidDataException("A message has no length.");
        if (bytes.Length < 2 + octets) return false;
        foreach (var octet in bytes.Slice(2, octets)) length = (length << 8) | octet;
        length += 2 + octets;
        return true;
    }
}
