using Relevo.Core.Designs;
using Relevo.Core.People;

namespace Relevo.Core.Rendering;

/// <summary>Writes a design's literal texts in the person's language.</summary>
internal sealed class Wordings(DesignDocument design, FieldCatalogue catalogue, ProgramBuilder program)
{
    /// <summary>Writes the text as it is for most, and its translation for those whose language has one. write: how a text is written here.</summary>
    public void Write(string text, Action<string> write)
    {
        var spoken = Presence.Never;
        foreach (var (language, texts) in design.Languages)
        {
            if (!texts.TryGetValue(text, out var translated) || translated.Length == 0 || !catalogue.TryFind("language", out var field)) continue;
            var speaks = program.Asks(Test.SpeaksLanguage(field, language, design.Languages.Keys));
            program.When(speaks, () => write(translated));
            spoken |= speaks;
        }

        program.Unless(spoken, () => write(text));
    }
}
