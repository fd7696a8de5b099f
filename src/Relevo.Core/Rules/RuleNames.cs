namespace Relevo.Core.Rules;

/// <summary>What people read for the things that rules name; each gives null for one that is gone.</summary>
/// <param name="Design">A design's name.</param>
/// <param name="Disclaimer">A disclaimer's name.</param>
/// <param name="Banner">A banner's name.</param>
/// <param name="Audience">An audience's name, by key.</param>
/// <param name="Person">A person's name.</param>
/// <param name="Field">A field's label.</param>
public sealed record RuleNames(
    Func<Guid, string?> Design, Func<Guid, string?> Disclaimer, Func<Guid, string?> Banner, Func<string, string?> Audience, Func<Guid, string?> Person, Func<string, string?> Field);
