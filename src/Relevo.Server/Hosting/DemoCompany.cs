using System.Collections.Immutable;
using System.IO.Compression;
using System.Text.Json;
using Microsoft.AspNetCore.DataProtection;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.People.Formats;
using Relevo.Core.People.Roster;
using Relevo.Core.People.Sources;
using Relevo.Core.Rendering;
using Relevo.Data;
using Relevo.Server.People;
using Relevo.Server.Rollout;
using Relevo.Server.SignIn;

namespace Relevo.Server.Hosting;

/// <summary>One stand-in client with its token; the file of these is the only place the demo's tokens are written to.</summary>
public sealed record DemoClient(string Kind, string Name, string Person, string Address, string Token);

/// <summary>Fills an empty database with the demo company from the files under demo/, the way an administrator would. Draft only: publishing and rolling out are left to the visitor.</summary>
internal sealed class DemoCompany(UserStore users, SourceStore sources, RunStore runs, CurrentRoster rosters, PictureStore pictures, ClientStore clients, MailboxStore mailboxes, FieldSetStore fields, UnitStore units, PersonStore people, DocumentStore documents, DemoRules demoRules, ClientSettingsStore clientSettings, IDataProtectionProvider protection)
{
    private const string AdministratorAddress = "ines.albrecht@brackenfold.example";
    private const string EmployeeAddress = "maren.holtkamp@brackenfold.example";
    private const string AdministratorPassword = "paper-ink-and-baton";
    private const string EmployeePassword = "my-own-signature";
    private const int ComputerCount = 20;
    private const int PhoneCount = 6;
    private const int HelperCount = 3;

    /// <summary>The demo's passwords, refused in production.</summary>
    public static ImmutableArray<string> Passwords { get; } = [AdministratorPassword, EmployeePassword];

    /// <summary>The demo's sign-in names.</summary>
    public static ImmutableArray<string> SignInNames { get; } = [AdministratorAddress, EmployeeAddress];

    /// <summary>Seeds once; a database with users is left as it is.</summary>
    public async Task SeedAsync(ServerSettings settings, CancellationToken cancellationToken)
    {
        if ((await users.ListAsync(cancellationToken)).Count > 0) return;
        var administrator = new User(Guid.NewGuid(), AdministratorAddress, "Ines Albrecht", SessionEndpoints.Hash(AdministratorPassword), UserRole.Administrator, null);
        await users.AddAsync(administrator, cancellationToken);
        var actor = new Actor(administrator.Id, administrator.DisplayName);
        await ImportPeopleAsync(Path.Combine(settings.DemoFolder!, "brackenfold.ldif"), actor, cancellationToken);
        await AddPortraitsAsync(Path.Combine(settings.DemoFolder!, "brackenfold-portraits.zip"), actor, cancellationToken);
        await AddMailboxesAsync(actor, cancellationToken);
        await AddProfileLinksAsync(actor, cancellationToken);
        await AddAnswersAsync(actor, cancellationToken);
        var employee = (await rosters.GetAsync(cancellationToken)).FindByAddress(EmployeeAddress)!;
        await users.AddAsync(new User(Guid.NewGuid(), EmployeeAddress, employee.Name, SessionEndpoints.Hash(EmployeePassword), UserRole.Employee, employee.Person.Id), cancellationToken);
        await DesignAsync(Path.Combine(settings.DemoFolder!, "brackenfold-mark.png"), actor, cancellationToken);
        await AddClientsAsync(settings.DemoTokensFile!, actor, cancellationToken);
        if (settings.DemoMailboxes?.Split(' ', 2) is [var session, var token]) await clientSettings.SaveMailboxServerAsync(session, protection.CreateProtector(ClientEndpoints.SecretPurpose).Protect(token), actor, cancellationToken);
    }

    private async Task ImportPeopleAsync(string path, Actor actor, CancellationToken cancellationToken)
    {
        await using var file = File.OpenRead(path);
        var content = await LdifListing.ReadAsync(file, Mapping.Standard, FieldCatalogue.Standard, LdifLimits.Default, null, cancellationToken);
        var run = new NewRun(Guid.CreateVersion7(), await DirectoryFiles.EnsureSourceAsync(sources, SourceKind.Ldif, actor, cancellationToken), RunKind.File, Path.GetFileName(path));
        await runs.PlanAsync(run, content, FieldCatalogue.Standard, actor, cancellationToken);
        var outcome = await runs.ApplyAsync(run.Id, isAccepted: false, actor, cancellationToken);
        if (outcome != ApplyOutcome.Applied) throw new StartRefusedException($"The demo directory {path} could not be applied: {content.Problems.FirstOrDefault()?.Message ?? outcome.ToString()}");
    }

    private async Task AddPortraitsAsync(string path, Actor actor, CancellationToken cancellationToken)
    {
        await using var archive = await ZipFile.OpenReadAsync(path, cancellationToken);
        var answer = await PortraitEndpoints.TakeAllAsync(archive, await rosters.GetAsync(cancellationToken), pictures, people, actor, cancellationToken);
        if (!answer.Refused.IsEmpty) throw new StartRefusedException($"The demo's portrait {answer.Refused[0].File} could not be taken: {answer.Refused[0].Reason}");
    }

    private async Task AddMailboxesAsync(Actor actor, CancellationToken cancellationToken)
    {
        var administrator = (await rosters.GetAsync(cancellationToken)).FindByAddress(AdministratorAddress)!.Person.Id;
        (string Name, string Title, string Telephone, string[] Groups, Guid[] Senders)[] shared =
        [
            ("reception", "Reception", "+44 20 7946 0900", ["Reception"], []),
            ("emergency", "Emergency service", "+49 30 23125 110", ["Emergency rota"], []),
            ("invoices", "Invoices", "+46 8 465 004 99", ["Practice managers"], [administrator]),
        ];
        foreach (var (name, title, telephone, groups, senders) in shared)
        {
            var facts = new Facts([KeyValuePair.Create("displayName", title), KeyValuePair.Create("telephone", telephone), KeyValuePair.Create("title", ""), KeyValuePair.Create("mobile", ""), KeyValuePair.Create("postNominals", "")]);
            var mailbox = new Mailbox(Guid.CreateVersion7(), $"{name}@brackenfold.example", facts, [.. groups], [.. senders], 1);
            if (await mailboxes.AddAsync(mailbox, actor, cancellationToken) != MailboxOutcome.Saved) throw new StartRefusedException($"The demo's shared mailbox {mailbox.Address} could not be added.");
        }
    }

    private async Task AddProfileLinksAsync(Actor actor, CancellationToken cancellationToken)
    {
        (string Name, string Label, ProfileKind Kind, FieldHolder[] Holders, string Address)[] links =
        [
            ("bookingPage", "Book a visit", ProfileKind.Booking, [FieldHolder.Office, FieldHolder.Entity, FieldHolder.Company], "https://book.brackenfold.example/"),
            ("films", "Films", ProfileKind.Video, [FieldHolder.Entity, FieldHolder.Company], "https://films.example/@brackenfold"),
            ("shortPosts", "Short posts", ProfileKind.Posts, [FieldHolder.Person, FieldHolder.Entity, FieldHolder.Company], "https://posts.example/brackenfold"),
        ];
        var before = await fields.ReadAsync(cancellationToken);
        var own = links.Select(link => new OwnField(link.Name, link.Label, FieldKind.Web, [], [.. link.Holders], FieldRule.Closed, PhoneDisplay.International, false, link.Kind));
        var company = (await rosters.GetAsync(cancellationToken)).Records.Units.Company!;
        var facts = links.Aggregate(company.Facts, (facts, link) => facts.With(link.Name, link.Address));
        if (await fields.SaveAsync(before.Revision, before.Fields with { Own = [.. before.Fields.Own, .. own] }, actor, cancellationToken) != SaveOutcome.Saved
            || await units.SaveAsync(company with { Facts = facts }, actor, cancellationToken) != UnitOutcome.Saved) throw new StartRefusedException("The demo's profile links could not be added.");
    }

    private async Task AddAnswersAsync(Actor actor, CancellationToken cancellationToken)
    {
        ReadyAnswer[] ready =
        [
            new("Appointment confirmed", "Your appointment at {organisation}", "Hello,\n\nyour appointment is in our book. Please bring your animal's papers, and come ten minutes early.\n\nTo change it: {bookingPage}\nOr ring us: {telephone}\n"),
            new("Results are here", "", "Hello,\n\nthe results you were waiting for are here. I would like to talk you through them myself.\n\nYou reach me at {telephone}.\nOut of hours: {mobile}\n"),
        ];
        foreach (var answer in ready) await documents.AddAsync(DocumentKind.Answer, Guid.CreateVersion7(), JsonSerializer.Serialize(answer, RelevoJson.Options), actor, cancellationToken);
    }

    private async Task DesignAsync(string markPath, Actor actor, CancellationToken cancellationToken)
    {
        var mark = await File.ReadAllBytesAsync(markPath, cancellationToken);
        var (width, height) = Png.ReadSize(mark)!.Value;
        var picture = new PictureHead(RenderedSignature.Sha256(mark), "Brackenfold Veterinary Group", width, height);
        await pictures.KeepAsync(picture, mark, isInLibrary: true, cancellationToken);
        var logo = new StarterLogo(picture.Sha256, width, height, picture.Name, "https://brackenfold.example");
        await demoRules.AddAsync(logo, actor, cancellationToken);
    }

    /// <summary>
    /// Every twelfth person has a computer, some a phone and a compose helper, and the demo's two users before anybody else. One computer more lies in a drawer: it is
    /// in no file, and so nobody runs its agent.
    /// </summary>
    private async Task AddClientsAsync(string tokensFile, Actor actor, CancellationToken cancellationToken)
    {
        var everybody = (await rosters.GetAsync(cancellationToken)).Rows.ToArray().Where(row => row.Person.Address.Length > 0).ToList();
        var first = everybody.Where(row => SignInNames.Contains(row.Person.Address));
        var chosen = first.Concat(everybody.Where((row, index) => index % 12 == 0 && !SignInNames.Contains(row.Person.Address))).Take(ComputerCount).ToList();
        var added = new List<DemoClient>();
        for (var number = 0; number < chosen.Count; number++)
        {
            var row = chosen[number];
            await AddAsync(ClientKind.DeskApp.Kind, $"{row.Office?.Name} {number + 1:00}", row);
            if (number < PhoneCount) await AddAsync("pocket-app", $"Phone {number + 1:00}", row);
            if (number < HelperCount) await AddAsync("compose-helper", "Compose helper", row);
        }

        await clients.AddAsync(new Client(Guid.NewGuid(), ClientKind.DeskApp.Kind, "in a drawer", chosen[^1].Person.Id), Tokens.New().Hash, null, Placement.None, actor, cancellationToken);
        var options = new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite };
        await using var file = new FileStream(tokensFile, options);
        await JsonSerializer.SerializeAsync(file, added, RelevoJson.Options, cancellationToken);

        async Task AddAsync(string kind, string name, RosterRow row)
        {
            var (token, hash) = Tokens.New();
            await clients.AddAsync(new Client(Guid.NewGuid(), kind, name, row.Person.Id, "", IsForAll: kind == "pocket-app"), hash, null, Placement.None, actor, cancellationToken);
            added.Add(new DemoClient(kind, name, row.Name, row.Person.Address, token));
        }
    }
}
