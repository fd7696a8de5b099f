namespace Relevo.Core.People;

/// <summary>
/// Values that were prepared for rendering before, for going over many people: an office's number is taken apart once, not for each of its people. Not for use
/// by several threads at once.
/// </summary>
public sealed class PreparedValues
{
    private const int MostKept = 50_000; // values; numbers of 100,000 people that are mostly their own would otherwise be kept twice

    private readonly Dictionary<(string Text, FieldKind Kind, PhoneDisplay Display, string Region), FieldValue> known = [];

    /// <summary>A stored value ready to be rendered, for readers nobody knows. The mail address is the account's, whatever the records say.</summary>
    public FieldValue Prepare(Field field, string? stored, string address, string region)
    {
        if (stored is not { Length: > 0 } || field.Kind is not (FieldKind.Phone or FieldKind.Web)) return FieldResolution.Prepare(field, stored, address, region, "");
        var key = (stored, field.Kind, field.Display, field.Kind == FieldKind.Phone ? region : "");
        if (known.TryGetValue(key, out var value)) return value;
        value = FieldResolution.Prepare(field, stored, address, region, "");
        if (known.Count < MostKept) known.Add(key, value);
        return value;
    }
}
