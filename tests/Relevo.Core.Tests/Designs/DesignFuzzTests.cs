using System.Text;
using FsCheck.Xunit;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;
using Xunit;

namespace Relevo.Core.Tests.Designs;

public sealed class DesignFuzzTests
{
    private static readonly HashSet<string> Library = [Build.Logo];

    /// <summary>Whatever is done to a document, it is either refused with a place or compiles.</summary>
    [Property(MaxTest = 500)]
    public void A_document_that_was_tampered_with_is_refused_or_renders(int place, byte[]? garbage)
    {
        var json = Encoding.UTF8.GetBytes(Build.Full().ToJson());
        var at = (int)((uint)place % (uint)json.Length);
        var tampered = Encoding.UTF8.GetString([.. json.AsSpan(0, at), .. garbage ?? [], .. json.AsSpan(Math.Min(json.Length, at + (garbage?.Length ?? 0)))]);
        var reading = DesignDocument.Restore(tampered);
        if (reading.Document is not { } document)
        {
            Assert.NotEmpty(reading.Problems);
            return;
        }

        if (DesignCheck.Check(document, FieldCatalogue.Standard, Library).IsEmpty)
            CompiledDesign.Compile(document, FieldCatalogue.Standard, Build.Form).Render(FieldResolution.Resolve(FieldCatalogue.Standard, Build.Facts(("displayName", "Mia")), "a@b.example"), Circumstances.Plain);
    }

    [Theory]
    [InlineData("{\"name\":null,\"theme\":null,\"root\":null,\"blocks\":null}")]
    [InlineData("{\"name\":\"x\",\"theme\":{},\"root\":[],\"blocks\":{}}")]
    [InlineData("{\"blocks\":{\"a\":null}}")]
    [InlineData("{\"blocks\":{\"a\":{\"kind\":\"textLine\"}}}")]
    [InlineData("{\"blocks\":5}")]
    [InlineData("[]")]
    [InlineData("\"x\"")]
    public void Documents_with_holes_are_refused_and_never_an_exception(string json) => Assert.NotEmpty(DesignDocument.Restore(json).Problems);

    [Property(MaxTest = 500)]
    public void Any_text_becomes_a_file_name_that_reads_back(string? text)
    {
        var given = new string([.. (text ?? "").Where(character => !char.IsSurrogate(character)).Take(20)]);
        var name = FileName.Encode(given);
        Assert.Equal(given, FileName.Decode(name));
        Assert.DoesNotContain(name, character => "<>:\"/\\|?*".Contains(character, StringComparison.Ordinal) || char.IsControl(character));
        Assert.False(name is "." or "..");
    }
}
