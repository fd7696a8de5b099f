using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>Says in a sentence what a client kind cannot honour.</summary>
public static class FittingWords
{
    /// <summary>A loss. audience: what people read for an audience's key.</summary>
    public static string Of(FittingLoss loss, Func<string, string> audience)
    {
        var who = loss.Accounts == 1 ? $"One account ({loss.Example}) gets" : $"{loss.Accounts} accounts get";
        var given = loss.Given.Length == 0 ? "nothing" : loss.Given;
        var where = $"{Occasions(loss)} to {Join(loss.Audiences.Select(audience))}";
        return loss.Kind switch
        {
            LossKind.Design => $"{who} {given} in {where}, where the rules want {(loss.Wanted.Length == 0 ? "none" : loss.Wanted)}.",
            LossKind.Additions => $"{who} {given} in {where} with the disclaimers and banners of the most cautious message.",
            _ => $"{who} {given} in {where} as it reads in the most cautious message.",
        };
    }

    /// <summary>A slot that was too short.</summary>
    public static string Of(FittingLength length, ClientKind kind)
    {
        var slots = length.Slots == 1 ? $"one slot ({length.Example})" : $"{length.Slots} slots";
        return length.Way switch
        {
            FitWay.Linked => $"{length.Design} fits {slots} with linked pictures only.",
            FitWay.Smaller => $"{length.Design} is too long for {slots}: {length.Tried} stands in.",
            _ => $"{length.Design} does not fit {slots}, which stay empty: {(length.Tried == length.Design ? "it" : length.Tried)} is up to {length.MostOver} characters too long for the {kind.Name}.",
        };
    }

    private static string Occasions(FittingLoss loss) => Join(loss.Occasions.Select(occasion => occasion switch
    {
        Occasion.New => "new messages",
        Occasion.Reply => "replies",
        _ => "forwards",
    }));

    private static string Join(IEnumerable<string> words) => words.ToArray() switch
    {
        [] => "",
        [var one] => one,
        var many => $"{string.Join(", ", many[..^1])} and {many[^1]}",
    };
}
