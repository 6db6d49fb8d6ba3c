using Valtro.Core.Proposals;
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

    public static (string Subject, string Body) NewAddress(School school, string name, string link) => school.Language == "fr"
        ? ($"{school.ShortName} : votre nouvelle adresse", $"Bonjour {name},\n\nConfirmez ici que cette adresse est la vôtre :\n{link}\n\nLe lien vaut un jour. Si vous n’avez rien demandé, il n’y a rien à faire.\n")
        : ($"{school.ShortName}: your new address", $"Hello {name},\n\nConfirm here that this address is yours:\n{link}\n\nThe link holds for a day. If you did not ask for it, there is nothing to do.\n");

    /// <summary>To an address that is somebody's already: whoever asked is told nothing of it.</summary>
    public static (string Subject, string Body) TakenAddress(School school) => school.Language == "fr"
        ? ($"{school.ShortName} : une adresse déjà connue", "Bonjour,\n\nQuelqu’un a voulu prendre cette adresse pour son compte, mais elle appartient déjà à un compte. Rien n’a changé. Si c’était vous, prenez une autre adresse.\n")
        : ($"{school.ShortName}: this address is known already", "Hello,\n\nSomebody wanted to have this address for their account, but it belongs to an account already. Nothing was changed. If it was you, choose another address.\n");

    public static (string Subject, string Body) OldAddress(School school, string name, string email) => school.Language == "fr"
        ? ($"{school.ShortName} : changement d’adresse demandé", $"Bonjour {name},\n\nOn a demandé que vous vous connectiez à l’avenir avec {email}. Si ce n’est pas vous, changez votre mot de passe et prévenez l’administration de l’école.\n")
        : ($"{school.ShortName}: a change of address was asked for", $"Hello {name},\n\nSomebody asked that you sign in with {email} from now on. If it was not you, change your password and tell the school’s administrators.\n");

    /// <summary>What waits for a keeper, in one mail.</summary>
    public static (string Subject, string Body) Waiting(School school, string name, IReadOnlyList<ProposalNews> news, string link)
    {
        var lines = string.Join("\n", news.Select(n => $"– {n.Title} → {n.Calendar}{(n.Who is null ? "" : $" ({n.Who})")}"));
        return school.Language == "fr"
            ? ($"{school.ShortName} : {news.Count} {(news.Count == 1 ? "proposition attend" : "propositions attendent")}", $"Bonjour {name},\n\nCeci attend votre réponse :\n\n{lines}\n\nRépondre :\n{link}\n")
            : ($"{school.ShortName}: {news.Count} {(news.Count == 1 ? "proposal waits" : "proposals wait")} for you", $"Hello {name},\n\nThis waits for your answer:\n\n{lines}\n\nAnswer here:\n{link}\n");
    }

    /// <summary>What was answered to a proposer, in one mail.</summary>
    public static (string Subject, string Body) Answered(School school, string name, IReadOnlyList<ProposalNews> news, string link)
    {
        var isFrench = school.Language == "fr";
        string Said(Answer answer) => answer switch
        {
            Answer.Approved => isFrench ? "accepté" : "approved",
            Answer.SentBack => isFrench ? "renvoyé" : "sent back",
            _ => isFrench ? "refusé" : "declined",
        };
        var lines = string.Join("\n", news.Select(n => $"– {n.Title} → {n.Calendar}: {Said(n.Answer)}{(n.Who is null ? "" : $" ({n.Who})")}{(n.Remark.Length == 0 ? "" : $"\n  “{n.Remark}”")}"));
        return isFrench
            ? ($"{school.ShortName} : réponse à vos propositions", $"Bonjour {name},\n\nOn a répondu à ce que vous avez proposé :\n\n{lines}\n\nVos propositions :\n{link}\n")
            : ($"{school.ShortName}: answers to your proposals", $"Hello {name},\n\nWhat you proposed was answered:\n\n{lines}\n\nYour proposals:\n{link}\n");
    }
}
