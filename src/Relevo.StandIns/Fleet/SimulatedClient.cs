using System.Collections.Immutable;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Relevo.Core;
using Relevo.Core.Clients;
using Relevo.Core.Rollouts;

namespace Relevo.StandIns.Fleet;

/// <summary>
/// A simulated computer or phone: it polls, keeps in memory what it is told, and reports what it holds, by the same protocol as a real one. What it keeps outlives its being
/// switched off, as a disk does.
/// </summary>
public sealed class SimulatedClient(FleetMember member, FleetSettings first, Random dice, HttpClient server)
{
    private readonly Lock holding = new();
    private ImmutableSortedDictionary<string, string> files = ImmutableSortedDictionary<string, string>.Empty.WithComparers(StringComparer.Ordinal); // hash by path
    private ImmutableSortedDictionary<string, string> texts = ImmutableSortedDictionary<string, string>.Empty.WithComparers(StringComparer.Ordinal); // text by path, of phones
    private Manifest? manifest;
    private bool asksForAll;

    private FleetSettings settings = first;

    /// <summary>How it behaves from now on.</summary>
    public FleetSettings Settings
    {
        get => settings;
        set => settings = value;
    }

    /// <summary>Who it is.</summary>
    public FleetMember Member { get; } = member;

    /// <summary>The clock on its wall, which is off. Nothing it does depends on it.</summary>
    private DateTimeOffset Clock => DateTimeOffset.UtcNow.AddHours(skew);

    private readonly double skew = ((2 * dice.NextDouble()) - 1) * first.ClockSkewHours;

    /// <summary>True for one that is never switched on.</summary>
    public bool IsNeverOn { get; } = dice.NextDouble() < first.NeverOn;

    /// <summary>The tag of what it was told last and wrote; empty before.</summary>
    public string HeldTag => manifest?.Tag() ?? "";

    /// <summary>The edition it was made from, or 0.</summary>
    public int Edition => manifest?.Edition ?? 0;

    /// <summary>How often it was given something to write that it held already: at-least-once delivery may, but a change to the same is told once.</summary>
    public int ToldTwice { get; private set; }

    /// <summary>How often it wrote something.</summary>
    public int Written { get; private set; }

    /// <summary>Text signatures by the account they are for; "" for every account. Of phones.</summary>
    public IReadOnlyDictionary<string, string> Signatures
    {
        get
        {
            lock (holding) return manifest is null ? [] : manifest.Files.ToDictionary(file => file.Address, file => texts.GetValueOrDefault(file.Path, ""), StringComparer.OrdinalIgnoreCase);
        }
    }

    private string Ask => Member.Kind == "pocket-app" ? "pocket/v1/profile" : AgentProtocol.SignaturesPath;

    private string Report => Member.Kind == "pocket-app" ? "pocket/v1/report" : AgentProtocol.ReportPath;

    /// <summary>Does what a meddling owner would.</summary>
    public void Scribble()
    {
        lock (holding)
        {
            if (files.IsEmpty) return;
            var path = files.First().Key;
            texts = texts.SetItem(path, texts.GetValueOrDefault(path, "") + "Sent in haste\n");
            files = files.SetItem(path, Hash(Encoding.UTF8.GetBytes(texts[path])));
        }
    }

    /// <summary>Polls until it is switched off for good.</summary>
    public async Task RunAsync(CancellationToken cancellationToken)
    {
        if (IsNeverOn) return;
        try
        {
            await Task.Delay(TimeSpan.FromSeconds(settings.PollSeconds * Roll()), cancellationToken); // not all at once
            while (true)
            {
                var wait = await PollAsync(cancellationToken);
                var seconds = settings.PollSeconds * (0.8 + (0.4 * Roll()));
                await Task.Delay(wait is { } asked && asked.TotalSeconds > seconds ? asked * (1 + (0.2 * Roll())) : TimeSpan.FromSeconds(seconds), cancellationToken);
            }
        }
        catch (OperationCanceledException) when (cancellationToken.IsCancellationRequested)
        {
            // Switched off.
        }
    }

    /// <summary>Asks once. How long the server asked to be left alone, or null; zero when it is to poll again at once.</summary>
    public async Task<TimeSpan?> PollAsync(CancellationToken cancellationToken)
    {
        if (Falls(settings.HandEdited)) Scribble();
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, Ask);
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", Member.Token);
            request.Headers.Date = Clock; // what a computer whose clock is off says; nobody asks it
            if (HeldTag is { Length: > 0 } tag && !asksForAll) request.Headers.IfNoneMatch.Add(new EntityTagHeaderValue($"\"{tag}\""));
            using var answer = await server.SendAsync(request, cancellationToken);
            switch (answer.StatusCode)
            {
                case HttpStatusCode.OK:
                    var told = Member.Kind == "pocket-app" ? Of((await answer.Content.ReadFromJsonAsync<ToldProfile>(RelevoJson.Options, cancellationToken))!) : Of((await answer.Content.ReadFromJsonAsync<AgentDelivery>(RelevoJson.Options, cancellationToken))!);
                    return await TakeAsync(told, cancellationToken);
                case HttpStatusCode.NotModified when manifest is { } held:
                    return await LookAsync(held, answer.Headers.Contains(AgentProtocol.ReportHeader), cancellationToken);
                default:
                    return answer.Headers.RetryAfter?.Delta;
            }
        }
        catch (Exception away) when (away is HttpRequestException or JsonException or IOException || (away is OperationCanceledException && !cancellationToken.IsCancellationRequested))
        {
            return null; // it keeps what it has
        }
    }

    private async Task<TimeSpan?> TakeAsync(Told told, CancellationToken cancellationToken)
    {
        if (Falls(settings.Failing))
        {
            await ReportAsync(new DeliveryReport(told.Manifest.Tag(), [], "No space left on device"), cancellationToken);
            asksForAll = true;
            return null;
        }

        lock (holding)
        {
            if (told.Manifest.Tag() == HeldTag && Holds(told.Manifest)) ToldTwice++;
            else Written++;
            manifest = told.Manifest;
            files = told.Manifest.Files.ToImmutableSortedDictionary(file => file.Path, file => file.Sha256, StringComparer.Ordinal);
            texts = told.Texts;
            asksForAll = false;
        }

        if (Falls(settings.Restarting)) return null; // switched off before it could say so; the server will ask
        if (settings.Latency > 0) await Task.Delay(settings.Latency, cancellationToken);
        await ReportAsync(WhatIsHeld(told.Manifest), cancellationToken);
        return null;
    }

    private async Task<TimeSpan?> LookAsync(Manifest held, bool wantsReport, CancellationToken cancellationToken)
    {
        var isRight = Holds(held);
        if (isRight && !wantsReport) return null;
        var answer = await ReportAsync(WhatIsHeld(held), cancellationToken);
        asksForAll = !isRight && answer != AgentProtocol.LeaveAlone;
        if (answer == AgentProtocol.PutRightNow) return await PollAsync(cancellationToken);
        return null;
    }

    private bool Holds(Manifest held) => held.Files.All(file => files.GetValueOrDefault(file.Path) == file.Sha256);

    private DeliveryReport WhatIsHeld(Manifest held)
    {
        lock (holding)
        {
            return new DeliveryReport(held.Tag(), [.. held.Files.Select(file => new FoundFile(file.Path, files.GetValueOrDefault(file.Path, "")))], "")
            {
                Contents = [.. held.Files.Where(file => files.GetValueOrDefault(file.Path) != file.Sha256 && texts.ContainsKey(file.Path)).Select(file => new FoundContent(file.Path, texts[file.Path]))],
            };
        }
    }

    private async Task<string> ReportAsync(DeliveryReport report, CancellationToken cancellationToken)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, Report) { Content = JsonContent.Create(report, options: RelevoJson.Options) };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", Member.Token);
        using var answer = await server.SendAsync(request, cancellationToken);
        answer.EnsureSuccessStatusCode();
        return answer.Headers.TryGetValues(AgentProtocol.DriftHeader, out var said) ? said.First() : "";
    }

    private double Roll()
    {
        lock (dice) return dice.NextDouble();
    }

    private bool Falls(double share) => share > 0 && Roll() < share;

    private static string Hash(byte[] bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));

    /// <summary>What arrived, with every hash looked at: a delivery that is not what its manifest names is garbage.</summary>
    private static Told Of(AgentDelivery delivery)
    {
        foreach (var file in delivery.Files)
        {
            if (delivery.Manifest.Files.FirstOrDefault(entry => entry.Path == file.Path)?.Sha256 != Hash(file.Bytes)) throw new JsonException($"What arrived for {file.Path} is not what the manifest names.");
        }

        return new Told(delivery.Manifest, ImmutableSortedDictionary<string, string>.Empty.WithComparers(StringComparer.Ordinal));
    }

    private static Told Of(ToldProfile profile)
    {
        var manifest = new Manifest(profile.Edition, [.. profile.Signatures.Select(signature => new ManifestFile(signature.Path, signature.Sha256, signature.Address, ""))]);
        if (manifest.Tag() != profile.Tag || profile.Signatures.Any(signature => Hash(Encoding.UTF8.GetBytes(signature.Text)) != signature.Sha256)) throw new JsonException("The profile is not what its tag names.");
        return new Told(manifest, profile.Signatures.ToImmutableSortedDictionary(signature => signature.Path, signature => signature.Text, StringComparer.Ordinal));
    }

    private sealed record Told(Manifest Manifest, ImmutableSortedDictionary<string, string> Texts);

    private sealed record ToldSignature(string Address, string Text, string Path, string Sha256);

    private sealed record ToldProfile(int Edition, string Tag, ImmutableArray<ToldSignature> Signatures);
}
