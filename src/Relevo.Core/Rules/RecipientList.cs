using System.Collections.Immutable;
using MimeKit;

namespace Relevo.Core.Rules;

/// <summary>The recipients of a message, read from what stands in its header. Source: RFC 5322 section 3.4.</summary>
/// <param name="Addresses">Every address, those in groups too, in order.</param>
/// <param name="Trouble">What is wrong with the list, as a phrase, or empty. Then nothing of it is used.</param>
public sealed record RecipientList(ImmutableArray<string> Addresses, string Trouble)
{
    /// <summary>Recipients at most; a longer list is cut there, which can only make it stricter, because a cut list counts as read by outsiders.</summary>
    public const int MaxRecipients = 10_000;

    private static readonly ParserOptions Options = new()
    {
        AddressParserComplianceMode = RfcComplianceMode.Strict,
        AllowAddressesWithoutDomain = false,
        AllowUnquotedCommasInAddresses = false,
    };

    /// <summary>Nobody.</summary>
    public static RecipientList Nobody { get; } = new([], "");

    /// <summary>Reads a list of addresses: display names, comments, groups, quoted local parts. Never throws.</summary>
    public static RecipientList Read(string? text)
    {
        if (string.IsNullOrWhiteSpace(text)) return Nobody;
        try
        {
            var list = InternetAddressList.Parse(Options, text);
            var addresses = list.Mailboxes.Select(mailbox => mailbox.Address).ToImmutableArray();
            return addresses.Length > MaxRecipients ? new([], $"more than {MaxRecipients} recipients") : new(addresses, "");
        }
        catch (ParseException unreadable)
        {
            return new([], $"it cannot be read at character {unreadable.ErrorIndex + 1}");
        }
    }
}
