using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>
/// What one language says of days and times, without capitals and accents. A third language is one more of these: the reader
/// itself knows no word.
/// </summary>
internal sealed record LineWords
{
    /// <summary>The language's code.</summary>
    public required string Language { get; init; }

    /// <summary>Whether 7 may be the evening's without saying so.</summary>
    public required bool TwelveHours { get; init; }

    public required string[] Weekdays { get; init; }
    public required string[] WeekdayNicknames { get; init; }

    /// <summary>Shorter still, where several stand between strokes: T/Th.</summary>
    public required Phrases[] WeekdayCodes { get; init; }

    public required string[] Months { get; init; }

    /// <summary>The months as they are written for people.</summary>
    public required string[] MonthsWritten { get; init; }

    /// <summary>Before a weekday these may mean every one of them: le mardi.</summary>
    public required Phrases Habitual { get; init; }

    /// <summary>One to twelve, then fifteen, twenty, twenty-five.</summary>
    public required string[] Numbers { get; init; }

    public required string[] Ordinals { get; init; }
    public required Phrases OrdinalEndings { get; init; }
    public required Phrases A { get; init; }

    // Days.
    public required Phrases On { get; init; }
    public required Phrases The { get; init; }
    public required Phrases Of { get; init; }
    public required Phrases In { get; init; }
    public required Phrases This { get; init; }
    public required Phrases Next { get; init; }
    public required Phrases NextAfter { get; init; }
    public required Phrases WeekAfter { get; init; }
    public required Phrases AWeekOn { get; init; }
    public required Phrases Today { get; init; }
    public required Phrases Tonight { get; init; }
    public required Phrases Tomorrow { get; init; }
    public required Phrases DayAfterTomorrow { get; init; }
    public required Phrases Yesterday { get; init; }
    public required Phrases NextWeek { get; init; }
    public required Phrases ThisWeek { get; init; }
    public required Phrases InSoMany { get; init; }
    public required Phrases Fortnight { get; init; }
    public required Phrases WeekNumber { get; init; }
    public required Phrases TermStart { get; init; }
    public required Phrases TermEnd { get; init; }
    public required Phrases OfTerm { get; init; }
    public required Phrases Starting { get; init; }
    public required Phrases By { get; init; }
    public required Phrases Deadline { get; init; }
    public required Phrases NotADay { get; init; }

    // Between two of them.
    public required Phrases From { get; init; }
    public required Phrases Between { get; init; }
    public required Phrases To { get; init; }
    public required Phrases And { get; init; }

    // Times.
    /// <summary>Makes a bare number a time.</summary>
    public required Phrases At { get; init; }

    /// <summary>May stand before a time, and before other things as well.</summary>
    public required Phrases MaybeAt { get; init; }

    /// <summary>Times said in words: half past nine. Gives the hour, the minute, and where it ends.</summary>
    public required Func<Token[], int, LineWords, (int Hour, int Minute, int End)?> Spoken { get; init; }

    public required Phrases Noon { get; init; }
    public required Phrases Midnight { get; init; }
    public required Phrases HourMark { get; init; }
    public required Phrases OClock { get; init; }
    public required Phrases InTheMorning { get; init; }
    public required Phrases InTheAfternoon { get; init; }
    public required Phrases MorningWords { get; init; }
    public required Phrases EveningWords { get; init; }
    public required Phrases AllDay { get; init; }
    public required Phrases HalfHour { get; init; }

    // Lengths.
    public required Phrases For { get; init; }
    public required Phrases Hours { get; init; }
    public required Phrases Minutes { get; init; }
    public required Phrases Days { get; init; }
    public required Phrases WeekUnit { get; init; }
    public required Phrases MonthUnit { get; init; }
    public required Phrases YearUnit { get; init; }
    public required Phrases Long { get; init; }

    // Repeats.
    public required Phrases Every { get; init; }
    public required Phrases Other { get; init; }
    public required Phrases Alternate { get; init; }
    public required Phrases OutOfTwo { get; init; }
    public required Phrases Daily { get; init; }
    public required Phrases Weekly { get; init; }
    public required Phrases Fortnightly { get; init; }
    public required Phrases TwiceOrEveryTwo { get; init; }
    public required Phrases Monthly { get; init; }
    public required Phrases Quarterly { get; init; }
    public required Phrases Yearly { get; init; }
    public required Phrases WorkDays { get; init; }
    public required Phrases Weekends { get; init; }
    public required Phrases SchoolDays { get; init; }
    public required Phrases Plural { get; init; }
    public required Phrases Last { get; init; }
    public required Phrases OfTheMonth { get; init; }
    public required Phrases Except { get; init; }
    public required Phrases OnClosuresToo { get; init; }
    public required Phrases NotOnClosures { get; init; }
    public required Phrases Until { get; init; }

    /// <summary>Until, and nothing else.</summary>
    public required Phrases Reaching { get; init; }

    public required Phrases Times { get; init; }
    public required Phrases EndOf { get; init; }

    // What makes a number no time.
    public required Phrases Counted { get; init; }
    public required Phrases Units { get; init; }

    /// <summary>What may stand before a bare weekday that is no date: the sun, my Monday.</summary>
    public required Phrases Articles { get; init; }

    /// <summary>The weekdays and months of languages the reader does not speak.</summary>
    public static Phrases Elsewhere { get; } = new(
        "montag", "dienstag", "mittwoch", "donnerstag", "freitag", "samstag", "sonntag", "uhr", "lunes", "miercoles", "miércoles", "jueves", "viernes", "sabado", "sábado", "domingo",
        "lunedi", "lunedì", "martedi", "martedì", "mercoledi", "mercoledì", "giovedi", "giovedì", "venerdi", "venerdì", "domenica", "maandag", "dinsdag", "woensdag", "donderdag", "vrijdag", "zaterdag", "zondag",
        "segunda-feira", "terça-feira", "quarta-feira", "quinta-feira", "sexta-feira", "poniedziałek", "wtorek", "środa", "czwartek", "piątek", "понедельник", "вторник", "среда", "четверг", "пятница", "суббота", "воскресенье");

    public static LineWords English { get; } = new()
    {
        Language = "en",
        TwelveHours = true,
        Weekdays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"],
        WeekdayNicknames = ["", "", "weds", "", "", "", ""],
        WeekdayCodes = [new("m", "mo"), new("t", "tu"), new("w", "we"), new("th"), new("f", "fr"), new("sa"), new("su")],
        Months = ["january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december"],
        MonthsWritten = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"],
        Habitual = new(),
        Numbers = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"],
        Ordinals = ["first", "second", "third", "fourth", "fifth"],
        OrdinalEndings = new("st", "nd", "rd", "th"),
        A = new("a", "an", "one"),
        On = new("on", "on the", "the", "for", "for the"),
        The = new("the"),
        Of = new("of", "in"),
        In = new("in", "during", "throughout"),
        This = new("this", "this coming", "coming"),
        Next = new("next"),
        NextAfter = new("next"),
        WeekAfter = new("week"),
        AWeekOn = new("a week on", "a week from", "week on"),
        Today = new("today"),
        Tonight = new("tonight", "this evening"),
        Tomorrow = new("tomorrow", "tmrw", "tomorow"),
        DayAfterTomorrow = new("the day after tomorrow", "day after tomorrow"),
        Yesterday = new("yesterday"),
        NextWeek = new("next week"),
        ThisWeek = new("this week"),
        InSoMany = new("in"),
        Fortnight = new("fortnight", "fortnights"),
        WeekNumber = new("week", "wk", "w"),
        TermStart = new("first day", "the first day", "start", "the start", "beginning", "the beginning"),
        TermEnd = new("last day", "the last day", "end", "the end"),
        OfTerm = new("of term", "of the term", "of semester", "of the semester"),
        Starting = new("starting", "starting on", "starting from", "beginning", "beginning on", "from", "as from", "as of", "since"),
        By = new("by", "by the", "before", "no later than"),
        Deadline = new("due", "deadline", "hand in", "hand-in", "handed in", "submit", "submission"),
        NotADay = new("good", "black", "ash", "palm", "easter", "shrove", "holy", "cyber", "whit", "casual", "bloody"),
        From = new("from"),
        Between = new("between"),
        To = new("to", "-", "–", "—", "until", "till", "til", "through", "thru", "up to"),
        And = new("and", "&", "+", ",", ", and", "/", ";"),
        At = new("at", "starts at", "starting at", "begins at", "doors at"),
        MaybeAt = new("@", "from", "starts", "starting", "begins", "around", "approx", "approx.", "about", "by", "before", "ca", "c."),
        Spoken = SpokenClocks.English,
        Noon = new("noon", "midday", "12 noon", "12noon"),
        Midnight = new("midnight", "12 midnight"),
        HourMark = new("h"),
        OClock = new("o'clock", "oclock", "hrs", "hours", "sharp"),
        InTheMorning = new("in the morning", "in the am"),
        InTheAfternoon = new("in the afternoon", "in the evening", "at night", "this evening", "this afternoon"),
        MorningWords = new("morning", "mornings", "breakfast", "sunrise", "dawn"),
        EveningWords = new("evening", "evenings", "tonight", "night", "nights", "dinner", "supper", "gala", "disco", "prom", "sunset", "bonfire", "fireworks", "concert", "concerts", "movie", "movies", "film", "films", "party", "dance", "recital", "banquet"),
        AllDay = new("all day", "all-day", "allday", "whole day", "the whole day"),
        HalfHour = new("half an hour", "half hour", "half-hour"),
        For = new("for"),
        Hours = new("h", "hr", "hrs", "hour", "hours"),
        Minutes = new("m", "min", "mins", "minute", "minutes"),
        Days = new("d", "day", "days"),
        WeekUnit = new("week", "weeks", "wk", "wks"),
        MonthUnit = new("month", "months"),
        YearUnit = new("year", "years"),
        Long = new("long"),
        Every = new("every", "each", "ea"),
        Other = new("other", "second", "2nd", "alternate"),
        Alternate = new("alternate", "alternating"),
        OutOfTwo = new("every other"),
        Daily = new("daily"),
        Weekly = new("weekly", "once a week"),
        Fortnightly = new("fortnightly", "biweekly", "bi-weekly", "every fortnight", "each fortnight", "once a fortnight"),
        TwiceOrEveryTwo = new("biweekly", "bi-weekly"),
        Monthly = new("monthly", "once a month"),
        Quarterly = new("quarterly"),
        Yearly = new("yearly", "annually", "once a year"),
        WorkDays = new("weekday", "weekdays", "week day", "week days", "working day", "working days", "workday", "workdays", "m-f", "m–f"),
        Weekends = new("weekend", "weekends"),
        SchoolDays = new("school day", "school days", "schoolday", "schooldays"),
        Plural = new("on"),
        Last = new("last"),
        OfTheMonth = new("of the month", "of each month", "of every month", "each month", "every month", "in the month", "in each month", "in every month", "a month", "monthly"),
        Except = new("except", "except on", "except for", "but not", "but not on", "excluding", "excl", "excl.", "not on", "but"),
        OnClosuresToo = new("even on closures", "also on closures", "including closures", "closures too", "even when closed"),
        NotOnClosures = new("not on closures", "except closures", "excluding closures", "without closures", "except on closures"),
        Until = new("until", "till", "til", "through", "thru", "ending", "ending on", "ends", "up to", "to"),
        Reaching = new("until", "till", "til", "through", "thru", "up to"),
        Times = new("times", "x", "×", "sessions", "dates", "occurrences", "lessons", "meetings"),
        EndOf = new("the end of", "end of"),
        Counted = new(
            "grade", "grades", "gr", "chapter", "chapters", "ch", "chs", "chap", "chaps", "year", "years", "yr", "yrs", "room", "rooms", "rm", "page", "pages", "p", "pp", "pg", "pgs", "unit", "units", "lessons", "level", "levels",
            "classes", "part", "parts", "week", "weeks", "age", "ages", "aged", "groups", "no", "nos", "nr", "number", "numbers", "act", "acts", "scene", "scenes", "sets", "verse", "verses", "question", "questions", "q", "qs",
            "ex", "exs", "exercise", "exercises", "problem", "problems", "sections", "module", "modules", "topic", "topics", "forms", "bus", "route", "lane", "lanes", "gate", "tables", "seat", "seats", "flat", "apt",
            "teams", "round", "rounds", "heat", "heats", "under", "over", "vol", "volume", "volumes", "issue", "article", "paragraph", "paragraphs", "line", "lines", "figure", "figures", "fig", "figs", "step", "steps", "phase",
            "stages", "version", "v", "season", "episode", "episodes", "psalm", "hymn", "hymns", "opus", "op", "symphony", "sonata", "concerto", "games", "tel", "phone", "ext", "box", "floor", "aisle", "bay", "bays", "courts",
            "berth", "berths", "cabin", "cabins", "deck", "score", "ratio", "odds", "best", "top", "sonnet", "sonnets", "poem", "poems", "movement", "movements", "bars", "measures", "period", "periods", "blocks", "key stage", "ks", "worksheet", "worksheets", "paper", "papers", "lot", "lots", "cohort", "channel", "item", "items", "appendix", "slide", "slides", "track", "tracks", "algebra", "book", "books", "formula", "rule", "rules", "won", "lost", "beat", "u", "row", "rows", "stations", "platform", "size", "sizes", "bed", "goal", "goals", "tasks", "activities", "laws", "bands", "locker", "lockers", "maps", "songs"),
        Units = new(
            "people", "pages", "page", "players", "player", "years", "year", "yr", "yrs", "yo", "km", "k", "m", "mi", "mile", "miles", "kg", "g", "lb", "lbs", "points", "point", "pts", "marks", "mark", "pupils", "pupil", "students", "student", "kids", "children", "tickets", "each",
            "percent", "dollars", "euros", "pounds", "cents", "litres", "questions", "chapters", "groups", "teams", "boats", "laps", "lengths", "metres", "meters", "feet", "min", "mins", "minute", "minutes", "x", "degrees", "places", "seats", "volunteers", "adults", "guests", "copies", "sets", "reps", "days", "weeks", "months", "hours", "day", "week", "month", "win", "loss", "victory", "defeat", "draw", "graders", "grader", "store", "books", "goals", "items", "exercises", "problems", "sentences", "words", "paragraphs"),
        Articles = new("the", "a", "my", "our", "your", "his", "her", "their", "last", "dear", "of", "no"),
    };

    public static LineWords French { get; } = new()
    {
        Language = "fr",
        TwelveHours = false,
        Weekdays = ["lundi", "mardi", "mercredi", "jeudi", "vendredi", "samedi", "dimanche"],
        WeekdayNicknames = ["", "", "merc", "", "", "", ""],
        WeekdayCodes = [new("lu"), new("ma"), new("me"), new("je"), new("ve"), new("sa"), new("di")],
        Months = ["janvier", "fevrier", "mars", "avril", "mai", "juin", "juillet", "aout", "septembre", "octobre", "novembre", "decembre"],
        MonthsWritten = ["janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre", "octobre", "novembre", "décembre"],
        Habitual = new("le"),
        Numbers = ["une", "deux", "trois", "quatre", "cinq", "six", "sept", "huit", "neuf", "dix", "onze", "douze"],
        Ordinals = ["premier", "deuxieme", "troisieme", "quatrieme", "cinquieme"],
        OrdinalEndings = new("er", "e", "eme", "ere", "ieme", "nd", "de", "re"),
        A = new("un", "une"),
        On = new("le", "les", "au", "du", "ce", "pour", "pour le"),
        The = new("le", "les", "la"),
        Of = new("de", "du", "d'", "en"),
        In = new("en", "pendant", "durant"),
        This = new("ce", "cette"),
        Next = new("prochain"),
        NextAfter = new("prochain", "prochaine"),
        WeekAfter = new("en huit"),
        AWeekOn = new(),
        Today = new("aujourd'hui", "aujourdhui", "auj"),
        Tonight = new("ce soir"),
        Tomorrow = new("demain"),
        DayAfterTomorrow = new("apres-demain", "apres demain"),
        Yesterday = new("hier"),
        NextWeek = new("la semaine prochaine", "semaine prochaine"),
        ThisWeek = new("cette semaine"),
        InSoMany = new("dans", "d'ici"),
        Fortnight = new("quinzaine"),
        WeekNumber = new("semaine", "sem", "sem."),
        TermStart = new("premier jour", "le premier jour", "debut", "le debut", "au debut", "rentree"),
        TermEnd = new("dernier jour", "le dernier jour", "fin", "la fin", "a la fin"),
        OfTerm = new("du trimestre", "de trimestre", "du semestre", "de semestre", "de la periode", "de periode", "de l'etape", "d'etape"),
        Starting = new("des le", "des", "a partir du", "a partir de", "a compter du", "depuis le", "du"),
        By = new("avant", "avant le", "d'ici", "d'ici le", "d'ici au", "au plus tard le"),
        Deadline = new("a rendre", "a remettre", "date limite", "echeance", "remise", "dernier delai", "cloture"),
        NotADay = new("mardi gras"),
        From = new("de", "du", "d'"),
        Between = new("entre"),
        To = new("a", "au", "-", "–", "—", "jusqu'a", "jusqu'au", "jusque"),
        And = new("et", "&", "+", ",", "/", ";"),
        At = new("a"),
        MaybeAt = new("@", "des", "vers", "de", "a partir de", "avant", "avant les", "pour"),
        Spoken = SpokenClocks.French,
        Noon = new("midi"),
        Midnight = new("minuit"),
        HourMark = new("h", "heure", "heures", "hres", "hrs"),
        OClock = new("heures", "heure", "h"),
        InTheMorning = new("du matin"),
        InTheAfternoon = new("de l'apres-midi", "du soir", "de l'apres midi", "de la soiree"),
        MorningWords = new("matin", "matinee", "petit-dejeuner"),
        EveningWords = new("soir", "soiree", "nuit", "souper", "diner", "gala", "bal", "veillee", "concert", "concerts", "spectacle", "film", "cinema", "fete", "recital"),
        AllDay = new("toute la journee", "journee entiere", "journee complete", "la journee"),
        HalfHour = new("une demi-heure", "demi-heure", "une demie heure"),
        For = new("pendant", "durant"),
        Hours = new("h", "heure", "heures"),
        Minutes = new("m", "mn", "min", "minute", "minutes"),
        Days = new("j", "jour", "jours"),
        WeekUnit = new("semaine", "semaines", "sem"),
        MonthUnit = new("mois"),
        YearUnit = new("an", "ans", "annee", "annees"),
        Long = new(),
        Every = new("chaque", "tous les", "toutes les", "tous", "toutes"),
        Other = new("deuxieme"),
        Alternate = new(),
        OutOfTwo = new("sur deux", "sur 2"),
        Daily = new("quotidien", "quotidienne", "quotidiennement"),
        Weekly = new("hebdomadaire", "hebdo", "une fois par semaine", "chaque semaine", "toutes les semaines"),
        Fortnightly = new("une semaine sur deux", "toutes les deux semaines", "aux deux semaines", "tous les quinze jours", "tous les 15 jours", "aux quinze jours", "chaque quinzaine"),
        TwiceOrEveryTwo = new("bimensuel", "bihebdomadaire"),
        Monthly = new("mensuel", "mensuelle", "mensuellement", "une fois par mois"),
        Quarterly = new("trimestriel", "trimestrielle"),
        Yearly = new("annuel", "annuelle", "annuellement", "une fois par an"),
        WorkDays = new("en semaine", "jour ouvrable", "jours ouvrables", "jours de semaine", "jour de semaine"),
        Weekends = new("week-end", "week-ends", "weekend", "weekends", "fin de semaine", "fins de semaine", "le week-end", "les week-ends"),
        SchoolDays = new("jour de classe", "jours de classe", "jour d'ecole", "jours d'ecole"),
        Plural = new("les"),
        Last = new("dernier", "derniers", "derniere"),
        OfTheMonth = new("du mois", "de chaque mois", "de tous les mois", "chaque mois", "par mois", "tous les mois"),
        Except = new("sauf", "sauf le", "sauf les", "hormis", "hormis le", "excepte", "excepte le", "mais pas le"),
        OnClosuresToo = new("meme pendant les fermetures", "fermetures comprises", "y compris les fermetures", "meme les jours de fermeture"),
        NotOnClosures = new("sauf fermetures", "hors fermetures", "sauf les fermetures"),
        Until = new("jusqu'au", "jusqu'a", "jusqu'en", "jusqua", "jusquau", "au", "a"),
        Reaching = new("jusqu'au", "jusqu'a", "jusqu'en", "jusquau"),
        Times = new("fois", "x", "×", "seances", "cours", "dates", "rencontres"),
        EndOf = new("la fin de", "la fin du", "fin", "la fin d'", "fin de", "fin du"),
        Counted = new(
            "classe", "classes", "chapitre", "chapitres", "ch", "chap", "page", "pages", "p", "pp", "salle", "salles", "niveau", "niveaux", "annee", "annees", "groupes", "lecon", "lecons", "exercice", "exercices", "ex", "exo", "exos", "question", "questions",
            "no", "n", "numero", "numeros", "partie", "parties", "tome", "tomes", "acte", "actes", "scene", "scenes", "unite", "unites", "etape", "etapes", "module", "modules", "ligne", "lignes", "bus", "etage", "porte", "quai", "tel", "telephone", "equipes", "manche",
            "manches", "age", "ages", "ages de", "probleme", "problemes", "sections", "local", "locaux", "secteur", "figure", "fig", "vol", "volume", "paragraphe", "article", "verset", "versets", "psaume", "cantique", "poste", "tables",
            "sec", "secondaire", "cycles", "semaine", "semaines", "fiche", "fiches", "documents", "version", "saison", "episode", "score", "sonnet", "sonnets", "mouvement", "mouvements", "livre", "themes", "sequence", "sequences", "casier", "casiers", "cabine", "cabines", "moins de"),
        Units = new(
            "ans", "an", "annees", "eleve", "eleves", "personnes", "personne", "joueurs", "joueur", "pages", "page", "places", "place", "points", "point", "km", "m", "kg", "g", "euros", "dollars", "enfants", "adultes", "groupes", "equipes", "questions", "billets", "exemplaires", "min", "minute", "minutes",
            "jours", "semaines", "mois", "heures", "fois", "chapitres", "exercices", "bateaux", "tours", "metres", "litres", "x", "benevoles", "degres", "e", "victoire", "mots", "phrases", "lignes"),
        Articles = new("la", "une", "un", "mon", "notre", "votre", "leur", "dernier", "son", "de", "en", "a", "au"),
    };

    public static LineWords Speaking(string language) => language == "fr" ? French : English;

    public IsoDayOfWeek Weekday(string word)
    {
        var index = Array.IndexOf(WeekdayNicknames, word);
        if (index < 0 || word.Length == 0)
            index = Find(Weekdays, word);
        return index < 0 ? IsoDayOfWeek.None : (IsoDayOfWeek)(index + 1);
    }

    /// <summary>A weekday said for all of its kind, in full: Mondays, lundis.</summary>
    public IsoDayOfWeek WeekdayOfAll(string word) =>
        word.EndsWith('s') && Array.IndexOf(Weekdays, word[..^1]) is >= 0 and var index ? (IsoDayOfWeek)(index + 1) : IsoDayOfWeek.None;

    /// <summary>A day as it is read back whole: Friday 4 December 2026.</summary>
    public string Spell(LocalDate day)
    {
        var weekday = Weekdays[(int)day.DayOfWeek - 1];
        return $"{(TwelveHours ? char.ToUpperInvariant(weekday[0]) + weekday[1..] : weekday)} {day.Day} {MonthsWritten[day.Month - 1]} {day.Year}";
    }

    /// <summary>1 to 12, or 0.</summary>
    public int Month(string word) => Find(Months, word) + 1;

    /// <summary>1 to 12 as a word, or 0.</summary>
    public int NumberWord(string word) => Array.IndexOf(Numbers, word) + 1;

    /// <summary>The name a word shortens, at three letters or more; -1 when it is none, or could be two.</summary>
    private static int Find(string[] names, string word)
    {
        var found = -1;
        if (word.Length < 3)
            return found;
        for (var i = 0; i < names.Length; i++)
        {
            if (names[i] == word)
                return i;
            if (names[i].StartsWith(word, StringComparison.Ordinal))
                found = found < 0 ? i : -2;
        }
        return Math.Max(found, -1);
    }
}
