using System.Collections.Immutable;
using System.Text.Json;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>A place for a signature in an installed client, and the occasions it covers; the first one decides what goes in.</summary>
public sealed record Slot(string Name, string Label, ImmutableArray<Occasion> Occasions);

/// <summary>How a client comes by the pictures of a signature.</summary>
public enum PictureWay
{
    /// <summary>As files beside the HTML.</summary>
    Files,

    /// <summary>By their address, when the message is read.</summary>
    Linked,

    /// <summary>As parts of the message.</summary>
    Embedded,

    /// <summary>Not at all.</summary>
    None,
}

/// <summary>A class of mail client and what it can hold. Data, read from a JSON profile; never an "if" in code.</summary>
/// <param name="Kind">Stable name.</param>
/// <param name="Name">What people read.</param>
/// <param name="HoldsHtml">False for one that holds plain text alone.</param>
/// <param name="Pictures">How it comes by pictures.</param>
/// <param name="PictureFolder">Folder of picture files beside the HTML, for one that keeps files.</param>
/// <param name="HasTextSeparator">True when the text form begins with the signature separator of RFC 3676.</param>
/// <param name="Slots">Its slots for each account.</param>
public sealed record ClientKind(string Kind, string Name, bool HoldsHtml, PictureWay Pictures, string PictureFolder, bool HasTextSeparator, ImmutableArray<Slot> Slots)
{
    /// <summary>Characters (Unicode code points) of HTML it holds at most, or 0 for any number.</summary>
    public int MaxHtmlCharacters { get; init; }

    /// <summary>Characters of plain text it holds at most, or 0 for any number.</summary>
    public int MaxTextCharacters { get; init; }

    /// <summary>CSS properties that it, or what reads its messages in the same way, passes over.</summary>
    public ImmutableArray<string> Drops { get; init; } = [];

    /// <summary>The shipped desk app profile.</summary>
    public static ClientKind DeskApp { get; } = Load("desk-app");

    /// <summary>Every shipped profile.</summary>
    public static ImmutableArray<ClientKind> All { get; } = [DeskApp, Load("browser-mailbox"), Load("pocket-app"), Load("compose-helper"), Load("relay")];

    /// <summary>True for one that says who will read; for any other the strictest audience is assumed.</summary>
    public bool KnowsAudience { get; init; }

    /// <summary>The shipped profile of that name, or null.</summary>
    public static ClientKind? Find(string kind) => All.FirstOrDefault(profile => profile.Kind == kind);

    /// <summary>How signatures are rendered for this kind.</summary>
    public RenderingForm Form => new(PictureFolder, HasTextSeparator);

    /// <summary>The same where pictures are linked: under this address of the server.</summary>
    public RenderingForm FormAt(string server) => Pictures switch
    {
        PictureWay.Linked => Form with { PictureFolder = server + "/pictures", HasDoublePictures = true },
        PictureWay.Embedded => Form with { EmbedsPictures = true },
        _ => Form,
    };

    /// <summary>The slot that covers an occasion.</summary>
    public Slot SlotFor(Occasion occasion) => Slots.First(slot => slot.Occasions.Contains(occasion));

    private static ClientKind Load(string kind)
    {
        using var profile = typeof(ClientKind).Assembly.GetManifestResourceStream($"Relevo.Core.Clients.Profiles.{kind}.json")
            ?? throw new InvalidOperationException($"The profile of the client kind \"{kind}\" is not in the assembly.");
        return JsonSerializer.Deserialize<ClientKind>(profile, RelevoJson.Options)!;
    }
}
