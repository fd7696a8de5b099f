using System.Collections.Immutable;
using System.Text.RegularExpressions;
using Markdig;
using Markdig.Syntax;
using Markdig.Syntax.Inlines;

namespace Relevo.Core.Designs;

/// <summary>
/// Text with emphasis, links and fields as people type it: **bold**, *italic*, [words](https://address), {field}. Source: CommonMark 0.31.2, inlines and paragraphs; read by
/// the package Markdig. Anything else of CommonMark is read as the text it holds; HTML is text.
/// </summary>
public static partial class RichText
{
    private static readonly MarkdownPipeline Pipeline = new MarkdownPipelineBuilder().DisableHtml().DisableHeadings().Build();

    /// <summary>The lines of a text, each a part whose pieces stand or fall with their fields. Every line break begins a new line; empty lines are passed over.</summary>
    public static ImmutableArray<Part> Lines(string text)
    {
        var lines = ImmutableArray.CreateBuilder<Part>();
        foreach (var block in Markdown.Parse(text, Pipeline).Descendants<LeafBlock>())
        {
            var runs = new List<Run>();
            if (block.Inline is { } inlines) Add(inlines, new LiteralRun(""), runs, lines);
            else Literal(block.Lines.ToString(), new LiteralRun(""), runs);
            End(runs, lines);
        }

        return lines.ToImmutable();
    }

    /// <summary>The fields a text shows, in order, without repeats.</summary>
    public static IEnumerable<string> Fields(string text) => Lines(text).SelectMany(line => line.Runs).SelectMany(run => run.Mentions).Distinct(StringComparer.Ordinal);

    private static void Add(ContainerInline inlines, LiteralRun like, List<Run> runs, ImmutableArray<Part>.Builder lines)
    {
        foreach (var inline in inlines)
        {
            switch (inline)
            {
                case LineBreakInline:
                    End(runs, lines);
                    break;
                case LiteralInline literal:
                    Literal(literal.Content.ToString(), like, runs);
                    break;
                case EmphasisInline emphasis:
                    Add(emphasis, emphasis.DelimiterCount >= 2 ? like with { IsBold = true } : like with { IsItalic = true }, runs, lines);
                    break;
                case LinkInline { IsImage: false, Url: { } address } link:
                    Add(link, like with { LinkAddress = address }, runs, lines);
                    break;
                case AutolinkInline auto:
                    Literal(auto.Url, like with { LinkAddress = auto.IsEmail ? "" : auto.Url }, runs);
                    break;
                case CodeInline code:
                    Literal(code.Content, like, runs);
                    break;
                case HtmlEntityInline entity:
                    Literal(entity.Transcoded.ToString(), like, runs);
                    break;
                case ContainerInline container:
                    Add(container, like, runs, lines);
                    break;
            }
        }
    }

    private static void Literal(string text, LiteralRun like, List<Run> runs)
    {
        var at = 0;
        foreach (Match field in FieldPattern().Matches(text))
        {
            Text(text[at..field.Index]);
            runs.Add(new FieldRun(field.Groups[1].Value) { IsBold = like.IsBold, IsItalic = like.IsItalic, LinkAddress = like.LinkAddress });
            at = field.Index + field.Length;
        }

        Text(text[at..]);

        void Text(string piece)
        {
            if (piece.Length > 0) runs.Add(like with { Text = piece });
        }
    }

    private static void End(List<Run> runs, ImmutableArray<Part>.Builder lines)
    {
        if (runs.Count > 0) lines.Add(new Part([.. runs]));
        runs.Clear();
    }

    [GeneratedRegex(@"\{([A-Za-z][A-Za-z0-9]*)\}", RegexOptions.CultureInvariant)]
    private static partial Regex FieldPattern();
}
