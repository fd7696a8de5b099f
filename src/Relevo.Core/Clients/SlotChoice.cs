using System.Collections.Immutable;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>An account as rules see it, with its resolved values, ready to be decided and rendered for.</summary>
public sealed class FittingAccount
{
    private readonly Func<string, FieldValue[]> resolve;
    private FieldValue[]? plain;

    /// <summary>Keeps an account. resolve: its values in catalogue order, for readers in a country (ISO 3166-1 alpha-2) or, with an empty text, anywhere.</summary>
    public FittingAccount(Sender sender, Func<string, FieldValue[]> resolve) => (Sender, this.resolve) = (sender, resolve);

    /// <summary>The account.</summary>
    public Sender Sender { get; }

    /// <summary>An account of a person.</summary>
    public static FittingAccount Of(CompanyRecords records, Person person, Account account, Sender? sender = null) =>
        new(sender ?? Sender.Of(records, person, account), country => FieldResolution.Resolve(records, person, account, country));

    /// <summary>The values as readers in a country are shown them.</summary>
    public FieldValue[] Values(string country) => country.Length == 0 ? plain ??= resolve("") : resolve(country);
}

/// <summary>A situation that a slot cannot honour: what it should carry there, while the slot carries something else.</summary>
public sealed record SlotLoss(FittingAccount Account, string Audience, Occasion Occasion, Carried Wanted);

/// <summary>What goes into a slot: the outcome of the most cautious situation it covers.</summary>
/// <param name="Slot">The slot.</param>
/// <param name="Address">The account it is for, or empty where it stands for every account.</param>
/// <param name="Account">The account that decided.</param>
/// <param name="Situation">The situation that decided.</param>
/// <param name="Decision">What was decided.</param>
/// <param name="Carried">What it carries.</param>
/// <param name="Situations">How many situations it covers.</param>
/// <param name="Losses">Those it cannot honour.</param>
public sealed record SlotChoice(Slot Slot, string Address, FittingAccount Account, Situation Situation, Decision Decision, Carried Carried, int Situations, ImmutableArray<SlotLoss> Losses)
{
    /// <summary>
    /// Chooses for every slot of a client. decide: the decision of one account in one square. isForAll: one slot stands for every account. tellsLosses: every
    /// situation is looked at, and not only those that decide.
    /// </summary>
    public static ImmutableArray<SlotChoice> ForClient(ClientKind kind, IReadOnlyList<FittingAccount> accounts, SigningAt signing, Caution caution, Func<Sender, Cell, Decision> decide, bool isForAll, bool tellsLosses)
    {
        if (accounts.Count == 0 || kind.IsPerMessage) return [];
        var choices = ImmutableArray.CreateBuilder<SlotChoice>(kind.Slots.Length * accounts.Count);
        foreach (var slot in kind.Slots)
        {
            var squares = tellsLosses ? caution.Squares(signing.Content.Audiences, slot, kind.Kind) : [new Cell(caution.FirstAudience, caution.FirstOccasion(slot), kind.Kind)];
            var choose = new Choosing(kind, slot, squares, (signing.Content.Audiences.Named.Length + 2) * slot.Occasions.Length, signing, decide);
            if (isForAll) choices.Add(choose.For(accounts, ""));
            else foreach (var account in accounts) choices.Add(choose.For([account], account.Sender.Address));
        }

        return choices.ToImmutable();
    }

    /// <summary>Chooses for one slot. squares: those to be looked at, the most cautious first.</summary>
    private sealed record Choosing(ClientKind Kind, Slot Slot, ImmutableArray<Cell> Squares, int AllSquares, SigningAt Signing, Func<Sender, Cell, Decision> Decide)
    {
        public SlotChoice For(IReadOnlyList<FittingAccount> accounts, string address)
        {
            if (Squares.Length == 1 && accounts.Count == 1) return Chosen(address, Look(accounts[0], Squares[0]), accounts, []);
            var outcomes = new List<Outcome>(Squares.Length * accounts.Count);
            foreach (var square in Squares)
            {
                foreach (var account in accounts) outcomes.Add(Look(account, square));
            }

            // The first square is the most cautious one; of the accounts in it the one whose rule comes last.
            var chosen = outcomes[0];
            for (var index = 1; index < accounts.Count; index++)
            {
                if (RankOf(outcomes[index], Signing) > RankOf(chosen, Signing)) chosen = outcomes[index];
            }

            var losses = outcomes.Where(outcome => !IsHonoured(outcome, chosen, Signing)).Select(outcome => new SlotLoss(outcome.Account, outcome.Situation.Audience, outcome.Situation.Occasion, outcome.Carried));
            return Chosen(address, chosen, accounts, [.. losses]);
        }

        private SlotChoice Chosen(string address, Outcome chosen, IReadOnlyList<FittingAccount> accounts, ImmutableArray<SlotLoss> losses) =>
            new(Slot, address, chosen.Account, chosen.Situation, chosen.Decision, chosen.Carried, AllSquares * accounts.Count, losses);

        private Outcome Look(FittingAccount account, Cell square)
        {
            var situation = new Situation(account.Sender, square.Audience, square.Occasion, square.Client, Signing.Moment);
            var decision = Decide(account.Sender, square);
            var carried = Signing.Carry(situation, decision);
            return new(account, situation, decision, Kind.HasTextSeparator ? carried : carried with { HasSeparator = true });
        }
    }

    /// <summary>The place of the rule that decided; without a rule, after all.</summary>
    private static int RankOf(Outcome outcome, SigningAt signing) => outcome.Decision.Rule is { } rule ? signing.Content.Rules.Signature.IndexOf(rule) is >= 0 and var at ? at : 0 : int.MaxValue;

    /// <summary>True when a message in that situation would look as the slot has it. Where the design is the same but not plainly all of it, both are written and compared.</summary>
    private static bool IsHonoured(Outcome outcome, Outcome chosen, SigningAt signing)
    {
        if (ReferenceEquals(outcome, chosen)) return true;
        if (outcome.Carried.Design != chosen.Carried.Design) return false;
        if (outcome.Carried.Design is not { } design) return true;
        var (here, there) = (CountryOf(outcome, signing), CountryOf(chosen, signing));
        if (outcome.Carried == chosen.Carried && ReferenceEquals(outcome.Account, chosen.Account) && here == there && !signing.AsksCircumstances(design)) return true;
        return Written(outcome, here) == Written(chosen, there);

        string Written(Outcome one, string country)
        {
            var values = one.Account.Values(country);
            var written = signing.Program(design, one.Carried.Added, new("pictures", one.Carried.HasSeparator), values).Render(values, new(one.Situation.Occasion, one.Situation.Audience));
            return written.HtmlSha256 + written.TextSha256;
        }
    }

    private static string CountryOf(Outcome outcome, SigningAt signing) => signing.Content.Audiences.Find(outcome.Situation.Audience)?.Country ?? "";

    private sealed record Outcome(FittingAccount Account, Situation Situation, Decision Decision, Carried Carried);
}
