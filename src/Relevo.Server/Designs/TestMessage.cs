using System.Text;
using MimeKit;
using MimeKit.Utils;
using Relevo.Core.Rendering;

namespace Relevo.Server.Designs;

/// <summary>A signature in a real message, as its recipients get it: text beside HTML, pictures inside. Sources: RFC 5322, RFC 2046 section 5.1.4, RFC 2387, RFC 2392.</summary>
internal static class TestMessage
{
    private const string Words = "This message shows how your signature arrives. Follow each of its links once.";

    /// <summary>The message, from somebody to the same.</summary>
    public static MimeMessage Make(ExportedSignature exported, MailboxAddress self, DateTimeOffset at)
    {
        var (signature, pictures) = (exported.Signature, exported.Pictures);
        var text = new TextPart("plain") { Text = $"{Words}\n\n{Encoding.UTF8.GetString(signature.Text.Span)}" };
        var html = new TextPart("html") { Text = $"<!doctype html><html><body><p>{Words}</p>{Encoding.UTF8.GetString(signature.Html.Span)}</body></html>" };
        var related = new MultipartRelated { Root = html };
        foreach (var picture in signature.Pictures.Where(pictures.ContainsKey))
        {
            related.Add(new MimePart("image", "png")
            {
                Content = new MimeContent(new MemoryStream(pictures[picture])),
                ContentId = RenderingForm.ContentId(picture),
                ContentDisposition = new ContentDisposition(ContentDisposition.Inline) { FileName = $"{picture[..Math.Min(12, picture.Length)]}.png" },
                ContentTransferEncoding = ContentEncoding.Base64,
            });
        }

        return new MimeMessage([self], [self], "A test of your signature", new MultipartAlternative(text, related)) { Date = at, MessageId = MimeUtils.GenerateMessageId("relevo.invalid") };
    }
}
