using System.Net;
using System.Net.Sockets;
using Microsoft.Extensions.DependencyInjection;
using Relevo.Core.People;
using Relevo.Core.People.Sources;
using Relevo.Data;
using Relevo.Server.Connectors;
using Relevo.Server.People;

namespace Relevo.Server.Tests.Ldap;

/// <summary>Against a real directory server, OpenLDAP's slapd from Debian.</summary>
public sealed class LdapTests
{
    [Fact]
    public async Task People_and_groups_come_over_every_kind_of_connection_in_pages()
    {
        await using var directory = await RealDirectory.StartAsync(RealDirectory.Company(1203));
        foreach (var (port, security) in new[] { (directory.Port, LdapSecurity.None), (directory.Port, LdapSecurity.StartTls), (directory.SecurePort, LdapSecurity.Ldaps) })
        {
            // The reader is given 500 entries a page and at most 1,000 without pages.
            var settings = Settings(directory, port, security) with { BindName = "uid=reader,dc=brackenfold,dc=example" };
            var content = await LdapDirectory.ReadAsync(settings, "reader-secret", Mapping.Standard, FieldCatalogue.Standard, null, CancellationToken.None);
            Assert.Empty(content.Problems);
            Assert.Equal(1203, content.People.Length);
            Assert.Equal("Surgeons", content.People.Single(person => person.Name == "Person 0003").Facts[GroupNames.Field]);
            Assert.Null(content.People.Single(person => person.Name == "Person 0004").Facts[GroupNames.Field]);
        }
    }

    [Fact]
    public async Task What_goes_wrong_is_a_sentence_that_says_what_to_look_at()
    {
        await using var directory = await RealDirectory.StartAsync(RealDirectory.Company(3));
        var good = Settings(directory, directory.Port, LdapSecurity.None);
        await AssertTroubleAsync(good, "wrong", "does not know this bind name");
        await AssertTroubleAsync(good with { BaseName = "dc=nowhere,dc=example" }, RealDirectory.Secret, "has nothing at");
        await AssertTroubleAsync(good with { Security = LdapSecurity.Ldaps, Port = directory.SecurePort, CertificateFolder = "" }, RealDirectory.Secret, "not trusted");
        await AssertTroubleAsync(good with { Security = LdapSecurity.StartTls, CertificateFolder = "" }, RealDirectory.Secret, "certificate");
        using var closed = new TcpListener(IPAddress.Loopback, 0);
        closed.Start();
        var port = ((IPEndPoint)closed.LocalEndpoint).Port;
        closed.Stop();
        await AssertTroubleAsync(good with { Port = port }, RealDirectory.Secret, "cannot be reached");
    }

    [Fact]
    public async Task A_directory_is_tried_kept_read_and_read_again_by_schedule()
    {
        await using var directory = await RealDirectory.StartAsync(RealDirectory.Company(12));
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var settings = Settings(directory, directory.Port, LdapSecurity.StartTls);
        var tried = await Browser.ReadAsync<TryLdapAnswer>(await browser.PostAsync("api/ldap/try", new TryLdapRequest(settings, RealDirectory.Secret, null, null)));
        Assert.Equal((12, true, "Person 0000"), (tried.Count, tried.IsWhole, tried.People[0].Name));
        var request = new LdapSourceRequest(new SourceRequest("Directory", null, BrakeSettings.Default, [], 60), settings, RealDirectory.Secret);
        var added = await Browser.ReadAsync<LdapSourceAnswer>(await browser.PostAsync("api/ldap", request));
        Assert.DoesNotContain(RealDirectory.Secret, await browser.Http.GetStringAsync($"api/ldap/{added.Id}"), StringComparison.Ordinal);
        Assert.DoesNotContain(RealDirectory.Secret, await server.Database.AskAsync<string>("select secret from source"), StringComparison.Ordinal);

        var run = await browser.ReadNowAsync(added.Id);
        Assert.Equal((RunState.Planned, 12), (run.Run.State, run.Run.Counts.Joining));
        using var applied = await browser.ApplyAsync(run.Run.Id);
        var person = (await browser.FindAsync("Person 0005")).Id;

        await directory.ChangeAsync("""
            dn: uid=p0005,dc=brackenfold,dc=example
            changetype: modify
            replace: title
            title: Senior vet

            dn: uid=p0006,dc=brackenfold,dc=example
            changetype: delete

            """);
        await server.Services.GetRequiredService<SourceSchedule>().AskDueAsync(CancellationToken.None);
        var scheduled = (await browser.GetAsync<SourceRun[]>("api/runs"))[0];
        Assert.Equal((RunKind.Schedule, RunState.Applied, "the schedule"), (scheduled.Kind, scheduled.State, scheduled.AppliedBy));
        Assert.Equal((1, 1, 10), (scheduled.Counts.Changing, scheduled.Counts.Leaving, scheduled.Unchanged));
        Assert.Equal(("Senior vet", person), ((await browser.FindAsync("Person 0005")).Title, (await browser.FindAsync("Person 0005")).Id));

        // It is not due again before its hour is over.
        await server.Services.GetRequiredService<SourceSchedule>().AskDueAsync(CancellationToken.None);
        Assert.Equal(scheduled.Id, (await browser.GetAsync<SourceRun[]>("api/runs"))[0].Id);
    }

    [Fact]
    public async Task Real_entries_are_shown_to_map_by_and_the_next_reading_follows_the_mapping()
    {
        await using var directory = await RealDirectory.StartAsync(RealDirectory.Company(30));
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var request = new LdapSourceRequest(new SourceRequest("Directory", null, BrakeSettings.Default, [], null), Settings(directory, directory.Port, LdapSecurity.None), RealDirectory.Secret);
        var added = await Browser.ReadAsync<LdapSourceAnswer>(await browser.PostAsync("api/ldap", request));
        var sample = await browser.GetAsync<SampleAnswer>($"api/sources/{added.Id}/sample");
        Assert.Equal(25, sample.Entries.Length);
        Assert.Contains(sample.Entries[0].Values, value => value.Attribute == "entryuuid");

        // Somebody's name in small letters, and the title from a list of words.
        var words = new LookupTransform(System.Collections.Immutable.ImmutableSortedDictionary<string, string>.Empty.Add("Person 0003", "Head of three"), IsStrict: true);
        var mapping = Mapping.Standard with { Fields = [new FieldMapping("displayName", ["cn"], null, [new CaseTransform(CaseStyle.Lower)]), new FieldMapping("title", ["cn"], null, [words]), new FieldMapping("employeeNumber", ["cn"], null, [new SplitTransform(" ", -1), new ExtractTransform("[1-9].*")])] };
        var tried = await Browser.ReadAsync<TriedSample>(await browser.PostAsync("api/sources/try", new TrySampleRequest(sample.Entries, mapping)));
        var third = tried.People.Single(person => person.Name == "person 0003");
        Assert.Equal(("Head of three", "3"), (third.Facts["title"], third.Facts["employeeNumber"]));
        Assert.DoesNotContain("title", tried.People.Single(person => person.Name == "person 0004").Facts.Keys);
        using var odd = await browser.PostAsync("api/sources/try", new TrySampleRequest(sample.Entries, mapping with { Fields = [new FieldMapping("title", ["cn"], null, [new ExtractTransform("(")])] }));
        Assert.Equal("/mapping/fields/0/transforms/0", (await Problem.ReadAsync(odd)).Faults[0].Pointer);

        using var saved = await browser.PutAsync($"api/sources/{added.Id}", request.Source with { Mapping = mapping }, added.Revision);
        Assert.Equal(HttpStatusCode.NoContent, saved.StatusCode);
        using var applied = await browser.ApplyAsync((await browser.ReadNowAsync(added.Id)).Run.Id);
        Assert.Equal("Head of three", (await browser.GetAsync<PeopleAnswer>("api/people?search=%22person%200003%22")).People[0].Title);
    }

    [Fact]
    public async Task A_reading_that_fails_changes_nobody_and_the_next_one_works()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        Guid source;
        await using (var directory = await RealDirectory.StartAsync(RealDirectory.Company(5)))
        {
            var request = new LdapSourceRequest(new SourceRequest("Directory", null, BrakeSettings.Default, [], null), Settings(directory, directory.Port, LdapSecurity.None), RealDirectory.Secret);
            source = (await Browser.ReadAsync<LdapSourceAnswer>(await browser.PostAsync("api/ldap", request))).Id;
            using var applied = await browser.ApplyAsync((await browser.ReadNowAsync(source)).Run.Id);
        }

        var failed = await browser.ReadNowAsync(source);
        Assert.Equal(RunState.Failed, failed.Run.State);
        Assert.Contains("cannot be reached", failed.Run.Problems[0].Message, StringComparison.Ordinal);
        Assert.Equal(5, (await browser.GetAsync<PeopleAnswer>("api/people")).Total);
    }

    [Fact]
    public async Task Settings_with_faults_are_refused_before_any_server_is_asked()
    {
        await using var server = await RunningServer.StartAsync();
        using var browser = await server.SignInAsync();
        var settings = new LdapSettings("", 0, LdapSecurity.None, "/no/such/folder", "", "", "(&(a=b)");
        using var refused = await browser.PostAsync("api/ldap/try", new TryLdapRequest(settings, null, null, null));
        Assert.Equal(["certificates", "filter", "host", "port"], (await Problem.ReadAsync(refused)).Faults.Select(fault => fault.Code).Order());
    }

    private static LdapSettings Settings(RealDirectory directory, int port, LdapSecurity security) =>
        new("127.0.0.1", port, security, security == LdapSecurity.None ? "" : directory.Certificates, RealDirectory.BindName, "dc=brackenfold,dc=example", "(|(objectClass=inetOrgPerson)(objectClass=groupOfNames))");

    private static async Task AssertTroubleAsync(LdapSettings settings, string secret, string words)
    {
        var trouble = await Assert.ThrowsAsync<SourceUnreachableException>(() => LdapDirectory.ReadAsync(settings, secret, Mapping.Standard, FieldCatalogue.Standard, null, CancellationToken.None));
        Assert.Contains(words, trouble.Message, StringComparison.Ordinal);
    }
}
