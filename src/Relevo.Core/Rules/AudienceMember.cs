using System.Collections.Immutable;
using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;

namespace Relevo.Core.Rules;

/// <summary>How a member of an audience is compared.</summary>
public enum AudienceMemberKind
{
    /// <summary>A whole address.</summary>
    Address,

    /// <summary>A domain.</summary>
    Domain,

    /// <summary>Every domain below one.</summary>
    Subdomains,

    /// <summary>Addresses of a form, with * for any run of characters.</summary>
    Pattern,
}

/// <summary>A member made ready to be compared: in small letters, its domain in ASCII.</summary>
public sealed record AudienceMember(AudienceMemberKind Kind, string Text)
{
    /// <summary>Reads a member; null for what is none: no domain, an address without its own part, a star inside a domain that is not ASCII.</summary>
    public static AudienceMember? Read(string member)
    {
        var text = member.Trim();
        var at = text.LastIndexOf('@');
        var (local, domain) = at < 0 ? ("", text) : (text[..at].ToLowerInvariant(), text[(at + 1)..]);
        if (at == 0 || local.Any(character => char.IsControl(character) || char.IsWhiteSpace(character))) return null;
        if (at < 0 && domain.StartsWith("*.", StringComparison.Ordinal) && !domain[2..].Contains('*', StringComparison.Ordinal))
            return MailDomain.ToAscii(domain[2..]) is { } parent ? new(AudienceMemberKind.Subdomains, parent) : null;
        if (!text.Contains('*', StringComparison.Ordinal))
            return MailDomain.ToAscii(domain) is not { } whole ? null : at < 0 ? new(AudienceMemberKind.Domain, whole) : new(AudienceMemberKind.Address, $"{local}@{whole}");
        // A star may stand for any part of a label, so the rest must be one that can be compared as it is.
        var compared = domain.Contains('*', StringComparison.Ordinal) ? (MailDomain.ToAscii(domain.Replace('*', 'x')) is null || !System.Text.Ascii.IsValid(domain) ? null : domain.ToLowerInvariant()) : MailDomain.ToAscii(domain);
        return compared is null ? null : new(AudienceMemberKind.Pattern, $"{(at < 0 ? "*" : local)}@{compared}");
    }

    /// <summary>
    /// Reads members from a table: the first column of each row, a first row that is none being the heading. One faulty line, and nothing is taken: what is
    /// missing would be found out by its readers.
    /// </summary>
    public static (ImmutableArray<string> Members, ImmutableArray<RuleProblem> Problems) ReadTable(TextReader table)
    {
        var members = ImmutableArray.CreateBuilder<string>();
        var problems = ImmutableArray.CreateBuilder<RuleProblem>();
        using var reader = new CsvParser(table, new CsvConfiguration(CultureInfo.InvariantCulture) { BadDataFound = null, DetectDelimiter = false, IgnoreBlankLines = true });
        for (var row = 0; reader.Read(); row++)
        {
            var text = reader.Record is [var first, ..] ? first.Trim() : "";
            if (text.Length == 0) continue;
            if (Read(text) is not null && (text.Contains('.', StringComparison.Ordinal) || row > 0)) members.Add(text);
            else if (row > 0) problems.Add(new("", "member-form", $"\"{text}\" is neither an address nor a domain.") { Line = reader.RawRow });
        }

        return (problems.Count > 0 ? [] : members.ToImmutable(), problems.ToImmutable());
    }
}
