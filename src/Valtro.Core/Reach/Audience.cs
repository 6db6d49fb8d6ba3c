namespace Valtro.Core.Reach;

/// <summary>Who looks, from the narrowest to the widest.</summary>
public enum Audience
{
    /// <summary>People with a role on the calendar.</summary>
    Team,

    /// <summary>People signed in at the school.</summary>
    Members,

    /// <summary>People with a secret link.</summary>
    LinkHolders,

    /// <summary>Anybody.</summary>
    Everyone,
}

/// <summary>How much is shown, from nothing up.</summary>
public enum Detail
{
    /// <summary>Not even that there is an event.</summary>
    Nothing,

    /// <summary>When something is, not what.</summary>
    TimesOnly,

    /// <summary>Title, time and place.</summary>
    Headlines,

    /// <summary>All of it.</summary>
    Everything,
}
