using System.Reflection;
using NetArchTest.Rules;

namespace Relevo.Server.Tests;

/// <summary>The arrows of dependence run one way: Server, Agent, StandIns to Data and Imaging to Core; Core knows nobody.</summary>
public sealed class ArchitectureTests
{
    private static readonly Assembly Core = typeof(Relevo.Core.RelevoJson).Assembly;
    private static readonly Assembly Data = typeof(Relevo.Data.Database).Assembly;
    private static readonly Assembly Imaging = typeof(Relevo.Imaging.PictureReading).Assembly;
    private static readonly Assembly Agent = typeof(Relevo.Agent.SignatureAgent).Assembly;
    private static readonly Assembly StandIns = Assembly.Load("relevo-standins");

    [Fact]
    public void Core_knows_no_web_no_database_and_no_other_part() =>
        AssertFree(Core, "Relevo.Data", "Relevo.Server", "Relevo.Agent", "Relevo.StandIns", "Npgsql", "Microsoft.AspNetCore", "System.Net.Http", "System.IO.File", "System.IO.Directory");

    [Fact]
    public void Core_has_no_clock_and_no_chance_of_its_own() =>
        AssertFree(Core, "System.TimeProvider", "System.Random", "System.Diagnostics.Stopwatch", "System.Diagnostics.Process");

    [Fact]
    public void Imaging_knows_pictures_and_the_core_and_nothing_else() => AssertFree(Imaging, "Relevo.Data", "Relevo.Server", "Relevo.Agent", "Relevo.StandIns", "Npgsql", "Microsoft.AspNetCore", "System.Net");

    [Fact]
    public void Data_knows_no_web_and_no_program() => AssertFree(Data, "Relevo.Server", "Relevo.Agent", "Relevo.StandIns", "Microsoft.AspNetCore");

    [Fact]
    public void Agents_and_stand_ins_speak_to_the_server_only_through_its_door()
    {
        AssertFree(Agent, "Relevo.Data", "Relevo.Server", "Relevo.StandIns", "Npgsql");
        AssertFree(StandIns, "Relevo.Data", "Relevo.Server", "Npgsql");
    }

    private static void AssertFree(Assembly assembly, params string[] others)
    {
        var result = Types.InAssembly(assembly).ShouldNot().HaveDependencyOnAny(others).GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
        Assert.True(Types.InAssembly(assembly).GetTypes().Any(), "the assembly was looked into");
    }
}
