using System.Collections.Immutable;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rules;
using Relevo.Core.Tests.Rules;
using static Relevo.Core.Tests.Rules.RuleWorld;

namespace Relevo.Core.Tests.Clients;

/// <summary>Accounts and editions to fill slots with.</summary>
internal static class FittingWorld
{
    public static FittingAccount Account(string address, params (string Field, string Value)[] values) =>
        new(Build.Sender(address, values), _ => FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(values), address));

    public static FieldValue[] Values(Sender sender)
    {
        var facts = Records.Fields.Fields.Select((field, index) => (field.Name, Value: sender.Value(index))).Where(pair => pair.Value.Length > 0).Append(("displayName", "Mia")).ToArray();
        return FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts([.. facts.DistinctBy(pair => pair.Item1)]), sender.Address);
    }

    public static EditionContent Content(RuleSet rules, DesignDocument? full = null, ImmutableArray<ReadyAnswer> answers = default, DesignDocument? shorter = null) =>
        EditionContent.From([new(Full, full ?? Build.Full()), new(Short, shorter ?? Build.Short())], rules, (answers.IsDefault ? [] : answers).Select(answer => new EditionAnswer(Guid.NewGuid(), answer))) with
        {
            Audiences = Book,
            Disclaimers = [new(German, new Disclaimer("German notice", DisclaimerLanguage.Person, "en", ImmutableSortedDictionary<string, DisclaimerText>.Empty.Add("en", new("Please print sparingly, {displayName}."))))],
        };
}
