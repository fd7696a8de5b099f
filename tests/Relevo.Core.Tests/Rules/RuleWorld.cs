using System.Collections.Immutable;
using FsCheck;
using FsCheck.Fluent;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.People;
using Relevo.Core.Rules;

namespace Relevo.Core.Tests.Rules;

/// <summary>A small company and ways to make up people, rules and situations in it.</summary>
internal static class RuleWorld
{
    public static readonly Guid Full = Guid.Parse("00000000-0000-0000-0000-000000000001");
    public static readonly Guid Short = Guid.Parse("00000000-0000-0000-0000-000000000002");
    public static readonly Guid German = Guid.Parse("00000000-0000-0000-0000-000000000003");
    public static readonly Guid Tick = Guid.Parse("00000000-0000-0000-0000-000000000004");

    public static readonly Instant Noon = Instant.FromUtc(2026, 11, 26, 12, 0);

    /// <summary>Equine is a part of Clinical.</summary>
    public static readonly CompanyRecords Records = CompanyRecords.Plain with
    {
        Units = new UnitChart([
            new Unit(Guid.Parse("00000000-0000-0000-0000-0000000000a1"), UnitKind.Team, "Clinical", null, Facts.None, 1),
            new Unit(Guid.Parse("00000000-0000-0000-0000-0000000000a2"), UnitKind.Team, "Equine", Guid.Parse("00000000-0000-0000-0000-0000000000a1"), Facts.None, 1),
        ]),
    };

    public static readonly AudienceBook Book = new(["brackenfold.example"], true, [new Audience("practices", "referring practices", ["practice.example"]), new Audience("suppliers", "suppliers", ["*.supplier.example"])]);

    public static readonly RuleNames Names = new(
        id => id == Full ? "Full" : id == Short ? "Short" : null, id => id == German ? "German notice" : null, id => id == Tick ? "Tick season" : null,
        Book.NameOf, id => id == Guid.Empty ? "Mia" : null, field => FieldCatalogue.Standard.Find(field)?.Label);

    public static ImmutableArray<Cell> Cells { get; } = Cell.All(Book.Keys, ["desk-app", "pocket-app"]);

    private static readonly string[] Offices = ["Berlin", "berlin", "Bath", ""], Titles = ["Vet", "Senior vet", "Nurse", ""], Teams = ["Clinical", "Equine", "Office", ""], Languages = ["de", "de-AT", "en", ""], Groups = ["Reception", "Reception; Rota", "rota", ""];
    private static readonly string[] Addresses = ["mia@brackenfold.example", "Emergency@brackenfold.example", "emergency@clinic.brackenfold.example", "jörn@bücher.example"];

    private static readonly Gen<Condition> Leaf = Gen.OneOf(
        Gen.Elements(Enum.GetValues<Occasion>()).NonEmptyListOf().Select(list => (Condition)new OccasionCondition([.. list])),
        Gen.Elements(Book.Keys.ToArray()).NonEmptyListOf().Select(list => (Condition)new AudienceCondition([.. list])),
        Gen.Elements(ClientKind.All.Select(kind => kind.Kind).ToArray()).NonEmptyListOf().Select(list => (Condition)new ClientCondition([.. list])),
        Gen.Elements<Condition>(
            new TimeCondition("Europe/Berlin") { Until = "2026-11-26T12:00" }, new TimeCondition("Europe/London") { FromHour = "08:00", UntilHour = "18:00" }, new TimeCondition("Nowhere/Atall"),
            new ValueCondition("title", ValueTest.Contains, ["vet"]), new ValueCondition("title", ValueTest.OneOf, ["nurse", "VET"]), new ValueCondition("title", ValueTest.StartsWith, ["sen"]),
            new ValueCondition("title", ValueTest.Matches, [".*vet"]), new ValueCondition("title", ValueTest.Present, []), new ValueCondition("gone", ValueTest.Present, []),
            new ValueCondition("language", ValueTest.OneOf, ["de"]), new UnitCondition(UnitKind.Office, ["Berlin"]), new UnitCondition(UnitKind.Team, ["Clinical"], WithParts: true),
            new UnitCondition(UnitKind.Team, ["clinical"]), new GroupCondition(["Rota"]), new PersonCondition([Guid.Empty]), new AccountCondition([AccountKind.Shared, AccountKind.Alias]),
            new AddressCondition(["emergency@"]), new AddressCondition(["MIA@brackenfold.example"]), new DomainCondition(["brackenfold.example"], WithParts: true), new DomainCondition(["BÜCHER.example"])));

    private static Gen<Condition> Tree(int depth) => depth == 0 ? Leaf : Gen.Frequency(
        (5, Leaf),
        (1, Tree(depth - 1).ListOf(2).Select(list => (Condition)new AllOf([.. list]))),
        (1, Tree(depth - 1).ListOf(2).Select(list => (Condition)new AnyOf([.. list]))),
        (1, Tree(depth - 1).ListOf(2).Select(list => (Condition)new NoneOf([.. list]))),
        (1, Gen.Elements<Condition>(new AllOf([]), new AnyOf([]), new NoneOf([]))));

    public static Gen<Rule> RuleOn(Track track) =>
        from isOn in Gen.Frequency((6, Gen.Constant(true)), (1, Gen.Constant(false)))
        from count in Gen.Choose(0, 3)
        from conditions in Tree(2).ListOf(count)
        from then in track switch
        {
            Track.Signature => Gen.Elements<Core.Rules.Outcome>(new CarryNothing(), new CarryDesigns([Full]), new CarryDesigns([Full, Short]) { Order = TurnOrder.Shuffled }),
            Track.Disclaimer => Gen.Elements<Core.Rules.Outcome>(new AddDisclaimers([German]), new AddDisclaimers([Full, German]), new StopDisclaimers()),
            _ => Gen.Elements<Core.Rules.Outcome>(new ShowBanner(Tick), new ShowBanner(Full, "https://brackenfold.example")),
        }
        select new Rule(Guid.NewGuid(), isOn, [.. conditions], then);

    public static Gen<RuleSet> RuleSets =>
        from signature in RuleOn(Track.Signature).ListOf(6)
        from disclaimers in RuleOn(Track.Disclaimer).ListOf(4)
        from banners in RuleOn(Track.Banner).ListOf(2)
        select new RuleSet([.. signature]) { Disclaimer = [.. disclaimers], Banner = [.. banners] };

    public static Gen<Sender> SenderOf(Guid person) =>
        from office in Gen.Elements(Offices)
        from title in Gen.Elements(Titles)
        from team in Gen.Elements(Teams)
        from language in Gen.Elements(Languages)
        from groups in Gen.Elements(Groups)
        from address in Gen.Elements(Addresses)
        from kind in Gen.Elements(Enum.GetValues<AccountKind>())
        select Build.Sender(person, address, kind, ("location", office), ("title", title), ("department", team), ("language", language), (GroupNames.Field, groups));

    /// <summary>People with one to three accounts each; the first is the one that rules pick by hand.</summary>
    public static Gen<Sender[]> Crowds(int most) =>
        from people in Gen.Choose(1, most)
        from accounts in Gen.Choose(1, 3).ListOf(people)
        from senders in Gen.CollectToList(accounts.Select((count, index) => (count, index)), of => SenderOf(of.index == 0 ? Guid.Empty : Guid.NewGuid()).ListOf(of.count))
        select senders.SelectMany(own => own).ToArray();
}
