using System.Text;
using MimeKit;
using Relevo.Core.Designs;

namespace Relevo.Core.Clients;

/// <summary>A ready answer as a message that any mail program opens: subject and text, no sender, no date, so that the same answer has the same bytes. Sources: RFC 5322, RFC 2045.</summary>
public static class AnswerMessage
{
    /// <summary>Writes the message in UTF-8 with CRLF.</summary>
    public static ReadOnlyMemory<byte> Write(WrittenAnswer answer)
    {
        var body = new TextPart("plain") { ContentTransferEncoding = ContentEncoding.QuotedPrintable };
        body.SetText(Encoding.UTF8, answer.Text.ReplaceLineEndings("\r\n"));
        var message = new MimeMessage();
        message.Headers.Clear();
        if (answer.Subject.Length > 0) message.Subject = answer.Subject;
        message.Body = body;
        using var written = new MemoryStream();
        message.WriteTo(new FormatOptions { NewLineFormat = NewLineFormat.Dos }, written);
        return written.ToArray();
    }
}
