using Relevo.Core.Rules;

namespace Relevo.Core.Rendering;

/// <summary>What a design's conditions may ask beside a person's fields. Audience: one of <see cref="Audiences"/>.</summary>
public readonly record struct Circumstances(Occasion Occasion, string Audience)
{
    /// <summary>A new message to readers nobody knows.</summary>
    public static Circumstances Plain { get; } = new(Occasion.New, Audiences.Outside);

    /// <summary>A message of this occasion to readers nobody knows.</summary>
    public static Circumstances Of(Occasion occasion) => new(occasion, Audiences.Outside);
}
