using Relevo.Core.People;

namespace Relevo.Core.Designs;

/// <summary>What an icon of the project's own set stands for. Each is a drawing in Relevo.Imaging.</summary>
public enum IconKind
{
    /// <summary>A page or a site.</summary>
    Web,

    /// <summary>A channel of films.</summary>
    Video,

    /// <summary>A feed of pictures.</summary>
    Photos,

    /// <summary>Short posts.</summary>
    Posts,

    /// <summary>A professional profile.</summary>
    Profession,

    /// <summary>Source code.</summary>
    Code,

    /// <summary>A podcast.</summary>
    Podcast,

    /// <summary>A calendar in which readers book a time.</summary>
    Booking,

    /// <summary>A place on a map.</summary>
    Map,

    /// <summary>A chat.</summary>
    Chat,

    /// <summary>A telephone.</summary>
    Telephone,

    /// <summary>A mobile telephone.</summary>
    Mobile,

    /// <summary>A mail address.</summary>
    Mail,

    /// <summary>A postal address.</summary>
    Address,
}

/// <summary>Which icon goes with a field.</summary>
public static class Icons
{
    private static readonly HashSet<string> Places = ["street", "postalCode", "location", "country"];

    /// <summary>What a link's icon is made of: its own picture, or the icon of its field's kind in a colour.</summary>
    public static string SourceOf(LinkItem item, FieldCatalogue catalogue, string colour) =>
        item.Icon.Length > 0 ? item.Icon : PictureCut.IconSource(catalogue.Find(item.Field) is { } field ? Of(field) : IconKind.Web, colour);

    /// <summary>The icon of a field.</summary>
    public static IconKind Of(Field field) => field switch
    {
        { Profile: { } profile } => Enum.Parse<IconKind>(profile.ToString()),
        { Name: "mobile" } => IconKind.Mobile,
        { Kind: FieldKind.Phone } => IconKind.Telephone,
        { Kind: FieldKind.Mail } => IconKind.Mail,
        { } place when Places.Contains(place.Name) => IconKind.Address,
        _ => IconKind.Web,
    };
}
