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

/// <summary>What is to go into a client's slots, chosen and not written yet.</summary>
/// <param name="Kind">The client's kind.</param>
/// <param name="Accounts">The accounts it is for.</param>
/// <param name="Choices">What goes into each slot.</param>
public sealed record ChosenSlots(ClientKind Kind, IReadOnlyList<FittingAccount> Accounts, ImmutableArray<SlotChoice> Choices)
{
    /// <summary>True when ready answers are kept beside the slots.</summary>
    public bool HasAnswers => Kind.HoldsOffers && !Kind.IsPerMessage;

    /// <summary>True when the person may choose otherwise in every slot.</summary>
    public bool IsOpen => !Choices.IsEmpty && Choices.All(choice => choice.Decision.Rule?.Then is CarryDesigns { MayChoose: true });
}

/// <summary>Computes what goes into each slot of a client, and how it was made to fit.</summary>
/// <param name="Edition">The edition's number.</param>
/// <param name="Signing">The edition, ready to write.</param>
/// <param name="Server">Address of the server, under which linked pictures lie; without a slash at its end.</param>
/// <param name="CautionOf">Which situation decides, by client kind.</param>
public sealed record Slotting(int Edition, SigningAt Signing, string Server, Func<string, Caution> CautionOf)
{
    /// <summary>Goes up whenever the same designs and values come to other bytes than before. Clients that hold the former ones would otherwise not be told.</summary>
    public const int RecipeVersion = 1;

    /// <summary>Fits a person's accounts by the plain evaluation of the rules. isForAll: one slot stands for every account. tellsLosses: what the slots cannot honour is told.</summary>
    public Fitting Fit(ClientKind kind, IReadOnlyList<FittingAccount> accounts, bool isForAll = false, bool tellsLosses = false) =>
        Fit(kind, accounts, isForAll, tellsLosses, Decide);

    /// <summary>The plain evaluation of the rules for one account in one square.</summary>
    public Decision Decide(Sender sender, Cell cell) => Decision.Decide(Signing.Content.Rules, Signing.Records, new Situation(sender, cell.Audience, cell.Occasion, cell.Client, Signing.Moment));

    /// <summary>Fits a person's accounts. decide: the decision of one account in one square. A client that asks for each message has no slots and gets nothing here.</summary>
    public Fitting Fit(ClientKind kind, IReadOnlyList<FittingAccount> accounts, bool isForAll, bool tellsLosses, Func<Sender, Cell, Decision> decide) =>
        Fill(Choose(kind, accounts, isForAll, tellsLosses, decide));

    /// <summary>Chooses what is to go into a client's slots, without writing it. Parameters as for <see cref="Fit(ClientKind, IReadOnlyList{FittingAccount}, bool, bool, Func{Sender, Cell, Decision})"/>.</summary>
    public ChosenSlots Choose(ClientKind kind, IReadOnlyList<FittingAccount> accounts, bool isForAll, bool tellsLosses, Func<Sender, Cell, Decision> decide) =>
        new(kind, accounts, SlotChoice.ForClient(kind, accounts, Signing, CautionOf(kind.Kind), decide, isForAll, tellsLosses));

    /// <summary>Writes what was chosen, in the first way that fits.</summary>
    public Fitting Fill(ChosenSlots chosen)
    {
        var work = new Work(this, chosen.Kind);
        foreach (var choice in chosen.Choices) work.Fill(choice);
        if (chosen.HasAnswers)
        {
            foreach (var account in chosen.Accounts) work.Answer(account);
        }

        return new Fitting(Edition, work.Slots.ToImmutable(), work.Files.ToImmutable(), work.Pictures.ToImmutable(), work.Linked.ToImmutable()) { Rich = work.Rich.ToImmutable() };
    }

    /// <summary>
    /// What <see cref="Fill"/> would write, in one hash, without writing it: everything that decides it. Two that are the same come to the same files; two that are not
    /// may still, where a value that differs does not show.
    /// </summary>
    public Guid RecipeOf(ChosenSlots chosen)
    {
        var kind = chosen.Kind;
        var recipe = new DigestWriter();
        recipe.Add(RecipeVersion);
        recipe.Add((kind.HoldsHtml ? 1 : 0) | (kind.HoldsRtf ? 2 : 0) | ((int)kind.Pictures << 2));
        recipe.Add(kind.MaxHtmlCharacters);
        recipe.Add(kind.MaxTextCharacters);
        foreach (var choice in chosen.Choices)
        {
            recipe.Add(choice.Address);
            recipe.Add(choice.Slot.Name);
            recipe.Add(choice.Carried.Design is null ? 0 : 1);
            if (choice.Carried.Design is not { } design) continue;
            Add(recipe, kind, choice, design);
            foreach (var (offer, document) in Offered(kind, choice))
            {
                recipe.Add(document.Name);
                Add(recipe, kind, choice, offer);
            }

            recipe.Add(""); // no further offers: a design has a name
        }

        if (!chosen.HasAnswers) return recipe.Digest();
        foreach (var account in chosen.Accounts)
        {
            recipe.Add(account.Sender.Address);
            foreach (var (_, ingredients) in Signing.AnswerIngredients) Add(recipe, ingredients, account.Sender);
        }

        return recipe.Digest();
    }

    private void Add(DigestWriter recipe, ClientKind kind, SlotChoice choice, Guid design)
    {
        var own = kind.FormUnder(Server);
        var key = new IngredientsKey(design, choice.Carried.Added.Key, choice.Carried.HasSeparator ? own : own with { HasTextSeparator = false }, IsLimited(kind), kind.HoldsHtml, kind.HoldsRtf);
        recipe.Add((int)choice.Situation.Occasion);
        recipe.Add(choice.Situation.Audience);
        recipe.Add(CountryOf(choice));
        Add(recipe, Signing.IngredientsOf(key, choice.Carried.Added, () => Ways(kind, design, choice.Carried.HasSeparator).Select(way => (way.Design, way.Form)), () => ValuesOf(choice)), choice.Account.Sender);
    }

    /// <summary>What is written follows from what the records say, which is cheaper to look at than values ready to be rendered.</summary>
    private void Add(DigestWriter recipe, Ingredients ingredients, Sender sender)
    {
        recipe.Add(ingredients.Digest);
        recipe.Add(sender.Value(Signing.Country)); // by it telephone numbers are understood
        foreach (var field in ingredients.Reads) recipe.Add(sender.Value(field));
    }

    private string CountryOf(SlotChoice choice) => Signing.Content.Audiences.Find(choice.Situation.Audience)?.Country ?? "";

    /// <summary>True when something may be too long.</summary>
    private static bool IsLimited(ClientKind kind) => kind.MaxTextCharacters > 0 || (kind.HoldsHtml && kind.MaxHtmlCharacters > 0);

    private FieldValue[] ValuesOf(SlotChoice choice) => choice.Account.Values(CountryOf(choice));

    /// <summary>The further signatures that stand beside a slot's own, where the kind keeps them.</summary>
    private IEnumerable<(Guid Design, DesignDocument Document)> Offered(ClientKind kind, SlotChoice choice)
    {
        if (!kind.HoldsOffers || choice.Decision.Rule?.Then is not CarryDesigns { Offered: { IsEmpty: false } offered }) yield break;
        foreach (var offer in offered)
        {
            if (Signing.Content.Find(offer) is { } document) yield return (offer, document);
        }
    }

    /// <summary>What is tried for a design, in order: as it is, with linked pictures, then the smaller sibling in the same ways. Where nothing is too long the first is the only one.</summary>
    private IEnumerable<(FitWay Way, Guid Design, RenderingForm Form)> Ways(ClientKind kind, Guid design, bool hasSeparator)
    {
        var own = kind.FormUnder(Server);
        RenderingForm With(RenderingForm form) => hasSeparator ? form : form with { HasTextSeparator = false };
        yield return (FitWay.AsItIs, design, With(own));
        if (!IsLimited(kind)) yield break;
        var linked = kind.HoldsHtml && kind.Pictures is PictureWay.Files or PictureWay.Embedded ? kind.Linked(Server) : null;
        if (linked is not null) yield return (FitWay.Linked, design, With(linked));
        if (Signing.SmallerOf(design) is not { } smaller) yield break;
        yield return (FitWay.Smaller, smaller, With(own));
        if (linked is not null) yield return (FitWay.Smaller, smaller, With(linked));
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
            foreach (var (offer, document) in slotting.Offered(kind, choice))
            {
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
            var values = slotting.ValuesOf(choice);
            var (least, shortest) = (int.MaxValue, "");
            foreach (var (way, tried, form) in slotting.Ways(kind, design, choice.Carried.HasSeparator))
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
