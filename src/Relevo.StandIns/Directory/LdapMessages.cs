using System.Collections.Immutable;
using System.Formats.Asn1;
using System.Text;
using Relevo.Core.People.Formats;

namespace Relevo.StandIns.Directory;

/// <summary>What a client asks.</summary>
internal abstract record LdapRequest(int MessageId);

/// <summary>A simple bind.</summary>
internal sealed record BindRequest(int MessageId, string Name, string Secret) : LdapRequest(MessageId);

/// <summary>A search. PageSize 0: not paged.</summary>
internal sealed record SearchRequest(int MessageId, string BaseName, int Scope, LdapFilter Filter, ImmutableArray<string> Attributes, int PageSize, string Cookie) : LdapRequest(MessageId);

/// <summary>The end.</summary>
internal sealed record UnbindRequest(int MessageId) : LdapRequest(MessageId);

/// <summary>Anything else. Tag: the application tag its answer has.</summary>
internal sealed record OtherRequest(int MessageId, int AnswerTag) : LdapRequest(MessageId);

/// <summary>Reads and writes the few messages the stand-in knows. Source: RFC 4511 section 4 and appendix B; paging: RFC 2696.</summary>
internal static class LdapMessages
{
    private const string PagingOid = "1.2.840.113556.1.4.319";
    private static readonly Asn1Tag Referrals = new(TagClass.ContextSpecific, 0, isConstructed: true);

    /// <summary>Reads one whole message.</summary>
    public static LdapRequest Read(ReadOnlyMemory<byte> bytes)
    {
        var message = new AsnReader(bytes, AsnEncodingRules.BER).ReadSequence();
        var id = (int)message.ReadInteger();
        var tag = message.PeekTag();
        switch (tag.TagValue)
        {
            case 0:
                var bind = message.ReadSequence(tag);
                bind.ReadInteger();
                var name = Text(bind.ReadOctetString());
                return new BindRequest(id, name, bind.PeekTag().TagValue == 0 ? Text(bind.ReadOctetString(new Asn1Tag(TagClass.ContextSpecific, 0))) : "");
            case 2:
                return new UnbindRequest(id);
            case 3:
                return ReadSearch(id, message);
            default:
                return new OtherRequest(id, tag.TagValue + 1);
        }
    }

    /// <summary>A result: tag 1 for a bind, 5 for a search's end. cookie: the paging control's, null for none.</summary>
    public static byte[] Result(int id, int tag, int code, string text, string? cookie = null) => Message(id, writer =>
    {
        using (writer.PushSequence(new Asn1Tag(TagClass.Application, tag, isConstructed: true)))
        {
            writer.WriteEnumeratedValue((ResultCode)code);
            writer.WriteOctetString([]);
            writer.WriteOctetString(Encoding.UTF8.GetBytes(text));
        }

        if (cookie is null) return;
        using (writer.PushSequence(Referrals))
        using (writer.PushSequence())
        {
            writer.WriteOctetString(Encoding.ASCII.GetBytes(PagingOid));
            var value = new AsnWriter(AsnEncodingRules.BER);
            using (value.PushSequence())
            {
                value.WriteInteger(0);
                value.WriteOctetString(Encoding.ASCII.GetBytes(cookie));
            }

            writer.WriteOctetString(value.Encode());
        }
    });

    /// <summary>An entry with the attributes that were asked for; all of them when none were named.</summary>
    public static byte[] Entry(int id, DirectoryEntry entry, ImmutableArray<string> attributes) => Message(id, writer =>
    {
        using (writer.PushSequence(new Asn1Tag(TagClass.Application, 4, isConstructed: true)))
        {
            writer.WriteOctetString(Encoding.UTF8.GetBytes(entry.Name));
            using (writer.PushSequence())
            {
                foreach (var group in entry.Values.GroupBy(pair => pair.Key, StringComparer.OrdinalIgnoreCase))
                {
                    if (!attributes.IsEmpty && !attributes.Contains("*") && !attributes.Contains(group.Key, StringComparer.OrdinalIgnoreCase)) continue;
                    using (writer.PushSequence())
                    {
                        writer.WriteOctetString(Encoding.UTF8.GetBytes(group.Key));
                        using (writer.PushSetOf())
                        {
                            foreach (var pair in group) writer.WriteOctetString(Encoding.UTF8.GetBytes(pair.Value));
                        }
                    }
                }
            }
        }
    });

    private static SearchRequest ReadSearch(int id, AsnReader message)
    {
        var search = message.ReadSequence(message.PeekTag());
        var name = Text(search.ReadOctetString());
        var scope = (int)search.ReadEnumeratedValue<SearchScope>();
        search.ReadEnumeratedValue<ResultCode>();
        search.ReadInteger();
        search.ReadInteger();
        search.ReadBoolean();
        var filter = ReadFilter(search);
        var attributes = ImmutableArray.CreateBuilder<string>();
        for (var list = search.ReadSequence(); list.HasData;) attributes.Add(Text(list.ReadOctetString()));
        var (size, cookie) = message.HasData ? ReadPaging(message.ReadSequence(Referrals)) : (0, "");
        return new SearchRequest(id, name, scope, filter, attributes.ToImmutable(), size, cookie);
    }

    private static (int Size, string Cookie) ReadPaging(AsnReader controls)
    {
        while (controls.HasData)
        {
            var control = controls.ReadSequence();
            var oid = Text(control.ReadOctetString());
            if (control.HasData && control.PeekTag() == Asn1Tag.Boolean) control.ReadBoolean();
            if (oid != PagingOid || !control.HasData) continue;
            var value = new AsnReader(control.ReadOctetString(), AsnEncodingRules.BER).ReadSequence();
            return ((int)value.ReadInteger(), Text(value.ReadOctetString()));
        }

        return (0, "");
    }

    private static LdapFilter ReadFilter(AsnReader reader)
    {
        var tag = reader.PeekTag();
        switch (tag.TagValue)
        {
            case 0 or 1:
                var inner = ImmutableArray.CreateBuilder<LdapFilter>();
                for (var set = reader.ReadSetOf(skipSortOrderValidation: true, tag); set.HasData;) inner.Add(ReadFilter(set));
                return tag.TagValue == 0 ? new AllOf(inner.ToImmutable()) : new AnyOf(inner.ToImmutable());
            case 2:
                return new NoneOf(ReadFilter(reader.ReadSequence(tag)));
            case 4:
                return ReadSubstrings(reader.ReadSequence(tag));
            case 7:
                return new Present(Text(reader.ReadOctetString(tag)));
            case 9:
                reader.ReadSequence(tag);
                return new Extensible("", "");
            default:
                var assertion = reader.ReadSequence(tag);
                var (attribute, value) = (Text(assertion.ReadOctetString()), Text(assertion.ReadOctetString()));
                return tag.TagValue is 5 or 6 ? new Ordered(attribute, value, tag.TagValue == 5) : new Equal(attribute, value);
        }
    }

    private static Substrings ReadSubstrings(AsnReader sequence)
    {
        var attribute = Text(sequence.ReadOctetString());
        var (initial, middle, final) = ("", new List<string>(), "");
        for (var parts = sequence.ReadSequence(); parts.HasData;)
        {
            var tag = parts.PeekTag();
            var text = Text(parts.ReadOctetString(tag));
            if (tag.TagValue == 0) initial = text;
            else if (tag.TagValue == 1) middle.Add(text);
            else final = text;
        }

        return new Substrings(attribute, [initial, .. middle, final]);
    }

    private static byte[] Message(int id, Action<AsnWriter> write)
    {
        var writer = new AsnWriter(AsnEncodingRules.BER);
        using (writer.PushSequence())
        {
            writer.WriteInteger(id);
            write(writer);
        }

        return writer.Encode();
    }

    private static string Text(byte[] bytes) => Encoding.UTF8.GetString(bytes);

    private enum ResultCode
    {
        Success,
    }

    private enum SearchScope
    {
        Base,
    }
}
