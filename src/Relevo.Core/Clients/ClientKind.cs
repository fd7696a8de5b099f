using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>A place for a signature in an installed client, and the occasions it covers.</summary>
/// <param name="Name">Stable name; part of the names of files.</param>
/// <param name="Label">What people read.</param>
/// <param name="Occasions">The occasions it covers.</param>
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

/// <summary>How a client is reached.</summary>
public enum ClientWay
{
    /// <summary>An agent on the computer pulls and writes files.</summary>
    Agent,

    /// <summary>Identities of a mailbox are set. Source: RFC 8621 section 6.</summary>
    Identities,

    /// <summary>The device polls a profile of its own.</summary>
    Profile,

    /// <summary>It asks for each message while it is written.</summary>
    Asks,

    /// <summary>Messages pass through it.</summary>
    Passes,
}

/// <summary>A class of mail client and what it can hold. Data, read from a JSON profile; never an "if" in code.</summary>
/// <param name="Format">Always <see cref="FormatName"/>.</param>
/// <param name="Kind">Stable name: small letters, digits and hyphens.</param>
/// <param name="Name">What people read.</param>
/// <param name="HoldsHtml">False for one that holds plain text alone.</param>
/// <param name="Pictures">How it comes by pictures.</param>
/// <param name="Slots">Its slots.</param>
public sealed record ClientKind(string Format, string Kind, string Name, bool HoldsHtml, PictureWay Pictures, ImmutableArray<Slot> Slots)
{
    /// <summary>Stable name of the format of profiles.</summary>
    public const string FormatName = "relevo-client-kind-1";

    private const string Folder = "Relevo.Core.Clients.Profiles.";

    /// <summary>Where it stands among the kinds, in lists.</summary>
    public int Place { get; init; } = 100;

    /// <summary>How it is reached.</summary>
    public ClientWay Reached { get; init; } = ClientWay.Agent;

    /// <summary>Folder of picture files beside the HTML, for one that keeps files.</summary>
    public string PictureFolder { get; init; } = "";

    /// <summary>True when the text form begins with the signature separator of RFC 3676.</summary>
    public bool HasTextSeparator { get; init; }

    /// <summary>Characters (Unicode code points) of HTML it holds at most, or 0 for any number.</summary>
    public int MaxHtmlCharacters { get; init; }

    /// <summary>Characters of plain text it holds at most, or 0 for any number.</summary>
    public int MaxTextCharacters { get; init; }

    /// <summary>CSS properties that it, or what reads its messages in the same way, passes over.</summary>
    public ImmutableArray<string> Drops { get; init; } = [];

    /// <summary>True for one that says who will read; for any other the strictest audience is assumed.</summary>
    public bool KnowsAudience { get; init; }

    /// <summary>True when it keeps rich text (RTF) beside HTML and text.</summary>
    public bool HoldsRtf { get; init; }

    /// <summary>True when it keeps offered signatures and ready answers beside those of its slots.</summary>
    public bool HoldsOffers { get; init; }

    /// <summary>Minutes without a sign of life after which it is silent.</summary>
    public int SilentAfterMinutes { get; init; } = 24 * 60;

    /// <summary>True when it asks for, or is shown, each message by itself, so that no slot stands for several situations.</summary>
    [JsonIgnore]
    public bool IsPerMessage => Reached is ClientWay.Asks or ClientWay.Passes;

    /// <summary>Every shipped profile, in their order.</summary>
    public static ImmutableArray<ClientKind> All { get; } = LoadAll();

    /// <summary>The shipped desk app profile.</summary>
    public static ClientKind DeskApp { get; } = Named("desk-app");

    /// <summary>The shipped profile of that name, or null.</summary>
    public static ClientKind? Find(string kind) => All.FirstOrDefault(profile => profile.Kind == kind);

    /// <summary>The shipped profile of that name; there must be one.</summary>
    public static ClientKind Named(string kind) => Find(kind) ?? throw new InvalidOperationException($"The profile of the client kind \"{kind}\" is not shipped.");

    /// <summary>How signatures are rendered for this kind.</summary>
    [JsonIgnore]
    public RenderingForm Form => new(PictureFolder, HasTextSeparator);

    /// <summary>The same where pictures are linked: under this address of the server.</summary>
    public RenderingForm FormUnder(string server) => Pictures switch
    {
        PictureWay.Linked => Linked(server),
        PictureWay.Embedded => Form with { EmbedsPictures = true },
        _ => Form,
    };

    /// <summary>The form with every picture linked, whatever the kind does by itself.</summary>
    public RenderingForm Linked(string server) => Form with { PictureFolder = server + "/pictures", HasDoublePictures = true };

    /// <summary>The kind as a person fills it by hand: what is pasted cannot bring files along.</summary>
    [JsonIgnore]
    public ClientKind ByHand => this with { Pictures = HoldsHtml ? PictureWay.Linked : PictureWay.None, PictureFolder = "", HoldsRtf = false, HoldsOffers = false };

    /// <summary>The slot that covers an occasion.</summary>
    public Slot SlotFor(Occasion occasion) => Slots.First(slot => slot.Occasions.Contains(occasion));

    /// <summary>Reads a profile and says what is wrong with it: the place as a JSON Pointer (RFC 6901), and why.</summary>
    public static (ClientKind? Kind, ImmutableArray<(string Pointer, string Message)> Problems) Read(ReadOnlySpan<byte> json)
    {
        try
        {
            var kind = JsonSerializer.Deserialize<ClientKind>(json, RelevoJson.Options);
            var problems = kind?.Check() ?? [("", "The profile is empty.")];
            return (problems.IsEmpty ? kind : null, problems);
        }
        catch (Exception unreadable) when (unreadable is JsonException or NotSupportedException)
        {
            return (null, [((unreadable as JsonException)?.Path?.Replace("$", "", StringComparison.Ordinal).Replace('.', '/') ?? "", "This is not the profile of a client kind: " + unreadable.Message)]);
        }
    }

    /// <summary>The published JSON Schema of a profile. Source: JSON Schema 2020-12.</summary>
    public static string Schema() => RelevoJson.Schema(typeof(ClientKind), "A client kind of Relevo", FormatName);

    private ImmutableArray<(string Pointer, string Message)> Check()
    {
        var problems = ImmutableArray.CreateBuilder<(string, string)>();
        if (Format != FormatName) problems.Add(("/format", $"The format is \"{FormatName}\"."));
        if (!IsName(Kind)) problems.Add(("/kind", "The kind is a name of small letters, digits and hyphens."));
        if (string.IsNullOrWhiteSpace(Name)) problems.Add(("/name", "A client kind needs a name."));
        if (Slots.IsEmpty) problems.Add(("/slots", "A client kind needs a slot."));
        for (var index = 0; index < Slots.Length; index++)
        {
            if (!IsName(Slots[index].Name)) problems.Add(($"/slots/{index}/name", "A slot's name is of small letters, digits and hyphens."));
            if (Slots[index].Occasions.IsEmpty) problems.Add(($"/slots/{index}/occasions", "A slot covers at least one occasion."));
        }

        foreach (var occasion in Enum.GetValues<Occasion>())
        {
            if (Slots.Count(slot => slot.Occasions.Contains(occasion)) != 1) problems.Add(("/slots", $"Exactly one slot covers the occasion \"{Words.Of(occasion)}\"."));
        }

        if (MaxHtmlCharacters < 0 || MaxTextCharacters < 0) problems.Add(("", "A length is not negative; 0 is for any number."));
        if (SilentAfterMinutes <= 0) problems.Add(("/silentAfterMinutes", "A client is silent after one minute at the least."));
        if (Pictures == PictureWay.Files != PictureFolder.Length > 0) problems.Add(("/pictureFolder", "A client that keeps picture files names their folder, and no other does."));
        if (!HoldsHtml && (Pictures != PictureWay.None || HoldsRtf)) problems.Add(("/pictures", "A client that holds plain text alone has no pictures and no rich text."));
        return problems.ToImmutable();
    }

    private static bool IsName(string name) => name.Length is > 0 and <= 40 && name.All(letter => char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter) || letter == '-');

    private static ImmutableArray<ClientKind> LoadAll() =>
    [
        .. from resource in typeof(ClientKind).Assembly.GetManifestResourceNames()
           where resource.StartsWith(Folder, StringComparison.Ordinal)
           let kind = Load(resource)
           orderby kind.Place, kind.Kind
           select kind,
    ];

    private static ClientKind Load(string resource)
    {
        using var profile = typeof(ClientKind).Assembly.GetManifestResourceStream(resource)!;
        var bytes = new byte[profile.Length];
        profile.ReadExactly(bytes);
        var (kind, problems) = Read(bytes);
        return kind ?? throw new InvalidOperationException($"The profile {resource} cannot be used: {problems[0].Pointer} {problems[0].Message}");
    }
}
