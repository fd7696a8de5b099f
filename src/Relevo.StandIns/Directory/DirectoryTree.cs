using System.Collections.Immutable;
using System.Globalization;
using Relevo.Core.People.Formats;

namespace Relevo.StandIns.Directory;

/// <summary>An entry of the stand-in directory. Values keep their order; attributes may repeat.</summary>
internal sealed record DirectoryEntry(string Name, ImmutableArray<KeyValuePair<string, string>> Values)
{
    public IEnumerable<string> Texts(string attribute) => Values.Where(pair => string.Equals(pair.Key, attribute, StringComparison.OrdinalIgnoreCase)).Select(pair => pair.Value);

    public string First(string attribute) => Texts(attribute).FirstOrDefault("");

    public bool IsPerson => Texts("objectClass").Contains("inetOrgPerson", StringComparer.OrdinalIgnoreCase);

    /// <summary>The entry with an attribute's values replaced.</summary>
    public DirectoryEntry With(string attribute, params string[] values) => this with
    {
        Values = [.. Values.Where(pair => !string.Equals(pair.Key, attribute, StringComparison.OrdinalIgnoreCase)), .. values.Select(value => KeyValuePair.Create(attribute, value))],
    };
}

/// <summary>How the directory behaves today.</summary>
internal enum DirectoryMood
{
    /// <summary>As it should.</summary>
    Well,

    /// <summary>Every answer takes three seconds.</summary>
    Slow,

    /// <summary>It answers that it is too busy.</summary>
    Busy,

    /// <summary>It drops the connection half-way through its list.</summary>
    Drops,

    /// <summary>It lists nobody, and says that this is all.</summary>
    Empty,

    /// <summary>It lists its first person twice.</summary>
    Twice,
}

/// <summary>The stand-in directory's entries, and what may happen to them. Repeatable: nothing is left to chance.</summary>
internal sealed class DirectoryTree
{
    private readonly Lock door = new();
    private readonly ImmutableArray<DirectoryEntry> beginning;
    private ImmutableArray<DirectoryEntry> entries;
    private int joined;

    public DirectoryTree(ImmutableArray<DirectoryEntry> entries)
    {
        beginning = entries;
        this.entries = entries;
    }

    public DirectoryMood Mood { get; set; }

    public ImmutableArray<DirectoryEntry> Entries
    {
        get
        {
            lock (door) return entries;
        }
    }

    /// <summary>Reads the entries of an LDIF file.</summary>
    public static async Task<DirectoryTree> ReadAsync(string file, CancellationToken cancellationToken)
    {
        var entries = ImmutableArray.CreateBuilder<DirectoryEntry>();
        await using var stream = File.OpenRead(file);
        await foreach (var item in LdifReader.ReadAsync(stream, LdifLimits.Default, cancellationToken))
        {
            if (item.Record is LdifEntry entry)
                entries.Add(new DirectoryEntry(entry.DistinguishedName, [.. entry.Values.Select(value => KeyValuePair.Create(value.Attribute, value.TryGetText(out var text) ? text : ""))]));
        }

        return new DirectoryTree(entries.ToImmutable());
    }

    /// <summary>Ten people join an office.</summary>
    public void TenJoin() => Change(all =>
    {
        var pattern = all.First(entry => entry.IsPerson);
        return all.AddRange(Enumerable.Range(joined, 10).Select(number =>
        {
            var uid = string.Create(CultureInfo.InvariantCulture, $"new.joiner{number + 1}");
            var name = string.Create(CultureInfo.InvariantCulture, $"Joiner {number + 1}");
            joined = number + 1;
            return new DirectoryEntry($"uid={uid},ou=people,dc=brackenfold,dc=example", pattern.Values)
                .With("uid", uid).With("cn", $"New {name}").With("displayName", $"New {name}").With("givenName", "New").With("sn", name).With("mail", $"{uid}@brackenfold.example")
                .With("employeeNumber", string.Create(CultureInfo.InvariantCulture, $"{19_000 + number}")).With("telephoneNumber").With("mobile");
        }));
    });

    /// <summary>Everybody of one office is at another.</summary>
    public void OfficeMoves(string from, string to) => Change(all => [.. all.Select(entry => entry.First("l") == from ? entry.With("l", to) : entry)]);

    /// <summary>Somebody takes another name and address, and keeps the id.</summary>
    public void Marries(string uid, string surname) => Change(all => [.. all.Select(entry => entry.First("uid") != uid ? entry : entry
        .With("sn", surname).With("cn", $"{entry.First("givenName")} {surname}").With("displayName", $"{entry.First("givenName")} {surname}")
        .With("mail", $"{entry.First("givenName").ToLowerInvariant()}.{surname.ToLowerInvariant()}@brackenfold.example"))]);

    /// <summary>Every second person is gone.</summary>
    public void HalfVanish() => Change(all =>
    {
        var number = 0;
        return [.. all.Where(entry => !entry.IsPerson || number++ % 2 == 0)];
    });

    /// <summary>As it was in the beginning, and well.</summary>
    public void Restore()
    {
        Mood = DirectoryMood.Well;
        Change(_ => beginning);
    }

    private void Change(Func<ImmutableArray<DirectoryEntry>, ImmutableArray<DirectoryEntry>> change)
    {
        lock (door) entries = change(entries);
    }
}
