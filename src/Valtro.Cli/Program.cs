using Valtro.Cli;
using Valtro.Core.Time;

switch (args)
{
    case ["expand"]:
        ExpandCommand.Run(Console.In, Console.Out);
        return 0;
    case ["version"]:
        Console.WriteLine($"valtro {typeof(Expansion).Assembly.GetName().Version?.ToString(3)}, zone data {Zones.DataVersion}");
        return 0;
    default:
        Console.Error.WriteLine(
            """
            valtro COMMAND
              expand    reads sets of dates as JSON Lines and writes their starts as JSON Lines:
                        in  {"id","start","zone","rule","exdates","rdates","from","to","limit"}
                        out {"id","starts":[…]} or {"id","error":{"code","message"}}
              version   the program's version and that of its time zone data
            """);
        return args is ["help"] or ["--help"] or ["-h"] ? 0 : 2;
}
