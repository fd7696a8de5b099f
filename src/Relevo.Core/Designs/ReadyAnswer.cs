using System.Collections.Immutable;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Relevo.Core.People;

namespace Relevo.Core.Designs;

/// <summary>A ready answer written for one account. Html: paragraphs, a fragment.</summary>
public sealed record WrittenAnswer(string Subject, string Text, string Html);

/// <summary>
/// A ready-made text with the subject it suggests. A field's name in braces stands for the value; a line whose fields are all empty disappears, and never
/// leaves two empty lines behind. What stands in braces and is no name of a field's form is text.
/// </summary>
/// <param name="Name">What it is picked by.</param>
/// <param name="Subject">The subject it suggests, or empty for none.</param>
/// <param name="Text">Its lines, ended by LF.</param>
public sealed partial record ReadyAnswer(string Name, string Subject, string Text)
{
    /// <summary>Characters at most of the name, the subject and the text.</summary>
    public const int MaxName = 100, MaxSubject = 200, MaxText = 10_000;

    /// <summary>The fields it shows, in order, without repeats.</summary>
    public IEnumerable<string> Fields => FieldPattern().Matches(Subject + "\n" + Text).Select(match => match.Groups[1].Value).Distinct(StringComparer.Ordinal);

    /// <summary>What is wrong with it, all of it, each with its place.</summary>
    public ImmutableArray<DesignProblem> Check(FieldCatalogue catalogue)
    {
        var problems = ImmutableArray.CreateBuilder<DesignProblem>();
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > MaxName || Name.Any(char.IsControl)) problems.Add(new("/name", "name-length", $"A ready answer needs a name of 1 to {MaxName} characters on one line."));
        if (Subject.Length > MaxSubject || Subject.Any(char.IsControl)) problems.Add(new("/subject", "text-length", $"A subject has at most {MaxSubject} characters on one line."));
        if (string.IsNullOrWhiteSpace(Text) || Text.Length > MaxText) problems.Add(new("/text", "text-length", $"The text has 1 to {MaxText} characters."));
        if (Text.Any(character => char.IsControl(character) && character != '\n')) problems.Add(new("/text", "text-control", "The text holds line breaks and no other control characters."));
        foreach (var (place, text) in new[] { ("/subject", Subject), ("/text", Text) })
        {
            foreach (var field in FieldPattern().Matches(text).Select(match => match.Groups[1].Value).Distinct(StringComparer.Ordinal))
            {
                if (catalogue.Find(field) is not { } known) problems.Add(new(place, "field-unknown", $"There is no field \"{field}\"."));
                else if (known.Kind == FieldKind.Picture) problems.Add(new(place, "field-picture", $"\"{known.Label}\" is a picture and cannot be read as text."));
            }
        }

        return problems.ToImmutable();
    }

    /// <summary>Writes it for one account. values: in catalogue order. The same values give the same text.</summary>
    public WrittenAnswer Write(FieldCatalogue catalogue, ReadOnlySpan<FieldValue> values)
    {
        var named = new Dictionary<string, (FieldValue Value, bool IsWeb)>(StringComparer.Ordinal);
        foreach (var field in Fields) named[field] = catalogue.TryFind(field, out var index) ? (values[index], catalogue.Fields[index].Kind == FieldKind.Web) : (FieldValue.None, false);
        var lines = new List<string>(); // as they were made, those that stay
        foreach (var line in Text.Split('\n').Select(line => line.TrimEnd()))
        {
            var fields = FieldPattern().Matches(line);
            if (fields.Count > 0 && fields.All(match => named[match.Groups[1].Value].Value.IsEmpty)) continue;
            if (line.Length > 0 || (lines.Count > 0 && lines[^1].Length > 0)) lines.Add(line);
        }

        while (lines.Count > 0 && lines[^1].Length == 0) lines.RemoveAt(lines.Count - 1);
        var html = lines.Select(line => Fill(WebUtility.HtmlEncode(line), value => value.Link.Length == 0 ? WebUtility.HtmlEncode(value.Text) : $"<a href=\"{WebUtility.HtmlEncode(value.Link)}\">{WebUtility.HtmlEncode(value.Text)}</a>"));
        return new WrittenAnswer(Plain(Subject).Trim(), string.Concat(lines.Select(line => Plain(line).TrimEnd() + "\n")), Paragraphs(html));

        // A web address is written whole, so that it can be followed.
        string Plain(string text) => FieldPattern().Replace(text, match => named[match.Groups[1].Value] is (var value, true) && value.Link.Length > 0 ? value.Link : named[match.Groups[1].Value].Value.Text);
        string Fill(string text, Func<FieldValue, string> write) => FieldPattern().Replace(text, match => write(named[match.Groups[1].Value].Value)).TrimEnd();
    }

    /// <summary>Paragraphs of lines that are HTML already; an empty line parts two of them.</summary>
    private static string Paragraphs(IEnumerable<string> lines)
    {
        var html = new StringBuilder();
        var isOpen = false;
        foreach (var line in lines)
        {
            if (line.Length == 0)
            {
                if (isOpen) html.Append("</p>");
                isOpen = false;
                continue;
            }

            html.Append(isOpen ? "<br>" : "<p>").Append(line);
            isOpen = true;
        }

        return html.Append(isOpen ? "</p>" : "").ToString();
    }

    [GeneratedRegex(@"\{([A-Za-z][A-Za-z0-9]*)\}", RegexOptions.CultureInvariant)]
    private static partial Regex FieldPattern();
}
