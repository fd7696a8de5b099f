using System.Collections.Immutable;

namespace Relevo.Core.Rollouts;

/// <summary>A signature file on its way to an agent. Bytes travel as base64 in JSON.</summary>
public sealed record AgentFile(string Path, byte[] Bytes);

/// <summary>Everything a computer is to hold, as the server sends it. Pictures are fetched by their hash from /pictures.</summary>
public sealed record AgentDelivery(Manifest Manifest, ImmutableArray<AgentFile> Files);

/// <summary>Names that the server and its agents agree on.</summary>
public static class AgentProtocol
{
    /// <summary>Header by which the server asks for a report, until the computer is in place in the running rollout.</summary>
    public const string ReportHeader = "Relevo-Report";

    /// <summary>Where agents ask.</summary>
    public const string SignaturesPath = "agent/v1/signatures";

    /// <summary>Where agents report.</summary>
    public const string ReportPath = "agent/v1/report";
}
