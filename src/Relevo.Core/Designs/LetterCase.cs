using Relevo.Core.People.Sources;

namespace Relevo.Core.Designs;

/// <summary>How the letters of a value are written, whatever the directory has.</summary>
public enum LetterCase : byte
{
    /// <summary>As the value has them.</summary>
    AsItIs,

    /// <summary>CAPITALS.</summary>
    Capitals,

    /// <summary>small letters.</summary>
    Small,

    /// <summary>As names are written, see <see cref="NameCase"/>.</summary>
    Names,
}

/// <summary>Writes values in a case.</summary>
internal static class LetterCases
{
    /// <summary>The text in that case, never longer than it was: letter by letter, by no language's own rules (Unicode's simple case mapping).</summary>
    public static string Apply(string text, LetterCase letters) => letters switch
    {
        LetterCase.Capitals => text.ToUpperInvariant(),
        LetterCase.Small => text.ToLowerInvariant(),
        LetterCase.Names when NameCase.Apply(text) is { } named && named.Length <= text.Length => named,
        _ => text,
    };
}
