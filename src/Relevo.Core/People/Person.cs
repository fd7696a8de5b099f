using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>What a source says about a person.</summary>
/// <param name="Source">The source.</param>
/// <param name="Key">The source's stable id in lower case.</param>
/// <param name="DistinguishedName">The source's name for the entry, or empty.</param>
/// <param name="Facts">What it says.</param>
public sealed record Entry(Guid Source, string Key, string DistinguishedName, Facts Facts);

/// <summary>An employee. Never deleted by a sync, only retired.</summary>
/// <param name="Id">Relevo's own key.</param>
/// <param name="Entries">What sources that list the person say, in the order of the sources; a retired person keeps the last ones.</param>
/// <param name="Own">What the employee set, in fields opened to employees.</param>
/// <param name="Override">What an administrator set.</param>
/// <param name="Accounts">What the person may send from; the person's own address first.</param>
/// <param name="IsRetired">True when no source lists the person any more, or an administrator retired them.</param>
public sealed record Person(Guid Id, ImmutableArray<Entry> Entries, Facts Own, Facts Override, ImmutableArray<Account> Accounts, bool IsRetired)
{
    /// <summary>Names of fields opened to this person alone, beside those that are open to everybody.</summary>
    public ImmutableArray<string> Opened { get; init; } = [];

    /// <summary>True when an administrator retired the person, so that no source brings them back.</summary>
    public bool IsRetiredByHand { get; init; }

    /// <summary>True when the person may set this field for themselves.</summary>
    public bool MaySet(Field field) => field.Rule.IsOpen || Opened.Contains(field.Name, StringComparer.Ordinal);

    /// <summary>The person's own address, or empty.</summary>
    public string Address => Accounts.IsEmpty || Accounts[0].Kind == AccountKind.Shared ? "" : Accounts[0].Address;

    /// <summary>The accounts that are the person's alone: own address and aliases.</summary>
    public IEnumerable<Account> OwnAccounts => Accounts.Where(account => account.Kind != AccountKind.Shared);

    /// <summary>The account of this address; the first when there is none of it; null when there are none at all.</summary>
    public Account? FindAccount(string? address) =>
        Accounts.FirstOrDefault(account => string.Equals(account.Address, address, StringComparison.OrdinalIgnoreCase)) ?? Accounts.FirstOrDefault();
}

/// <summary>What an account is to its person.</summary>
public enum AccountKind
{
    /// <summary>The person's first address.</summary>
    Own,

    /// <summary>A further address of the same person.</summary>
    Alias,

    /// <summary>A mailbox that several people send from.</summary>
    Shared,
}

/// <summary>One address one person may send from.</summary>
/// <param name="Id">Relevo's key.</param>
/// <param name="Address">The address.</param>
/// <param name="Kind">What it is to the person.</param>
/// <param name="Override">What an administrator set for this account alone.</param>
/// <param name="Mailbox">What the shared mailbox says for everybody who sends from it; none for other accounts.</param>
public sealed record Account(Guid Id, string Address, AccountKind Kind, Facts Override, Facts Mailbox)
{
    /// <summary>An account nothing is set for.</summary>
    public static Account Plain(string address, AccountKind kind) => new(Guid.Empty, address, kind, Facts.None, Facts.None);
}
