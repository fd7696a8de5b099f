using Relevo.Core.Designs;
using Xunit;

namespace Relevo.Core.Tests.Designs;

public sealed class DesignSetTests
{
    private static readonly Theme Other = Build.Full().Theme with { LineHeight = 170 };

    [Fact]
    public void A_theme_changed_in_one_design_is_the_theme_of_all_in_its_set_and_of_no_other()
    {
        var changed = Build.Full() with { Set = "Clinics", Theme = Other };
        Assert.Equal(Other, DesignSet.Follow(changed, Build.Short() with { Set = "Clinics" })!.Theme);
        Assert.Null(DesignSet.Follow(changed, Build.Short() with { Set = "Laboratory" }));
        Assert.Null(DesignSet.Follow(changed, Build.Short()));
        Assert.Null(DesignSet.Follow(changed, changed)); // nothing new
        Assert.Null(DesignSet.Follow(changed with { Set = "" }, Build.Short()));
    }

    [Fact]
    public void Following_changes_the_theme_and_nothing_else()
    {
        var follower = Build.Short() with { Set = "Clinics" };
        Assert.Equal((follower with { Theme = Other }).ToJson(), DesignSet.Follow(Build.Full() with { Set = "Clinics", Theme = Other }, follower)!.ToJson());
    }

    [Fact]
    public void Who_joins_a_set_takes_its_theme_and_does_not_bring_another()
    {
        var (sets, alone) = (DesignSet.Of([(Guid.NewGuid(), Build.Full() with { Set = "Clinics", Theme = Other })]), Build.Short());
        Assert.Equal("theme-of-set", DesignSet.CheckJoining(alone, alone with { Set = "Clinics" }, sets)!.Code);
        Assert.Null(DesignSet.CheckJoining(alone, alone with { Set = "Clinics", Theme = Other }, sets));
        Assert.Null(DesignSet.CheckJoining(alone, alone with { Set = "New" }, sets));
        Assert.Null(DesignSet.CheckJoining(alone with { Set = "Clinics" }, alone with { Set = "Clinics" }, sets)); // a member may change it for all
    }

    [Fact]
    public void A_copied_set_has_names_of_its_own_throughout()
    {
        DesignDocument[] designs = [Build.Full("Full") with { Set = "Clinics" }, Build.Short("full, copy") with { Set = "Clinics" }, Build.Short("Alone")];
        var copies = DesignSet.Copy("Clinics", designs, [.. designs.Select(design => design.Name)], ["Clinics", "Clinics, copy"]);
        Assert.Equal(["Full, copy 2", "full, copy, copy"], copies.Select(copy => copy.Name));
        Assert.All(copies, copy => Assert.Equal("Clinics, copy 2", copy.Set));
        Assert.Empty(DesignSet.Copy("Nowhere", designs, [], []));
    }
}
