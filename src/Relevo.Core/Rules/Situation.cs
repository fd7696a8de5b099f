using System.Collections.Immutable;
using NodaTime;
using Relevo.Core.People;

namespace Relevo.Core.Rules;

/// <summary>What kind of message a signature is chosen for.</summary>
public enum Occasion
{
    /// <summary>A message that answers nothing.</summary>
    New,

    /// <summary>An answer.</summary>
    Reply,

    /// <summary>A message passed on.</summary>
    Forward,
}

/// <summary>
/// One account as rules see it: whose it is, what it is, and the resolved values of its fields as the records have them. For an account that nothing is set
/// for alone, the values are shared with its person's row.
/// </summary>
public sealed class Sender
{
    private readonly string?[] stored;

    /// <summary>Keeps the values. stored: in catalogue order, null or empty where there is none; not copied and never changed.</summary>
    public Sender(Guid person, string name, string address, AccountKind kind, string?[] stored)
    {
        (Person, Name, Address, Kind) = (person, name, address, kind);
        this.stored = stored;
    }

    /// <summary>Whose account it is.</summary>
    public Guid Person { get; }

    /// <summary>What the person is called.</summary>
    public string Name { get; }

    /// <summary>The address mail is sent from.</summary>
    public string Address { get; }

    /// <summary>What the account is to the person.</summary>
    public AccountKind Kind { get; }

    /// <summary>The address's domain in ASCII, lower case; empty for an address without one.</summary>
    public string Domain => MailDomain.Of(Address);

    /// <summary>A field's value on one line; empty when there is none. field: its place in the catalogue.</summary>
    public string Value(int field) => (uint)field < (uint)stored.Length ? FieldValue.OneLine(stored[field]) : "";

    /// <summary>An account with its values resolved from the records.</summary>
    public static Sender Of(CompanyRecords records, Person person, Account account)
    {
        var layers = FieldResolution.Layers(records, person, account);
        var stored = records.Fields.Fields.Select(field => field.Name == "mail" ? account.Address : FieldResolution.First(layers, field.Name)).ToArray();
        var name = FieldResolution.First(layers, "displayName");
        return new Sender(person.Id, string.IsNullOrEmpty(name) ? account.Address : name, account.Address, account.Kind, stored);
    }
}

/// <summary>What a signature is chosen for.</summary>
/// <param name="Sender">The account.</param>
/// <param name="Audience">Who will read, by key: see <see cref="Audiences"/>.</param>
/// <param name="Occasion">What kind of message it is.</param>
/// <param name="Client">The client kind's name.</param>
/// <param name="Moment">When it is sent.</param>
public sealed record Situation(Sender Sender, string Audience, Occasion Occasion, string Client, Instant Moment)
{
    /// <summary>Which message of this account it is, counted by whoever asks; 0 where nobody counts. Decides whose turn it is where turns go by message.</summary>
    public long Message { get; init; }

    /// <summary>Where it stands in the map.</summary>
    public Cell Cell => new(Audience, Occasion, Client);
}

/// <summary>The part of a situation that has few values: the map's squares.</summary>
public readonly record struct Cell(string Audience, Occasion Occasion, string Client)
{
    /// <summary>Every square there is, audiences first.</summary>
    public static ImmutableArray<Cell> All(IEnumerable<string> audiences, IEnumerable<string> clients) =>
        [.. from audience in audiences from occasion in Enum.GetValues<Occasion>() from client in clients select new Cell(audience, occasion, client)];
}
