namespace Relevo.Core.Rendering;

/// <summary>What a signature adds to a message.</summary>
public static class Weight
{
    private const int LineLength = 76; // characters of base64 in a line; RFC 2045 section 6.8

    /// <summary>Bytes of base64 for so many bytes, with a line break of two after each line.</summary>
    public static int Base64(int bytes)
    {
        var characters = (bytes + 2) / 3 * 4;
        return characters + ((characters + LineLength - 1) / LineLength * 2);
    }
}
