using System.Globalization;

namespace Valtro.Core.Limits;

/// <summary>Of what a school may have so much and no more.</summary>
public enum Limited
{
    /// <summary>Events, those in the bin left out.</summary>
    Events,

    /// <summary>Publications, drafts too.</summary>
    Publications,

    /// <summary>Bytes of files and pictures.</summary>
    Storage,

    /// <summary>Mails sent within 24 hours, and those to people of the school that wait.</summary>
    Mails,
}

/// <summary>
/// How much of an installation one school may take: what one of many schools does must not take the room of the others. Who runs the
/// installation sets it, for all and for one.
/// </summary>
/// <param name="Events">How many events.</param>
/// <param name="Publications">How many publications.</param>
/// <param name="Megabytes">How many megabytes (1,000,000 bytes) of files.</param>
/// <param name="MailsADay">How many mails within 24 hours.</param>
public sealed record SchoolLimits(int Events, int Publications, int Megabytes, int MailsADay)
{
    /// <summary>What holds where nothing is set.</summary>
    public static readonly SchoolLimits Usual = new(Events: 200_000, Publications: 2_000, Megabytes: 10_000, MailsADay: 5_000);

    /// <summary>From which part of a limit on it is nearly reached.</summary>
    private const double Near = 0.8;

    /// <summary>These limits with a school's own.</summary>
    /// <param name="own">Where one is null the common one holds.</param>
    public SchoolLimits With(OwnLimits own) =>
        new(own.Events ?? Events, own.Publications ?? Publications, own.Megabytes ?? Megabytes, own.MailsADay ?? MailsADay);

    /// <summary>The limit of one thing, in its own measure: storage in bytes.</summary>
    public long Of(Limited what) => what switch
    {
        Limited.Events => Events,
        Limited.Publications => Publications,
        Limited.Storage => Megabytes * 1_000_000L,
        _ => MailsADay,
    };

    /// <summary>Whether little is left of something.</summary>
    /// <param name="what">Of what.</param>
    /// <param name="taken">How much is taken, in its own measure.</param>
    public bool IsNear(Limited what, long taken) => taken >= Of(what) * Near;

    /// <summary>Refuses more than the limit.</summary>
    /// <param name="what">Of what.</param>
    /// <param name="taken">How much would be taken, in its own measure.</param>
    /// <exception cref="InvalidInputException"><c>limit_events</c>, <c>limit_publications</c>, <c>limit_storage</c>, <c>limit_mails</c>.</exception>
    public void Need(Limited what, long taken)
    {
        if (taken <= Of(what))
            return;
        var most = (what == Limited.Storage ? Megabytes : Of(what)).ToString("N0", CultureInfo.InvariantCulture);
        throw what switch
        {
            Limited.Events => new InvalidInputException("limit_events", null, $"Your school may have {most} events, and this would be more. Nothing was added. Move some to the bin, or ask whoever runs the server."),
            Limited.Publications => new InvalidInputException("limit_publications", null, $"Your school may have {most} publications, and this would be more. Nothing was added. Remove one, or ask whoever runs the server."),
            Limited.Storage => new InvalidInputException("limit_storage", null, $"Your school may keep {most} MB of files and pictures, and this would be more. It was not kept. Remove some, or ask whoever runs the server."),
            _ => new InvalidInputException("limit_mails", null, $"Your school may send {most} mails a day, and has. Try again tomorrow, or ask whoever runs the server."),
        };
    }
}

/// <summary>What is set for one school; where one is null the installation's own holds.</summary>
/// <param name="Events">How many events.</param>
/// <param name="Publications">How many publications.</param>
/// <param name="Megabytes">How many megabytes of files.</param>
/// <param name="MailsADay">How many mails within 24 hours.</param>
public sealed record OwnLimits(int? Events = null, int? Publications = null, int? Megabytes = null, int? MailsADay = null);
