using System.Text;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Sources;
using Xunit;

namespace Relevo.Core.Tests.People;

/// <summary>Change records of RFC 2849, applied to the people a source has.</summary>
public sealed class LdifChangesTests
{
    private const string Base = ",ou=people,dc=brackenfold,dc=example";

    [Fact]
    public async Task People_are_added_changed_and_deleted()
    {
        var content = await ApplyAsync(
            $"dn: uid=ann{Base}\nchangetype: add\nobjectClass: inetOrgPerson\nuid: ann\ncn: Ann\nmail: ann@brackenfold.example\n\n"
            + $"dn: uid=mia{Base}\nchangetype: modify\nreplace: title\ntitle: Chief\n-\ndelete: mobile\n-\nadd: departmentNumber\ndepartmentNumber: Surgery\n-\n\n"
            + $"dn: uid=joel{Base}\nchangetype: delete\n");
        Assert.Empty(content.Problems);
        Assert.Equal(["mia", "ann"], content.People.Select(person => person.Key));
        var mia = content.People[0];
        Assert.Equal(("Chief", null, "Surgery", "Mia"), (mia.Facts["title"], mia.Facts["mobile"], mia.Facts["department"], mia.Facts["displayName"]));
    }

    [Fact]
    public async Task What_was_deleted_and_added_in_one_change_is_the_new_value_and_what_was_only_added_comes_after()
    {
        var content = await ApplyAsync(Modify("delete: title\ntitle: Vet\n-\nadd: title\ntitle: Chief\n-\nadd: mobile\nmobile: +44 20 7946 0002\n-\n"));
        Assert.Equal(("Chief", "+44 20 7946 0001"), (content.People[0].Facts["title"], content.People[0].Facts["mobile"]));
    }

    [Fact]
    public async Task Addresses_come_and_go_and_one_that_somebody_has_is_refused()
    {
        var content = await ApplyAsync(Modify("add: mail\nmail: m@brackenfold.example\nmail: joel@brackenfold.example\n-\ndelete: mail\nmail: mia@brackenfold.example\n-\n"));
        Assert.Equal(["m@brackenfold.example"], content.People[0].Addresses);
        Assert.Equal(("joel@brackenfold.example", "Addresses"), (content.Refused[0].Value, content.Refused[0].Field));
        var replaced = await ApplyAsync(Modify("replace: mail\nmail: one@brackenfold.example\n-\n") + $"\ndn: uid=joel{Base}\nchangetype: modify\nadd: mail\nmail: mia@brackenfold.example\n-\n");
        Assert.Equal(["joel@brackenfold.example", "mia@brackenfold.example"], replaced.People[1].Addresses);
    }

    [Fact]
    public async Task A_change_whose_outcome_is_not_told_is_a_problem_and_not_a_guess()
    {
        // The name is read from displayName before cn, and nobody says whether there is a displayName.
        var content = await ApplyAsync(Modify("replace: cn\ncn: Mia Berg\n-\n"));
        Assert.Contains("does not tell all that decides it", Assert.Single(content.Problems).Message, StringComparison.Ordinal);
        var told = await ApplyAsync(Modify("replace: cn\ncn: Mia Berg\n-\nreplace: displayName\n-\n"));
        Assert.Equal("Mia Berg", told.People[0].Facts["displayName"]);
        var first = await ApplyAsync(Modify("replace: displayName\ndisplayName: Mia B.\n-\n"));
        Assert.Equal("Mia B.", first.People[0].Facts["displayName"]);
        Assert.Contains("by which the person is known", Assert.Single((await ApplyAsync(Modify("replace: uid\nuid: m\n-\n"))).Problems).Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Members_of_a_group_come_and_go()
    {
        const string group = "dn: cn=Front desk,ou=groups,dc=brackenfold,dc=example\nchangetype: ";
        var made = await ApplyAsync($"{group}add\nobjectClass: groupOfNames\ncn: Front desk\nmember: uid=mia{Base}\n\n{group}modify\nadd: member\nmember: UID=Joel, OU=people,dc=brackenfold,dc=example\n-\n");
        Assert.Equal(["Front desk", "Front desk"], made.People.Select(person => person.Facts[GroupNames.Field]));
        var replaced = LdifChanges.Apply(await ReadAsync($"{group}modify\nreplace: member\nmember: uid=joel{Base}\n-\n"), made.People, Mapping.Standard, FieldCatalogue.Standard, 100);
        Assert.Equal([null, "Front desk"], replaced.People.Select(person => person.Facts[GroupNames.Field]));
        var deleted = LdifChanges.Apply(await ReadAsync($"{group}modify\ndelete: member\nmember: uid=joel{Base}\n-\n"), replaced.People, Mapping.Standard, FieldCatalogue.Standard, 100);
        Assert.All(deleted.People, person => Assert.Null(person.Facts[GroupNames.Field]));
    }

    [Fact]
    public async Task A_rename_moves_the_entry_and_keeps_the_person()
    {
        var moved = await ApplyAsync($"dn: uid=mia{Base}\nchangetype: moddn\nnewrdn: uid=mia\ndeleteoldrdn: 1\nnewsuperior: ou=leavers,dc=brackenfold,dc=example\n");
        Assert.Equal(("mia", "uid=mia,ou=leavers,dc=brackenfold,dc=example"), (moved.People[0].Key, moved.People[0].DistinguishedName));
        var renamed = await ApplyAsync($"dn: uid=mia{Base}\nchangetype: modrdn\nnewrdn: uid=mberg\ndeleteoldrdn: 1\n");
        Assert.Equal("uid=mberg" + Base, renamed.People[0].DistinguishedName);
    }

    [Theory]
    [InlineData("dn: uid=mia,ou=people,dc=brackenfold,dc=example\nchangetype: add\nobjectClass: person\nuid: mia\ncn: x\n", "is there already")]
    [InlineData("dn: uid=new,ou=people,dc=brackenfold,dc=example\nchangetype: add\nobjectClass: person\nuid: joel\ncn: x\n", "belongs to another person")]
    [InlineData("dn: uid=mia,ou=people,dc=brackenfold,dc=example\nchangetype: modify\nreplace: title\ntitle:< file:///etc/passwd\n-\n", "fetches nothing")]
    public async Task What_cannot_be_applied_is_named(string change, string message) =>
        Assert.Contains(message, Assert.Single((await ApplyAsync(change)).Problems).Message, StringComparison.Ordinal);

    [Fact]
    public async Task Entries_that_are_nobodys_here_are_passed_over() =>
        Assert.Equal(2, (await ApplyAsync("dn: ou=x,dc=brackenfold,dc=example\nchangetype: delete\n\ndn: uid=gone,dc=brackenfold,dc=example\nchangetype: modify\nreplace: title\ntitle: x\n-\n")).OtherEntries);

    [Fact]
    public async Task A_file_of_content_and_changes_is_refused()
    {
        var content = await ListAsync($"dn: uid=a{Base}\nobjectClass: person\nuid: a\ncn: a\n\ndn: uid=b{Base}\nchangetype: delete\n");
        Assert.Contains("not both", Assert.Single(content.Problems).Message, StringComparison.Ordinal);
    }

    private static string Modify(string steps) => $"dn: uid=mia{Base}\nchangetype: modify\n{steps}";

    private static async Task<DirectoryContent> ApplyAsync(string changes)
    {
        ListedPerson[] before =
        [
            new("mia", "uid=mia" + Base, Build.Facts(("displayName", "Mia"), ("title", "Vet"), ("mobile", "+44 20 7946 0001")), ["mia@brackenfold.example"], 0),
            new("joel", "uid=joel" + Base, Build.Facts(("displayName", "Joel")), ["joel@brackenfold.example"], 0),
        ];
        return LdifChanges.Apply(await ReadAsync(changes), before, Mapping.Standard with { Key = ["entryUUID", "uid"] }, FieldCatalogue.Standard, 100);
    }

    private static async Task<DirectoryContent> ReadAsync(string changes)
    {
        var content = await ListAsync(changes);
        Assert.Empty(content.Problems);
        return content;
    }

    private static Task<DirectoryContent> ListAsync(string ldif) =>
        LdifListing.ReadAsync(new MemoryStream(Encoding.UTF8.GetBytes("version: 1\n\n" + ldif)), Mapping.Standard, FieldCatalogue.Standard, LdifLimits.Default, null, CancellationToken.None);
}
