using Relevo.Core.People;

namespace Relevo.Bench;

/// <summary>
/// Generated people in every form the contestants want, made before any clock runs, and each form for itself, so that each contestant finds
/// its own input close together in memory.
/// </summary>
/// <param name="Values">For each person the resolved values in catalogue order, as Relevo's renderer takes them.</param>
/// <param name="Escaped">For each person text and link of each field already escaped for HTML, as the references take them: it spares them that work.</param>
internal sealed record Generated(FieldValue[][] Values, Dictionary<string, object>[] Escaped);

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
                ["title"] = index % 5 == 0 ? "Ärztliche Direktorin und Leiterin der Weiterbildung" : "Veterinary surgeon",
                ["department"] = $"Small animal clinic {index % 97}",
                ["organisation"] = "Brackenfold Veterinary Group Limited",
                ["location"] = $"Harrogate {index % 31}",
                ["telephone"] = $"+44 20 7946 {index % 1000:0000}",
                ["mobile"] = index % 10 < 4 ? $"+44 20 7946 {(index + 500) % 1000:0000}" : "",
                ["webAddress"] = $"https://brackenfold.example/clinics/{index}",
            });
            values[index] = FieldResolution.Resolve(FieldCatalogue.Standard, facts, $"p{index}@brackenfold.example");
        }

        return new Generated(values, [.. values.Select(Escape)]);
    }

    private static Dictionary<string, object> Escape(FieldValue[] values)
    {
        var escaped = new Dictionary<string, object>(StringComparer.Ordinal);
        for (var field = 0; field < values.Length; field++)
        {
            var name = FieldCatalogue.Standard.Fields[field].Name;
            if (!values[field].IsEmpty) escaped[name] = Escape(values[field].Text);
            if (values[field].Link.Length > 0) escaped[name + "Link"] = Escape(values[field].Link);
        }

        return escaped;
    }

    private static string Escape(string text) => text.Replace("&", "&amp;", StringComparison.Ordinal).Replace("<", "&lt;", StringComparison.Ordinal).Replace(">", "&gt;", StringComparison.Ordinal);
}
