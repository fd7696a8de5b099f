using System.Collections.Immutable;
using System.DirectoryServices.Protocols;
using System.Net;
using System.Text;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;

namespace Relevo.Server.Connectors;

/// <summary>A source that could not be read, as a sentence for the administrator: what happened and what to look at.</summary>
public sealed class SourceUnreachableException(string message) : Exception(message);

/// <summary>
/// Asks a directory server for people and groups. Paged (RFC 2696); follows no referrals; gives up after a time. What was read before a
/// failure is thrown away. Source: RFC 4511.
/// </summary>
public static class LdapDirectory
{
    private const int PageSize = 500; // entries; servers commonly allow a thousand
    private const int MaxPages = 10_000; // five million entries; a server that never ends is broken
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30); // for one answer

    static LdapDirectory() => LdapWaiting.GoOnAfterSignals();

    /// <summary>Everybody the server lists. takePicture: keeps the pictures among their values; null passes them over.</summary>
    public static Task<DirectoryContent> ReadAsync(LdapSettings settings, string secret, Mapping mapping, FieldCatalogue fields, TakePicture? takePicture, CancellationToken cancellationToken) =>
        Task.Run(() => ReadPagesAsync(settings, secret, mapping, fields, takePicture, int.MaxValue, cancellationToken), cancellationToken);

    /// <summary>The first entries, for a try.</summary>
    public static Task<DirectoryContent> TryAsync(LdapSettings settings, string secret, Mapping mapping, FieldCatalogue fields, CancellationToken cancellationToken) =>
        Task.Run(() => ReadPagesAsync(settings, secret, mapping, fields, null, 1, cancellationToken), cancellationToken);

    /// <summary>The first people as the server has them, with every attribute it shows.</summary>
    public static Task<ImmutableArray<DirectoryRecord>> SampleAsync(LdapSettings settings, string secret, int count, CancellationToken cancellationToken) => Task.Run(
        () =>
        {
            try
            {
                using var connection = Connect(settings, secret);
                // "+" asks for what the server keeps of itself, entryUUID among it (RFC 3673).
                var request = new SearchRequest(settings.BaseName, settings.Filter, SearchScope.Subtree, "*", "+");
                request.Controls.Add(new PageResultRequestControl(PageSize));
                var answer = (SearchResponse)connection.SendRequest(request, Patience);
                return answer.Entries.Cast<SearchResultEntry>().Select(ReadRecord).Where(record => LdifListing.IsPerson(record.Texts("objectClass"))).Take(count).ToImmutableArray();
            }
            catch (DirectoryException trouble)
            {
                throw new SourceUnreachableException(Explain(trouble, settings));
            }
        },
        cancellationToken);

    private static async Task<DirectoryContent> ReadPagesAsync(LdapSettings settings, string secret, Mapping mapping, FieldCatalogue fields, TakePicture? takePicture, int maxPages, CancellationToken cancellationToken)
    {
        var listing = new Listing(mapping, fields, LdifLimits.Default.MaxProblems);
        try
        {
            using var connection = Connect(settings, secret);
            var pictures = SourcePictures.Attributes(mapping, fields);
            var wanted = mapping.Attributes(fields).Except(takePicture is null ? pictures : [], StringComparer.OrdinalIgnoreCase).Append("objectClass").Concat(LdifListing.MemberAttributes).ToHashSet(StringComparer.OrdinalIgnoreCase);
            var request = new SearchRequest(settings.BaseName, settings.Filter, SearchScope.Subtree, [.. wanted]);
            var paging = new PageResultRequestControl(PageSize);
            request.Controls.Add(paging);
            for (var page = 0; page < maxPages && !listing.IsFull; page++)
            {
                cancellationToken.ThrowIfCancellationRequested();
                if (page >= MaxPages) throw new SourceUnreachableException("The server's list does not end; reading stopped after 10,000 pages.");
                var answer = (SearchResponse)connection.SendRequest(request, Patience);
                foreach (SearchResultEntry entry in answer.Entries)
                {
                    var record = ReadRecord(entry);
                    if (takePicture is not null) record = await TakePicturesAsync(entry, record, pictures, takePicture, listing, cancellationToken);
                    Take(record, listing);
                }

                paging.Cookie = answer.Controls.OfType<PageResultResponseControl>().FirstOrDefault()?.Cookie ?? [];
                if (paging.Cookie.Length == 0) break;
            }
        }
        catch (DirectoryException trouble)
        {
            throw new SourceUnreachableException(Explain(trouble, settings));
        }

        return listing.Finish("The server lists nobody here.");
    }

    private static LdapConnection Connect(LdapSettings settings, string secret)
    {
        var connection = new LdapConnection(new LdapDirectoryIdentifier(settings.Host.Trim(), settings.Port)) { AuthType = AuthType.Anonymous, Timeout = Patience };
        try
        {
            connection.SessionOptions.ProtocolVersion = 3;
            connection.SessionOptions.ReferralChasing = ReferralChasingOptions.None;
            connection.SessionOptions.SecureSocketLayer = settings.Security == LdapSecurity.Ldaps;
            if (settings.CertificateFolder.Length > 0)
            {
                connection.SessionOptions.TrustedCertificatesDirectory = settings.CertificateFolder;
                connection.SessionOptions.StartNewTlsSessionContext();
            }

            if (settings.Security == LdapSecurity.StartTls)
            {
                // The library opens its connection with a first bind; TLS can be started only then.
                connection.Bind();
                connection.SessionOptions.StartTransportLayerSecurity(null);
            }

            if (settings.BindName.Length > 0)
            {
                connection.AuthType = AuthType.Basic;
                connection.Bind(new NetworkCredential(settings.BindName, secret));
            }
            else if (settings.Security != LdapSecurity.StartTls) connection.Bind();
            return connection;
        }
        catch
        {
            connection.Dispose();
            throw;
        }
    }

    /// <summary>The record with the hash of each picture that was kept.</summary>
    private static async Task<DirectoryRecord> TakePicturesAsync(SearchResultEntry entry, DirectoryRecord record, HashSet<string> pictures, TakePicture takePicture, Listing listing, CancellationToken cancellationToken)
    {
        var values = record.Values.ToBuilder();
        foreach (string attribute in entry.Attributes.AttributeNames)
        {
            if (!pictures.Contains(attribute)) continue;
            values.RemoveAll(value => string.Equals(value.Attribute, attribute, StringComparison.OrdinalIgnoreCase));
            foreach (byte[] bytes in entry.Attributes[attribute].GetValues(typeof(byte[])))
            {
                var (sha256, reason) = await takePicture(bytes, cancellationToken);
                if (sha256 is not null) values.Add(new RecordValue(attribute, sha256, 0));
                else listing.Refuse(0, GroupNames.OfDistinguishedName(entry.DistinguishedName), attribute, $"{bytes.Length} bytes", reason ?? "");
            }
        }

        return record with { Values = values.ToImmutable() };
    }

    private static void Take(DirectoryRecord record, Listing listing)
    {
        if (LdifListing.IsPerson(record.Texts("objectClass"))) listing.Take(record);
        else if (LdifListing.MemberAttributes.SelectMany(record.Texts).ToArray() is { Length: > 0 } members) listing.Group(GroupNames.OfDistinguishedName(record.Name), members);
        else listing.PassOver();
    }

    private static DirectoryRecord ReadRecord(SearchResultEntry entry)
    {
        var values = ImmutableArray.CreateBuilder<RecordValue>();
        foreach (string attribute in entry.Attributes.AttributeNames)
        {
            // An attribute with options (lang-de) or a range is not the plain value.
            if (attribute.Contains(';', StringComparison.Ordinal)) continue;
            foreach (byte[] bytes in entry.Attributes[attribute].GetValues(typeof(byte[])))
            {
                if (TryText(bytes) is { } text) values.Add(new RecordValue(attribute, FieldValue.OneLine(text), 0));
            }
        }

        return new DirectoryRecord(entry.DistinguishedName, 0, values.ToImmutable());
    }

    /// <summary>Values that are no text (pictures, keys) are none of these fields'.</summary>
    private static string? TryText(byte[] bytes)
    {
        try
        {
            return StrictUtf8.GetString(bytes);
        }
        catch (DecoderFallbackException)
        {
            return null;
        }
    }

    private static string Explain(DirectoryException trouble, LdapSettings settings)
    {
        var server = $"{settings.Host}:{settings.Port}";
        var code = trouble switch { LdapException ldap => ldap.ErrorCode, DirectoryOperationException operation => (int)(operation.Response?.ResultCode ?? ResultCode.Other), _ => 80 };
        // Codes: RFC 4511 appendix A, and the client library's own from 81 on (81 no server, 85 no answer in time, 91 no connection).
        return code switch
        {
            51 or 52 => $"{server} is too busy to answer; try again later.",
            49 => $"{server} does not know this bind name with this secret.",
            50 => $"{server} does not let this bind name look here.",
            32 => $"{server} has nothing at \"{settings.BaseName}\".",
            13 => $"{server} wants a secured connection.",
            4 => $"{server} gives out fewer entries than there are; let it page, or narrow the filter.",
            3 or 85 => $"{server} did not answer in time.",
            -1 or 81 or 91 => settings.Security == LdapSecurity.None
                ? $"{server} cannot be reached, or dropped the connection."
                : $"{server} cannot be reached, dropped the connection, or shows a certificate that is not trusted.",
            -11 => $"A secured connection to {server} could not be made; check its certificate.",
            _ => $"{server} answered: {trouble.Message} (code {code}).",
        };
    }

    private static readonly UTF8Encoding StrictUtf8 = new(encoderShouldEmitUTF8Identifier: false, throwOnInvalidBytes: true);
}
