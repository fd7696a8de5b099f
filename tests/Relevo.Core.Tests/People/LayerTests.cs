using System.Collections.Immutable;
using FsCheck.Xunit;
using Relevo.Core.People;
using Xunit;

namespace Relevo.Core.Tests.People;

public sealed class LayerTests
{
    /// <summary>What a roster's row gives for an account is what resolving it by itself gives.</summary>
    [Property(MaxTest = 200)]
    public void A_row_gives_an_accounts_values_as_they_are_resolved(byte own, byte over, byte forAccount, byte mailbox)
    {
        string[] fields = ["telephone", "title", "webAddress", "country", "mail", "language"];
        Facts Some(byte bits, string prefix) => Build.Facts([.. fields.Where((_, index) => (bits & (1 << index)) != 0).Select(field => (field, field == "country" ? "GB" : $"{prefix} 020 7946 0{bits:000}"))]);
        var records = Opened(Records() with { Units = Chart(("company", "+44 20 7946 0001"), ("office", "0")) }, "telephone");
        var person = Build.Person("mia", ("location", "Berlin")) with { Own = Some(own, ""), Override = Some(over, "+44") };
        var account = Account.Plain("desk@x.example", AccountKind.Alias) with { Override = Some(forAccount, ""), Mailbox = Some(mailbox, "x") };
        int[] all = [.. Enumerable.Range(0, records.Fields.Fields.Length)];
        var (row, plain) = (new FieldValue[all.Length], new FieldValue[all.Length]);
        var known = new PreparedValues();
        foreach (var one in new[] { account, account with { Override = Facts.None, Mailbox = Facts.None } })
        {
            new Core.People.Roster.RosterRow(records, person).Resolve(records, one, all, row, known);
            FieldResolution.ResolveSome(records, person, one, all, plain);
            Assert.Equal(plain, row);
            Assert.Equal(FieldResolution.Resolve(records, person, one, ""), row);
        }
    }

    /// <summary>What was prepared for one person is right for another of the same value, and only where it says the same.</summary>
    [Fact]
    public void A_value_prepared_before_is_the_value_prepared_anew()
    {
        var known = new PreparedValues();
        var phone = FieldCatalogue.Standard.Find("telephone")!;
        foreach (var region in new[] { "GB", "SE", "GB", "" })
        {
            foreach (var field in new[] { phone, phone with { Display = PhoneDisplay.AsTyped }, FieldCatalogue.Standard.Find("webAddress")!, FieldCatalogue.Standard.Find("mail")! })
            {
                foreach (var text in new[] { "020 7946 0001", "https://x.example/a", "", null })
                    Assert.Equal(FieldValue.From(field.Name == "mail" ? "a@b.example" : text, field.Kind, field.Display, region, ""), known.Prepare(field, text, "a@b.example", region));
            }
        }
    }

    private static readonly Guid Office = Guid.NewGuid(), Team = Guid.NewGuid(), Above = Guid.NewGuid();

    [Fact]
    public void The_first_layer_with_a_value_wins_in_the_stated_order()
    {
        var records = Records();
        var person = Build.Person("mia", ("department", "Surgery"), ("location", "Berlin"), ("organisation", "GmbH"));
        Assert.Equal((Layer.Company, "0"), Origin(records with { Units = Chart(("company", "0")) }, person));
        Assert.Equal((Layer.Entity, "1"), Origin(records with { Units = Chart(("company", "0"), ("entity", "1")) }, person));
        Assert.Equal((Layer.Office, "2"), Origin(records with { Units = Chart(("company", "0"), ("entity", "1"), ("office", "2")) }, person));
        Assert.Equal((Layer.Team, "3"), Origin(records with { Units = Chart(("company", "0"), ("entity", "1"), ("office", "2"), ("above", "3")) }, person));
        Assert.Equal((Layer.Team, "4"), Origin(records with { Units = Chart(("office", "2"), ("above", "3"), ("team", "4")) }, person));
        records = records with { Units = Chart(("company", "0"), ("entity", "1"), ("office", "2"), ("above", "3"), ("team", "4")) };
        var sourced = person with { Entries = [person.Entries[0] with { Facts = person.Entries[0].Facts.With("telephone", "5") }] };
        Assert.Equal((Layer.Source, "5"), Origin(records, sourced));
        var overridden = sourced with { Override = Build.Facts(("telephone", "6")) };
        Assert.Equal((Layer.Override, "6"), Origin(records, overridden));
        var mailbox = Account.Plain("desk@x.example", AccountKind.Shared) with { Mailbox = Build.Facts(("telephone", "7")) };
        Assert.Equal((Layer.Override, "7"), Origin(records, overridden, mailbox));
        Assert.Equal((Layer.Override, "8"), Origin(records, overridden, mailbox with { Override = Build.Facts(("telephone", "8")) }));
        var own = overridden with { Own = Build.Facts(("telephone", "9")) };
        Assert.Equal((Layer.Override, "6"), Origin(records, own)); // the field is not open
        Assert.Equal((Layer.Own, "9"), Origin(Opened(records, "telephone"), own));
    }

    [Fact]
    public void An_explicit_blank_is_a_value()
    {
        var records = Records() with { Units = Chart(("office", "2")) };
        var person = Build.Person("mia", ("location", "Berlin")) with { Override = Build.Facts(("telephone", "")) };
        Assert.Equal((Layer.Override, ""), Origin(records, person));
    }

    [Fact]
    public void Of_two_sources_the_first_is_believed_and_the_second_fills_gaps()
    {
        var person = Build.Person("mia", ("title", "Vet"));
        person = person with { Entries = [person.Entries[0], new Entry(Guid.NewGuid(), "mia", "", Build.Facts(("title", "Doctor"), ("mobile", "1")))] };
        var fields = FieldResolution.Explain(Records(), person, null).ToDictionary(field => field.Name, field => field.Stored);
        Assert.Equal(("Vet", "1"), (fields["title"], fields["mobile"]));
    }

    [Fact]
    public void Another_office_by_override_brings_that_offices_facts()
    {
        var chart = new UnitChart([new(Office, UnitKind.Office, "Berlin", null, Build.Facts(("telephone", "B")), 1), new(Guid.NewGuid(), UnitKind.Office, "Bath", null, Build.Facts(("telephone", "A")), 1)]);
        var person = Build.Person("mia", ("location", "Berlin")) with { Override = Build.Facts(("location", "bath")) };
        Assert.Equal((Layer.Office, "A"), Origin(Records() with { Units = chart }, person));
    }

    [Fact]
    public void Teams_in_a_loop_end_and_a_loop_is_seen_coming()
    {
        var chart = new UnitChart([new(Team, UnitKind.Team, "Surgery", Above, Facts.None, 1), new(Above, UnitKind.Team, "Clinic", Team, Facts.None, 1)]);
        Assert.Equal(2, chart.Upward(chart.Find(Team)!).Count());
        Assert.True(chart.WouldLoop(Team, Above));
    }

    /// <summary>Against a dictionary written over in the opposite order: the plainest statement of what layers mean.</summary>
    [Property]
    public void Resolving_is_writing_the_layers_over_each_other_from_the_weakest(bool[] present)
    {
        var layers = new[] { Layer.Company, Layer.Entity, Layer.Office, Layer.Source, Layer.Override };
        var expected = "";
        var units = new List<(string, string)>();
        var person = Build.Person("mia", ("location", "Berlin"), ("organisation", "GmbH"));
        for (var index = 0; index < layers.Length; index++)
        {
            if (index >= present.Length || !present[index]) continue;
            expected = layers[index].ToString();
            if (layers[index] is Layer.Company or Layer.Entity or Layer.Office) units.Add((expected.ToLowerInvariant(), expected));
            else if (layers[index] == Layer.Source) person = person with { Entries = [person.Entries[0] with { Facts = person.Entries[0].Facts.With("street", expected) }] };
            else person = person with { Override = Build.Facts(("street", expected)) };
        }

        var records = Records() with { Units = Chart([.. units], "street") };
        Assert.True(records.Fields.TryFind("street", out var place));
        Assert.Equal(expected, FieldResolution.Resolve(records, person, null, "")[place].Text);
    }

    private static (Layer, string) Origin(CompanyRecords records, Person person, Account? account = null)
    {
        var field = FieldResolution.Explain(records, person, account).Single(candidate => candidate.Name == "telephone");
        return (field.Origin, field.Stored);
    }

    private static CompanyRecords Records() => CompanyRecords.Plain with { SourceNames = ImmutableDictionary<Guid, string>.Empty.Add(Build.Source, "Directory") };

    private static CompanyRecords Opened(CompanyRecords records, string field) => records with
    {
        Fields = new FieldSet([], ImmutableSortedDictionary<string, StandardFieldSetting>.Empty.Add(field, new(FieldRule.Closed with { IsOpen = true }, PhoneDisplay.International))).ToCatalogue(),
    };

    private static UnitChart Chart(params (string Unit, string Value)[] facts) => Chart(facts, "telephone");

    private static UnitChart Chart((string Unit, string Value)[] facts, string field)
    {
        Facts Of(string unit) => new(facts.Where(pair => pair.Unit == unit).Select(pair => KeyValuePair.Create(field, pair.Value)));
        return new UnitChart([
            new(Guid.NewGuid(), UnitKind.Company, "Brackenfold", null, Of("company"), 1), new(Guid.NewGuid(), UnitKind.Entity, "GmbH", null, Of("entity"), 1),
            new(Office, UnitKind.Office, "Berlin", null, Of("office"), 1), new(Team, UnitKind.Team, "Surgery", Above, Of("team"), 1), new(Above, UnitKind.Team, "Clinic", null, Of("above"), 1)]);
    }
}
