namespace Relevo.Core.Designs;

/// <summary>The texts of a design that are the same for everybody and can stand in other languages.</summary>
public static class LiteralTexts
{
    /// <summary>Every one, in the order of the blocks' keys, without repeats.</summary>
    public static IEnumerable<string> Of(DesignDocument design) => design.Blocks.Values.SelectMany(Of).Where(text => text.Length > 0).Distinct(StringComparer.Ordinal);

    private static IEnumerable<string> Of(Block block) => Content(block).Concat(Of(block.TextForm ?? []));

    private static IEnumerable<string> Content(Block block) => block switch
    {
        TextLine line => Of(line.Parts),
        ContactList list => list.Items.Select(item => item.Label),
        LinkRow row => row.Items.Select(item => item.Label),
        Button button => [button.Item.Label],
        Picture picture => [picture.AltText],
        _ => [],
    };

    private static IEnumerable<string> Of(IEnumerable<Part> parts) => parts.SelectMany(part => part.Runs).Select(run => run switch { LiteralRun literal => literal.Text, FieldRun field => field.Label, _ => "" });
}
