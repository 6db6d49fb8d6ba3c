using Valtro.Core.Proposals;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
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

    /// <summary>To a calendar's keepers: somebody asks for it.</summary>
    public static (string Subject, string Body) OpeningAsked(School school, string name, string publication, string calendar, OpeningRequest request, string link)
    {
        var word = request.Remark.Length == 0 ? "" : $"\n“{request.Remark}”\n";
        return school.Language == "fr"
            ? ($"{school.ShortName} : on vous demande d’ouvrir {calendar}", $"Bonjour {name},\n\nLa publication « {publication} » voudrait montrer {calendar} ({To(request.Audience, true)} : {What(request.Detail, true)}).\n{word}\nRépondre :\n{link}\n")
            : ($"{school.ShortName}: somebody asks you to open {calendar}", $"Hello {name},\n\nThe publication “{publication}” would like to show {calendar} ({To(request.Audience, false)}: {What(request.Detail, false)}).\n{word}\nAnswer here:\n{link}\n");
    }

    /// <summary>To who asked.</summary>
    public static (string Subject, string Body) OpeningAnswered(School school, string name, string publication, string calendar, OpeningAnswer answer, string link)
    {
        var word = answer.Remark.Length == 0 ? "" : $"\n“{answer.Remark}”\n";
        var isNo = answer.Given == Detail.Nothing;
        return school.Language == "fr"
            ? ($"{school.ShortName} : {calendar} {(isNo ? "reste fermé" : "est ouvert")}", $"Bonjour {name},\n\n{(isNo ? $"{calendar} n’est pas ouvert pour « {publication} »." : $"{calendar} est ouvert pour « {publication} » : {What(answer.Given, true)}. La publication le montre déjà.")}\n{word}\n{link}\n")
            : ($"{school.ShortName}: {calendar} {(isNo ? "stays closed" : "is open")}", $"Hello {name},\n\n{(isNo ? $"{calendar} is not opened for “{publication}”." : $"{calendar} is open for “{publication}”: {What(answer.Given, false)}. The publication shows it already.")}\n{word}\n{link}\n");
    }

    /// <summary>To who has a publication: it sends out less than it did.</summary>
    public static (string Subject, string Body) Trouble(School school, string name, string publication, IReadOnlyList<PublicationTrouble> troubles, string link)
    {
        var isFrench = school.Language == "fr";
        string Said(TroubleKind kind) => kind switch
        {
            TroubleKind.Binned => isFrench ? "est à la corbeille" : "is in the bin",
            TroubleKind.Closed => isFrench ? "est fermé à ses lecteurs" : "is closed to its readers",
            _ => isFrench ? "n’a plus d’événements" : "has no events any more",
        };
        var lines = string.Join("\n", troubles.Select(t => $"– {t.Calendar}: {Said(t.Kind)}"));
        return isFrench
            ? ($"{school.ShortName} : « {publication} » montre moins qu’avant", $"Bonjour {name},\n\nVotre publication « {publication} » montre moins qu’avant :\n\n{lines}\n\nVoir :\n{link}\n")
            : ($"{school.ShortName}: “{publication}” shows less than it did", $"Hello {name},\n\nYour publication “{publication}” shows less than it did:\n\n{lines}\n\nLook here:\n{link}\n");
    }

    private static string To(Audience audience, bool isFrench) => audience switch
    {
        Audience.Members => isFrench ? "aux membres" : "to members",
        Audience.LinkHolders => isFrench ? "à qui a le lien" : "to whoever has the link",
        _ => isFrench ? "à tout le monde" : "to everyone",
    };

    private static string What(Detail detail, bool isFrench) => detail switch
    {
        Detail.TimesOnly => isFrench ? "les heures" : "times only",
        Detail.Headlines => isFrench ? "les titres" : "headlines",
        Detail.Nothing => isFrench ? "rien" : "nothing",
        _ => isFrench ? "tout" : "everything",
    };

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
