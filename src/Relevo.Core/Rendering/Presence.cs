using System.Collections.Immutable;

namespace Relevo.Core.Rendering;

/// <summary>What decides the way through a program. Present: bit 2s for the text of slot s, bit 2s + 1 for its link. Tests: a bit for each test that holds.</summary>
internal readonly record struct Pattern(ulong Present, ulong Tests);

/// <summary>When a piece of a signature shows: a statement about a <see cref="Pattern"/>.</summary>
internal abstract record Presence
{
    public static Presence Never { get; } = new AnyOf(default);

    public static Presence Always { get; } = new AllOf([]);

    public bool IsNever => this is AnyOf { Bits: { Present: 0, Tests: 0 } };

    public bool IsAlways => this is AllOf { Parts.Length: 0 };

    public static Presence Text(int slot) => new AnyOf(new Pattern(1UL << (2 * slot), 0));

    public static Presence Link(int slot) => new AnyOf(new Pattern(1UL << ((2 * slot) + 1), 0));

    public static Presence Test(int test) => new AnyOf(new Pattern(0, 1UL << test));

    public static Presence operator |(Presence left, Presence right)
    {
        if (left.IsAlways || right.IsNever) return left;
        if (right.IsAlways || left.IsNever) return right;
        return left is AnyOf one && right is AnyOf other
            ? new AnyOf(new Pattern(one.Bits.Present | other.Bits.Present, one.Bits.Tests | other.Bits.Tests))
            : new Either([left, right]);
    }

    public static Presence operator &(Presence left, Presence right)
    {
        if (left.IsNever || right.IsAlways) return left;
        if (right.IsNever || left.IsAlways) return right;
        return new AllOf([left, right]);
    }

    public static Presence operator !(Presence presence) => presence.IsNever ? Always : presence.IsAlways ? Never : new Opposite(presence);

    /// <summary>True when the piece shows.</summary>
    public abstract bool Holds(Pattern pattern);

    /// <summary>The statement in signs: equal for statements that are put the same way.</summary>
    public abstract string Key { get; }

    private sealed record AnyOf(Pattern Bits) : Presence
    {
        public override bool Holds(Pattern pattern) => ((pattern.Present & Bits.Present) | (pattern.Tests & Bits.Tests)) != 0;

        public override string Key => $"{Bits.Present:x}.{Bits.Tests:x}";
    }

    private sealed record AllOf(ImmutableArray<Presence> Parts) : Presence
    {
        public override bool Holds(Pattern pattern) => Parts.All(part => part.Holds(pattern));

        public override string Key => $"&({string.Join(' ', Parts.Select(part => part.Key))})";
    }

    private sealed record Opposite(Presence Of) : Presence
    {
        public override bool Holds(Pattern pattern) => !Of.Holds(pattern);

        public override string Key => $"!({Of.Key})";
    }

    private sealed record Either(ImmutableArray<Presence> Parts) : Presence
    {
        public override bool Holds(Pattern pattern) => Parts.Any(part => part.Holds(pattern));

        public override string Key => $"|({string.Join(' ', Parts.Select(part => part.Key))})";
    }
}
