using System.Text;
using System.Text.Encodings.Web;

namespace Relevo.StandIns.Directory;

/// <summary>The stand-in directory's control page: makes things happen.</summary>
internal static class DirectoryPages
{
    private static readonly HtmlEncoder Html = HtmlEncoder.Default;

    private static readonly (string Key, string Label, Action<DirectoryTree> Do)[] Events =
    [
        ("ten-join", "Ten people join", tree => tree.TenJoin()),
        ("office-moves", "Uppsala moves to Stockholm", tree => tree.OfficeMoves("Uppsala", "Stockholm")),
        ("marries", "Mia Lindqvist becomes Mia Ekholm", tree => tree.Marries("mia.lindqvist", "Ekholm")),
        ("half-vanish", "Half the people vanish", tree => tree.HalfVanish()),
        ("slow", "It answers slowly", tree => tree.Mood = DirectoryMood.Slow),
        ("busy", "It is too busy", tree => tree.Mood = DirectoryMood.Busy),
        ("drops", "It drops the line half-way", tree => tree.Mood = DirectoryMood.Drops),
        ("empty", "It returns nothing", tree => tree.Mood = DirectoryMood.Empty),
        ("twice", "It sends an entry twice", tree => tree.Mood = DirectoryMood.Twice),
        ("well", "It is well again", tree => tree.Mood = DirectoryMood.Well),
        ("restore", "As in the beginning", tree => tree.Restore()),
    ];

    public static void Map(WebApplication application, DirectoryTree tree, int port)
    {
        application.MapGet("/directory", () => DeskAppPages.Page("Stand-in directory", Page(tree, port)));
        application.MapPost("/directory/{key}", (string key) =>
        {
            if (Array.Find(Events, candidate => candidate.Key == key) is not { Key: not null } chosen) return Results.NotFound();
            chosen.Do(tree);
            return Results.Redirect("/directory");
        });
    }

    private static string Page(DirectoryTree tree, int port)
    {
        var buttons = new StringBuilder();
        foreach (var (key, label, _) in Events) buttons.Append($"<form method=\"post\" action=\"/directory/{key}\"><button>{Html.Encode(label)}</button></form>");
        var people = tree.Entries.Count(entry => entry.IsPerson);
        return $"""
            <nav><a href="/">Desk apps</a></nav><h1>Stand-in directory</h1><p>It holds {people} people and is {Mood(tree.Mood)}. Add it in Relevo as a directory server:</p>
            <dl><dt>Server</dt><dd>127.0.0.1, port {port}, not secured</dd><dt>Bind</dt><dd>{Html.Encode(LdapServer.BindName)}</dd><dt>Secret</dt><dd>{Html.Encode(LdapServer.Secret)}</dd>
            <dt>Base</dt><dd>dc=brackenfold,dc=example</dd><dt>Filter</dt><dd>(objectClass=inetOrgPerson)</dd></dl><p></p>{buttons}
            """;
    }

    private static string Mood(DirectoryMood mood) => mood switch
    {
        DirectoryMood.Slow => "slow",
        DirectoryMood.Busy => "too busy",
        DirectoryMood.Drops => "dropping the line half-way",
        DirectoryMood.Empty => "returning nothing",
        DirectoryMood.Twice => "sending its first entry twice",
        _ => "well",
    };
}
