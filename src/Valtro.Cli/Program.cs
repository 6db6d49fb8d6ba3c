using Valtro.Cli;
using Valtro.Core;
using Valtro.Core.Time;
using Valtro.Store;

const string Help =
    """
    valtro COMMAND
      expand    reads sets of dates as JSON Lines and writes their starts as JSON Lines:
                  in  {"id","start","zone","rule","exdates","rdates","from","to","limit"}
                  out {"id","starts":[…]} or {"id","error":{"code","message"}}
      read [--zone ZONE] [--from DATE] [--to DATE]
                reads a calendar file and writes what was understood as JSON Lines, an event a line with
                its dates from a day on, up to another (2026-08-01 to 2027-08-01); then what was left
      line [--language en|fr] [--day DATE] [--today DATE] [--order month-first] [--zone ZONE] [--term FIRST/LAST]
                reads typed lines and writes how each was understood as JSON Lines (docs/line-entry.md)
      version   the program's version and that of its time zone data

      school create --name N --short S --zone Z --admin EMAIL [--language en|fr]
                makes a school and prints the link by which its administrator comes in
      school limit SHORT [--events N] [--publications N] [--mb N] [--mails N]
                how much one school may have and has; sets its own limits, "usual" for those of all
      person list
      person invite EMAIL [--school SHORT]    another administrator, by a link
      person reset EMAIL                      a link to a new password
      person unlock EMAIL                     no second factor any more, for who has lost it
      export DIR [--school SHORT]
                each calendar of a school as a file that can be brought in again
      backup FILE     all of the installation in one file, while it runs
      backup --to DIR [--keep N]
                a new file in a folder, read back into a database of its own and compared; the last N stay (14)
      restore FILE    into an empty database
      doctor [--backups DIR]
                looks whether all is in order; exit code 0, 1 (something will be wrong) or 2 (something is)

    The database is that of --data DIR (./start keeps it in .data), or of VALTRO_DATABASE and
    VALTRO_OWNER_DATABASE (for backup, restore and the first school); links begin with --address or VALTRO_ADDRESS.
    """;

try
{
    var options = args is ["expand"] or ["version"] or ["--help"] or ["-h"] ? new Options([]) : new Options(args);
    switch (options.Words)
    {
        case []:
            break;
        case ["read"]:
            // Line by line to a pipe costs more than reading the file.
            using (var output = new StreamWriter(Console.OpenStandardOutput(), bufferSize: 1 << 16))
                return ReadCommand.Run(Console.OpenStandardInput(), output, options.Get("zone"), options.Get("from"), options.Get("to"));
        case ["line"]:
            using (var output = new StreamWriter(Console.OpenStandardOutput(), bufferSize: 1 << 16))
                LineCommand.Run(Console.In, output, options);
            return 0;
        case ["school", "create"]:
            await AdminCommands.CreateSchoolAsync(options, Console.Out);
            return 0;
        case ["school", "limit", var school]:
            await AdminCommands.LimitAsync(school, options, Console.Out);
            return 0;
        case ["person", "list"]:
            await AdminCommands.ListAsync(options, Console.Out);
            return 0;
        case ["person", "invite", var email]:
            await AdminCommands.InviteAsync(email, options, Console.Out);
            return 0;
        case ["person", "reset", var email]:
            await AdminCommands.ResetAsync(email, options, Console.Out);
            return 0;
        case ["person", "unlock", var email]:
            await AdminCommands.UnlockAsync(email, options, Console.Out);
            return 0;
        case ["export", var folder]:
            await ExportCommand.RunAsync(folder, options, Console.Out);
            return 0;
        case ["backup", var file]:
            Backup.Write(file, options.OwnerDatabase(), Console.Out);
            return 0;
        case ["backup"]:
            await Backup.WriteCheckedAsync(options.Need("to"), int.TryParse(options.Get("keep") ?? "14", out var keep) ? keep : 0, options.OwnerDatabase(), NodaTime.SystemClock.Instance.GetCurrentInstant(), Console.Out);
            return 0;
        case ["doctor"]:
            return await new Doctor(options, NodaTime.SystemClock.Instance, Console.Out).RunAsync();
        case ["restore", var file]:
            Backup.Read(file, options.OwnerDatabase(), Console.Out);
            return 0;
    }
}
catch (NewerDatabaseException error)
{
    Console.Error.WriteLine(error.Message);
    return 3;
}
catch (TooMightyException error)
{
    Console.Error.WriteLine(error.Message);
    return 4;
}
catch (Exception error) when (error is InvalidInputException or BackupFailedException)
{
    Console.Error.WriteLine(error.Message);
    return 1;
}
catch (TakenException)
{
    Console.Error.WriteLine("Somebody has signed up with this address.");
    return 1;
}

switch (args)
{
    case ["expand"]:
        ExpandCommand.Run(Console.In, Console.Out);
        return 0;
    case ["version"]:
        Console.WriteLine($"valtro {typeof(Expansion).Assembly.GetName().Version?.ToString(3)}, zone data {Zones.DataVersion}");
        return 0;
    default:
        Console.Error.WriteLine(Help);
        return args is ["help"] or ["--help"] or ["-h"] ? 0 : 2;
}
