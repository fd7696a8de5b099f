using System.Collections.Immutable;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Relevo.Core.People;

namespace Relevo.Core.Checks;

/// <summary>A link in a message. Trouble: what is wrong with its form, as a sentence, or empty.</summary>
/// <param name="Words">What is read, or the text that stands for its picture.</param>
/// <param name="Address">Where it leads.</param>
/// <param name="Trouble">What is wrong, or empty.</param>
public sealed record LinkLine(string Words, string Address, string Trouble);

/// <summary>Every link of a message with its form looked at; nothing is followed.</summary>
public static class LinkReport
{
    private static readonly string[] Schemes = ["https", "http", "mailto", "tel"];

    /// <summary>The links in the order they stand. Sources: RFC 3986 (form), RFC 6068 (mailto), RFC 3966 (tel).</summary>
    public static ImmutableArray<LinkLine> Of(string html) =>
        [.. new HtmlParser().ParseDocument(html).QuerySelectorAll("a[href]").Select(link => Line(link, link.GetAttribute("href") ?? ""))];

    private static LinkLine Line(IElement link, string address)
    {
        var words = link.TextContent.Trim() is { Length: > 0 } text ? text : link.QuerySelector("img")?.GetAttribute("alt") ?? "";
        return new LinkLine(words, address, Trouble(words, address));
    }

    private static string Trouble(string words, string address)
    {
        if (!Uri.TryCreate(address, UriKind.Absolute, out var parsed)) return "It is no whole address.";
        if (!Schemes.Contains(parsed.Scheme)) return $"\"{parsed.Scheme}:\" is no kind of address that mail leads to.";
        if (words.Length == 0) return "It has no words, and no text that stands for its picture.";
        return parsed.Scheme switch
        {
            "mailto" => FieldValue.From(Uri.UnescapeDataString(address["mailto:".Length..].Split('?')[0]), FieldKind.Mail).Link.Length > 0 ? "" : "It leads to no mail address.",
            "tel" => address.Length > "tel:".Length && address["tel:".Length] == '+' ? "" : "The number has no country code, so it is only right in one country.",
            "http" => "It is not secured: http in place of https.",
            _ => parsed.Host.Contains('.', StringComparison.Ordinal) ? "" : $"\"{parsed.Host}\" is a name that only your own network knows.",
        };
    }
}
