using System.Text.Json.Nodes;

namespace Relevo.StandIns.Jmap;

/// <summary>An identity of a mailbox. Source: RFC 8621 section 6.</summary>
internal sealed class JmapIdentity(string id, string name, string email)
{
    public string Id { get; } = id;

    public string Name { get; set; } = name;

    public string Email { get; } = email;

    public JsonNode? ReplyTo { get; set; }

    public JsonNode? Bcc { get; set; }

    public string TextSignature { get; set; } = "";

    public string HtmlSignature { get; set; } = "";

    /// <summary>The state of the mailbox in which it was changed last.</summary>
    public int ChangedIn { get; set; }

    public JsonObject ToJson() => new()
    {
        ["id"] = Id,
        ["name"] = Name,
        ["email"] = Email,
        ["replyTo"] = ReplyTo?.DeepClone(),
        ["bcc"] = Bcc?.DeepClone(),
        ["textSignature"] = TextSignature,
        ["htmlSignature"] = HtmlSignature,
        ["mayDelete"] = false,
    };
}

/// <summary>One mailbox with its identities. Whoever reads or changes it holds its lock.</summary>
internal sealed class JmapAccount(string id, string name, IEnumerable<JmapIdentity> identities)
{
    public Lock Changing { get; } = new();

    public string Id { get; } = id;

    /// <summary>The address it is called by.</summary>
    public string Name { get; } = name;

    public List<JmapIdentity> Identities { get; } = [.. identities];

    /// <summary>Counts changes.</summary>
    public int State { get; private set; } = 1;

    /// <summary>How often something was really changed, told apart by what it was changed to: for tests of "nobody is told twice".</summary>
    public int Changes { get; private set; }

    /// <summary>How often the identities were read.</summary>
    public int Reads { get; set; }

    /// <summary>Changes an identity; the state goes on by one.</summary>
    public void Change(JmapIdentity identity, Action<JmapIdentity> change)
    {
        change(identity);
        State++;
        Changes++;
        identity.ChangedIn = State;
    }
}

/// <summary>The mailboxes of the stand-in server.</summary>
internal sealed class JmapMailboxes
{
    private readonly Dictionary<string, JmapAccount> accounts;

    public JmapMailboxes(IEnumerable<(string Name, string[] Addresses)> people)
    {
        accounts = people.Where(person => person.Addresses.Length > 0)
            .Select((person, number) => new JmapAccount($"a{number + 1}", person.Addresses[0], person.Addresses.Select((address, index) => new JmapIdentity($"i{index + 1}", person.Name, address))))
            .ToDictionary(account => account.Id);
    }

    public IReadOnlyCollection<JmapAccount> All => accounts.Values;

    public JmapAccount? Find(string id) => accounts.GetValueOrDefault(id);

    /// <summary>The people of a directory file with their addresses.</summary>
    public static IEnumerable<(string Name, string[] Addresses)> Of(Directory.DirectoryTree tree) =>
        tree.Entries.Where(entry => entry.IsPerson).Select(entry => (entry.First("displayName") is { Length: > 0 } name ? name : entry.First("cn"), entry.Texts("mail").ToArray()));
}

/// <summary>How the stand-in misbehaves, when it is asked to. Shares are from 0 to 1 and fall by a seeded dice, so that a run can be repeated.</summary>
internal sealed class JmapFaults(int seed)
{
    private readonly Lock rolling = new();
    private readonly Random dice = new(seed);

    /// <summary>Milliseconds before each answer.</summary>
    public int Latency { get; set; }

    /// <summary>Share of the requests that are answered 503.</summary>
    public double Unavailable { get; set; }

    /// <summary>Share of the requests whose connection is dropped before the answer, after the work is done.</summary>
    public double Dropped { get; set; }

    /// <summary>Share of the requests that are answered 200 with something that is no answer.</summary>
    public double Garbage { get; set; }

    /// <summary>Until when every request is answered 429; asks to be left alone for the seconds that are left.</summary>
    public DateTimeOffset BusyUntil { get; set; }

    /// <summary>Accounts that may not be changed.</summary>
    public HashSet<string> ReadOnly { get; } = [];

    public bool Falls(double share)
    {
        if (share <= 0) return false;
        lock (rolling) return dice.NextDouble() < share;
    }
}
