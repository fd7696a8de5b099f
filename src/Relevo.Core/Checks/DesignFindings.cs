using System.Globalization;
using Relevo.Core.Clients;
using Relevo.Core.Designs;

namespace Relevo.Core.Checks;

/// <summary>What can be said of a design without looking at anybody.</summary>
public static class DesignFindings
{
    private const double Least = 4.5; // to 1; WCAG 2.2 success criterion 1.4.3
    private const int MaxFamilies = 2; // common practice
    private const double LeastForSigns = 3.0; // WCAG 2.2 success criterion 1.4.11
    private const double LeastForLarge = 3.0; // for text of 24 px, or 18.66 px in bold

    /// <summary>Every finding, block by block.</summary>
    public static IEnumerable<Finding> Of(DesignDocument design)
    {
        foreach (var finding in OfColours(design)) yield return finding;
        var families = design.Blocks.Values.OfType<OwnMarkup>().SelectMany(own => own.Clean.Fonts).Append(design.Theme.FontStack.Split(',')[0].Trim('\'', ' ')).Distinct(StringComparer.OrdinalIgnoreCase).ToArray();
        if (families.Length > MaxFamilies) yield return About("", "fonts-many", $"It has {families.Length} font families ({string.Join(", ", families)}); more than {MaxFamilies} look restless.");
        foreach (var (key, block) in design.Blocks)
        {
            var icons = block switch { ContactList { IconSize: > 0 } list => list.Role, LinkRow { IconSize: > 0 } row => row.Role, _ => (TextRole?)null };
            if (icons is { } role && Contrast.Ratio(ColourOf(role, design.Theme.Colours), DarkMail.Ground) is var ratio and < LeastForSigns)
                yield return About(key, "icons-dark", string.Create(CultureInfo.InvariantCulture, $"Its icons have a contrast of {ratio:0.00} to 1 where mail is shown dark, which leaves pictures as they are; {LeastForSigns:0.0} is the least (WCAG 2.2, 1.4.11). Give it a role with a lighter colour."));
            if (block is OwnMarkup own)
            {
                foreach (var removed in own.Clean.Removed) yield return About(key, "markup-removed", "Left out: " + removed);
            }

            if (DesignCheck.FieldsOf(block).Contains("mail"))
                yield return About(key, "own-address", "The sender's own address is in it; every message has it already.");
            foreach (var run in RunsOf(block).Where(run => run.LinkAddress.StartsWith("http://", StringComparison.OrdinalIgnoreCase)))
                yield return About(key, "link-unsecured", $"\"{run.LinkAddress}\" is not secured: http in place of https.");
            foreach (var link in LinksOf(block))
            {
                if (link.Field.Length == 0 && Uri.TryCreate(link.Address, UriKind.Absolute, out var address) && address.AbsolutePath == "/" && block is LinkRow)
                    yield return About(key, "front-page", $"\"{link.Address}\" is a front page; a link in this row should lead to a page of your own.");
            }
        }

        foreach (var (language, texts) in design.Languages)
        {
            foreach (var text in texts.Keys.Except(LiteralTexts.Of(design)))
                yield return About("", "translation-unused", $"\"{text}\" has a form in {language} and stands nowhere in the design.");
        }
    }

    /// <summary>What is to be said of a design among all there are: the one that is to stand in where it is too long may have been renamed or taken out.</summary>
    public static IEnumerable<Finding> Among(DesignDocument design, IEnumerable<DesignDocument> all)
    {
        if (design.Smaller.Length > 0 && (design.Smaller == design.Name || all.All(other => other.Name != design.Smaller)))
            yield return About("", "smaller-gone", $"\"{design.Smaller}\" is to stand in where this is too long, and {(design.Smaller == design.Name ? "that is this design itself" : "no design is called so")}. Choose another beside \"Too long\".");
    }

    /// <summary>What HTML of one's own asks for and a kind of client passes over.</summary>
    public static IEnumerable<Finding> Dropped(DesignDocument design, IEnumerable<ClientKind> kinds)
    {
        var holding = kinds.Where(kind => kind.HoldsHtml).ToArray();
        foreach (var (key, block) in design.Blocks)
        {
            if (block is not OwnMarkup own) continue;
            foreach (var property in own.Clean.Properties)
            {
                var dropping = holding.Where(kind => kind.Drops.Contains(property)).Select(kind => kind.Name).ToArray();
                if (dropping.Length > 0) yield return About(key, "client-drops", $"\"{property}\" is passed over by some that read as a {string.Join(" or a ", dropping)} does; do not rely on it.");
            }
        }
    }

    private static IEnumerable<Finding> OfColours(DesignDocument design)
    {
        var (colours, sizes) = (design.Theme.Colours, design.Theme.Sizes);
        (string Role, string Colour, double Size, bool IsBold)[] roles = [("Name", colours.Name, sizes.Name, true), ("Text", colours.Text, sizes.Text, false), ("Second text", colours.Soft, Math.Min(sizes.Text, sizes.Small), false)];
        foreach (var (role, colour, size, isBold) in roles)
        {
            var least = size >= 24 || (isBold && size >= 18.66) ? LeastForLarge : Least;
            var light = Contrast.Ratio(colour, DarkMail.LightGround);
            if (light < least) yield return About("", "contrast-light", string.Create(CultureInfo.InvariantCulture, $"{role} has a contrast of {light:0.00} to 1 on white; {least:0.0} is the least (WCAG 2.2)."));
            var dark = Contrast.Ratio(DarkMail.Recolour(colour), DarkMail.Ground);
            if (dark < least) yield return About("", "contrast-dark", string.Create(CultureInfo.InvariantCulture, $"{role} has a contrast of {dark:0.00} to 1 where mail is shown dark; {least:0.0} is the least (WCAG 2.2)."));
        }
    }

    private static string ColourOf(TextRole role, ThemeColours colours) => role switch { TextRole.Name => colours.Name, TextRole.Text => colours.Text, _ => colours.Soft };

    private static IEnumerable<LinkItem> LinksOf(Block block) => block switch { LinkRow row => row.Items, Button button => [button.Item], _ => [] };

    private static IEnumerable<Run> RunsOf(Block block) => block is TextLine line ? line.Parts.SelectMany(part => part.Runs) : [];

    private static Finding About(string block, string code, string message) => new(code, message, block, 0, []);
}
