using Relevo.Agent;

namespace Relevo.Server.Tests;

public sealed class AgentOptionsTests
{
    [Fact]
    public void A_command_line_is_read_with_its_token_from_the_environment()
    {
        var options = AgentOptions.Parse(["--server", "https://relevo.company.example/", "--folder", "/sig", "--every", "2.5", "--once"], _ => " secret ")!;
        Assert.Equal(("https://relevo.company.example/", "/sig", "secret", 2.5, true, false), (options.Server.ToString(), options.Folder, options.Token, options.Every.TotalSeconds, options.IsOnce, options.StopsWithInput));
    }

    [Theory]
    [InlineData("--server https://x.example --folder /sig --token-file /nowhere/at/all")]
    [InlineData("--folder /sig")]
    [InlineData("--server not-an-address --folder /sig")]
    [InlineData("--server https://x.example --folder /sig --every 0")]
    [InlineData("--server https://x.example --folder /sig --every soon")]
    [InlineData("--server https://x.example --folder")]
    [InlineData("--server https://x.example --proxy nowhere")]
    [InlineData("--server ftp://x.example")]
    [InlineData("enrol --server https://x.example --token-file t")]
    [InlineData("enrol --server https://x.example --code ABCD")]
    [InlineData("dance --server https://x.example")]
    [InlineData("nonsense")]
    public void A_command_line_that_cannot_be_used_is_refused(string line) => Assert.Null(AgentOptions.Parse(line.Split(' '), _ => "secret"));

    [Fact]
    public void Without_a_token_there_is_no_agent() => Assert.Null(AgentOptions.Parse(["--server", "https://x.example", "--folder", "/sig"], _ => null));

    [Fact]
    public void Without_a_folder_the_files_lie_in_the_users_configuration() => Assert.EndsWith(Path.Combine("relevo", "signatures"), AgentOptions.Parse(["--server", "https://x.example"], _ => "secret")!.Folder, StringComparison.Ordinal);

    [Fact]
    public void Who_is_asked_to_stay_away_for_longer_does_and_not_all_come_back_at_once()
    {
        var options = AgentOptions.Parse(["--server", "https://x.example", "--every", "2"], _ => "secret")!;
        Assert.Equal(120, options.NextDelay(1, 0, TimeSpan.FromMinutes(2)).TotalSeconds, 6);
        Assert.Equal(144, options.NextDelay(1, 1, TimeSpan.FromMinutes(2)).TotalSeconds, 6);
        Assert.Equal(2, options.NextDelay(1, 0.5, TimeSpan.FromSeconds(1)).TotalSeconds, 6);
    }

    [Theory]
    [InlineData(0, 0.5, 2)]
    [InlineData(0, 0.0, 1.6)]
    [InlineData(0, 1.0, 2.4)]
    [InlineData(1, 0.5, 2)]
    [InlineData(3, 0.5, 8)]
    [InlineData(50, 0.5, 60)]
    public void Silence_makes_the_agent_wait_longer_up_to_a_minute(int silence, double chance, double seconds)
    {
        var options = AgentOptions.Parse(["--server", "https://x.example", "--folder", "/sig", "--every", "2"], _ => "secret")!;
        Assert.Equal(seconds, options.NextDelay(silence, chance).TotalSeconds, 6);
    }
}
