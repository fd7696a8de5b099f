using System.Collections.Immutable;
using Relevo.Core.Clients;

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

    /// <summary>Header by which the server answers a report of drift: <see cref="PutRightNow"/>, <see cref="PutRightNext"/> or <see cref="LeaveAlone"/>.</summary>
    public const string DriftHeader = "Relevo-Drift";

    /// <summary>It is to be put right at once, at the next poll, or not at all.</summary>
    public const string PutRightNow = "now", PutRightNext = "next", LeaveAlone = "leave";

    /// <summary>Characters of what was found in a drifted file that are reported at most.</summary>
    public const int MostContent = 50_000;

    /// <summary>Where an agent turns a code into a token.</summary>
    public const string EnrolPath = "agent/v1/enrol";

    /// <summary>Where an agent gets the token that follows its own.</summary>
    public const string TokenPath = "agent/v1/token";

    /// <summary>Where agents ask.</summary>
    public const string SignaturesPath = "agent/v1/signatures";

    /// <summary>Where agents report.</summary>
    public const string ReportPath = "agent/v1/report";
}

/// <summary>A code that was given to somebody with a new client.</summary>
public sealed record EnrolRequest(string Code);

/// <summary>A token, shown this once and kept as a hash.</summary>
public sealed record TokenAnswer(string Token);
