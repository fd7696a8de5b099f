using System.Security.Cryptography;
using System.Text;

namespace Relevo.Server.Rollout;

/// <summary>Tokens of clients and codes that make them.</summary>
public static class Tokens
{
    private const int TokenBytes = 32; // 256 bits of randomness; guessing is out of the question
    private const int CodeLetters = 16; // of 32 letters: 80 bits, for a code that is good once and for days
    private const string Letters = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"; // none that is read as another

    /// <summary>A new token as text, and its hash as it is kept.</summary>
    public static (string Token, byte[] Hash) New()
    {
        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(TokenBytes));
        return (token, Hash(token));
    }

    /// <summary>A new code that people can read and type, and its hash.</summary>
    public static (string Code, byte[] Hash) NewCode()
    {
        var code = string.Join('-', RandomNumberGenerator.GetString(Letters, CodeLetters).Chunk(4).Select(part => new string(part)));
        return (code, Hash(code));
    }

    /// <summary>SHA-256 of a token or code; a fast hash is right for what is random.</summary>
    public static byte[] Hash(string token) => SHA256.HashData(Encoding.UTF8.GetBytes(token));
}
