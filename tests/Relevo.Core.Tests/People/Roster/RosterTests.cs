using FsCheck.Xunit;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Xunit;

namespace Relevo.Core.Tests.People.Roster;

public sealed class RosterTests
{
    private static readonly Unit Berlin = new(Guid.NewGuid(), UnitKind.Office, "Berlin", null, Build.Facts(("telephone", "+49 30 23125 100")), 1);
    private static readonly Unit Surgery = new(Guid.NewGuid(), UnitKind.Team, "Surgery", null, Facts.None, 1);
    private static readonly Unit Night = new(Guid.NewGuid(), UnitKind.Team, "Night shift", Surgery.Id, Facts.None, 1);
    private static readonly CompanyRecords Records = CompanyRecords.Plain with { Units = new UnitChart([Berlin, Surgery, Night]) };

    [Theory]
    [InlineData("holtkamp", "Maren Holtkamp")]
    [InlineData("HOLT mar", "Maren Holtkamp")]
    [InlineData("kallberg", "Åsa Källberg")] // accents forgiven
    [InlineData("Källberg", "Åsa Källberg")]
    [InlineData("holtkmap", "Maren Holtkamp")] // two letters swapped
    [InlineData("holtkemp", "Maren Holtkamp")] // one changed
    [InlineData("kalberg", "Åsa Källberg")] // one missing
    [InlineData("mia@brackenfold", "Mia O'Neill")]
    [InlineData("030 23125 118", "Maren Holtkamp")] // dialled at home
    [InlineData("+49 (30) 23125-118", "Maren Holtkamp")]
    [InlineData("10002", "Åsa Källberg")] // employee number
    [InlineData("night", "Åsa Källberg")] // team
    [InlineData("berlin chirurg", "Maren Holtkamp")]
    [InlineData("oneill", "Mia O'Neill")] // the apostrophe forgotten
    [InlineData("xyz", "")]
    [InlineData("abc", "")] // three letters are not forgiven
    public void People_are_found_by_what_one_remembers(string search, string found) =>
        Assert.Equal(found, string.Join(", ", Find(search).Rows.Select(row => row.Name)));

    [Fact]
    public void A_search_that_is_right_forgives_nothing_and_one_that_is_wrong_says_what_it_took()
    {
        Assert.Empty(Find("holtkamp").Forgiven);
        Assert.Equal(["holtkamp"], Find("holtkmap").Forgiven);
    }

    [Fact]
    public void Those_whose_name_begins_so_come_first()
    {
        var roster = PeopleRoster.Build(Records, [Build.Person("a", ("displayName", "Anna Miaskowski")), Build.Person("m", ("displayName", "Mia Zorn"))]);
        Assert.Equal(["Mia Zorn", "Anna Miaskowski"], RosterSearch.Answer(roster, RosterQuery.Everybody with { Search = "mia" }, []).Rows.Select(row => row.Name));
    }

    [Fact]
    public void Facets_count_what_choosing_them_would_show()
    {
        var answer = Find("", ["mobile", "telephone"]);
        Assert.Equal("Berlin 2", string.Join(", ", answer.Facets["office"].Select(count => $"{count.Label} {count.Count}")));
        Assert.Equal("Mobile 3, Telephone 1", string.Join(", ", answer.Facets["missing"].Select(count => $"{count.Label} {count.Count}")));
        Assert.Equal("active 3, doubtful 1, overridden 0, retired 1", string.Join(", ", answer.Facets["state"].Select(count => $"{count.Key} {count.Count}")));
        var surgery = RosterSearch.Answer(Company(), RosterQuery.Everybody with { Team = Surgery.Id }, []);
        Assert.Equal(["Åsa Källberg"], surgery.Rows.Select(row => row.Name)); // of a team inside it
    }

    /// <summary>Brute force: for every query the answer is what a plain filter gives, and each facet's count is the length of the answer one gets by choosing it.</summary>
    [Property(MaxTest = 60)]
    public void Every_facets_count_is_the_length_of_the_list_it_leads_to(int[] seeds, bool chooseOffice, bool chooseMissing)
    {
        var roster = PeopleRoster.Build(Records, [.. seeds.Select((seed, index) => Build.Person(
            $"p{index}", ("location", (seed & 1) == 0 ? "Berlin" : "Bath"), ("department", (seed & 2) == 0 ? "Surgery" : "Night shift"), ("mobile", (seed & 4) == 0 ? "" : "+49 30 23125 118")) with { IsRetired = (seed & 8) != 0 })]);
        var query = RosterQuery.Everybody with { Office = chooseOffice ? Berlin.Id : null, Missing = chooseMissing ? "mobile" : null };
        var answer = RosterSearch.Answer(roster, query, ["mobile"]);
        Assert.Equal(seeds.Count(seed => (seed & 8) == 0 && (!chooseOffice || (seed & 1) == 0) && (!chooseMissing || (seed & 4) == 0)), answer.Rows.Length);
        foreach (var count in answer.Facets["office"]) Assert.Equal(count.Count, RosterSearch.Answer(roster, query with { Office = Guid.Parse(count.Key) }, []).Rows.Length);
        foreach (var count in answer.Facets["team"]) Assert.True(count.Count <= RosterSearch.Answer(roster, query with { Team = Guid.Parse(count.Key) }, []).Rows.Length);
        foreach (var count in answer.Facets["missing"]) Assert.Equal(count.Count, RosterSearch.Answer(roster, query with { Missing = count.Key }, []).Rows.Length);
    }

    [Property(MaxTest = 60)]
    public void A_roster_with_changes_is_the_roster_built_anew(byte[] first, byte[] second)
    {
        var ids = Enumerable.Range(0, 256).ToDictionary(number => (byte)number, _ => Guid.NewGuid());
        Person Make(byte number, string title) => Build.Person($"p{number}", ("title", title), ("displayName", $"P {number * 37 % 256}")) with { Id = ids[number] };
        var before = first.Distinct().Select(number => Make(number, "Vet")).ToList();
        var changed = second.Distinct().Select(number => Make(number, "Nurse") with { IsRetired = number % 5 == 0 }).ToList();
        var updated = PeopleRoster.Build(Records, before).With(Records, changed);
        var anew = PeopleRoster.Build(Records, [.. before.Where(person => changed.All(other => other.Id != person.Id)), .. changed]);
        Assert.Equal(anew.Rows.ToArray().Select(row => (row.Person.Id, row.Name, row.Searched)), updated.Rows.ToArray().Select(row => (row.Person.Id, row.Name, row.Searched)));
        Assert.Equal(anew.ActiveCount, updated.ActiveCount);
    }

    [Theory]
    [InlineData("kitten", "sitting", 2, 2)] // k for s, e for i; the rest is a longer ending
    [InlineData("ab", "ba", 1, 1)]
    [InlineData("holt", "holtkamp", 0, 0)]
    [InlineData("abcd", "wxyz", 2, int.MaxValue)]
    public void The_distance_is_to_the_nearest_beginning(string text, string word, int limit, int distance) =>
        Assert.Equal(distance, NameWords.PrefixDistance(text, word, limit));

    /// <summary>Latin letters against their decompositions as Unicode's data has them (values from memory).</summary>
    [Theory]
    [InlineData("Åsa Källberg", "asa kallberg")]
    [InlineData("Łukasz Dvořák", "lukasz dvorak")]
    [InlineData("STRAẞE Groß", "straße gross")] // the capital sharp s lies outside the table and is only made small
    [InlineData("Ærøskøbing", "aeroskobing")]
    [InlineData("e\u0301te\u0301", "ete")]
    [InlineData("Ивáн", "ивaн")]
    public void Case_and_accents_are_folded(string text, string folded) => Assert.Equal(folded, TextFolding.Fold(text));

    [Fact]
    public void A_units_use_counts_people_whose_value_comes_from_it()
    {
        var (people, uses) = UnitUsage.Count(Company()).Of(Berlin.Id);
        Assert.Equal(2, people);
        Assert.Equal(1, uses["telephone"]); // one of the two has a direct line
    }

    private static RosterAnswer Find(string search, params string[] needed) => RosterSearch.Answer(Company(), RosterQuery.Everybody with { Search = search }, [.. needed]);

    private static PeopleRoster Company() => PeopleRoster.Build(Records, [
        Build.Person("maren", ("displayName", "Maren Holtkamp"), ("title", "Leitende Chirurgin"), ("location", "Berlin"), ("telephone", "+49 30 23125 118")),
        Build.Person("asa", ("displayName", "Åsa Källberg"), ("department", "Night shift"), ("location", "Berlin"), ("employeeNumber", "10002")),
        Build.Person("mia", ("displayName", "Mia O'Neill"), ("webAddress", "nonsense")),
        Build.Person("gone", ("displayName", "Maren Gone")) with { IsRetired = true }]);
}
