using System.Collections.Immutable;

namespace Relevo.Core.People;

/// <summary>A mailbox that several people send from.</summary>
/// <param name="Id">Relevo's key.</param>
/// <param name="Address">Its address.</param>
/// <param name="Facts">What it says for everybody who sends from it; it stands above what their own records say.</param>
/// <param name="Groups">Names of groups whose members send from it, as sources call them; case does not matter.</param>
/// <param name="Senders">People named by hand.</param>
/// <param name="Revision">Counts its changes.</param>
public sealed record Mailbox(Guid Id, string Address, Facts Facts, ImmutableArray<string> Groups, ImmutableArray<Guid> Senders, int Revision)
{
    private static readonly ImmutableHashSet<string> NeverHere = ImmutableHashSet.Create(StringComparer.Ordinal, "mail", "manager", GroupNames.Field);

    /// <summary>True for a field that a mailbox may say something in.</summary>
    public static bool MayHold(Field field) => field.Holders.Contains(FieldHolder.Person) && !NeverHere.Contains(field.Name);
}
