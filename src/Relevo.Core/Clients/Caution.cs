using System.Collections.Immutable;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>
/// Which of the situations that a slot covers is the most cautious one and so decides what goes in: outside before named audiences before inside, a new
/// message before a reply before a forward, and of several accounts the one whose rule comes later. Either order can be turned round.
/// </summary>
/// <param name="InsideFirst">True when inside comes before outside.</param>
/// <param name="AnswersFirst">True when answers come before new messages.</param>
public sealed record Caution(bool InsideFirst, bool AnswersFirst)
{
    /// <summary>Outside and new messages first.</summary>
    public static Caution Standard { get; } = new(false, false);

    /// <summary>Audiences, the most cautious first. Named ones stand in their own order, the strictest first.</summary>
    public ImmutableArray<string> Audiences(AudienceBook book)
    {
        ImmutableArray<string> strictest = [Rules.Audiences.Outside, .. book.Named.Select(audience => audience.Key), Rules.Audiences.Inside];
        return InsideFirst ? [.. strictest.Reverse()] : strictest;
    }

    /// <summary>The most cautious audience.</summary>
    public string FirstAudience => InsideFirst ? Rules.Audiences.Inside : Rules.Audiences.Outside;

    /// <summary>A slot's most cautious occasion.</summary>
    public Occasion FirstOccasion(Slot slot) => AnswersFirst ? slot.Occasions.Max() : slot.Occasions.Min();

    /// <summary>A slot's occasions, the most cautious first.</summary>
    public ImmutableArray<Occasion> Occasions(Slot slot) => [.. slot.Occasions.OrderBy(occasion => AnswersFirst ? -(int)occasion : (int)occasion)];

    /// <summary>All squares that a slot of a kind covers, the most cautious first.</summary>
    public ImmutableArray<Cell> Squares(AudienceBook book, Slot slot, string kind)
    {
        var occasions = Occasions(slot);
        return [.. from audience in Audiences(book) from occasion in occasions select new Cell(audience, occasion, kind)];
    }
}
