using System.Collections.Immutable;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;
using Xunit;

namespace Relevo.Core.Tests.Rollouts;

/// <summary>One delivery's standing, from waiting to in place and through everything that goes wrong.</summary>
public sealed class DeliveryTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 26, 9, 0);
    private static readonly Manifest One = new(1, [new("a.html", "11", "a@b.example", "new"), new("b.txt", "22", "a@b.example", "new")]);
    private static readonly Manifest Two = new(2, [new("a.html", "33", "a@b.example", "new")]);

    [Fact]
    public void A_client_waits_is_told_and_is_in_place()
    {
        var waits = DeliveryStanding.Start.Wanted(Of(One).Recipe);
        Assert.Equal(DeliveryState.Waits, waits.State);
        Assert.Equal(DeliveryState.OnItsWay, waits.Told(Of(One)).State);
        Assert.Equal(DeliveryState.InPlace, waits.Told(Of(One)).Report(One).State);
    }

    [Fact]
    public void Being_told_or_reporting_the_same_twice_changes_nothing()
    {
        var inPlace = InPlace(One);
        Assert.Equal(inPlace, inPlace.Told(Of(One)));
        Assert.Equal(inPlace, inPlace.Wanted(Of(One).Recipe));
        Assert.Equal(inPlace, inPlace.Report(One));
    }

    [Fact]
    public void What_a_client_holds_already_is_not_delivered_again()
    {
        var held = InPlace(One).Wanted(Of(One with { Edition = 9 }).Recipe);
        Assert.Equal(DeliveryState.InPlace, held.State);
        Assert.Equal(DeliveryState.InPlace, InPlace(One).Wanted(Of(Two).Recipe).Wanted(Of(One).Recipe).State); // rolled back before it was told
    }

    [Fact]
    public void What_is_made_from_something_else_and_comes_to_the_same_is_in_place_once_the_client_says_that_it_has_it()
    {
        var other = new WantedTag(Guid.NewGuid(), One.Tag());
        var waits = InPlace(One).Wanted(other.Recipe);
        Assert.Equal((DeliveryState.Waits, ""), (waits.State, waits.WantedTag));
        Assert.Equal((DeliveryState.InPlace, other.Recipe), (waits.Has(other).State, waits.Has(other).HeldRecipe!.Value));
        Assert.Equal(waits.Has(other), waits.Has(other).Wanted(other.Recipe));
        Assert.Equal(DeliveryState.OnItsWay, waits.Told(other).State); // it says nothing: it is told, and will report
        Assert.Equal(DeliveryState.OnItsWay, DeliveryStanding.Start.Wanted(other.Recipe).Has(other).State); // it says so and never reported it
    }

    [Fact]
    public void A_client_told_in_between_what_the_plan_did_not_know_is_told_again_when_it_turns_back()
    {
        var told = InPlace(One).Told(Of(Two)).Report(Two); // facts changed, it asked, and the planner has not looked yet
        Assert.Equal(Of(Two).Recipe, told.Recipe);
        Assert.Equal(DeliveryState.Waits, told.Wanted(Of(One).Recipe).State); // they turned back before it looked
    }

    [Fact]
    public void A_file_changed_by_hand_is_drift_until_it_is_put_right()
    {
        var drifted = InPlace(One).Report(One, ("a.html", "99"));
        Assert.Equal((DeliveryState.Drifted, "a.html"), (drifted.State, Assert.Single(drifted.Differing)));
        Assert.Equal(DeliveryState.Drifted, drifted.Told(Of(One)).State);
        Assert.Equal(DeliveryState.InPlace, drifted.Told(Of(One)).Report(One).State);
        Assert.Equal(DeliveryState.InPlace, drifted.Wanted(Of(Two).Recipe).Told(Of(Two)).Report(Two).State);
    }

    [Fact]
    public void Files_that_never_were_right_are_a_failure_and_not_drift()
    {
        var told = DeliveryStanding.Start.Told(Of(One));
        Assert.Equal(DeliveryState.Failed, told.Report(One, ("a.html", "")).State);
        Assert.Equal("disk full", told.Reported(new(One.Tag(), [], "disk full"), One, Now, 0.5, BackOff.Standard).Trouble);
    }

    [Fact]
    public void A_report_about_another_manifest_or_a_hash_nobody_sent_changes_nothing()
    {
        var told = DeliveryStanding.Start.Told(Of(One));
        Assert.Equal(told, told.Reported(new("old", [], ""), One, Now, 0.5, BackOff.Standard));
        Assert.Equal(told, told.Report(Two));
        Assert.Equal(InPlace(One), InPlace(One).Reported(new(new string('0', 64), [new("x", "y")], "invented"), One, Now, 0.5, BackOff.Standard));
    }

    [Fact]
    public void What_was_seen_before_somebody_wanted_it_again_is_neither_drift_nor_a_failure()
    {
        var again = InPlace(One).Report(One, ("a.html", "99")).Again();
        Assert.Equal(again, again.Report(One, ("a.html", "99")));
        Assert.Equal(again, again.Reported(new(One.Tag(), [], "disk full"), One, Now, 0.5, BackOff.Standard));
        Assert.Equal(DeliveryState.InPlace, again.Report(One).State); // the person put it right meanwhile
        Assert.Equal(DeliveryState.Failed, again.Told(Of(One)).Report(One, ("a.html", "99")).State);
    }

    [Fact]
    public void A_delivery_that_fails_too_often_is_set_aside_until_somebody_wants_it_again()
    {
        var failing = DeliveryStanding.Start.Told(Of(One));
        for (var failure = 1; failure <= BackOff.Standard.MostAttempts; failure++)
        {
            Assert.False(failing.IsSetAside);
            failing = failing.Failed("away", Now, 0.5, BackOff.Standard);
        }

        Assert.True(failing.IsSetAside);
        Assert.Equal((DeliveryState.Waits, false, true), (failing.Again().State, failing.Again().IsSetAside, failing.Again().IsAgain));
        Assert.False(failing.Wanted(Of(Two).Recipe).IsSetAside); // something new is tried
    }

    [Theory]
    [InlineData(1, 30)]
    [InlineData(2, 60)]
    [InlineData(3, 120)]
    [InlineData(9, 3600)]
    [InlineData(100, 3600)]
    public void The_wait_doubles_up_to_an_hour(int failures, int seconds)
    {
        Assert.Equal(Duration.FromSeconds(seconds), BackOff.Standard.Wait(failures, 0.5));
        Assert.InRange(BackOff.Standard.Wait(failures, 0).TotalSeconds, seconds * 0.79, seconds * 0.81);
        Assert.InRange(BackOff.Standard.Wait(failures, 1).TotalSeconds, seconds * 1.19, seconds * 1.21);
    }

    [Fact]
    public void Who_asks_to_be_left_alone_for_longer_is() => Assert.Equal(Duration.FromMinutes(5), BackOff.Standard.Wait(1, 0.5, Duration.FromMinutes(5)));

    /// <summary>Whatever happens and is repeated: a client never counts as in place without having reported just what is wanted, and once it has been told and reports that, it is in place.</summary>
    [Property(MaxTest = 300)]
    public Property In_place_is_only_what_reported_exactly_what_is_wanted() => Prop.ForAll(
        Gen.Choose(0, 8).ListOf(12).ToArbitrary(),
        steps =>
        {
            var standing = DeliveryStanding.Start;
            var reported = "";
            foreach (var step in steps)
            {
                var before = standing;
                standing = step switch
                {
                    0 => standing.Wanted(Of(One).Recipe),
                    1 => standing.Wanted(Of(Two).Recipe),
                    2 when standing.Recipe is { } recipe => standing.Told(recipe == Of(One).Recipe ? Of(One) : Of(Two)),
                    3 when standing.Recipe is { } recipe => standing.Has(recipe == Of(One).Recipe ? Of(One) : Of(Two)),
                    2 or 3 => standing,
                    4 => standing.Report(One),
                    5 => standing.Report(Two),
                    6 => standing.Report(One, ("a.html", "99")),
                    7 => standing.Failed("away", Now, 0.5, BackOff.Standard),
                    _ => standing.Again(),
                };
                if (step == 4 && before.WantedTag == One.Tag()) reported = One.Tag();
                else if (step == 5 && before.WantedTag == Two.Tag()) reported = Two.Tag();
                else if (step is 6 && before.WantedTag == One.Tag()) reported = "";
                if (standing.State == DeliveryState.InPlace) Assert.Equal((standing.WantedTag, standing.HeldTag), (reported, reported));
            }

            var settled = standing.Wanted(Of(Two).Recipe).Told(Of(Two)).Report(Two);
            Assert.Equal(DeliveryState.InPlace, settled.State);
        });

    private static DeliveryStanding InPlace(Manifest manifest) => DeliveryStanding.Start.Told(Of(manifest)).Report(manifest);

    /// <summary>What a manifest is made from: in these tests each has a recipe of its own.</summary>
    private static WantedTag Of(Manifest manifest) => new(new Guid(Convert.FromHexString(manifest.Tag()).AsSpan(0, 16)), manifest.Tag());
}

internal static class Reports
{
    /// <summary>The client reports that it holds a manifest, but for these files.</summary>
    public static DeliveryStanding Report(this DeliveryStanding standing, Manifest manifest, params (string Path, string Sha256)[] but)
    {
        var found = manifest.Files.Select(file => new FoundFile(file.Path, but.FirstOrDefault(other => other.Path == file.Path, (file.Path, file.Sha256)).Item2)).ToImmutableArray();
        return standing.Reported(new DeliveryReport(manifest.Tag(), found, ""), manifest, Instant.FromUtc(2026, 11, 26, 9, 0), 0.5, BackOff.Standard);
    }
}
