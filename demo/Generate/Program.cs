using System.Buffers;
using System.Collections.Immutable;
using System.Text;
using Relevo.Core.People.Formats;
using Relevo.Demo;

// Draws and writes the demo company's files: dotnet run --project demo/Generate -- demo src/Relevo.Server/Shipped
// With a third argument, a folder of fonts, it also writes the table of letter widths: /usr/share/fonts/truetype on Debian.
// Everything is invented; the same program gives the same files.
var demo = args.ElementAtOrDefault(0) ?? "demo";
var shipped = args.ElementAtOrDefault(1) ?? "src/Relevo.Server/Shipped";
var people = Company.People();
Write(Path.Combine(demo, "brackenfold.ldif"), people);
Write(Path.Combine(demo, "brackenfold-december.ldif"), Company.InDecember(people));
File.WriteAllBytes(Path.Combine(demo, "brackenfold-mark.png"), Marks.Brackenfold());
File.WriteAllBytes(Path.Combine(demo, "brackenfold-portraits.zip"), Portraits.Archive(people));
File.WriteAllBytes(Path.Combine(shipped, "mark.png"), Marks.Plain());
if (args.ElementAtOrDefault(2) is { } fonts) File.WriteAllText("src/Relevo.Core/Rendering/Metrics/widths.txt", FontWidths.Table(fonts));
Console.WriteLine($"{people.Count} people");

static void Write(string path, IReadOnlyList<Employee> people)
{
    var entries = new List<LdifRecord> { Entry("dc=brackenfold,dc=example", ("objectClass", "top"), ("objectClass", "domain"), ("dc", "brackenfold")), Entry("ou=people,dc=brackenfold,dc=example", ("objectClass", "top"), ("objectClass", "organizationalUnit"), ("ou", "people")) };
    entries.AddRange(people.Select(person => Entry($"uid={person.Uid},ou=people,dc=brackenfold,dc=example", [.. person.Attributes()])));
    entries.Add(Entry("ou=groups,dc=brackenfold,dc=example", ("objectClass", "top"), ("objectClass", "organizationalUnit"), ("ou", "groups")));
    entries.AddRange(Company.Groups(people).Select(group => Entry(
        $"cn={group.Name},ou=groups,dc=brackenfold,dc=example",
        [("objectClass", "top"), ("objectClass", "groupOfNames"), ("cn", group.Name), .. group.Members.Select(member => ("member", $"uid={member.Uid},ou=people,dc=brackenfold,dc=example"))])));
    var output = new ArrayBufferWriter<byte>();
    LdifWriter.Write(output, entries);
    File.WriteAllBytes(path, output.WrittenSpan.ToArray());
}

static LdifEntry Entry(string name, params (string Attribute, string Value)[] values) => new(
    name, 0, [.. values.Where(pair => pair.Value.Length > 0).Select(pair => new LdifValue(pair.Attribute, [], Encoding.UTF8.GetBytes(pair.Value), LdifValueKind.Text, 0))]);
