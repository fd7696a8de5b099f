using System.Buffers;
using System.Text;
using System.Text.Unicode;
using Fluid;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Bench;

/// <summary>The same signature, written by hand for this one design: what no general renderer can be expected to beat by much.</summary>
internal sealed class HandWritten
{
    private const string Open = "<table role=\"presentation\" cellpadding=\"0\" cellspacing=\"0\" border=\"0\" style=\"border-collapse:collapse\">";
    private readonly string mark;
    private readonly byte[] head;

    public HandWritten(string mark)
    {
        this.mark = mark;
        head = Encoding.UTF8.GetBytes(Head);
    }

    /// <summary>Everything before the name.</summary>
    private string Head =>
        $"{Open}<tr><td style=\"padding:0\">{Open}<tr><td valign=\"top\" style=\"padding:0\">{Open}<tr><td style=\"padding:0\"><a href=\"https://brackenfold.example/\"><img src=\"pictures/{mark}-64x64.png\" width=\"64\" height=\"64\" border=\"0\" alt=\"Brackenfold\" style=\"border:0;width:64px;height:64px;vertical-align:top\"></a></td></tr></table></td><td valign=\"top\" style=\"padding:0 0 0 16px\">{Open}";

    private static ReadOnlySpan<byte> NameCell => "<tr><td style=\"font-family:Arial, Helvetica, sans-serif;font-size:15px;line-height:22px;font-weight:bold;color:#1f6b52;padding:0\">"u8;

    private static ReadOnlySpan<byte> TextCell => "<tr><td style=\"font-family:Arial, Helvetica, sans-serif;font-size:13px;line-height:19px;color:#23343c;padding:0\">"u8;

    private static ReadOnlySpan<byte> SmallCell => "<tr><td style=\"font-family:Arial, Helvetica, sans-serif;font-size:11px;line-height:16px;color:#556168;padding:0\">"u8;

    private static ReadOnlySpan<byte> Gap => "<tr><td height=\"6\" style=\"padding:0;font-size:6px;line-height:6px\">&nbsp;</td></tr>"u8;

    private static ReadOnlySpan<byte> Rule =>
        "<tr><td style=\"padding:6px 0 0 0;font-size:1px;line-height:1px\">&nbsp;</td></tr><tr><td style=\"padding:0 0 5px 0;border-top:1px solid #d3d9d6;font-size:1px;line-height:1px\">&nbsp;</td></tr>"u8;

    private static ReadOnlySpan<byte> LinkStyle => "\" style=\"color:#23343c;text-decoration:none\">"u8;

    /// <summary>Writes the signature; values are escaped already and all but mobile and post-nominals are there.</summary>
    public int Write(Dictionary<string, object> values, Span<byte> target)
    {
        var at = 0;
        Add(target, ref at, head);
        Add(target, ref at, NameCell);
        Add(target, ref at, values["displayName"]);
        if (values.TryGetValue("postNominals", out var postNominals))
        {
            Add(target, ref at, ", "u8);
            Add(target, ref at, postNominals);
        }

        Add(target, ref at, "</td></tr>"u8);
        Add(target, ref at, TextCell);
        Add(target, ref at, values["title"]);
        Add(target, ref at, ", "u8);
        Add(target, ref at, values["department"]);
        Add(target, ref at, "</td></tr>"u8);
        Add(target, ref at, Gap);
        Contact(target, ref at, "T "u8, values["telephoneLink"], values["telephone"]);
        if (values.TryGetValue("mobile", out var mobile)) Contact(target, ref at, "M "u8, values["mobileLink"], mobile);
        Contact(target, ref at, "W "u8, values["webAddressLink"], values["webAddress"]);
        Add(target, ref at, Rule);
        Add(target, ref at, SmallCell);
        Add(target, ref at, values["organisation"]);
        Add(target, ref at, ", "u8);
        Add(target, ref at, values["location"]);
        Add(target, ref at, "</td></tr></table></td></tr></table></td></tr></table>"u8);
        return at;
    }

    /// <summary>Writes the plain text; values are as they are.</summary>
    public static int WriteText(Dictionary<string, object> values, Span<byte> target)
    {
        var at = 0;
        Add(target, ref at, "-- \n"u8);
        Add(target, ref at, values["displayName"]);
        if (values.TryGetValue("postNominals", out var postNominals))
        {
            Add(target, ref at, ", "u8);
            Add(target, ref at, postNominals);
        }

        Add(target, ref at, "\n"u8);
        Add(target, ref at, values["title"]);
        Add(target, ref at, ", "u8);
        Add(target, ref at, values["department"]);
        Add(target, ref at, "\n\nT "u8);
        Add(target, ref at, values["telephone"]);
        if (values.TryGetValue("mobile", out var mobile))
        {
            Add(target, ref at, "\nM "u8);
            Add(target, ref at, mobile);
        }

        Add(target, ref at, "\nW "u8);
        Add(target, ref at, values["webAddressLink"]);
        Add(target, ref at, "\n------------------------\n"u8);
        Add(target, ref at, values["organisation"]);
        Add(target, ref at, ", "u8);
        Add(target, ref at, values["location"]);
        Add(target, ref at, "\n"u8);
        return at;
    }

    /// <summary>The plain text as a Liquid template.</summary>
    public const string TextTemplate =
        "-- \n{{ displayName }}{% if postNominals %}, {{ postNominals }}{% endif %}\n{{ title }}, {{ department }}\n\nT {{ telephone }}{% if mobile %}\nM {{ mobile }}{% endif %}\nW {{ webAddressLink }}\n------------------------\n{{ organisation }}, {{ location }}\n";

    /// <summary>The same as a Liquid template.</summary>
    public string Template()
    {
        static string Text(ReadOnlySpan<byte> bytes) => Encoding.UTF8.GetString(bytes);
        string Contact(string label, string field) => $"{Text(TextCell)}{label} <a href=\"{{{{ {field}Link }}}}{Text(LinkStyle)}{{{{ {field} }}}}</a></td></tr>";
        return Head + Text(NameCell) + "{{ displayName }}{% if postNominals %}, {{ postNominals }}{% endif %}</td></tr>" + Text(TextCell) + "{{ title }}, {{ department }}</td></tr>" + Text(Gap)
            + Contact("T", "telephone") + "{% if mobile %}" + Contact("M", "mobile") + "{% endif %}" + Contact("W", "webAddress")
            + Text(Rule) + Text(SmallCell) + "{{ organisation }}, {{ location }}</td></tr></table></td></tr></table></td></tr></table>";
    }

    private static void Contact(Span<byte> target, ref int at, ReadOnlySpan<byte> label, object link, object text)
    {
        Add(target, ref at, TextCell);
        Add(target, ref at, label);
        Add(target, ref at, "<a href=\""u8);
        Add(target, ref at, link);
        Add(target, ref at, LinkStyle);
        Add(target, ref at, text);
        Add(target, ref at, "</a></td></tr>"u8);
    }

    private static void Add(Span<byte> target, ref int at, ReadOnlySpan<byte> bytes)
    {
        bytes.CopyTo(target[at..]);
        at += bytes.Length;
    }

    private static void Add(Span<byte> target, ref int at, object text)
    {
        Utf8.FromUtf16((string)text, target[at..], out _, out var written);
        at += written;
    }
}

/// <summary>The same signature through a parsed Fluid (Liquid) template with a reused UTF-8 writer and no encoder: its fastest use.</summary>
internal sealed class FluidReference : IDisposable
{
    private readonly IFluidTemplate template;
    private readonly TemplateOptions options = new();
    private readonly MemoryStream stream = new(8192);
    private readonly StreamWriter writer;

    public FluidReference(string source)
    {
        template = new FluidParser().Parse(source);
        writer = new StreamWriter(stream, new UTF8Encoding(false), 8192);
    }

    /// <summary>The bytes of the last rendering.</summary>
    public ReadOnlySpan<byte> Output => stream.GetBuffer().AsSpan(0, (int)stream.Length);

    public void Dispose() => writer.Dispose();

    public void Render(Dictionary<string, object> values)
    {
        stream.SetLength(0);
        var context = new TemplateContext(values, options);
        template.RenderAsync(writer, NullEncoder.Default, context).AsTask().GetAwaiter().GetResult();
        writer.Flush();
    }
}
