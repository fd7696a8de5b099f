using Relevo.Bench;

// relevo-bench render MARK.PNG   signatures per second, beside three references in the same run
// relevo-bench people DATABASE   import, sync and search of 100,000 people, in a database of its own
// relevo-bench import DATABASE   one import of them with its syncs, as "people" does three times; prints JSON last
// relevo-bench push URL          SCIM writes and searches on a running server with the demo's administrator
// relevo-bench list URL          the People list in a browser, on the same server
// relevo-bench design URL        a design over everybody and previews after edits, on the same server
// relevo-bench rules [URL]       reach and decisions over 100,000 accounts; with a server: the map while a rule is edited
// relevo-bench pictures          a camera's portrait, cut and encoded
// relevo-bench plan URL DATABASE PID   what 100,000 accounts' clients are to hold, and what compose helpers wait for, on the same server
// relevo-bench fleet DATABASE SERVER.DLL WEB DEMO RESTART   15,000 clients, without faults and with them, against servers of its own; RESTART restarts the database
// relevo-bench rollout URL       from Publish to the last computer in place, on a fresh demo
switch (args)
{
    case ["render", var mark]:
        return RenderBench.Run(mark);
    case ["people", var database]:
        return await PeopleBench.RunAsync(database);
    case ["import", var database]:
        return await PeopleBench.MeasureAsync(database);
    case ["push", var pushed]:
        return await PushBench.RunAsync(new Uri(pushed + "/"));
    case ["list", var listed]:
        return ListBench.Run(new Uri(listed + "/"));
    case ["design", var designed]:
        return await DesignBench.RunAsync(new Uri(designed + "/"));
    case ["rules"]:
        return RuleBench.Run();
    case ["rules", var ruled]:
        return await RuleBench.RunAsync(new Uri(ruled + "/"));
    case ["pictures"]:
        return PictureBench.Run();
    case ["plan", var planned, var within, var process]:
        return await PlanBench.RunAsync(new Uri(planned + "/"), within, int.Parse(process, System.Globalization.CultureInfo.InvariantCulture));
    case ["fleet", var fleet, var program, var web, var demo, var restart]:
        return await FleetBench.RunAsync(fleet, program, web, demo, restart);
    case ["rollout", var address]:
        return await RolloutBench.RunAsync(new Uri(address + "/"));
    default:
        Console.Error.WriteLine("usage: relevo-bench render MARK.PNG | people DATABASE | import DATABASE | push URL | list URL | design URL | rules [URL] | pictures | plan URL DATABASE PID | fleet DATABASE SERVER.DLL WEB DEMO RESTART | rollout URL");
        return 2;
}
