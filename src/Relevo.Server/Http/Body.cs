using System.Text;

namespace Relevo.Server.Http;

/// <summary>Reads small bodies as text.</summary>
public static class Body
{
    /// <summary>Bytes of one design or rule set; the largest demo design has 2 KB.</summary>
    public const int MaxDocumentBytes = 512 * 1024;

    /// <summary>The whole body as UTF-8 text, or null when it is longer than a document may be.</summary>
    public static async Task<string?> ReadTextAsync(HttpRequest request, CancellationToken cancellationToken)
    {
        if (request.ContentLength > MaxDocumentBytes) return null;
        var bytes = new MemoryStream();
        var buffer = new byte[16 * 1024];
        for (int read; (read = await request.Body.ReadAsync(buffer, cancellationToken)) > 0;)
        {
            bytes.Write(buffer, 0, read);
            if (bytes.Length > MaxDocumentBytes) return null;
        }

        return Encoding.UTF8.GetString(bytes.GetBuffer(), 0, (int)bytes.Length);
    }

    /// <summary>The answer to a body that is too long.</summary>
    public static IResult TooLarge() => Problems.Of(
        StatusCodes.Status413PayloadTooLarge, "too-large", $"A document has at most {MaxDocumentBytes / 1024} KiB.", "Take something out of it and send it again.");
}
