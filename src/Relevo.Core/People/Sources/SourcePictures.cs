using System.Collections.Immutable;
using System.Text;
using Relevo.Core.People.Formats;

namespace Relevo.Core.People.Sources;

/// <summary>What became of a picture that a source sent: kept under its hash, or why it is not taken, as a sentence.</summary>
public readonly record struct TakenPicture(string? Sha256, string? Reason);

/// <summary>Keeps a picture that a source sent. file: PNG, JPEG, WebP, GIF or SVG, of any quality; whatever it is, the answer is a value and no exception.</summary>
public delegate ValueTask<TakenPicture> TakePicture(ReadOnlyMemory<byte> file, CancellationToken cancellationToken);

/// <summary>Pictures within a source's records, such as jpegPhoto (RFC 2798 section 2.6): each is kept, and its hash stands in the record in its place. One that is not taken is left out and named.</summary>
public static class SourcePictures
{
    private const string ByUrl = "The picture is given by URL, and Relevo fetches nothing; export the picture itself.";

    /// <summary>The attributes that hold pictures.</summary>
    public static HashSet<string> Attributes(Mapping mapping, FieldCatalogue catalogue) =>
        mapping.Complete(catalogue).Where(way => catalogue.Find(way.Field)?.Kind == FieldKind.Picture).SelectMany(way => way.Attributes).ToHashSet(StringComparer.OrdinalIgnoreCase);

    /// <summary>The record with hashes in place of its pictures, and what was not taken. A change that would set a picture that is not taken is left out whole: what was there stays.</summary>
    internal static async ValueTask<(LdifRecord Record, ImmutableArray<RefusedValue> Refused)> TakeAsync(LdifRecord record, HashSet<string> attributes, TakePicture take, CancellationToken cancellationToken)
    {
        var refused = ImmutableArray.CreateBuilder<RefusedValue>();
        var name = GroupNames.OfDistinguishedName(record.DistinguishedName);
        switch (record)
        {
            case LdifEntry entry when entry.Values.Any(IsPicture):
                record = entry with { Values = await TakeValuesAsync(entry.Values) };
                break;
            case LdifChange change when change.Values.Any(IsPicture):
                record = change with { Values = await TakeValuesAsync(change.Values) };
                break;
            case LdifChange change when change.Modifications.Any(step => step.Values.Any(IsPicture)):
                var steps = ImmutableArray.CreateBuilder<LdifModification>();
                foreach (var step in change.Modifications)
                {
                    var values = await TakeValuesAsync(step.Values);
                    if (values.Length == step.Values.Length) steps.Add(step with { Values = values });
                }

                record = change with { Modifications = steps.ToImmutable() };
                break;
        }

        return (record, refused.ToImmutable());

        bool IsPicture(LdifValue value) => value.Options.IsEmpty && attributes.Contains(value.Attribute);

        async ValueTask<ImmutableArray<LdifValue>> TakeValuesAsync(ImmutableArray<LdifValue> values)
        {
            var kept = ImmutableArray.CreateBuilder<LdifValue>(values.Length);
            foreach (var value in values)
            {
                var (sha256, reason) = !IsPicture(value) ? new TakenPicture("", null) : value.Kind == LdifValueKind.Url ? new TakenPicture(null, ByUrl) : await take(value.Bytes, cancellationToken);
                if (sha256 is null) refused.Add(new RefusedValue(value.Line, name, value.Attribute, $"{value.Bytes.Length} bytes", reason ?? ""));
                else kept.Add(sha256.Length == 0 ? value : value with { Bytes = Encoding.ASCII.GetBytes(sha256), Kind = LdifValueKind.Text });
            }

            return kept.ToImmutable();
        }
    }
}
