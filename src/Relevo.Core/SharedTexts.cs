namespace Relevo.Core;

/// <summary>Texts that stand in many records are kept once, under the name they stand under: titles, places, names of departments.</summary>
public sealed class SharedTexts
{
    private readonly Dictionary<string, StringPool> pools = new(StringComparer.Ordinal);
    private readonly Dictionary<string, StringPool>.AlternateLookup<ReadOnlySpan<char>> lookup;

    /// <summary>Nothing kept yet.</summary>
    public SharedTexts() => lookup = pools.GetAlternateLookup<ReadOnlySpan<char>>();

    /// <summary>The texts under a name.</summary>
    public StringPool Of(ReadOnlySpan<char> name)
    {
        if (!lookup.TryGetValue(name, out var pool)) pools[name.ToString()] = pool = new StringPool(name.ToString());
        return pool;
    }
}

/// <summary>Keeps equal texts as one string, as long as enough of them are equal: a pool of ids and names would only cost memory.</summary>
public sealed class StringPool
{
    private const int MaxCharacters = 100; // a longer value is hardly shared
    private const int Trial = 2000; // texts before it is judged
    private readonly HashSet<string> kept = new(StringComparer.Ordinal);
    private readonly HashSet<string>.AlternateLookup<ReadOnlySpan<char>> lookup;
    private int asked;
    private bool isShared = true;

    internal StringPool(string name)
    {
        Name = name;
        lookup = kept.GetAlternateLookup<ReadOnlySpan<char>>();
    }

    /// <summary>What the texts stand under, as one string for all.</summary>
    public string Name { get; }

    /// <summary>The text as a string, the same one for the same text.</summary>
    public string Keep(ReadOnlySpan<char> text)
    {
        if (text.IsEmpty) return "";
        if (!isShared) return text.ToString();
        asked++;
        if (lookup.TryGetValue(text, out var same)) return same;
        var fresh = text.ToString();
        Add(fresh);
        return fresh;
    }

    /// <summary>The same for a text that is a string already.</summary>
    public string Keep(string text)
    {
        if (!isShared) return text;
        asked++;
        if (kept.TryGetValue(text, out var same)) return same;
        Add(text);
        return text;
    }

    private void Add(string text)
    {
        if (text.Length > MaxCharacters) return;
        kept.Add(text);
        if (kept.Count < Trial || kept.Count * 2 < asked) return;
        isShared = false;
        kept.Clear();
        kept.TrimExcess();
    }
}
