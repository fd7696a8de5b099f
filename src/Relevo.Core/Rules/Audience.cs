using System.Collections.Frozen;
using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace Relevo.Core.Rules;

/// <summary>The two audiences there always are, by key.</summary>
public static class Audiences
{
    /// <summary>Colleagues alone.</summary>
    public const string Inside = "inside";

    /// <summary>Anybody else; where nobody knows who will read, this is assumed, because it is the strictest.</summary>
    public const string Outside = "outside";

    /// <summary>Both.</summary>
    public static ImmutableArray<string> Fixed { get; } = [Inside, Outside];
}

/// <summary>A named group of readers.</summary>
/// <param name="Key">Stable key that rules and designs use: small letters, digits and hyphens; never changes.</param>
/// <param name="Name">What people read.</param>
/// <param name="Members">Addresses, domains, and either with * for any run of characters; *.example stands for every subdomain.</param>
public sealed record Audience(string Key, string Name, ImmutableArray<string> Members)
{
    /// <summary>The language its readers understand (RFC 5646), or empty.</summary>
    public string Language { get; init; } = "";

    /// <summary>The country its readers are in (ISO 3166-1 alpha-2), or empty: numbers of that country may be shown to them as they are dialled at home.</summary>
    public string Country { get; init; } = "";
}

/// <summary>Who counts as inside, and the named audiences, the strictest first.</summary>
/// <param name="OwnDomains">The company's own domains.</param>
/// <param name="WithSubdomains">True when their subdomains are inside too.</param>
/// <param name="Named">Named audiences in the order in which they are asked.</param>
public sealed record AudienceBook(ImmutableArray<string> OwnDomains, bool WithSubdomains, ImmutableArray<Audience> Named)
{
    /// <summary>Named audiences at most; the map stops being readable long before.</summary>
    public const int MaxNamed = 50;

    /// <summary>Members of one audience at most.</summary>
    public const int MaxMembers = 100_000;

    /// <summary>No own domain and no named audience: everybody is outside.</summary>
    public static AudienceBook Empty { get; } = new([], false, []);

    /// <summary>Keys of every audience: inside, those named, outside.</summary>
    [JsonIgnore]
    public ImmutableArray<string> Keys => [Audiences.Inside, .. Named.Select(audience => audience.Key), Audiences.Outside];

    /// <summary>The named audience of a key, or null.</summary>
    public Audience? Find(string key) => Named.FirstOrDefault(audience => audience.Key == key);

    /// <summary>What people read for a key, or null when there is none.</summary>
    public string? NameOf(string key) => key is Audiences.Inside or Audiences.Outside ? key : Find(key)?.Name;
}

/// <summary>What a recipient list came to. Deciding: the address that made it so strict, or empty when nobody is known.</summary>
public sealed record AudienceAnswer(string Key, string Deciding, string Reason);

/// <summary>An audience book made ready to be asked: exact addresses and domains by hash, wildcards one after the other.</summary>
public sealed class AudienceIndex
{
    private readonly AudienceBook book;
    private readonly FrozenDictionary<string, int> addresses, domains, parents;
    private readonly ImmutableArray<(string Pattern, int Rank)> patterns;
    private readonly FrozenSet<string> own;

    /// <summary>Indexes a checked book. Members that cannot be compared are passed over.</summary>
    public AudienceIndex(AudienceBook book)
    {
        this.book = book;
        own = book.OwnDomains.Select(MailDomain.ToAscii).OfType<string>().ToFrozenSet(StringComparer.Ordinal);
        Dictionary<string, int> exact = new(StringComparer.OrdinalIgnoreCase), whole = new(StringComparer.Ordinal), below = new(StringComparer.Ordinal);
        var globs = ImmutableArray.CreateBuilder<(string, int)>();
        for (var rank = 0; rank < book.Named.Length; rank++)
        {
            foreach (var member in book.Named[rank].Members)
            {
                if (AudienceMember.Read(member) is not { } read) continue;
                switch (read.Kind)
                {
                    case AudienceMemberKind.Address:
                        exact.TryAdd(read.Text, rank);
                        break;
                    case AudienceMemberKind.Domain:
                        whole.TryAdd(read.Text, rank);
                        break;
                    case AudienceMemberKind.Subdomains:
                        below.TryAdd(read.Text, rank);
                        break;
                    default:
                        globs.Add((read.Text, rank));
                        break;
                }
            }
        }

        (addresses, domains, parents, patterns) = (exact.ToFrozenDictionary(StringComparer.OrdinalIgnoreCase), whole.ToFrozenDictionary(StringComparer.Ordinal), below.ToFrozenDictionary(StringComparer.Ordinal), globs.ToImmutable());
    }

    /// <summary>The audience of one recipient: the first named one it is in, else inside or outside.</summary>
    public string Of(string address) => Key(Rank(address));

    /// <summary>The audience of a message: that of its strictest recipient. Outside beats every named audience, an earlier named one a later one, and any of them inside.</summary>
    public AudienceAnswer Of(RecipientList recipients)
    {
        if (recipients.Trouble.Length > 0) return new(Audiences.Outside, "", $"the list of recipients is not used: {recipients.Trouble}");
        if (recipients.Addresses.IsEmpty) return new(Audiences.Outside, "", "no recipient is known");
        var (strictest, deciding) = (int.MaxValue, "");
        foreach (var address in recipients.Addresses)
        {
            var rank = Rank(address);
            if (rank >= strictest) continue;
            (strictest, deciding) = (rank, address);
            if (rank < 0) break;
        }

        return new(Key(strictest), deciding, $"{deciding} counts as {book.NameOf(Key(strictest))}");
    }

    private string Key(int rank) => rank < 0 ? Audiences.Outside : rank < book.Named.Length ? book.Named[rank].Key : Audiences.Inside;

    /// <summary>-1 for outside, then the named audiences in order, then inside: the smaller, the stricter.</summary>
    private int Rank(string address)
    {
        var domain = MailDomain.Of(address);
        if (domain.Length == 0) return -1;
        var compared = address[..(address.LastIndexOf('@') + 1)].ToLowerInvariant() + domain;
        var rank = int.MaxValue;
        if (addresses.TryGetValue(compared, out var found)) rank = found;
        if (domains.TryGetValue(domain, out found)) rank = Math.Min(rank, found);
        for (var dot = domain.IndexOf('.'); dot >= 0; dot = domain.IndexOf('.', dot + 1))
        {
            if (parents.TryGetValue(domain[(dot + 1)..], out found)) rank = Math.Min(rank, found);
        }

        foreach (var (pattern, its) in patterns)
        {
            if (its < rank && System.IO.Enumeration.FileSystemName.MatchesSimpleExpression(pattern, compared)) rank = its;
        }

        return rank < int.MaxValue ? rank : IsOwn(domain) ? book.Named.Length : -1;
    }

    private bool IsOwn(string domain)
    {
        if (own.Contains(domain)) return true;
        if (!book.WithSubdomains) return false;
        for (var dot = domain.IndexOf('.'); dot >= 0; dot = domain.IndexOf('.', dot + 1))
        {
            if (own.Contains(domain[(dot + 1)..])) return true;
        }

        return false;
    }
}
