using NodaTime;

namespace Valtro.Core.LineEntry;

/// <summary>
/// What one language says of days and times, without capitals and accents. A third language is one more of these: the reader
/// itself knows no word.
/// </summary>
internal sealed record LineWords
{
    /// <summary>Whether 7 may be the evening's without saying so.</summary>
    public required bool TwelveHours { get; init; }

    public required string[] Weekdays { get; init; }
    public required string[] WeekdayNicknames { get; init; }

    /// <summary>Shorter still, where several stand between strokes: T/Th.</summary>
    public required Phrases[] WeekdayCodes { get; init; }

    /// <summary>The letters of weekdays in a row.</summary>
    public required Phrases WeekdayPacks { get; init; }

    public required Phrases Bimonthly { get; init; }

    public required string[] Months { get; init; }

    /// <summary>The months as they are written for people.</summary>
    public required string[] MonthsWritten { get; init; }

    // What is written for people, to be read back.
    public required string SaysEvery { get; init; }
    public required string SaysOther { get; init; }
    public required string SaysAnd { get; init; }
    public required string SaysUntil { get; init; }

    /// <summary>Around the weekday of which the second of each month is meant.</summary>
    public required (string Before, string After) SaysSecondOfMonth { get; init; }

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
    public required Phrases WeekOfDay { get; init; }

    /// <summary>Before two numbers these make them days of a month.</summary>
    public required Phrases DatedFrom { get; init; }
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

    /// <summary>Glued to an hour: 4ish.</summary>
    public required Phrases About { get; init; }

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

    /// <summary>What says that it repeats, and not on which days.</summary>
    public required Phrases Vaguely { get; init; }

    /// <summary>Makes a word one of whoever or whatever that is: Thursday's.</summary>
    public required string Possessive { get; init; }

    // What makes a number no time.
    public required Phrases Counted { get; init; }
    public required Phrases Units { get; init; }

    /// <summary>What may stand before a bare weekday that is no date: the sun, my Monday.</summary>
    public required Phrases Articles { get; init; }

    /// <summary>The weekdays and months of languages the reader does not speak.</summary>
    public static Phrases Elsewhere { get; } = Say(
        "montag", "dienstag", "mittwoch", "donnerstag", "freitag", "samstag", "sonntag", "uhr", "lunes", "miercoles", "miércoles", "jueves", "viernes", "sabado", "sábado", "domingo",
        "lunedi", "lunedì", "martedi", "martedì", "mercoledi", "mercoledì", "giovedi", "giovedì", "venerdi", "venerdì", "domenica", "maandag", "dinsdag", "woensdag", "donderdag", "vrijdag", "zaterdag", "zondag",
        "segunda-feira", "terça-feira", "quarta-feira", "quinta-feira", "sexta-feira", "poniedziałek", "wtorek", "środa", "czwartek", "piątek", "понедельник", "вторник", "среда", "четверг", "пятница", "суббота", "воскресенье");

    private static Phrases Say(params string[] phrases) => new(phrases);

    public static LineWords English { get; } = new()
    {
        TwelveHours = true,
        Weekdays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"],
        WeekdayNicknames = ["", "", "weds", "", "", "", ""],
        WeekdayCodes = [Say("m", "mo"), Say("t", "tu"), Say("w", "we"), Say("th"), Say("f", "fr"), Say("sa"), Say("su")],
        WeekdayPacks = Say("mwf", "mw", "tth", "tuth"),
        Bimonthly = Say("bimonthly", "bi-monthly"),
        Months = ["january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december"],
        MonthsWritten = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"],
        SaysEvery = "every",
        SaysOther = "other",
        SaysAnd = "and",
        SaysUntil = "until",
        SaysSecondOfMonth = ("every 2nd", "of the month"),
        Habitual = Say(),
        Numbers = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"],
        Ordinals = ["first", "second", "third", "fourth", "fifth"],
        OrdinalEndings = Say("st", "nd", "rd", "th"),
        A = Say("a", "an", "one"),
        On = Say("on", "on the", "the", "for", "for the"),
        The = Say("the"),
        Of = Say("of", "in"),
        In = Say("in", "during", "throughout"),
        This = Say("this", "this coming", "coming"),
        Next = Say("next"),
        NextAfter = Say("next"),
        WeekAfter = Say("week"),
        AWeekOn = Say("a week on", "a week from", "week on"),
        Today = Say("today"),
        Tonight = Say("tonight", "this evening"),
        Tomorrow = Say("tomorrow", "tmrw", "tomorow", "2morrow", "tmr"),
        DayAfterTomorrow = Say("the day after tomorrow", "day after tomorrow"),
        Yesterday = Say("yesterday"),
        NextWeek = Say("next week"),
        ThisWeek = Say("this week"),
        InSoMany = Say("in"),
        DatedFrom = Say("from the"),
        WeekOfDay = Say("week of", "the week of", "week beginning", "week commencing", "week starting", "wk beg", "wk of", "w/c", "w/b"),
        Fortnight = Say("fortnight", "fortnights"),
        WeekNumber = Say("week", "wk", "w"),
        TermStart = Say("first day", "the first day", "start", "the start", "beginning", "the beginning"),
        TermEnd = Say("last day", "the last day", "end", "the end"),
        OfTerm = Say("of term", "of the term", "of semester", "of the semester"),
        Starting = Say("starting", "starting on", "starting from", "beginning", "beginning on", "from", "as from", "as of", "since"),
        By = Say("by", "by the", "before", "no later than", "by end of day", "by the end of", "by eod", "eod", "by cob", "cob"),
        Deadline = Say("due", "deadline", "hand in", "hand-in", "handed in", "submit", "submission"),
        NotADay = Say("good", "black", "ash", "palm", "easter", "shrove", "holy", "cyber", "whit", "casual", "bloody"),
        From = Say("from"),
        Between = Say("between"),
        To = Say("to", "-", "–", "—", "until", "till", "til", "through", "thru", "up to"),
        And = Say("and", "&", "+", ",", ", and", "/", ";"),
        At = Say("at", "starts at", "starting at", "begins at", "doors at"),
        MaybeAt = Say("@", "from", "starts", "starting", "begins", "around", "approx", "approx.", "about", "by", "before", "ca", "c."),
        Spoken = SpokenClocks.English,
        Noon = Say("noon", "midday", "12 noon", "12noon"),
        Midnight = Say("midnight", "12 midnight"),
        HourMark = Say("h"),
        About = Say("ish", "-ish"),
        OClock = Say("o'clock", "oclock", "hrs", "hours", "sharp"),
        InTheMorning = Say("in the morning", "in the am"),
        InTheAfternoon = Say("in the afternoon", "in the evening", "at night", "this evening", "this afternoon"),
        MorningWords = Say("morning", "mornings", "breakfast", "sunrise", "dawn"),
        EveningWords = Say("evening", "evenings", "tonight", "night", "nights", "nite", "dinner", "supper", "gala", "disco", "prom", "sunset", "bonfire", "fireworks", "concert", "concerts", "movie", "movies", "film", "films", "party", "dance", "recital", "banquet"),
        AllDay = Say("all day", "all-day", "allday", "whole day", "the whole day"),
        HalfHour = Say("half an hour", "half hour", "half-hour"),
        For = Say("for"),
        Hours = Say("h", "hr", "hrs", "hour", "hours"),
        Minutes = Say("m", "min", "mins", "minute", "minutes"),
        Days = Say("d", "day", "days"),
        WeekUnit = Say("week", "weeks", "wk", "wks"),
        MonthUnit = Say("month", "months"),
        YearUnit = Say("year", "years"),
        Long = Say("long"),
        Every = Say("every", "each", "ea"),
        Other = Say("other", "second", "2nd", "alternate"),
        Alternate = Say("alternate", "alternating"),
        OutOfTwo = Say("every other"),
        Daily = Say("daily"),
        Weekly = Say("weekly", "once a week"),
        Fortnightly = Say("fortnightly", "biweekly", "bi-weekly", "every fortnight", "each fortnight", "once a fortnight"),
        TwiceOrEveryTwo = Say("biweekly", "bi-weekly"),
        Monthly = Say("monthly", "once a month"),
        Quarterly = Say("quarterly"),
        Yearly = Say("yearly", "annually", "once a year"),
        WorkDays = Say("weekday", "weekdays", "week day", "week days", "working day", "working days", "workday", "workdays", "m-f", "m–f"),
        Weekends = Say("weekend", "weekends"),
        SchoolDays = Say("school day", "school days", "schoolday", "schooldays"),
        Plural = Say("on"),
        Last = Say("last"),
        OfTheMonth = Say("of the month", "of month", "of the mo", "of each month", "of every month", "each month", "every month", "in the month", "in each month", "in every month", "a month", "monthly"),
        Except = Say("except", "except on", "except for", "but not", "but not on", "excluding", "excl", "excl.", "not on", "but"),
        OnClosuresToo = Say("even on closures", "also on closures", "including closures", "closures too", "even when closed"),
        NotOnClosures = Say("not on closures", "except closures", "excluding closures", "without closures", "except on closures"),
        Until = Say("until", "till", "til", "through", "thru", "ending", "ending on", "ends", "up to", "to"),
        Reaching = Say("until", "till", "til", "through", "thru", "up to"),
        Times = Say("times", "x", "×", "sessions", "dates", "occurrences", "lessons", "meetings"),
        EndOf = Say("the end of", "end of"),
        Vaguely = Say("semi-annual", "semiannual", "semi-annually", "biannual", "biannually", "biennial", "termly", "half-termly", "every term", "each term", "once a term", "twice a week", "twice a month", "twice a term", "twice a year", "three times a week", "every so often", "every now and then"),
        Possessive = "'s",
        Counted = Say(
            "grade", "grades", "gr", "chapter", "chapters", "ch", "chs", "chap", "chaps", "year", "years", "yr", "yrs", "room", "rooms", "rm", "page", "pages", "p", "pp", "pg", "pgs", "unit", "units", "lessons", "level", "levels",
            "classes", "part", "parts", "week", "weeks", "age", "ages", "aged", "groups", "no", "nos", "nr", "number", "numbers", "act", "acts", "scene", "scenes", "sets", "verse", "verses", "question", "questions", "q", "qs",
            "ex", "exs", "exercise", "exercises", "problem", "problems", "sections", "module", "modules", "topic", "topics", "forms", "bus", "route", "lane", "lanes", "gate", "tables", "seat", "seats", "flat", "apt",
            "teams", "round", "rounds", "heat", "heats", "under", "over", "vol", "volume", "volumes", "issue", "article", "paragraph", "paragraphs", "line", "lines", "figure", "figures", "fig", "figs", "step", "steps", "phase",
            "stages", "version", "v", "season", "episode", "episodes", "psalm", "hymn", "hymns", "opus", "op", "symphony", "sonata", "concerto", "games", "tel", "phone", "ext", "box", "floor", "aisle", "bay", "bays", "courts",
            "berth", "berths", "cabin", "cabins", "deck", "score", "ratio", "odds", "best", "top", "sonnet", "sonnets", "poem", "poems", "movement", "movements", "bars", "measures", "period", "periods", "blocks", "key stage", "ks", "worksheet", "worksheets", "paper", "papers", "lot", "lots", "cohort", "channel", "item", "items", "appendix", "slide", "slides", "track", "tracks", "algebra", "book", "books", "formula", "rule", "rules", "won", "lost", "beat", "u", "rows", "stations", "platform", "size", "sizes", "bed", "goal", "goals", "tasks", "activities", "laws", "bands", "locker", "lockers", "maps", "songs"),
        Units = Say(
            "people", "pages", "page", "players", "player", "years", "year", "yr", "yrs", "yo", "km", "k", "m", "mi", "mile", "miles", "kg", "g", "lb", "lbs", "points", "point", "pts", "marks", "mark", "pupils", "pupil", "students", "student", "kids", "children", "tickets", "each",
            "percent", "dollars", "euros", "pounds", "cents", "litres", "questions", "chapters", "groups", "teams", "boats", "laps", "lengths", "metres", "meters", "feet", "min", "mins", "minute", "minutes", "x", "degrees", "places", "seats", "volunteers", "adults", "guests", "copies", "sets", "reps", "days", "weeks", "months", "hours", "day", "week", "month", "win", "loss", "victory", "defeat", "draw", "graders", "grader", "store", "books", "goals", "items", "exercises", "problems", "sentences", "words", "paragraphs"),
        Articles = Say("the", "a", "my", "our", "your", "his", "her", "their", "last", "dear", "of", "no"),
    };

    public static LineWords French { get; } = new()
    {
        TwelveHours = false,
        Weekdays = ["lundi", "mardi", "mercredi", "jeudi", "vendredi", "samedi", "dimanche"],
        WeekdayNicknames = ["", "", "merc", "", "", "", ""],
        WeekdayCodes = [Say("lu"), Say("ma"), Say("me"), Say("je"), Say("ve"), Say("sa"), Say("di")],
        WeekdayPacks = Say(),
        Bimonthly = Say("bimestriel", "bimestrielle"),
        Months = ["janvier", "fevrier", "mars", "avril", "mai", "juin", "juillet", "aout", "septembre", "octobre", "novembre", "decembre"],
        MonthsWritten = ["janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre", "octobre", "novembre", "décembre"],
        SaysEvery = "chaque",
        SaysOther = "deuxième",
        SaysAnd = "et",
        SaysUntil = "jusqu'au",
        SaysSecondOfMonth = ("chaque 2e", "du mois"),
        Habitual = Say("le"),
        Numbers = ["une", "deux", "trois", "quatre", "cinq", "six", "sept", "huit", "neuf", "dix", "onze", "douze"],
        Ordinals = ["premier", "deuxieme", "troisieme", "quatrieme", "cinquieme"],
        OrdinalEndings = Say("er", "e", "eme", "ere", "ieme", "nd", "de", "re"),
        A = Say("un", "une"),
        On = Say("le", "les", "au", "du", "ce", "pour", "pour le"),
        The = Say("le", "les", "la"),
        Of = Say("de", "du", "d'", "en"),
        In = Say("en", "pendant", "durant"),
        This = Say("ce", "cette"),
        Next = Say("prochain"),
        NextAfter = Say("prochain", "prochaine"),
        WeekAfter = Say("en huit"),
        AWeekOn = Say(),
        Today = Say("aujourd'hui", "aujourdhui", "auj"),
        Tonight = Say("ce soir"),
        Tomorrow = Say("demain"),
        DayAfterTomorrow = Say("apres-demain", "apres demain"),
        Yesterday = Say("hier"),
        NextWeek = Say("la semaine prochaine", "semaine prochaine"),
        ThisWeek = Say("cette semaine"),
        InSoMany = Say("dans", "d'ici"),
        DatedFrom = Say("du", "le"),
        WeekOfDay = Say("semaine du", "la semaine du", "sem. du"),
        Fortnight = Say("quinzaine"),
        WeekNumber = Say("semaine", "sem", "sem."),
        TermStart = Say("premier jour", "le premier jour", "debut", "le debut", "au debut", "rentree"),
        TermEnd = Say("dernier jour", "le dernier jour", "fin", "la fin", "a la fin"),
        OfTerm = Say("du trimestre", "de trimestre", "du semestre", "de semestre", "de la periode", "de periode", "de l'etape", "d'etape"),
        Starting = Say("des le", "des", "a partir du", "a partir de", "a compter du", "depuis le", "du"),
        By = Say("avant", "avant le", "d'ici", "d'ici le", "d'ici au", "au plus tard le"),
        Deadline = Say("a rendre", "a remettre", "date limite", "echeance", "remise", "dernier delai", "cloture"),
        NotADay = Say("mardi gras"),
        From = Say("de", "du", "d'"),
        Between = Say("entre"),
        To = Say("a", "au", "-", "–", "—", "jusqu'a", "jusqu'au", "jusque"),
        And = Say("et", "&", "+", ",", "/", ";"),
        At = Say("a"),
        MaybeAt = Say("@", "des", "vers", "de", "a partir de", "avant", "avant les", "pour"),
        Spoken = SpokenClocks.French,
        Noon = Say("midi"),
        Midnight = Say("minuit"),
        HourMark = Say("h", "heure", "heures", "hres", "hrs"),
        About = Say(),
        OClock = Say("heures", "heure", "h"),
        InTheMorning = Say("du matin"),
        InTheAfternoon = Say("de l'apres-midi", "du soir", "de l'apres midi", "de la soiree"),
        MorningWords = Say("matin", "matinee", "petit-dejeuner"),
        EveningWords = Say("soir", "soiree", "nuit", "souper", "diner", "gala", "bal", "veillee", "concert", "concerts", "spectacle", "film", "cinema", "fete", "recital"),
        AllDay = Say("toute la journee", "journee entiere", "journee complete", "la journee"),
        HalfHour = Say("une demi-heure", "demi-heure", "une demie heure"),
        For = Say("pendant", "durant"),
        Hours = Say("h", "heure", "heures"),
        Minutes = Say("m", "mn", "min", "minute", "minutes"),
        Days = Say("j", "jour", "jours"),
        WeekUnit = Say("semaine", "semaines", "sem"),
        MonthUnit = Say("mois"),
        YearUnit = Say("an", "ans", "annee", "annees"),
        Long = Say(),
        Every = Say("chaque", "tous les", "toutes les", "tous", "toutes"),
        Other = Say("deuxieme"),
        Alternate = Say(),
        OutOfTwo = Say("sur deux", "sur 2"),
        Daily = Say("quotidien", "quotidienne", "quotidiennement"),
        Weekly = Say("hebdomadaire", "hebdo", "une fois par semaine", "chaque semaine", "toutes les semaines"),
        Fortnightly = Say("une semaine sur deux", "toutes les deux semaines", "aux deux semaines", "tous les quinze jours", "tous les 15 jours", "aux quinze jours", "chaque quinzaine"),
        TwiceOrEveryTwo = Say("bimensuel", "bihebdomadaire"),
        Monthly = Say("mensuel", "mensuelle", "mensuellement", "une fois par mois"),
        Quarterly = Say("trimestriel", "trimestrielle"),
        Yearly = Say("annuel", "annuelle", "annuellement", "une fois par an"),
        WorkDays = Say("en semaine", "jour ouvrable", "jours ouvrables", "jours de semaine", "jour de semaine"),
        Weekends = Say("week-end", "week-ends", "weekend", "weekends", "fin de semaine", "fins de semaine", "le week-end", "les week-ends"),
        SchoolDays = Say("jour de classe", "jours de classe", "jour d'ecole", "jours d'ecole"),
        Plural = Say("les"),
        Last = Say("dernier", "derniers", "derniere"),
        OfTheMonth = Say("du mois", "de chaque mois", "de tous les mois", "chaque mois", "par mois", "tous les mois"),
        Except = Say("sauf", "sauf le", "sauf les", "hormis", "hormis le", "excepte", "excepte le", "mais pas le"),
        OnClosuresToo = Say("meme pendant les fermetures", "fermetures comprises", "y compris les fermetures", "meme les jours de fermeture"),
        NotOnClosures = Say("sauf fermetures", "hors fermetures", "sauf les fermetures"),
        Until = Say("jusqu'au", "jusqu'a", "jusqu'en", "jusqua", "jusquau", "au", "a"),
        Reaching = Say("jusqu'au", "jusqu'a", "jusqu'en", "jusquau"),
        Times = Say("fois", "x", "×", "seances", "cours", "dates", "rencontres"),
        EndOf = Say("la fin de", "la fin du", "fin", "la fin d'", "fin de", "fin du"),
        Vaguely = Say("semestriel", "semestrielle", "bisannuel", "bisannuelle", "chaque trimestre", "tous les trimestres", "une fois par trimestre", "deux fois par semaine", "deux fois par mois", "deux fois par an"),
        Possessive = "",
        Counted = Say(
            "classe", "classes", "chapitre", "chapitres", "ch", "chap", "page", "pages", "p", "pp", "salle", "salles", "niveau", "niveaux", "annee", "annees", "groupes", "lecon", "lecons", "exercice", "exercices", "ex", "exo", "exos", "question", "questions",
            "no", "n", "numero", "numeros", "partie", "parties", "tome", "tomes", "acte", "actes", "scene", "scenes", "unite", "unites", "etape", "etapes", "module", "modules", "ligne", "lignes", "bus", "etage", "porte", "quai", "tel", "telephone", "equipes", "manche",
            "manches", "age", "ages", "ages de", "probleme", "problemes", "sections", "local", "locaux", "secteur", "figure", "fig", "vol", "volume", "paragraphe", "article", "verset", "versets", "psaume", "cantique", "poste", "tables",
            "sec", "secondaire", "cycles", "semaine", "semaines", "fiche", "fiches", "documents", "version", "saison", "episode", "score", "sonnet", "sonnets", "mouvement", "mouvements", "livre", "themes", "sequence", "sequences", "casier", "casiers", "cabine", "cabines", "moins de"),
        Units = Say(
            "ans", "an", "annees", "eleve", "eleves", "personnes", "personne", "joueurs", "joueur", "pages", "page", "places", "place", "points", "point", "km", "m", "kg", "g", "euros", "dollars", "enfants", "adultes", "groupes", "equipes", "questions", "billets", "exemplaires", "min", "minute", "minutes",
            "jours", "semaines", "mois", "heures", "fois", "chapitres", "exercices", "bateaux", "tours", "metres", "litres", "x", "benevoles", "degres", "e", "victoire", "mots", "phrases", "lignes"),
        Articles = Say("la", "une", "un", "mon", "notre", "votre", "leur", "dernier", "son", "de", "en", "a", "au"),
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
