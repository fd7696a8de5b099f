using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Tests.Rules;
using Xunit;
using static Relevo.Core.Tests.Clients.FittingWorld;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Clients;

/// <summary>What a client's files are made of, in one hash: it stands for the files when rollouts are planned.</summary>
public sealed class RecipeTests
{
    private static readonly ClientKind Mailbox = ClientKind.Named("browser-mailbox"), Pocket = ClientKind.Named("pocket-app");
    private const string Address = "mia@brackenfold.example";

    private static readonly RuleSet Everybody = new([Build.Rule(Full)]);

    /// <summary>Against writing the files: of any two clients, those that would hold other files have other recipes, and the same one made anew has the same.</summary>
    [Property(MaxTest = 100)]
    public Property Clients_with_the_same_recipe_hold_the_same_files() => Prop.ForAll(
        (from rules in RuleSets.Two() from sender in SenderOf(Guid.NewGuid()).Two() from kind in Gen.Elements(ClientKind.DeskApp, Mailbox, Pocket, Pocket with { MaxTextCharacters = 12 }).Two() select (rules, sender, kind)).ToArbitrary(),
        world =>
        {
            var made = (from rules in new[] { world.rules.Item1, world.rules.Item2 }
                        from sender in new[] { world.sender.Item1, world.sender.Item2, world.sender.Item1 }
                        from kind in new[] { world.kind.Item1, world.kind.Item2 }
                        select Make(new SigningAt(Content(rules), Records, Noon), kind, new FittingAccount(sender, _ => Values(sender)))).ToList();
            foreach (var one in made)
            {
                foreach (var other in made.Where(other => other.Recipe == one.Recipe)) Assert.Equal(one.Tag, other.Tag);
            }

            for (var at = 0; at < made.Count; at += 6) Assert.Equal(made[at], made[at + 4]); // the same sender
        });

    [Fact]
    public void A_fact_that_no_signature_shows_makes_no_other_recipe_and_one_that_is_shown_does()
    {
        var signing = new SigningAt(Content(Everybody), Records, Noon);
        var mia = Recipe(signing, ClientKind.DeskApp, Account(Address, ("displayName", "Mia"), ("title", "Vet")));
        Assert.Equal(mia, Recipe(signing, ClientKind.DeskApp, Account(Address, ("displayName", "Mia"), ("title", "Vet"), ("registrationNumber", "4711"))));
        Assert.NotEqual(mia, Recipe(signing, ClientKind.DeskApp, Account(Address, ("displayName", "Mia"), ("title", "Surgeon"))));
    }

    [Fact]
    public void A_colour_concerns_clients_that_hold_html_and_no_others()
    {
        var (before, after) = (new SigningAt(Content(Everybody), Records, Noon), new SigningAt(Content(Everybody, Build.Full() with { Theme = Build.Full().Theme with { Colours = Build.Full().Theme.Colours with { Text = "#123456" } } }), Records, Noon));
        var mia = Account(Address, ("displayName", "Mia"));
        Assert.NotEqual(Recipe(before, Mailbox, mia), Recipe(after, Mailbox, mia));
        Assert.Equal(Recipe(before, Pocket, mia), Recipe(after, Pocket, mia));
    }

    [Fact]
    public void The_smaller_design_counts_where_a_length_is_limited()
    {
        var limited = Pocket with { MaxTextCharacters = 200 };
        var mia = Account(Address, ("displayName", "Mia"));
        Guid Of(ClientKind kind, DesignDocument shorter) => Recipe(new SigningAt(Content(Everybody, Build.Full() with { Smaller = "Short" }, shorter: shorter), Records, Noon), kind, mia);
        var other = Build.Design(["name"], ("name", Build.Line("title"))) with { Name = "Short" };
        Assert.NotEqual(Of(limited, Build.Short()), Of(limited, other));
        Assert.Equal(Of(Pocket with { MaxTextCharacters = 0 }, Build.Short()), Of(Pocket with { MaxTextCharacters = 0 }, other));
    }

    /// <summary>
    /// Clients are told nothing while their recipe stays the same, so a change of what is written for the same designs and values must come with another
    /// <see cref="Slotting.RecipeVersion"/>. When a tag here is another one on purpose: raise the version, then write the new tags down.
    /// </summary>
    [Theory]
    [InlineData("desk-app", 1, "a2b6f3f482a29303")]
    [InlineData("browser-mailbox", 1, "9fcdbe098f5c98ed")]
    [InlineData("pocket-app", 1, "73abc6b0a45208a6")]
    public void What_is_written_is_what_this_version_of_the_recipe_writes(string kind, int version, string start)
    {
        Assert.Equal(Slotting.RecipeVersion, version);
        var account = Account(Address, ("displayName", "Åsa & Söhne \"O'Neill\" <1>"), ("title", "Vet 🐎"), ("telephone", "+44 20 7946 0123"), ("webAddress", "https://brackenfold.example/?a=1&b=2"), ("organisation", "Brackenfold Veterinary Group Limited, of which this name is too long for a line of text"));
        Assert.Equal(start, Make(new SigningAt(Content(Everybody), Records, Noon), ClientKind.Named(kind), account).Tag[..16]);
    }

    private static (Guid Recipe, string Tag) Make(SigningAt signing, ClientKind kind, FittingAccount account)
    {
        var slotting = new Slotting(1, signing, "https://relevo.brackenfold.example", _ => Caution.Standard);
        var chosen = slotting.Choose(kind, [account], isForAll: false, tellsLosses: false, slotting.Decide);
        return (slotting.RecipeOf(chosen), slotting.Fill(chosen).Deliver(new Dictionary<string, string>(), new Dictionary<string, byte[]>()).Manifest.Tag());
    }

    private static Guid Recipe(SigningAt signing, ClientKind kind, FittingAccount account) => Make(signing, kind, account).Recipe;
}
