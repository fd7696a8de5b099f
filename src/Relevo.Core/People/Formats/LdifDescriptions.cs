using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.RegularExpressions;

namespace Relevo.Core.People.Formats;

/// <summary>An attribute and its options as they stand before the colon. Source: RFC 2849, "AttributeDescription".</summary>
internal sealed record LdifDescription(string Attribute, ImmutableArray<string> Options);

/// <summary>
/// The descriptions of a file, each taken apart once: files repeat the same few for every entry, and mostly on the same line of it, so that is where each is looked for
/// first. For one reading at a time.
/// </summary>
internal sealed partial class LdifDescriptions
{
    private const int MaxKept = 1000; // descriptions; a schema has a few hundred
    private const int Lines = 64; // of a record whose guesses are kept

    private readonly (byte[] Written, LdifDescription Known)?[] guesses = new (byte[], LdifDescription)?[Lines];
    private readonly Dictionary<string, LdifDescription> known = new(StringComparer.Ordinal);

    /// <summary>What the bytes before the colon of a record's line say, or null when they are no description.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public LdifDescription? Find(int line, ReadOnlySpan<byte> written)
    {
        if (line < Lines && guesses[line] is var (seen, guessed) && written.SequenceEqual(seen)) return guessed;
        var text = Encoding.UTF8.GetString(written);
        if (!known.TryGetValue(text, out var found))
        {
            if (Parse(text) is not { } parsed) return null;
            found = parsed;
            if (known.Count < MaxKept) known.Add(text, found);
        }

        if (line < Lines) guesses[line] = (written.ToArray(), found);
        return found;
    }

    private static LdifDescription? Parse(string description)
    {
        if (!Pattern().IsMatch(description)) return null;
        var parts = description.Split(';');
        return new LdifDescription(parts[0], ImmutableArray.Create(parts, 1, parts.Length - 1));
    }

    [GeneratedRegex(@"^(?:[A-Za-z][A-Za-z0-9-]*|[0-9]+(?:\.[0-9]+)*)(?:;[A-Za-z0-9-]+)*$", RegexOptions.CultureInvariant)]
    private static partial Regex Pattern();
}
