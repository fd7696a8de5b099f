using Relevo.Core.People;

namespace Relevo.Bench;

/// <summary>
/// Generated people in every form the contestants want, made before any clock runs, and each form for itself, so that each contestant finds
/// its own input close together in memory.
/// </summary>
/// <param name="Values">For each person the resolved values in catalogue order, as Relevo's renderer takes them.</param>
/// <param name="Escaped">For each person text and link of each field already escaped for HTML, as the references take them: it spares them that work.</param>
/// <param name="Plain">The same as they are, for the references' plain text.</param>
internal sealed record Generated(FieldValue[][] Values, Dictionary<string, object>[] Escaped, Dictionary<string, object>[] Plain);

/// <summary>Distinct invented people; about four in ten have a mobile, some names need escaping.</summary>
internal static class GeneratedPeople
{
    private static readonly string[] Given = ["Maren", "Åsa", "Jörn", "Winifred", "Till", "Ottilie", "Percy", "Sünje"];
    private static readonly string[] Surnames = ["Holtkamp", "O'Neill", "von der Lühe", "Ashdown & Sons", "Nordahl", "Söhnlein", "McKay"];

    public static Generated Make(int count)
    {
        var values = new FieldValue[count][];
        for (var index = 0; index < count; index++)
        {
            var facts = new Facts(new Dictionary<string, string>
            {
                ["displayName"] = $"{Given[index % Given.Length]} {Surnames[index / 3 % Surnames.Length]} {index}",
                ["postNominals"] = index % 3 == 0 ? "Dipl. ECVS" : "",
                ["title"] = index % 5 == 0 ? "Ärztliche Direktorin der Weiterbildung" : "Veterinary surgeon",
                ["department"] = $"Small animal clinic {index % 97}",
                ["organisation"] = "Brackenfold Veterinary Group Limited",
                ["location"] = $"Harrogate {index % 31}",
                ["telephone"] = $"+44 20 7946 {index % 1000:0000}",
                ["mobile"] = index % 10 < 4 ? $"+44 20 7946 {(index + 500) % 1000:0000}" : "",
                ["webAddress"] = $"https://brackenfold.example/clinics/{index}",
            });
            values[index] = FieldResolution.Resolve(FieldCatalogue.Standard, facts, $"p{index}@brackenfold.example");
        }

        var escaped = values.Select(one => Named(one, Escape)).ToArray();
        // Most values need no escaping, and are then the same string in both: whoever writes both forms finds it in the cache the second time.
        var plain = values.Select((one, index) => Named(one, text => text)).ToArray();
        for (var index = 0; index < count; index++)
        {
            foreach (var (name, text) in plain[index].ToArray())
            {
                if (text.Equals(escaped[index][name])) plain[index][name] = escaped[index][name];
            }
        }

        return new Generated(values, escaped, plain);
    }

    private static Dictionary<string, object> Named(FieldValue[] values, Func<string, string> write)
    {
        var named = new Dictionary<string, object>(StringComparer.Ordinal);
        for (var field = 0; field < values.Length; field++)
        {
            var name = FieldCatalogue.Standard.Fields[field].Name;
            if (!values[field].IsEmpty) named[name] = write(values[field].Text);
            if (values[field].Link.Length > 0) named[name + "Link"] = write(values[field].Link);
        }

        return named;
    }

    private static string Escape(string text) => text.Replace("&", "&amp;", StringComparison.Ordinal).Replace("<", "&lt;", StringComparison.Ordinal).Replace(">", "&gt;", StringComparison.Ordinal);
}
