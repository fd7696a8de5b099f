using System.Collections.Immutable;
using System.Text;
using Relevo.Core.Designs;
using Relevo.Core.Editions;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Relevo.Core.Rules;

namespace Relevo.Core.Clients;

/// <summary>How what stands in a slot was made to fit.</summary>
public enum FitWay
{
    /// <summary>It fits as it is.</summary>
    AsItIs,

    /// <summary>With linked pictures.</summary>
    Linked,

    /// <summary>The design's smaller sibling stands in.</summary>
    Smaller,

    /// <summary>Nothing fits: the slot stays empty.</summary>
    Refused,
}

/// <summary>How a slot was filled.</summary>
/// <param name="Choice">What was to go in.</param>
/// <param name="Way">How it was made to fit.</param>
/// <param name="Over">Characters over the limit of the shortest that was tried, where it was refused.</param>
/// <param name="Tried">The design that stands in the slot, or the shortest that was tried.</param>
public sealed record FilledSlot(SlotChoice Choice, FitWay Way, int Over, string Tried);

/// <summary>A signature in rich text whose pictures are still to come.</summary>
internal sealed record UnfilledRtf(ManifestFile Entry, Func<IReadOnlyDictionary<string, byte[]>, ReadOnlyMemory<byte>> Write);

/// <summary>What goes into one client, before the pictures it refers to are looked at.</summary>
/// <param name="Edition">The edition's number.</param>
/// <param name="Slots">How each slot was filled.</param>
/// <param name="Files">Signatures, offers and ready answers.</param>
/// <param name="Pictures">Pictures they refer to as files beside them, by name, with the place each is to have.</param>
/// <param name="Linked">Names of pictures they link to, which are fetched by whoever reads a message.</param>
public sealed record Fitting(int Edition, ImmutableArray<FilledSlot> Slots, ImmutableArray<WantedFile> Files, ImmutableSortedDictionary<string, string> Pictures, ImmutableHashSet<string> Linked)
{
    internal ImmutableArray<UnfilledRtf> Rich { get; init; } = [];

    /// <summary>True when the bytes of its pictures are wanted, not only their hashes.</summary>
    public bool NeedsPictureBytes => !Rich.IsEmpty && !Pictures.IsEmpty;

    /// <summary>The whole delivery. hashes: SHA-256 of each picture that could be made, by name; one that could not is left out. bytes: their bytes, where <see cref="NeedsPictureBytes"/>.</summary>
    public Delivery Deliver(IReadOnlyDictionary<string, string> hashes, IReadOnlyDictionary<string, byte[]> bytes)
    {
        var written = Files;
        if (!Rich.IsEmpty) written = written.AddRange(Rich.Select(rich => Slotting.Keep(rich.Entry, rich.Write(bytes))));
        var files = written.Select(file => file.Entry)
            .Concat(Pictures.Where(picture => hashes.ContainsKey(picture.Key)).Select(picture => new ManifestFile(picture.Value, hashes[picture.Key], "", "") { Role = FileRole.Picture }))
            .OrderBy(file => file.Path, StringComparer.Ordinal);
        return new Delivery(new Manifest(Edition, [.. files]), written);
    }
}

/// <summary>Computes what goes into each slot of a client, and how it was made to fit.</summary>
/// <param name="Edition">The edition's number.</param>
/// <param name="Signing">The edition, ready to write.</param>
/// <param name="Server">Address of the server, under which linked pictures lie; without a slash at its end.</param>
/// <param name="CautionOf">Which situation decides, by client kind.</param>
public sealed record Slotting(int Edition, SigningAt Signing, string Server, Func<string, Caution> CautionOf)
{
    /// <summary>Fits a person's accounts by the plain evaluation of the rules. isForAll: one slot stands for every account. tellsLosses: what the slots cannot honour is told.</summary>
    public Fitting Fit(ClientKind kind, IReadOnlyList<FittingAccount> accounts, bool isForAll = false, bool tellsLosses = false) =>
        Fit(kind, accounts, isForAll, tellsLosses, (sender, cell) => Decision.Decide(Signing.Content.Rules, Signing.Records, new Situation(sender, cell.Audience, cell.Occasion, cell.Client, Signing.Moment)));

    /// <summary>Fits a person's accounts. decide: the decision of one account in one square. A client that asks for each message has no slots and gets nothing here.</summary>
    public Fitting Fit(ClientKind kind, IReadOnlyList<FittingAccount> accounts, bool isForAll, bool tellsLosses, Func<Sender, Cell, Decision> decide)
    {
        var work = new Work(this, kind);
        foreach (var choice in SlotChoice.ForClient(kind, accounts, Signing, CautionOf(kind.Kind), decide, isForAll, tellsLosses)) work.Fill(choice);
        if (kind.HoldsOffers && !kind.IsPerMessage)
        {
            foreach (var account in accounts) work.Answer(account);
        }

        return new Fitting(Edition, work.Slots.ToImmutable(), work.Files.ToImmutable(), work.Pictures.ToImmutable(), work.Linked.ToImmutable()) { Rich = work.Rich.ToImmutable() };
    }

    internal static WantedFile Keep(ManifestFile entry, ReadOnlyMemory<byte> bytes) => new(entry with { Sha256 = RenderedSignature.Sha256(bytes.Span) }, bytes);

    /// <summary>One client's files as they come together.</summary>
    private sealed class Work(Slotting slotting, ClientKind kind)
    {
        private readonly HashSet<string> stems = new(StringComparer.OrdinalIgnoreCase); // file systems may not tell capitals apart

        public ImmutableArray<FilledSlot>.Builder Slots { get; } = ImmutableArray.CreateBuilder<FilledSlot>();

        public ImmutableArray<WantedFile>.Builder Files { get; } = ImmutableArray.CreateBuilder<WantedFile>();

        public ImmutableArray<UnfilledRtf>.Builder Rich { get; } = ImmutableArray.CreateBuilder<UnfilledRtf>();

        public ImmutableSortedDictionary<string, string>.Builder Pictures { get; } = ImmutableSortedDictionary.CreateBuilder<string, string>(StringComparer.Ordinal);

        public ImmutableHashSet<string>.Builder Linked { get; } = ImmutableHashSet.CreateBuilder<string>(StringComparer.Ordinal);

        private SigningAt Signing => slotting.Signing;

        public void Fill(SlotChoice choice)
        {
            if (choice.Carried.Design is not { } design)
            {
                Slots.Add(new FilledSlot(choice, FitWay.AsItIs, 0, ""));
                return;
            }

            var entry = new ManifestFile("", "", choice.Address, choice.Slot.Name) { Occasions = choice.Slot.Occasions };
            Slots.Add(Put(choice, design, Stem(choice.Address, choice.Slot.Name), entry));
            if (!kind.HoldsOffers || choice.Decision.Rule?.Then is not CarryDesigns { Offered: { IsEmpty: false } offered }) return;
            foreach (var offer in offered)
            {
                if (Signing.Content.Find(offer) is not { } document) continue;
                Put(choice, offer, Stem(choice.Address, $"{choice.Slot.Name}.offer", document.Name), new ManifestFile("", "", choice.Address, choice.Slot.Name) { Role = FileRole.Offer, Occasions = choice.Slot.Occasions, Name = document.Name });
            }
        }

        public void Answer(FittingAccount account)
        {
            foreach (var (answer, file) in Signing.Answers(account.Values("")))
                Files.Add(file with { Entry = file.Entry with { Path = Stem(account.Sender.Address, "answer", answer.Name) + ".eml", Address = account.Sender.Address } });
        }

        /// <summary>Writes a design under a name in every form the kind holds, in the first way that fits.</summary>
        private FilledSlot Put(SlotChoice choice, Guid design, string stem, ManifestFile entry)
        {
            var circumstances = new Circumstances(choice.Situation.Occasion, choice.Situation.Audience);
            var values = choice.Account.Values(Signing.Content.Audiences.Find(choice.Situation.Audience)?.Country ?? "");
            var (least, shortest) = (int.MaxValue, "");
            foreach (var (way, tried, form) in Ways(design, choice.Carried.HasSeparator))
            {
                var program = Signing.Program(tried, choice.Carried.Added, form, values);
                var written = kind.HoldsHtml ? program.Render(values, circumstances) : new RenderedSignature(ReadOnlyMemory<byte>.Empty, program.RenderText(values, circumstances), []);
                var over = Math.Max(Over(written.Html, kind.HoldsHtml ? kind.MaxHtmlCharacters : 0), Over(written.Text, kind.MaxTextCharacters));
                var name = Signing.Content.Find(tried)!.Name;
                if (over < least) (least, shortest) = (over, name);
                if (over > 0) continue;
                if (kind.HoldsHtml) Files.Add(new WantedFile(entry with { Path = stem + ".html", Sha256 = written.HtmlSha256 }, written.Html));
                Files.Add(new WantedFile(entry with { Path = stem + ".txt", Sha256 = written.TextSha256 }, written.Text));
                var isLinked = form.HasDoublePictures;
                if (isLinked) Linked.UnionWith(written.Pictures);
                if (kind.Pictures == PictureWay.Files && !isLinked)
                {
                    foreach (var picture in written.Pictures) Pictures[picture] = form.PictureAddress(picture);
                }

                if (kind.HoldsRtf) Rich.Add(new UnfilledRtf(entry with { Path = stem + ".rtf" }, pictures => program.RenderRtf(values, circumstances, pictures)));
                return new FilledSlot(choice, way, 0, name);
            }

            return new FilledSlot(choice, FitWay.Refused, least, shortest);
        }

        /// <summary>What is tried, in order: as it is, with linked pictures, then the smaller sibling in the same ways.</summary>
        private IEnumerable<(FitWay Way, Guid Design, RenderingForm Form)> Ways(Guid design, bool hasSeparator)
        {
            var own = kind.FormUnder(slotting.Server);
            var linked = kind.HoldsHtml && kind.Pictures is PictureWay.Files or PictureWay.Embedded ? kind.Linked(slotting.Server) : null;
            RenderingForm With(RenderingForm form) => hasSeparator ? form : form with { HasTextSeparator = false };
            yield return (FitWay.AsItIs, design, With(own));
            if (linked is not null) yield return (FitWay.Linked, design, With(linked));
            if (Signing.SmallerOf(design) is not { } smaller) yield break;
            yield return (FitWay.Smaller, smaller, With(own));
            if (linked is not null) yield return (FitWay.Smaller, smaller, With(linked));
        }

        private static int Over(ReadOnlyMemory<byte> utf8, int most) => most == 0 || utf8.Length <= most ? 0 : Math.Max(0, Encoding.UTF8.GetString(utf8.Span).EnumerateRunes().Count() - most);

        /// <summary>A file name without its ending that no other has: names that come to the same get a number.</summary>
        private string Stem(string address, string first, string second = "")
        {
            var stem = $"{(address.Length > 0 ? FileName.Encode(address) : "every account")}.{FileName.Encode(first)}{(second.Length > 0 ? "." : "")}{FileName.Encode(second)}";
            var free = stem;
            for (var number = 2; !stems.Add(free); number++) free = $"{stem} {number}";
            return free;
        }
    }
}
