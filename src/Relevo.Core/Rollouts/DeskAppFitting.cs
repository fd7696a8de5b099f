using System.Collections.Immutable;
using NodaTime;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Rollouts;

/// <summary>An account as rules see it, with its resolved values in catalogue order, ready to be decided and rendered for.</summary>
public sealed record FittingAccount(Sender Sender, FieldValue[] Values)
{
    /// <summary>An account of a person.</summary>
    public static FittingAccount Of(CompanyRecords records, Person person, Account account) => new(Sender.Of(records, person, account), FieldResolution.Resolve(records, person, account, ""));
}

/// <summary>What goes into a client's slots, before the pictures it refers to are looked at.</summary>
/// <param name="Edition">The edition's number.</param>
/// <param name="Form">How the signatures are written.</param>
/// <param name="Signatures">The files of the slots.</param>
/// <param name="Pictures">Names of the pictures they refer to, in order.</param>
public sealed record Fitting(int Edition, RenderingForm Form, ImmutableArray<WantedFile> Signatures, ImmutableArray<string> Pictures)
{
    /// <summary>The whole delivery. hashes: SHA-256 of each picture that could be made, by name; one that could not is left out.</summary>
    public Delivery Deliver(IReadOnlyDictionary<string, string> hashes)
    {
        var files = Signatures.Select(file => file.Entry)
            .Concat(Pictures.Where(hashes.ContainsKey).Select(picture => new ManifestFile(Form.PictureAddress(picture), hashes[picture], "", "")))
            .OrderBy(file => file.Path, StringComparer.Ordinal);
        return new Delivery(new Manifest(Edition, [.. files]), Signatures);
    }
}

/// <summary>Computes what goes into each slot of a client that keeps files.</summary>
public static class DeskAppFitting
{
    /// <summary>
    /// Fits a person's accounts. A slot takes the outcome of its first occasion; a slot whose outcome is "nothing" gets no files. This client
    /// does not know its readers, so the strictest audience is assumed.
    /// </summary>
    /// <param name="edition">The edition's number.</param>
    /// <param name="kind">The client kind.</param>
    /// <param name="accounts">The person's accounts.</param>
    /// <param name="content">The edition.</param>
    /// <param name="records">What the accounts were resolved with.</param>
    /// <param name="moment">When it is.</param>
    /// <param name="compiled">Compiles designs for a form.</param>
    public static Fitting Fit(int edition, ClientKind kind, IEnumerable<FittingAccount> accounts, EditionContent content, CompanyRecords records, Instant moment, Func<DesignDocument, RenderingForm, CompiledDesign> compiled)
    {
        var signatures = ImmutableArray.CreateBuilder<WantedFile>();
        var pictures = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var (sender, values) in accounts)
        {
            foreach (var slot in kind.Slots)
            {
                var occasion = slot.Occasions[0];
                var situation = new Situation(sender, Audiences.Outside, occasion, kind.Kind, moment);
                var decision = Decision.Decide(content.Rules, records, situation);
                if (Signing.Furnish(content, records, situation, decision, values) is not { } design) continue;
                var rendered = compiled(design, Signing.FormOf(kind.Form, situation, decision)).Render(values, Circumstances.Of(occasion));
                pictures.UnionWith(rendered.Pictures);
                var stem = $"{FileName.Encode(sender.Address)}.{slot.Name}";
                signatures.Add(new(new($"{stem}.html", rendered.HtmlSha256, sender.Address, slot.Name), rendered.Html));
                signatures.Add(new(new($"{stem}.txt", rendered.TextSha256, sender.Address, slot.Name), rendered.Text));
            }
        }

        return new Fitting(edition, kind.Form, signatures.ToImmutable(), [.. pictures]);
    }
}
