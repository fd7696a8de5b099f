using FsCheck.Xunit;
using Relevo.Core.People.Sources;
using Xunit;

namespace Relevo.Core.Tests.People.Sources;

public sealed class SyncTests
{
    [Fact]
    public void A_sync_tells_joiners_changes_leavers_and_who_returns()
    {
        var known = new[]
        {
            Build.Known(Build.Listed("stays")), Build.Known(Build.Listed("changes", ("title", "Vet"))), Build.Known(Build.Listed("leaves")),
            Build.Known(Build.Listed("returns"), isListed: false), Build.Known(Build.Listed("gone"), isListed: false),
        };
        var plan = Plan(known, Build.Listed("stays"), Build.Listed("changes", ("title", "Senior vet")), Build.Listed("returns"), Build.Listed("joins"));
        Assert.Equal(["Change changes", "Return returns", "Join joins", "Leave leaves"], plan.Steps.Select(step => $"{step.Action} {step.Key}"));
        Assert.Equal(1, plan.Unchanged);
    }

    [Fact]
    public void The_case_of_a_key_makes_nobody_new()
    {
        var plan = Plan([Build.Known(Build.Listed("mia"))], Build.Listed("MIA", ("displayName", "mia")));
        Assert.Empty(plan.Steps);
    }

    [Fact]
    public void A_joiner_whom_another_source_has_is_the_same_person()
    {
        var same = Guid.NewGuid();
        var plan = SyncPlan.Plan([], [Build.Listed("mia")], person => person.Addresses[0] == "mia@brackenfold.example" ? same : null, Guid.NewGuid);
        Assert.Equal(same, Assert.Single(plan.Steps).PersonId);
    }

    [Property]
    public void Whatever_was_applied_is_unchanged_the_next_time(byte[] people)
    {
        var listed = people.Distinct().Select(number => Build.Listed($"p{number}", ("title", $"T{number % 7}"))).ToArray();
        var plan = Plan([], listed);
        Assert.Equal(listed.Length, plan.Steps.Count(step => step.Action == StepAction.Join));
        var again = Plan([.. plan.Steps.Select(step => new KnownEntry(step.Key, step.PersonId, step.ContentHash, true))], listed);
        Assert.Empty(again.Steps);
        Assert.Equal(listed.Length, again.Unchanged);
    }

    [Property]
    public void Contents_have_the_same_hash_only_when_they_are_the_same(string title, string other)
    {
        var (left, right) = (Build.Listed("a", ("title", title ?? "")), Build.Listed("a", ("title", other ?? "")));
        Assert.Equal(left.Facts.Equals(right.Facts), Hash(left) == Hash(right));
    }

    [Fact]
    public void A_value_that_moves_to_the_next_field_is_another_content() =>
        Assert.NotEqual(Hash(Build.Listed("a", ("title", "b"), ("department", "c"))), Hash(Build.Listed("a", ("title", "c"), ("department", "b"))));

    [Theory]
    [InlineData(100, 95, 5, false)] // five of a hundred is the share itself, not more
    [InlineData(100, 94, 6, true)]
    [InlineData(10, 6, 4, false)] // fewer than five hold nothing, whatever the share
    [InlineData(10, 5, 5, true)]
    [InlineData(3, 0, 3, true)] // nobody at all always waits
    [InlineData(0, 0, 0, false)]
    public void The_brake_holds_a_run_that_retires_too_many(int before, int listed, int leaving, bool isHeld) =>
        Assert.Equal(isHeld, !Brake.Reasons(BrakeSettings.Default, before, listed, leaving, [], name => name).IsEmpty);

    [Fact]
    public void The_brake_holds_a_run_that_empties_a_field()
    {
        var reasons = Brake.Reasons(BrakeSettings.Default, 100, 100, 0, [new("mobile", 40, 20), new("title", 100, 4)], name => name == "mobile" ? "Mobile" : name);
        Assert.Equal(["20 of 40 people would lose \"Mobile\", more than 5 %."], reasons);
    }

    private static SyncPlan Plan(KnownEntry[] known, params ListedPerson[] listed) => SyncPlan.Plan(known, listed, _ => null, Guid.NewGuid);

    private static Guid Hash(ListedPerson person) => EntryContent.Hash(person);
}
