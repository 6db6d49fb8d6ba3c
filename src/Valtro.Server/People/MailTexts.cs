using Valtro.Store;

namespace Valtro.Server.People;

/// <summary>What the school's mails say, in its language.</summary>
internal static class MailTexts
{
    public static (string Subject, string Body) Invitation(School school, string by, string link) => school.Language == "fr"
        ? ($"{school.ShortName} : une invitation", $"Bonjour,\n\n{by} vous invite à tenir les calendriers de : {school.Name}.\n\nChoisissez votre nom et votre mot de passe ici :\n{link}\n\nLe lien vaut sept jours, une fois.\n")
        : ($"{school.ShortName}: an invitation", $"Hello,\n\n{by} invites you to keep calendars at {school.Name}.\n\nChoose your name and a password here:\n{link}\n\nThe link holds for seven days, once.\n");

    public static (string Subject, string Body) Reset(School school, string name, string link) => school.Language == "fr"
        ? ($"{school.ShortName} : un nouveau mot de passe", $"Bonjour {name},\n\nChoisissez un nouveau mot de passe ici :\n{link}\n\nLe lien vaut deux heures. Si vous n’avez rien demandé, il n’y a rien à faire.\n")
        : ($"{school.ShortName}: a new password", $"Hello {name},\n\nChoose a new password here:\n{link}\n\nThe link holds for two hours. If you did not ask for it, there is nothing to do.\n");
}
