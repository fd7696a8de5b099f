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
        var program = CompiledDesign.Compile(design, FieldCatalogue.Standard, ClientKind.DeskApp.Form).Html;
        var people = GeneratedPeople.Make(People);
        var hand = new HandWritten(mark);
        using var fluid = new FluidReference(hand.Template());
        if (!Agree(people, program, hand, fluid, out var outputs)) return 1;

        var buffer = new ArrayBufferWriter<byte>(16 * 1024);
        var target = new byte[16 * 1024];
        (string Name, Action Work)[] contestants =
        [
            ("Relevo, compiled design", () =>
            {
                foreach (var values in people.Values)
                {
                    buffer.ResetWrittenCount();
                    program.Render(values, Circumstances.Plain, buffer);
                }
            }),
            ("Fluid, parsed template", () =>
            {
                foreach (var values in people.Escaped) fluid.Render(values);
            }),
            ("written by hand", () =>
            {
                foreach (var values in people.Escaped) hand.Write(values, target);
            }),
            ("copy of the bytes", () =>
            {
                foreach (var output in outputs) output.CopyTo(target, 0);
            }),
        ];
        Report(contestants, outputs.Average(output => output.Length));
        return 0;
    }

    /// <summary>Nobody is measured before all have written the same bytes for everybody.</summary>
    private static bool Agree(Generated people, SignatureProgram program, HandWritten hand, FluidReference fluid, out byte[][] outputs)
    {
        outputs = new byte[People][];
        var target = new byte[16 * 1024];
        for (var index = 0; index < People; index++)
        {
            var buffer = new ArrayBufferWriter<byte>(4096);
            program.Render(people.Values[index], Circumstances.Plain, buffer);
            outputs[index] = buffer.WrittenSpan.ToArray();
            fluid.Render(people.Escaped[index]);
            var written = hand.Write(people.Escaped[index], target);
            if (outputs[index].AsSpan().SequenceEqual(fluid.Output) && outputs[index].AsSpan().SequenceEqual(target.AsSpan(0, written))) continue;
            Console.Error.WriteLine($"The contestants do not write the same bytes for person {index}; nothing is measured.");
            Console.Error.WriteLine(System.Text.Encoding.UTF8.GetString(outputs[index]));
            Console.Error.WriteLine(System.Text.Encoding.UTF8.GetString(fluid.Output));
            Console.Error.WriteLine(System.Text.Encoding.UTF8.GetString(target.AsSpan(0, written)));
            return false;
        }

        return true;
    }

    private static void Report((string Name, Action Work)[] contestants, double bytes)
    {
        var times = contestants.Select(_ => new List<double>()).ToArray();
        for (var round = -2; round < Rounds; round++)
        {
            for (var index = 0; index < contestants.Length; index++)
            {
                GC.Collect();
                var clock = Stopwatch.StartNew();
                contestants[index].Work();
                if (round >= 0) times[index].Add(clock.Elapsed.TotalSeconds);
            }
        }

        var medians = times.Select(list => list.Order().ElementAt(list.Count / 2)).ToArray();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"Rendering the demo's full design for {People:N0} distinct people, {bytes:N0} bytes each, one core, median of {Rounds} rounds:"));
        for (var index = 0; index < contestants.Length; index++)
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  {contestants[index].Name,-26}{People / medians[index],12:N0} signatures a second   {medians[1] / medians[index],5:N1} times Fluid"));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  target: at least 5 times Fluid; {(medians[1] / medians[0] >= 5 ? "met" : "MISSED")}"));
    }
}
