using System.Collections.Immutable;
using Relevo.Core.Clients;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Rollouts;

/// <summary>An account with its resolved values in catalogue order, ready to be decided and rendered for.</summary>
public sealed record FittingAccount(Account Account, FieldValue[] Values);

/// <summary>Computes what goes into each slot of a client that keeps files.</summary>
public static class DeskAppFitting
{
    /// <summary>
    /// Fits a person's accounts. A slot takes the outcome of its first occasion; a slot whose outcome is "nothing" gets no files.
    /// </summary>
    /// <param name="edition">The edition's number.</param>
    /// <param name="kind">The client kind.</param>
    /// <param name="accounts">The person's accounts.</param>
    /// <param name="rules">The edition's rules.</param>
    /// <param name="compiled">Gives the edition's designs, compiled for this client kind.</param>
    public static Delivery Fit(int edition, ClientKind kind, IEnumerable<FittingAccount> accounts, RuleSet rules, Func<Guid, CompiledDesign> compiled)
    {
        var signatures = new List<WantedFile>();
        var pictures = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var (account, values) in accounts)
        {
            foreach (var slot in kind.Slots)
            {
                if (Decision.Decide(rules, new Situation(account.Address, slot.Occasions[0])).Design is not { } design) continue;
                var program = compiled(design);
                var rendered = program.Render(values);
                pictures.UnionWith(program.Pictures);
                var stem = $"{FileName.Encode(account.Address)}.{slot.Name}";
                signatures.Add(new(new($"{stem}.html", rendered.HtmlSha256, account.Address, slot.Name), rendered.Html));
                signatures.Add(new(new($"{stem}.txt", rendered.TextSha256, account.Address, slot.Name), rendered.Text));
            }
        }

        var files = signatures.Select(file => file.Entry)
            .Concat(pictures.Select(picture => new ManifestFile(kind.Form.PictureAddress(picture), picture, "", "")))
            .OrderBy(file => file.Path, StringComparer.Ordinal);
        return new Delivery(new Manifest(edition, [.. files]), [.. signatures], [.. pictures]);
    }
}
