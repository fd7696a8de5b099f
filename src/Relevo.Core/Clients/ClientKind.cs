using System.Collections.Immutable;
using System.Text.Json;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>A place for a signature in an installed client, and the occasions it covers; the first one decides what goes in.</summary>
public sealed record Slot(string Name, string Label, ImmutableArray<Occasion> Occasions);

/// <summary>A class of mail client and what it can hold. Data, read from a JSON profile; never an "if" in code.</summary>
/// <param name="Kind">Stable name.</param>
/// <param name="Name">What people read.</param>
/// <param name="PictureFolder">Folder of picture files beside the HTML.</param>
/// <param name="HasTextSeparator">True when the text form begins with the signature separator of RFC 3676.</param>
/// <param name="Slots">Its slots for each account.</param>
public sealed record ClientKind(string Kind, string Name, string PictureFolder, bool HasTextSeparator, ImmutableArray<Slot> Slots)
{
    /// <summary>The shipped desk app profile.</summary>
    public static ClientKind DeskApp { get; } = Load("desk-app");

    /// <summary>How signatures are rendered for this kind.</summary>
    public RenderingForm Form => new(PictureFolder, HasTextSeparator);

    /// <summary>The slot that covers an occasion.</summary>
    public Slot SlotFor(Occasion occasion) => Slots.First(slot => slot.Occasions.Contains(occasion));

    private static ClientKind Load(string kind)
    {
        using var profile = typeof(ClientKind).Assembly.GetManifestResourceStream($"Relevo.Core.Clients.Profiles.{kind}.json")
            ?? throw new InvalidOperationException($"The profile of the client kind \"{kind}\" is not in the assembly.");
        return JsonSerializer.Deserialize<ClientKind>(profile, RelevoJson.Options)!;
    }
}
