using System.Buffers;
using System.Collections.Immutable;
using System.Security.Cryptography;
using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>A rendered signature.</summary>
/// <param name="Html">An HTML fragment in UTF-8.</param>
/// <param name="Text">Plain text in UTF-8, lines ended by LF.</param>
public sealed record RenderedSignature(ReadOnlyMemory<byte> Html, ReadOnlyMemory<byte> Text)
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
    /// <summary>The address of a picture in this form.</summary>
    public string PictureAddress(string sha256) => $"{PictureFolder}/{sha256}.png";
}

/// <summary>
/// A design compiled once for one form, to be run for any number of accounts. The one renderer: the lens, proof, agent interface and bench
/// all call it.
/// </summary>
public sealed class CompiledDesign
{
    private readonly SignatureProgram text;

    private CompiledDesign(SignatureProgram html, SignatureProgram text, ImmutableArray<string> pictures)
    {
        Html = html;
        this.text = text;
        Pictures = pictures;
    }

    /// <summary>The program that writes the HTML.</summary>
    public SignatureProgram Html { get; }

    /// <summary>SHA-256 of every picture the HTML refers to, in the order of their keys, without repeats.</summary>
    public ImmutableArray<string> Pictures { get; }

    /// <summary>Compiles a design that <see cref="DesignCheck"/> found nothing wrong with; any other is refused with an ArgumentException.</summary>
    public static CompiledDesign Compile(DesignDocument design, FieldCatalogue catalogue, RenderingForm form)
    {
        var pictures = design.Blocks.Values.OfType<Picture>().Select(picture => picture.Sha256).Distinct().ToImmutableArray();
        if (DesignCheck.Check(design, catalogue, pictures.ToHashSet()) is [var problem, ..])
            throw new ArgumentException($"{problem.Pointer}: {problem.Message}", nameof(design));
        return new CompiledDesign(
            new HtmlCompiler(design, catalogue, form.PictureAddress).Compile(),
            new TextCompiler(design, catalogue).Compile(form.HasTextSeparator),
            pictures);
    }

    /// <summary>Renders both forms for one account. values: in catalogue order, from <see cref="FieldResolution"/>.</summary>
    public RenderedSignature Render(ReadOnlySpan<FieldValue> values)
    {
        var html = new ArrayBufferWriter<byte>(2048);
        Html.Render(values, html);
        return new RenderedSignature(html.WrittenMemory, RenderText(values));
    }

    private ReadOnlyMemory<byte> RenderText(ReadOnlySpan<FieldValue> values)
    {
        var lines = new ArrayBufferWriter<byte>(512);
        text.Render(values, lines);
        var broken = new ArrayBufferWriter<byte>(512);
        LineBreaking.Write(lines.WrittenSpan, broken);
        return broken.WrittenMemory;
    }
}
