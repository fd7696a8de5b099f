using System.Collections.Immutable;
using Relevo.Core.Editions;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>In what the wanted and the given signature differ.</summary>
public enum LossKind
{
    /// <summary>Another design, or one where there should be none.</summary>
    Design,

    /// <summary>The same design with other disclaimers or banners, or with another separator line.</summary>
    Additions,

    /// <summary>The same design, which itself says something else to these readers or on this occasion.</summary>
    Wording,
}

/// <summary>Situations that a client kind cannot honour, for all accounts that are alike in it.</summary>
/// <param name="Slot">The slot's label.</param>
/// <param name="Audiences">To whom.</param>
/// <param name="Occasions">On which occasions.</param>
/// <param name="Wanted">The design the rules want there; empty for none.</param>
/// <param name="Given">The design they get; empty for none.</param>
/// <param name="Kind">In what they differ.</param>
/// <param name="Accounts">How many accounts.</param>
/// <param name="Example">One of them.</param>
public sealed record FittingLoss(string Slot, ImmutableArray<string> Audiences, ImmutableArray<Occasion> Occasions, string Wanted, string Given, LossKind Kind, int Accounts, string Example);

/// <summary>Slots for which the design as it is was too long.</summary>
/// <param name="Design">The design.</param>
/// <param name="Way">What was done about it.</param>
/// <param name="Tried">The design that stands in, or the shortest that was tried.</param>
/// <param name="Slots">How many slots.</param>
/// <param name="MostOver">Characters over the limit at most, where it was refused.</param>
/// <param name="Example">An account of these.</param>
public sealed record FittingLength(string Design, FitWay Way, string Tried, int Slots, int MostOver, string Example);

/// <summary>What a client kind can honour of an edition.</summary>
/// <param name="Kind">The client kind.</param>
/// <param name="Accounts">Accounts that were fitted.</param>
/// <param name="Situations">Situations of all of them: audience x occasion.</param>
/// <param name="Honoured">Those in which a message looks exactly as the rules want it.</param>
/// <param name="Losses">The others, the most accounts first.</param>
/// <param name="Lengths">Slots that were too short, the refused ones first.</param>
public sealed record FittingReport(string Kind, int Accounts, long Situations, long Honoured, ImmutableArray<FittingLoss> Losses, ImmutableArray<FittingLength> Lengths);

/// <summary>Counts what a client kind can honour, client by client. Not safe to use from several threads.</summary>
public sealed class FittingCount(ClientKind kind, EditionContent content)
{
    private readonly Dictionary<LossKey, (int Accounts, string Example)> losses = [];
    private readonly Dictionary<(string Design, FitWay Way, string Tried), (int Slots, int Over, string Example)> lengths = [];
    private long situations, honoured;
    private int accounts;

    /// <summary>Counts the accounts of one client. slots: as they were filled; none for a kind that asks for each message, which honours all of them.</summary>
    public void Add(IReadOnlyList<FittingAccount> ofClient, ImmutableArray<FilledSlot> slots)
    {
        accounts += ofClient.Count;
        if (kind.IsPerMessage)
        {
            var all = (long)ofClient.Count * content.Audiences.Keys.Length * Enum.GetValues<Occasion>().Length;
            (situations, honoured) = (situations + all, honoured + all);
            return;
        }

        foreach (var slot in slots)
        {
            situations += slot.Choice.Situations;
            var isRight = slot.Way is FitWay.AsItIs or FitWay.Linked;
            honoured += isRight ? slot.Choice.Situations - slot.Choice.Losses.Length : slot.Choice.Losses.Count(loss => loss.Wanted.Design is null && slot.Way == FitWay.Refused);
            foreach (var account in slot.Choice.Losses.GroupBy(loss => loss.Account)) Lose(slot.Choice, account);
            if (slot.Way == FitWay.AsItIs) continue;
            var key = (NameOf(slot.Choice.Carried.Design), slot.Way, slot.Tried);
            var before = lengths.GetValueOrDefault(key, (0, 0, slot.Choice.Account.Sender.Address));
            lengths[key] = (before.Item1 + 1, Math.Max(before.Item2, slot.Over), before.Item3);
        }
    }

    /// <summary>The count so far.</summary>
    public FittingReport Report() => new(
        kind.Kind,
        accounts,
        situations,
        honoured,
        [
            .. losses.OrderByDescending(loss => loss.Value.Accounts).ThenBy(loss => loss.Value.Example, StringComparer.Ordinal)
                .Select(loss => new FittingLoss(loss.Key.Slot, [.. loss.Key.Audiences.Split(' ')], [.. loss.Key.Occasions.Split(' ').Select(Enum.Parse<Occasion>)], loss.Key.Wanted, loss.Key.Given, loss.Key.Kind, loss.Value.Accounts, loss.Value.Example)),
        ],
        [
            .. lengths.OrderByDescending(length => length.Key.Way).ThenByDescending(length => length.Value.Slots)
                .Select(length => new FittingLength(length.Key.Design, length.Key.Way, length.Key.Tried, length.Value.Slots, length.Value.Over, length.Value.Example)),
        ]);

    /// <summary>One account's losses in a slot: those that differ alike are said together, by audiences that lose on the same occasions.</summary>
    private void Lose(SlotChoice choice, IEnumerable<SlotLoss> ofAccount)
    {
        var lost = from loss in ofAccount
                   group loss by (Wanted: NameOf(loss.Wanted.Design), Kind: KindOf(loss, choice)) into alike
                   from audiences in alike.GroupBy(loss => loss.Audience).GroupBy(audience => string.Join(' ', audience.Select(loss => loss.Occasion).Order()), audience => audience.Key)
                   select (new LossKey(choice.Slot.Label, string.Join(' ', audiences), audiences.Key, alike.Key.Wanted, NameOf(choice.Carried.Design), alike.Key.Kind), alike.First().Account.Sender.Address);
        foreach (var (key, address) in lost)
        {
            var before = losses.GetValueOrDefault(key, (0, address));
            losses[key] = (before.Item1 + 1, before.Item2);
        }
    }

    private static LossKind KindOf(SlotLoss loss, SlotChoice choice) =>
        loss.Wanted.Design != choice.Carried.Design ? LossKind.Design : loss.Wanted != choice.Carried ? LossKind.Additions : LossKind.Wording;

    private string NameOf(Guid? design) => design is { } id ? content.Find(id)?.Name ?? "" : "";

    private readonly record struct LossKey(string Slot, string Audiences, string Occasions, string Wanted, string Given, LossKind Kind);
}
