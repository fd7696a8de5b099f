using System.Buffers;
using System.Collections.Immutable;
using System.Security.Cryptography;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>A rendered signature.</summary>
/// <param name="Html">An HTML fragment in UTF-8.</param>
/// <param name="Text">Plain text in UTF-8, lines ended by LF.</param>
/// <param name="Pictures">Names of the pictures the HTML refers to, each a <see cref="PictureCut"/>, in order and without repeats.</param>
public sealed record RenderedSignature(ReadOnlyMemory<byte> Html, ReadOnlyMemory<byte> Text, ImmutableArray<string> Pictures)
{
    /// <summary>SHA-256 of the HTML's bytes in lower-case hex: its identity.</summary>
    public string HtmlSha256 { get; } = Sha256(Html.Span);

    /// <summary>SHA-256 of the text's bytes in lower-case hex.</summary>
    public string TextSha256 { get; } = Sha256(Text.Span);

    /// <summary>SHA-256 in lower-case hex. Source: FIPS 180-4.</summary>
    public static string Sha256(ReadOnlySpan<byte> bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));
}

/// <summary>What a client kind asks of the rendered forms.</summary>
/// <param name="PictureFolder">Where picture files lie, relative to the HTML file, without the final slash.</param>
/// <param name="HasTextSeparator">True when the text begins with RFC 3676's signature separator line.</param>
public sealed record RenderingForm(string PictureFolder, bool HasTextSeparator)
{
    /// <summary>True when rows name the blocks they are of, for an editor that shows what is selected. Never for mail.</summary>
    public bool MarksBlocks { get; init; }

    /// <summary>True when pictures are parts of the message itself, named by their Content-ID.</summary>
    public bool EmbedsPictures { get; init; }

    /// <summary>True when pictures are made with twice the pixels of their room: one that is linked weighs nothing in the message.</summary>
    public bool HasDoublePictures { get; init; }

    /// <summary>A picture's Content-ID, without angle brackets. Source: RFC 2392.</summary>
    public static string ContentId(string name) => $"{name}@relevo.invalid";

    /// <summary>The address of a picture in this form.</summary>
    public string PictureAddress(string name) => EmbedsPictures ? "cid:" + ContentId(name) : $"{PictureFolder}/{name}.png";
}

/// <summary>A picture that a program's HTML refers to, and when. Name: the whole name, or what follows the value of a field. Field: the catalogue's place of that field, or -1.</summary>
internal sealed record PictureUse(Presence Shows, string Name, int Field);

/// <summary>
/// A design compiled once for one form, to be run for any number of accounts. The one renderer: the lens, proof, agent interface and bench
/// all call it.
/// </summary>
public sealed class CompiledDesign
{
    private readonly DesignDocument design;
    private readonly SignatureProgram text;
    private readonly ProgramPair both;
    private readonly Lazy<SignatureProgram> rtf;
    private readonly ImmutableArray<PictureUse> pictures;
    private readonly ImmutableArray<string> everybodys;
    private readonly FieldCatalogue catalogue;
    private readonly bool hasTextSeparator;

    private CompiledDesign(DesignDocument design, FieldCatalogue catalogue, SignatureProgram html, ImmutableArray<PictureUse> pictures, SignatureProgram text, bool hasTextSeparator)
    {
        this.hasTextSeparator = hasTextSeparator;
        (this.design, this.catalogue) = (design, catalogue);
        rtf = new Lazy<SignatureProgram>(() => new RtfCompiler(design, catalogue).Compile()); // few clients ask for it
        Html = html;
        this.text = text;
        both = new ProgramPair(html, text);
        this.pictures = pictures;
        // Most designs show everybody the same pictures: one list does for all.
        if (pictures.All(use => use.Shows.IsAlways && use.Field < 0)) everybodys = [.. pictures.Select(use => use.Name).Distinct()];
    }

    /// <summary>The program that writes the HTML.</summary>
    public SignatureProgram Html { get; }

    /// <summary>Compiles a design that <see cref="DesignCheck"/> found nothing wrong with; any other is refused with an ArgumentException.</summary>
    public static CompiledDesign Compile(DesignDocument design, FieldCatalogue catalogue, RenderingForm form)
    {
        var library = design.Blocks.Values.SelectMany(block => block.LibraryPictures).ToHashSet();
        if (DesignCheck.Check(design, catalogue, library, DesignCheck.MaxFurnishedBlocks) is [var problem, ..])
            throw new ArgumentException($"{problem.Pointer}: {problem.Message}", nameof(design));
        var (html, pictures) = new HtmlCompiler(design, catalogue, form).Compile();
        return new CompiledDesign(design, catalogue, html, pictures, new TextCompiler(design, catalogue).Compile(form.HasTextSeparator), form.HasTextSeparator);
    }

    /// <summary>Renders HTML and plain text for one account. values: in catalogue order, from <see cref="FieldResolution"/>.</summary>
    public RenderedSignature Render(ReadOnlySpan<FieldValue> values, Circumstances circumstances)
    {
        var written = new ArrayBufferWriter<byte>(4096);
        var html = Render(values, circumstances, written);
        return new RenderedSignature(written.WrittenMemory[..html], written.WrittenMemory[html..], PicturesFor(values, circumstances));
    }

    /// <summary>Writes the HTML in UTF-8 and right behind it the plain text, for whoever keeps neither. Returns the bytes of the HTML.</summary>
    public int Render(ReadOnlySpan<FieldValue> values, Circumstances circumstances, IBufferWriter<byte> output) => both.Render(values, circumstances, output);

    /// <summary>Renders rich text for one account; empty for a signature without anything. pictures: bytes of the pictures of <see cref="RenderedSignature.Pictures"/>, by name.</summary>
    public ReadOnlyMemory<byte> RenderRtf(ReadOnlySpan<FieldValue> values, Circumstances circumstances, IReadOnlyDictionary<string, byte[]> pictures)
    {
        var written = new ArrayBufferWriter<byte>(4096);
        rtf.Value.Render(values, circumstances, written);
        return RtfPictures.Fill(written.WrittenSpan, pictures);
    }

    private ImmutableArray<string> PicturesFor(ReadOnlySpan<FieldValue> values, Circumstances circumstances)
    {
        if (!everybodys.IsDefault) return everybodys;
        var pattern = Html.PatternOf(values, circumstances);
        var names = new List<string>(pictures.Length);
        foreach (var use in pictures)
        {
            if (!use.Shows.Holds(pattern)) continue;
            var name = use.Field < 0 ? use.Name : values[use.Field].Text + use.Name;
            if (!names.Contains(name)) names.Add(name);
        }

        return [.. names];
    }

    /// <summary>The fields that give pictures, each with what follows its value in the picture's name.</summary>
    public IEnumerable<(int Field, string Suffix)> FieldPictures => pictures.Where(use => use.Field >= 0).Select(use => (use.Field, use.Name)).Distinct();

    /// <summary>Catalogue indexes of every field that rendering looks at, conditions and languages among them. html, rich: whether HTML and rich text are written beside the text.</summary>
    public ImmutableArray<int> FieldsRead(bool html = true, bool rich = false)
    {
        var asked = design.Blocks.Values.SelectMany(block => block.When).OfType<FieldCondition>().Select(condition => condition.Field);
        var names = design.Languages.IsEmpty ? asked : asked.Append("language");
        return
        [
            .. text.Fields.ToArray().Concat(html ? Html.Fields.ToArray() : []).Concat(rich ? rtf.Value.Fields.ToArray() : [])
                .Concat(names.Select(name => catalogue.TryFind(name, out var index) ? index : -1)).Where(index => index >= 0).Distinct().Order(),
        ];
    }

    /// <summary>
    /// Writes down all that decides what is written for given values: equal for two that write the same. html, rich: whether HTML and rich text are wanted beside the text.
    /// </summary>
    internal void Describe(DigestWriter to, bool html, bool rich)
    {
        text.Describe(to);
        if (html)
        {
            Html.Describe(to);
            foreach (var use in pictures)
            {
                to.Add(use.Shows.Key);
                to.Add(use.Name);
                to.Add(use.Field);
            }
        }

        if (rich) rtf.Value.Describe(to);
    }

    /// <summary>Pictures of the HTML at most, whoever it is for.</summary>
    public int MostPictures => pictures.Length;

    /// <summary>Lines of the text form, without the separator's own, and its characters at most. room: for the text, used over and over.</summary>
    public (int Lines, int MostCharacters) CountText(ReadOnlySpan<FieldValue> values, Circumstances circumstances, ArrayBufferWriter<byte> room)
    {
        // Written only where a line may be long enough to be broken: where it breaks depends on its words.
        var (count, characters, isLong) = text.CountLines(values, circumstances, LineBreaking.MaxCharacters);
        var own = hasTextSeparator && count > 0 ? 1 : 0;
        return (isLong ? CountBroken(values, circumstances, room) : count - own, characters);
    }

    /// <summary>Characters of the HTML.</summary>
    public int CountHtmlCharacters(ReadOnlySpan<FieldValue> values, Circumstances circumstances)
    {
        var html = new ArrayBufferWriter<byte>(4096);
        Html.Render(values, circumstances, html);
        return Characters(html.WrittenSpan);
    }

    /// <summary>Characters of the text form.</summary>
    public int CountTextCharacters(ReadOnlySpan<FieldValue> values, Circumstances circumstances) => Characters(RenderText(values, circumstances).Span);

    /// <summary>Unicode code points of UTF-8: every byte that is not a character's further one.</summary>
    private static int Characters(ReadOnlySpan<byte> utf8)
    {
        var count = 0;
        foreach (var one in utf8) count += (one & 0xC0) != 0x80 ? 1 : 0;
        return count;
    }

    private int CountBroken(ReadOnlySpan<FieldValue> values, Circumstances circumstances, ArrayBufferWriter<byte> room)
    {
        room.ResetWrittenCount();
        text.Render(values, circumstances, room);
        var lines = room.WrittenSpan;
        return LineBreaking.CountLines(lines) - (lines.StartsWith("-- \n"u8) ? 1 : 0);
    }

    /// <summary>Writes the plain text in UTF-8.</summary>
    public void RenderText(ReadOnlySpan<FieldValue> values, Circumstances circumstances, IBufferWriter<byte> output) => text.RenderLines(values, circumstances, output);

    /// <summary>The plain text alone, in UTF-8.</summary>
    public ReadOnlyMemory<byte> RenderText(ReadOnlySpan<FieldValue> values, Circumstances circumstances)
    {
        var written = new ArrayBufferWriter<byte>(512);
        RenderText(values, circumstances, written);
        return written.WrittenMemory;
    }
}
