using System.Buffers;
using System.Diagnostics;
using System.Globalization;
using Relevo.Core.Clients;
using Relevo.Core.Designs;
using Relevo.Core.People;
using Relevo.Core.Rendering;

namespace Relevo.Bench;

/// <summary>Renders the demo's full design for distinct people on one core, beside three references that write the same bytes.</summary>
internal static class RenderBench
{
    private const int People = 100_000;
    private const int Rounds = 7; // the median of the rounds counts; contestants take turns, so that noise meets all of them

    public static int Run(string markPath)
    {
        var mark = RenderedSignature.Sha256(File.ReadAllBytes(markPath));
        var design = Starter.All[0].Open("Full", new StarterLogo(mark, 64, 64, "Brackenfold", "https://brackenfold.example"));
        var compiled = CompiledDesign.Compile(design, FieldCatalogue.Standard, ClientKind.DeskApp.Form);
        var people = GeneratedPeople.Make(People);
        var hand = new HandWritten(mark);
        using var fluid = new FluidReference(hand.Template());
        using var fluidText = new FluidReference(HandWritten.TextTemplate);
        if (!Agree(people, compiled, hand, fluid, fluidText, out var outputs)) return 1;

        var buffer = new ArrayBufferWriter<byte>(16 * 1024);
        var target = new byte[16 * 1024];
        (string Name, Action Html, Action Both)[] contestants =
        [
            (
                "Relevo, compiled design",
                () =>
                {
                    foreach (var values in people.Values)
                    {
                        buffer.ResetWrittenCount();
                        compiled.Html.Render(values, Circumstances.Plain, buffer);
                    }
                },
                () =>
                {
                    foreach (var values in people.Values)
                    {
                        buffer.ResetWrittenCount();
                        compiled.Render(values, Circumstances.Plain, buffer);
                    }
                }),
            ("Fluid, parsed template", () => Each(people.Escaped, fluid.Render), () => EachTwice(people, fluid.Render, fluidText.Render)),
            ("written by hand", () => Each(people.Escaped, values => hand.Write(values, target)), () => EachTwice(people, values => hand.Write(values, target), values => HandWritten.WriteText(values, target))),
            ("copy of the bytes", () => Each(outputs, output => output.Html.CopyTo(target, 0)), () => Each(outputs, output =>
            {
                output.Html.CopyTo(target, 0);
                output.Text.CopyTo(target, 0);
            })),
        ];
        Report(contestants, outputs.Average(output => output.Html.Length), outputs.Average(output => output.Text.Length));
        return 0;
    }

    private static void Each<T>(T[] all, Action<T> work)
    {
        foreach (var one in all) work(one);
    }

    /// <summary>Both forms of one person before the next, as a company's signatures are made.</summary>
    private static void EachTwice(Generated people, Action<Dictionary<string, object>> html, Action<Dictionary<string, object>> text)
    {
        for (var index = 0; index < People; index++)
        {
            html(people.Escaped[index]);
            text(people.Plain[index]);
        }
    }

    /// <summary>Nobody is measured before all have written the same bytes for everybody.</summary>
    private static bool Agree(Generated people, CompiledDesign compiled, HandWritten hand, FluidReference fluid, FluidReference fluidText, out (byte[] Html, byte[] Text)[] outputs)
    {
        outputs = new (byte[], byte[])[People];
        var (target, text) = (new byte[16 * 1024], new byte[16 * 1024]);
        for (var index = 0; index < People; index++)
        {
            var rendered = compiled.Render(people.Values[index], Circumstances.Plain);
            outputs[index] = (rendered.Html.ToArray(), rendered.Text.ToArray());
            fluid.Render(people.Escaped[index]);
            fluidText.Render(people.Plain[index]);
            var (written, writtenText) = (hand.Write(people.Escaped[index], target), HandWritten.WriteText(people.Plain[index], text));
            if (IsSame(outputs[index].Html, fluid.Output, target.AsSpan(0, written)) && IsSame(outputs[index].Text, fluidText.Output, text.AsSpan(0, writtenText))) continue;
            Console.Error.WriteLine($"The contestants do not write the same bytes for person {index}; nothing is measured.");
            return false;
        }

        return true;
    }

    private static bool IsSame(ReadOnlySpan<byte> one, ReadOnlySpan<byte> two, ReadOnlySpan<byte> three)
    {
        if (one.SequenceEqual(two) && one.SequenceEqual(three)) return true;
        foreach (var bytes in (byte[][])[one.ToArray(), two.ToArray(), three.ToArray()]) Console.Error.WriteLine(System.Text.Encoding.UTF8.GetString(bytes));
        return false;
    }

    private static void Report((string Name, Action Html, Action Both)[] contestants, double bytes, double textBytes)
    {
        var times = contestants.Select(_ => new List<(double Html, double Both)>()).ToArray();
        for (var round = -2; round < Rounds; round++)
        {
            for (var index = 0; index < contestants.Length; index++)
            {
                GC.Collect();
                var clock = Stopwatch.StartNew();
                contestants[index].Html();
                var html = clock.Elapsed.TotalSeconds;
                contestants[index].Both();
                if (round >= 0) times[index].Add((html, clock.Elapsed.TotalSeconds - html));
            }
        }

        Say($"Rendering the demo's full design for {People:N0} distinct people, HTML of {bytes:N0} and text of {textBytes:N0} bytes each, one core, median of {Rounds} rounds:");
        var rich = times.Select(list => Median(list.Select(time => time.Html))).ToArray();
        var both = times.Select(list => Median(list.Select(time => time.Both))).ToArray();
        for (var index = 0; index < contestants.Length; index++)
            Say($"  {contestants[index].Name,-26}{People / both[index],12:N0} a second   {both[1] / both[index],5:N1} times Fluid; HTML alone {People / rich[index],12:N0} a second   {rich[1] / rich[index],5:N1} times Fluid");
        Say($"  target: at least 6 times Fluid and half the speed of the writer by hand; {(both[1] / both[0] >= 6 && both[2] / both[0] >= 0.5 ? "met" : "MISSED")}");
    }

    private static double Median(IEnumerable<double> times) => times.Order().ElementAt(Rounds / 2);

    private static void Say(FormattableString line) => Console.WriteLine(line.ToString(CultureInfo.InvariantCulture));
}
