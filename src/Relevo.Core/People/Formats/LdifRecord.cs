using System.Collections.Immutable;
using System.Text;

namespace Relevo.Core.People.Formats;

/// <summary>How a value was written in the file. Source: RFC 2849, "value-spec".</summary>
public enum LdifValueKind
{
    /// <summary><c>attr: value</c>.</summary>
    Text,

    /// <summary><c>attr:: base64</c>.</summary>
    Base64,

    /// <summary><c>attr:&lt; url</c>; the bytes are the address, which Relevo never fetches.</summary>
    Url,
}

/// <summary>One attribute value of an entry, as bytes, with the physical line (from 1) it starts on. The values of a record share its memory.</summary>
/// <param name="Attribute">Attribute type as written, without options.</param>
/// <param name="Options">Attribute options in their order, for example <c>lang-ja</c>.</param>
/// <param name="Bytes">The value after unfolding and base64; for <see cref="LdifValueKind.Url"/> the address.</param>
/// <param name="Kind">How it was written.</param>
/// <param name="Line">Line number in the file, from 1.</param>
public readonly record struct LdifValue(string Attribute, ImmutableArray<string> Options, ReadOnlyMemory<byte> Bytes, LdifValueKind Kind, long Line)
{
    /// <summary>The attribute with its options, as written before the colon.</summary>
    public string Description => Options.IsEmpty ? Attribute : Attribute + ";" + string.Join(';', Options);

    /// <summary>The value as text. Returns false when the bytes are not UTF-8.</summary>
    public bool TryGetText(out string text)
    {
        try
        {
            text = StrictUtf8.GetString(Bytes.Span);
            return true;
        }
        catch (DecoderFallbackException)
        {
            text = "";
            return false;
        }
    }

    private static readonly UTF8Encoding StrictUtf8 = new(encoderShouldEmitUTF8Identifier: false, throwOnInvalidBytes: true);
}

/// <summary>A control of a change record. Source: RFC 2849, "control".</summary>
public sealed record LdifControl(string ObjectIdentifier, bool? Criticality, ReadOnlyMemory<byte>? Value);

/// <summary>One step of a modify record.</summary>
/// <param name="Operation"><c>add</c>, <c>delete</c> or <c>replace</c>.</param>
/// <param name="Attribute">The attribute description it works on.</param>
/// <param name="Values">The values, possibly none.</param>
public sealed record LdifModification(string Operation, string Attribute, ImmutableArray<LdifValue> Values);

/// <summary>One record of an LDIF file: an entry's content or a change to one.</summary>
/// <param name="DistinguishedName">The name after <c>dn:</c>.</param>
/// <param name="Line">Line of <c>dn:</c>, from 1.</param>
public abstract record LdifRecord(string DistinguishedName, long Line);

/// <summary>An entry with its values, in file order. Source: RFC 2849, "attrval-record".</summary>
public sealed record LdifEntry(string DistinguishedName, long Line, ImmutableArray<LdifValue> Values) : LdifRecord(DistinguishedName, Line);

/// <summary>A change record. Source: RFC 2849, "change-record".</summary>
/// <param name="DistinguishedName">The name after <c>dn:</c>.</param>
/// <param name="Line">Line of <c>dn:</c>.</param>
/// <param name="ChangeType"><c>add</c>, <c>delete</c>, <c>modify</c>, <c>modrdn</c> or <c>moddn</c>.</param>
/// <param name="Controls">Controls before the change type.</param>
/// <param name="Values">For <c>add</c> the entry's values; for a rename its <c>newrdn</c>, <c>deleteoldrdn</c>, <c>newsuperior</c> lines.</param>
/// <param name="Modifications">For <c>modify</c> the steps.</param>
public sealed record LdifChange(
    string DistinguishedName,
    long Line,
    string ChangeType,
    ImmutableArray<LdifControl> Controls,
    ImmutableArray<LdifValue> Values,
    ImmutableArray<LdifModification> Modifications) : LdifRecord(DistinguishedName, Line);

/// <summary>Something in the file that cannot be read.</summary>
/// <param name="Line">Line number, from 1.</param>
/// <param name="Message">A sentence for the administrator: what is wrong, without the line number.</param>
public sealed record LdifProblem(long Line, string Message);

/// <summary>What the reader yields: a record or a problem, never both.</summary>
public readonly record struct LdifItem(LdifRecord? Record, LdifProblem? Problem);
