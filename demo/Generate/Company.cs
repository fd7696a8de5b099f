using System.Globalization;
using System.Text;

namespace Relevo.Demo;

/// <summary>One employee of the invented company.</summary>
internal sealed record Employee(
    string Uid, int Number, string Given, string Surname, string Title, string Department, Clinic Clinic, string Telephone, string Mobile, string PostNominals, string Registration, string Prefix, IReadOnlyList<string> Aliases)
{
    public string Name => $"{Prefix} {Given} {Surname}".Trim();

    public string Mail => $"{Uid}@brackenfold.example";

    /// <summary>The entry's attributes; telephone numbers lie in ranges set aside for fiction.</summary>
    public IEnumerable<(string Attribute, string Value)> Attributes()
    {
        foreach (var kind in new[] { "top", "person", "organizationalPerson", "inetOrgPerson", "veterinaryProfessional" }) yield return ("objectClass", kind);
        yield return ("uid", Uid);
        yield return ("employeeNumber", Number.ToString(CultureInfo.InvariantCulture));
        yield return ("cn", Name);
        yield return ("sn", Surname);
        yield return ("givenName", Given);
        yield return ("displayName", Name);
        yield return ("postNominals", PostNominals);
        yield return ("registrationNumber", Registration);
        yield return ("title", Title);
        yield return ("departmentNumber", Department);
        yield return ("o", Clinic.Entity);
        yield return ("l", Clinic.City);
        yield return ("telephoneNumber", Telephone);
        yield return ("mobile", Mobile);
        yield return ("mail", Mail);
        foreach (var alias in Aliases) yield return ("mail", alias);
        yield return ("labeledURI", Clinic.Web.Length > 0 ? $"{Clinic.Web} {Clinic.City}" : "");
        yield return ("preferredLanguage", Clinic.Language);
    }
}

/// <summary>A place of work.</summary>
internal sealed record Clinic(string City, string Department, string Entity, string Language, string Web);

/// <summary>Brackenfold Veterinary Group: 238 invented people in nine clinics and three legal entities.</summary>
internal static class Company
{
    private const int Headcount = 238;

    private static readonly Clinic[] Clinics =
    [
        new("Harrogate", "Small animal clinic", "Brackenfold Veterinary Group Limited", "en", "https://brackenfold.example/harrogate"),
        new("Bath", "Equine practice", "Brackenfold Veterinary Group Limited", "en", "https://brackenfold.example/bath"),
        new("Norwich", "Farm animal practice", "Brackenfold Veterinary Group Limited", "en", "https://brackenfold.example/norwich"),
        new("Berlin", "Kleintierklinik", "Brackenfold Tiermedizin GmbH", "de", "https://brackenfold.example/berlin"),
        new("Potsdam", "Pferdepraxis", "Brackenfold Tiermedizin GmbH", "de", "https://brackenfold.example/potsdam"),
        new("Leipzig", "Tierärztliche Notaufnahme", "Brackenfold Tiermedizin GmbH", "de", "https://brackenfold.example/leipzig"),
        new("Stockholm", "Smådjursklinik", "Brackenfold Djursjukvård AB", "sv", "https://brackenfold.example/stockholm"),
        new("Uppsala", "Hästklinik", "Brackenfold Djursjukvård AB", "sv", "https://brackenfold.example/uppsala"),
        new("Malmö", "Smådjursklinik", "Brackenfold Djursjukvård AB", "sv", "https://brackenfold.example/malmo"),
    ];

    private static readonly Dictionary<string, string[]> Given = new()
    {
        ["en"] = ["Alice", "Bertram", "Clara", "Duncan", "Edith", "Felix", "Grace", "Harriet", "Isaac", "Jocelyn", "Kenneth", "Lydia", "Miriam", "Nigel", "Olive", "Percy", "Rosalind", "Stella", "Theodore", "Winifred"],
        ["de"] = ["Anselm", "Birgit", "Cornelius", "Dörte", "Elke", "Friedhelm", "Gesine", "Henrik", "Imke", "Jörn", "Katharina", "Lorenz", "Mareike", "Norbert", "Ottilie", "Ruprecht", "Sünje", "Till", "Ulrike", "Wiebke"],
        ["sv"] = ["Agneta", "Björn", "Cajsa", "David", "Elsa", "Frej", "Gunilla", "Håkan", "Ingrid", "Jonatan", "Kerstin", "Lovisa", "Måns", "Nils", "Ottilia", "Pernilla", "Rolf", "Sigrid", "Torsten", "Åsa"],
    };

    private static readonly Dictionary<string, string[]> Surnames = new()
    {
        ["en"] = ["Ashdown", "Birkett", "Cawthorne", "Drummond", "Eastlake", "Farthing", "Greenhalgh", "Hollis", "Ingleby", "Jessop", "Kershaw", "Langrick", "McKay", "O'Neill", "Pemberton", "Quayle", "Rowntree", "Satterthwaite", "Thackray", "Wetherby"],
        ["de"] = ["Ahlers", "Böttcher", "Cordes", "Dreyer", "Ehlers", "Feldkamp", "Grünwald", "Hölscher", "Imhoff", "Janßen", "Kühne", "Lüders", "Möhring", "Niehaus", "Oelrich", "Petersen", "Rückert", "Söhnlein", "von Thaden", "Wöhler"],
        ["sv"] = ["Almgren", "Bäckström", "Carlbom", "Dahlqvist", "Ekström", "Forsgren", "Gyllander", "Hägglund", "Isaksson", "Jönsson", "Källberg", "Lindqvist", "Mårtensson", "Nordahl", "Östlund", "Palmgren", "Rydén", "Sjöstrand", "Törnkvist", "Wallenius"],
    };

    private static readonly Dictionary<string, (string Title, bool IsVet)[]> Titles = new()
    {
        ["en"] = [("Veterinary surgeon", true), ("Senior veterinary surgeon", true), ("Registered veterinary nurse", false), ("Receptionist", false), ("Practice manager", false), ("Clinical director", true), ("Laboratory technician", false), ("Student veterinary nurse", false)],
        ["de"] = [("Tierärztin", true), ("Fachtierarzt für Chirurgie", true), ("Tiermedizinische Fachangestellte", false), ("Empfang", false), ("Praxismanagement", false), ("Leitende Oberärztin", true), ("Laborleitung", false), ("Auszubildende", false)],
        ["sv"] = [("Legitimerad veterinär", true), ("Specialistveterinär, hundens och kattens sjukdomar", true), ("Djursjukskötare", false), ("Receptionist", false), ("Klinikchef", false), ("Chefveterinär", true), ("Laboratorieansvarig", false), ("Djurvårdare", false)],
    };

    private static readonly string[] PostNominals = ["MRCVS", "BVetMed MRCVS", "Dipl. ECVS", "Dipl. ECVIM-CA, MRCVS", "Dipl. ACVR"];

    /// <summary>Everybody, the same on every run.</summary>
    public static List<Employee> People()
    {
        var random = new Random(20261124);
        var people = Named();
        var taken = people.Select(person => person.Uid).ToHashSet(StringComparer.Ordinal);
        while (people.Count < Headcount)
        {
            var clinic = Clinics[people.Count % Clinics.Length];
            var given = Pick(random, Given[clinic.Language]);
            var surname = Pick(random, Surnames[clinic.Language]);
            var uid = Uid(given, surname);
            if (!taken.Add(uid)) continue;
            var (title, isVet) = Pick(random, Titles[clinic.Language]);
            var index = people.Count;
            people.Add(new Employee(
                uid, 10_000 + index, given, surname, title, clinic.Department, clinic,
                random.Next(100) < 94 ? Telephone(clinic, index) : "",
                random.Next(100) < 42 ? Mobile(clinic, index) : "",
                isVet ? Pick(random, PostNominals) : "",
                isVet ? $"B-{random.Next(100, 99999):00000}" : "",
                isVet && random.Next(100) < 60 ? clinic.Language == "de" ? "Dr. med. vet." : "Dr" : "",
                random.Next(100) < 12 ? [$"{given[0]}.{Ascii(surname)}.{index}@brackenfold.example".ToLowerInvariant()] : []));
        }

        return people;
    }

    /// <summary>The same company a month on: three join, two leave, an office's title and some numbers change.</summary>
    public static List<Employee> InDecember(IReadOnlyList<Employee> november)
    {
        var next = november.Where((_, index) => index is not (57 or 133)).Select((person, index) => index switch
        {
            20 => person with { Surname = "Ashdown-Thackray" },
            41 => person with { Title = "Praxismanagement", Mobile = "" },
            88 => person with { Mobile = Mobile(person.Clinic, 700) },
            120 => person with { Clinic = Clinics[3], Department = Clinics[3].Department, Telephone = Telephone(Clinics[3], 701) },
            _ => person,
        }).ToList();
        next.Add(New(900, "Beatrix", "Langrick", Clinics[0], "Veterinary surgeon", "MRCVS"));
        next.Add(New(901, "Jörn", "Söhnlein-Wöhler", Clinics[5], "Tierarzt", ""));
        next.Add(New(902, "Åsa", "Nordahl-Ekström", Clinics[8], "Djurvårdare", ""));
        return next;
    }

    /// <summary>Groups that send from the company's shared mailboxes.</summary>
    public static IEnumerable<(string Name, IEnumerable<Employee> Members)> Groups(IReadOnlyList<Employee> people) =>
    [
        ("Reception", people.Where(person => person.Title is "Receptionist" or "Empfang")),
        ("Emergency rota", people.Where(person => person.Clinic.City == "Leipzig" && person.Registration.Length > 0)),
        ("Practice managers", people.Where(person => person.Title is "Practice manager" or "Praxismanagement" or "Klinikchef")),
    ];

    /// <summary>People the screens and texts of the demo speak of, with the extremes among them.</summary>
    private static List<Employee> Named() =>
    [
        New(0, "Ines", "Albrecht", Clinics[3], "IT-Administration", "") with { Mobile = "" },
        New(1, "Maren", "Holtkamp", Clinics[3], "Leitende Chirurgin", "Dipl. ECVS") with { Prefix = "Dr.", Registration = "B-00417", Aliases = ["chirurgie.berlin@brackenfold.example"] },
        New(2, "Annegret", "von der Lühe-Schwarzenberger", Clinics[3], "Ärztliche Direktorin und Leiterin der Weiterbildung", "Dipl. ECVIM-CA, MRCVS") with { Prefix = "Prof. Dr." },
        New(3, "Joel", "Strand", Clinics[8] with { Web = "" }, "Djurvårdare", "") with { Telephone = "", Mobile = "" },
        New(4, "Mia", "Lindqvist", Clinics[6], "Legitimerad veterinär", ""),
        New(5, "Tomas", "Wendt", Clinics[4], "Geschäftsführer", ""),
    ];

    private static Employee New(int index, string given, string surname, Clinic clinic, string title, string postNominals) => new(
        Uid(given, surname), 10_000 + index, given, surname, title, clinic.Department, clinic, Telephone(clinic, index), Mobile(clinic, index), postNominals, "", "", []);

    /// <summary>Ranges for fiction, from memory: Ofcom 020 7946 0000 to 0999, Bundesnetzagentur 030 23125 000 to 999, PTS 08-465 004 00 to 99.</summary>
    private static string Telephone(Clinic clinic, int index) => clinic.Language switch
    {
        "de" => $"+49 30 23125 {(index + 118) % 1000:000}",
        "sv" => $"+46 8 465 004 {index % 100:00}",
        _ => $"+44 20 7946 {(index * 3) % 1000:0000}",
    };

    private static string Mobile(Clinic clinic, int index) => clinic.Language switch
    {
        "de" => $"+49 30 23125 {(index + 604) % 1000:000}",
        "sv" => $"+46 8 465 004 {(index + 50) % 100:00}",
        _ => $"+44 20 7946 {((index * 3) + 1) % 1000:0000}",
    };

    private static T Pick<T>(Random random, T[] items) => items[random.Next(items.Length)];

    private static string Uid(string given, string surname) => $"{Ascii(given)}.{Ascii(surname)}".ToLowerInvariant();

    private static string Ascii(string text)
    {
        var spelled = text.Replace("ß", "ss", StringComparison.Ordinal).Replace("ä", "ae", StringComparison.Ordinal).Replace("ö", "oe", StringComparison.Ordinal).Replace("ü", "ue", StringComparison.Ordinal).Replace("Ö", "Oe", StringComparison.Ordinal);
        return new string([.. spelled.Replace("å", "a", StringComparison.Ordinal).Replace("Å", "A", StringComparison.Ordinal).Replace("é", "e", StringComparison.Ordinal).EnumerateRunes().Where(rune => Rune.IsLetter(rune) || rune.Value == '-').Select(rune => (char)rune.Value)]);
    }
}
