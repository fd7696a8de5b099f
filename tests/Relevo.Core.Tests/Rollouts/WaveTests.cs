using System.Collections.Immutable;
using NodaTime;
using Relevo.Core.People;
using Relevo.Core.People.Roster;
using Relevo.Core.Rollouts;
using Xunit;

namespace Relevo.Core.Tests.Rollouts;

/// <summary>Waves: whom they are for, when they begin, and the gates between them.</summary>
public sealed class WaveTests
{
    private static readonly Instant Noon = Instant.FromUtc(2026, 11, 26, 12, 0);
    private static readonly WavePlan Pilot = new("Pilots", new EverybodyElse(), new StartAtOnce(), new WaveGate(10, 80));

    [Fact]
    public void A_wave_begins_passes_and_the_rollout_is_done()
    {
        Assert.Equal(new RolloutStep.Open(0), Next(Wave(WaveState.Waits)));
        Assert.Null(Next(Wave(WaveState.Open, new(5, 5, 0, 0, 0, 0))));
        Assert.Equal(new RolloutStep.Pass(0), Next(Wave(WaveState.Open, new(0, 2, 8, 0, 0, 0))));
        Assert.Equal(new RolloutStep.Open(1), Next(Wave(WaveState.Passed), Wave(WaveState.Waits)));
        Assert.Equal(new RolloutStep.Finish(), Next(Wave(WaveState.Passed), Wave(WaveState.Skipped)));
    }

    [Theory]
    [InlineData(0, 0, 9, 0, 1, 0, false)] // one in ten may
    [InlineData(0, 8, 0, 1, 1, 0, true)]
    [InlineData(0, 0, 7, 1, 0, 2, true)] // two of ten silent: not in place
    public void A_gate_that_is_missed_pauses(int waits, int onItsWay, int inPlace, int drifted, int failed, int silent, bool pauses)
    {
        var step = Next(Wave(WaveState.Open, new(waits, onItsWay, inPlace, drifted, failed, silent)));
        if (silent > 0) Assert.Null(step); // they may still come
        else Assert.Equal(pauses, step is RolloutStep.Pause);
    }

    [Fact]
    public void Where_nobody_is_on_the_way_any_more_and_too_few_are_in_place_the_gate_is_missed()
    {
        var plan = Pilot with { Gate = new WaveGate(50, 80) };
        var pause = Assert.IsType<RolloutStep.Pause>(Next(Wave(WaveState.Open, new(0, 0, 6, 1, 3, 0) { Left = 4 }) with { Plan = plan }));
        Assert.Equal("6 of 10 clients are in place; at least 80 % must be, and none is still on its way.", pause.Reason);
    }

    [Fact]
    public void Who_failed_and_will_be_tried_again_is_still_on_the_way()
    {
        var plan = Pilot with { Gate = new WaveGate(50, 80) };
        Assert.Null(Next(Wave(WaveState.Open, new(0, 0, 6, 0, 4, 0) { Left = 3 }) with { Plan = plan }));
        Assert.Null(Next(Wave(WaveState.Open, new(0, 0, 6, 4, 0, 0)) with { Plan = plan })); // drift that will be put right
    }

    [Fact]
    public void A_gate_that_is_not_met_in_time_is_missed()
    {
        var plan = Pilot with { Gate = new WaveGate(10, 80) { WithinMinutes = 60 } };
        var wave = Wave(WaveState.Open, new(0, 9, 1, 0, 0, 0)) with { Plan = plan, OpenedAt = Noon };
        Assert.Null(RolloutSteps.Next([wave], Noon + Duration.FromMinutes(59), false));
        Assert.IsType<RolloutStep.Pause>(RolloutSteps.Next([wave], Noon + Duration.FromMinutes(60), false));
    }

    [Fact]
    public void Who_went_on_over_a_missed_gate_is_not_paused_by_it_again()
    {
        var wave = Wave(WaveState.Open, new(0, 5, 0, 0, 5, 0));
        Assert.IsType<RolloutStep.Pause>(RolloutSteps.Next([wave], Noon, false));
        Assert.Null(RolloutSteps.Next([wave], Noon, isForgiven: true));
        Assert.Equal(new RolloutStep.Pass(0), RolloutSteps.Next([wave with { Counts = new(0, 0, 9, 0, 1, 0) }], Noon, isForgiven: true));
    }

    [Fact]
    public void A_wave_with_nobody_in_it_passes_as_it_begins() => Assert.Equal(new RolloutStep.Pass(0), Next(Wave(WaveState.Open)));

    [Fact]
    public void A_wave_waits_for_its_time_and_for_the_one_before_it()
    {
        var at = Wave(WaveState.Waits) with { Plan = Pilot with { Start = new StartAt(new DateTimeOffset(2026, 11, 26, 13, 0, 0, TimeSpan.Zero)) } };
        Assert.Null(RolloutSteps.Next([at], Noon, false));
        Assert.Equal(new RolloutStep.Open(0), RolloutSteps.Next([at], Noon + Duration.FromHours(1), false));
        var after = Wave(WaveState.Waits) with { Plan = Pilot with { Start = new StartAfter(30) } };
        var passed = Wave(WaveState.Passed) with { EndedAt = Noon };
        Assert.Null(RolloutSteps.Next([passed, after], Noon + Duration.FromMinutes(29), false));
        Assert.Equal(new RolloutStep.Open(1), RolloutSteps.Next([passed, after], Noon + Duration.FromMinutes(30), false));
        Assert.Equal(Noon + Duration.FromMinutes(30), RolloutSteps.BeginsAt([passed, after], 1));
        Assert.Null(RolloutSteps.Next([Wave(WaveState.Open, new(1, 0, 0, 0, 0, 0)), Wave(WaveState.Waits)], Noon, false));
    }

    [Fact]
    public void Where_waves_overlap_the_first_has_the_person_and_who_is_in_none_is_told_apart()
    {
        var (mia, jon, eva) = (Person("mia", "Clinical"), Person("jon", "Clinical"), Person("eva", "Office"));
        var roster = PeopleRoster.Build(CompanyRecords.Plain, [mia, jon, eva]);
        var waves = Assign(roster, new Pilots([jon.Id]), new OfUnits(UnitKind.Team, ["clinical"]));
        Assert.Equal((0, 1, false), (waves[jon.Id], waves[mia.Id], waves.ContainsKey(eva.Id)));
        Assert.Equal(0, Assign(roster, new Found("eva"), new EverybodyElse())[eva.Id]);
        Assert.Equal(1, Assign(roster, new Found("eva"), new EverybodyElse())[mia.Id]);
    }

    [Fact]
    public void A_share_is_the_same_people_each_time_others_for_another_edition_and_about_as_many_as_it_says()
    {
        var people = Enumerable.Range(0, 2000).Select(_ => Guid.NewGuid()).ToArray();
        var (one, two) = (people.Where(person => Waves.Percentile(person, "7") < 20).ToHashSet(), people.Where(person => Waves.Percentile(person, "8") < 20).ToHashSet());
        Assert.Equal(one, people.Where(person => Waves.Percentile(person, "7") < 20).ToHashSet());
        Assert.InRange(one.Count, 320, 480); // 400 and four and a half standard deviations (binomial: 17.9)
        Assert.InRange(one.Intersect(two).Count(), 40, 130); // a fifth of a fifth is 80
        Assert.All(people, person => Assert.InRange(Waves.Percentile(person, "7"), 0, 99));
    }

    [Fact]
    public void Waves_that_cannot_be_started_say_where()
    {
        Assert.Equal("wave-count", Assert.Single(Waves.Check([])).Code);
        Assert.Empty(Waves.Check(Waves.Plain));
        var bad = new WavePlan(" ", new Pilots([]), new StartAfter(-1), new WaveGate(101, -1) { WithinMinutes = -1 });
        Assert.Equal(["/waves/0/name", "/waves/0/gate/mostTrouble", "/waves/0/gate/leastInPlace", "/waves/0/gate/withinMinutes", "/waves/0/start/minutes", "/waves/0/people/people"], Waves.Check([bad]).Select(problem => problem.Pointer));
        Assert.Equal("/waves/0/people/percent", Assert.Single(Waves.Check([Pilot with { People = new Share(0) }])).Pointer);
        Assert.Equal("nobody", Assert.Single(Waves.Check([Pilot with { People = new OfUnits(UnitKind.Team, []) }])).Code);
        Assert.Equal("nobody", Assert.Single(Waves.Check([Pilot with { People = new Found(" ") }])).Code);
    }

    [Theory]
    [InlineData(20, 40, false)] // never so few
    [InlineData(21, 40, true)]
    [InlineData(200, 1000, false)]
    [InlineData(201, 1000, true)]
    public void Many_changes_at_once_are_held(int changes, int clients, bool isHeld) => Assert.Equal(isHeld, Flow.Standard.Brakes(changes, clients));

    [Fact]
    public void Changes_go_at_most_so_many_a_minute()
    {
        Assert.Equal(1000, new Flow(2000, 20).MayGo(Duration.FromSeconds(30)));
        Assert.Equal(2000, new Flow(2000, 20).MayGo(Duration.FromHours(3)));
        Assert.Equal(0, new Flow(2000, 20).MayGo(Duration.FromSeconds(-5)));
    }

    private static Person Person(string key, string team) => Build.Person(key, ("department", team));

    private static IReadOnlyDictionary<Guid, int> Assign(PeopleRoster roster, params WavePeople[] people) => Waves.Assign([.. people.Select(whom => Pilot with { People = whom })], roster, "7");

    private static WaveStatus Wave(WaveState state, WaveCounts? counts = null) => new(Pilot, state, null, null, counts ?? WaveCounts.None);

    private static RolloutStep? Next(params ImmutableArray<WaveStatus> waves) => RolloutSteps.Next(waves, Noon, isForgiven: false);
}
