using System.Collections.Immutable;
using NodaTime;
using Relevo.Core.Clients;

namespace Relevo.Core.Rollouts;

/// <summary>Where a client stands.</summary>
public enum DeliveryState
{
    /// <summary>It is to change and has not been told yet.</summary>
    Waits,

    /// <summary>It was told what to hold and has not yet reported holding it.</summary>
    OnItsWay,

    /// <summary>It reported exactly the files it was told.</summary>
    InPlace,

    /// <summary>It held them once and now holds something else.</summary>
    Drifted,

    /// <summary>It could not put them in place, and said why.</summary>
    Failed,
}

/// <summary>What is done about drift.</summary>
public enum DriftAnswer
{
    /// <summary>It is put right as soon as it is seen.</summary>
    AtOnce,

    /// <summary>It is put right when the client is heard of again.</summary>
    NextContact,

    /// <summary>It is told and left.</summary>
    Leave,
}

/// <summary>What a client reports: which manifest it holds, what was found in it, and its trouble if it had any.</summary>
/// <param name="Tag">The manifest it was told last, by its tag.</param>
/// <param name="Found">The manifest's files as they are.</param>
/// <param name="Trouble">Why it could not hold them, or empty.</param>
public sealed record DeliveryReport(string Tag, ImmutableArray<FoundFile> Found, string Trouble)
{
    /// <summary>What stands in those that differ, as far as it is text, so that it can be looked at.</summary>
    public ImmutableArray<FoundContent> Contents { get; init; } = [];

    /// <summary>True when what was found is exactly what the tag names, and there was no trouble.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool ProvesItself => Trouble.Length == 0 && Manifest.TagOf(Found.Select(file => (file.Path, file.Sha256))) == Tag;
}

/// <summary>What was found in a place.</summary>
public sealed record FoundContent(string Path, string Text);

/// <summary>
/// One delivery's standing. A small state machine over three hashes: what is wanted, what was told, what is held. Every step may be repeated and changes
/// nothing the second time, so that a crash of either side between two steps loses and doubles nothing. What is wanted is planned as a recipe, for hundreds of
/// thousands of clients at once; what it comes to is known from when the client is told first.
/// </summary>
/// <param name="State">The state.</param>
/// <param name="WantedTag">The tag of what it is to hold; empty as long as nobody has written it.</param>
/// <param name="ToldTag">The tag it was told last.</param>
/// <param name="HeldTag">The tag it reported holding last; empty while it holds none.</param>
/// <param name="Differing">Paths that differ from what was told.</param>
/// <param name="Trouble">What went wrong last, or empty.</param>
/// <param name="Failures">Failures in a row.</param>
/// <param name="NextAttempt">Not tried before; null for at once.</param>
/// <param name="IsSetAside">True when it failed too often and waits for somebody to look at it.</param>
public sealed record DeliveryStanding(
    DeliveryState State, string WantedTag, string ToldTag, string HeldTag, ImmutableArray<string> Differing, string Trouble, int Failures, Instant? NextAttempt, bool IsSetAside)
{
    /// <summary>What is wanted is made from this; null before anything was planned.</summary>
    public Guid? Recipe { get; init; }

    /// <summary>What is held was made from this; null while it holds none.</summary>
    public Guid? HeldRecipe { get; init; }

    /// <summary>Where every client begins.</summary>
    public static DeliveryStanding Start { get; } = new(DeliveryState.Waits, "", "", "", [], "", 0, null, false);

    /// <summary>True when the files are to be sent even to a client that says it has them.</summary>
    public bool IsAgain => State == DeliveryState.Waits && ToldTag.Length == 0;

    /// <summary>
    /// This is what the client is to hold now. The same as before changes nothing, and what it holds already needs no delivery: an edition that is the same for
    /// a client is never delivered to it.
    /// </summary>
    public DeliveryStanding Wanted(Guid recipe)
    {
        if (recipe == Recipe) return this;
        if (State == DeliveryState.Drifted) return this with { Recipe = recipe, WantedTag = "" };
        if (recipe == HeldRecipe) return InPlaceWith(new WantedTag(recipe, HeldTag));
        return this with { State = DeliveryState.Waits, Recipe = recipe, WantedTag = "", Differing = [], Trouble = "", Failures = 0, NextAttempt = null, IsSetAside = false };
    }

    /// <summary>The client keeps nothing and asks for each message: what is wanted is in place with the server itself.</summary>
    public static DeliveryStanding Served(Guid recipe) => InPlaceWith(new WantedTag(recipe, Manifest.NothingsTag));

    /// <summary>The client was told a manifest. A drifted client stays drifted until it reports otherwise.</summary>
    public DeliveryStanding Told(WantedTag wanted)
    {
        var (recipe, tag) = wanted;
        if (State == DeliveryState.Drifted) return this with { Recipe = recipe, WantedTag = tag, ToldTag = tag };
        if (State == DeliveryState.InPlace && tag == WantedTag) return InPlaceWith(wanted);
        return this with { State = DeliveryState.OnItsWay, Recipe = recipe, WantedTag = tag, ToldTag = tag, Differing = [] };
    }

    /// <summary>The client asked and says that it has what is wanted. What it has reported before need not be told or reported again, although it is made from something else now.</summary>
    public DeliveryStanding Has(WantedTag wanted) => State == DeliveryState.Waits && wanted.Tag == HeldTag ? InPlaceWith(wanted) : Told(wanted);

    /// <summary>
    /// The client reported. A report for another manifest than the one that is wanted is stale and changes nothing; one that was written before the client was told again says
    /// only that it holds something else. Files that differ are drift when they were in place before, and a failure when they never were.
    /// </summary>
    public DeliveryStanding Reported(DeliveryReport report, Manifest told, Instant now, double chance, BackOff backOff)
    {
        if (report.Tag != told.Tag() || report.Tag != WantedTag) return this;
        var differing = Differences(report, told);
        if (report.Tag != ToldTag && (report.Trouble.Length > 0 || !differing.IsEmpty)) return Unheld(); // seen before it was wanted again: it will be told, and what it holds is not known
        if (report.Trouble.Length > 0) return Unheld().Failed(report.Trouble, now, chance, backOff) with { Differing = differing };
        if (differing.IsEmpty) return Held(report.Tag);
        if (State is DeliveryState.InPlace or DeliveryState.Drifted) return Unheld() with { State = DeliveryState.Drifted, ToldTag = report.Tag, Differing = differing, Trouble = "" };
        return Unheld().Failed("The files that were found are not the ones that were delivered.", now, chance, backOff) with { Differing = differing };
    }

    /// <summary>The client reported holding exactly what a tag names: what was found proves it, and nothing need be compared. A stale report changes nothing.</summary>
    public DeliveryStanding Held(string tag) => tag == WantedTag && Recipe is { } recipe ? InPlaceWith(new WantedTag(recipe, tag)) : this;

    /// <summary>The client could not be told, or could not do it. After too many failures in a row the delivery is set aside. asked: how long the other side asked to be left alone.</summary>
    public DeliveryStanding Failed(string trouble, Instant now, double chance, BackOff backOff, Duration? asked = null)
    {
        var failures = Failures + 1;
        return this with { State = DeliveryState.Failed, Trouble = trouble, Failures = failures, NextAttempt = now + backOff.Wait(failures, chance, asked), IsSetAside = failures >= backOff.MostAttempts };
    }

    /// <summary>Somebody looked at it and wants it tried again, whatever it holds.</summary>
    public DeliveryStanding Again() => Start with { Recipe = Recipe, WantedTag = WantedTag };

    private static DeliveryStanding InPlaceWith(WantedTag held) => new(DeliveryState.InPlace, held.Tag, held.Tag, held.Tag, [], "", 0, null, false) { Recipe = held.Recipe, HeldRecipe = held.Recipe };

    private DeliveryStanding Unheld() => this with { HeldTag = "", HeldRecipe = null };

    private static ImmutableArray<string> Differences(DeliveryReport report, Manifest wanted)
    {
        var found = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var file in report.Found) found[file.Path] = file.Sha256;
        return [.. wanted.Files.Where(file => found.GetValueOrDefault(file.Path) != file.Sha256).Select(file => file.Path)];
    }
}
