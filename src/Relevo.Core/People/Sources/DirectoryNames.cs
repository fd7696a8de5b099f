namespace Relevo.Core.People.Sources;

/// <summary>Distinguished names as keys.</summary>
public static class DirectoryNames
{
    /// <summary>Names are compared without regard to case and to spaces round commas and equals signs. Source: RFC 4514, loosely: escapes are left as they are.</summary>
    public static string Normalise(string name) =>
        string.Join(',', name.Split(',').Select(part => string.Join('=', part.Split('=', 2).Select(side => side.Trim())))).ToLowerInvariant();
}
